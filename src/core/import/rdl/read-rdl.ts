import { LIMITS, limitText, tooLarge } from '../../base/limits';
import { fail, ok, type Result } from '../../base/result';
import { PlacesByTitle } from '../../base/text/places-by-title';
import {
  type FileField,
  type FileRegister,
  type FileValue,
  maskOfBits,
  type PeripheralRegisters,
  type ReadEffect,
  type RegisterFile,
  type SvdAccess,
  type WriteEffect,
} from '../../description/register-file';
import { type Component, type Expression, type InstanceItem, parseRdl, type Statement } from './parse';
import { Misread, type Token } from './tokens';

/**
 * SystemRDL 2.0 → a register file: definitions are elaborated from the outermost address map on, parameters and default properties going
 * down with them, and addresses given out by the rules of the standard (`regalign`). What registers do beyond what a register file can
 * say is listed.
 */

/** Definitions, parameters and defaults as they are seen where a component stands. */
interface Scope {
  components: Map<string, { component: Component; scope: Scope }>;
  enums: Map<string, Extract<Statement, { kind: 'enum' }>>;
  parameters: Map<string, Held>;
  defaults: Map<string, Expression | undefined>;
  outer?: Scope;
}

type Held = number | string;
type Properties = Map<string, Expression | undefined>;

interface Made {
  registers: FileRegister[];
  /** Bytes from its beginning. */
  size: number;
}

const SW_ACCESS: Readonly<Record<string, SvdAccess>> = {
  rw: 'read-write',
  wr: 'read-write',
  r: 'read-only',
  w: 'write-only',
  rw1: 'read-writeOnce',
  w1: 'writeOnce',
};

const ON_WRITE: Readonly<Record<string, WriteEffect>> = {
  woclr: 'oneToClear',
  woset: 'oneToSet',
  wot: 'oneToToggle',
  wzc: 'zeroToClear',
  wzs: 'zeroToSet',
  wzt: 'zeroToToggle',
  wclr: 'clear',
  wset: 'set',
};

/** What software sees of a field, and a register file has no word for. */
const NOT_CARRIED = ['counter', 'sticky', 'stickybit'] as const;

class Elaboration {
  private count = 0;
  private depth = 0;
  readonly notCarried = new PlacesByTitle();

  scopeOf(statements: readonly Statement[], outer?: Scope): Scope {
    const scope: Scope = {
      components: new Map(),
      enums: new Map(),
      parameters: new Map(),
      defaults: new Map(),
      ...(outer ? { outer } : {}),
    };
    for (const statement of statements) {
      if (statement.kind === 'define' && statement.component.name !== undefined)
        scope.components.set(statement.component.name, { component: statement.component, scope });
      else if (statement.kind === 'enum') scope.enums.set(statement.name, statement);
      else if (statement.kind === 'property' && statement.isDefault)
        scope.defaults.set(statement.name, statement.value);
    }
    return scope;
  }

  /** The component that a statement instantiates, and where its own names are looked up. */
  typeOf(
    statement: Extract<Statement, { kind: 'instances' }>,
    scope: Scope,
  ): { component: Component; scope: Scope } {
    if (typeof statement.of !== 'string') return { component: statement.of, scope };
    const known = lookUp(scope, (each) => each.components.get(statement.of as string));
    if (!known) refuse(statement.token, `there is no component ${statement.of}`);
    return known;
  }

  /** A component with parameters of its own, within the scope where it is defined and the defaults of where it stands. */
  enter(
    component: Component,
    defined: Scope,
    overrides: ReadonlyMap<string, Expression>,
    from: Scope,
  ): Scope {
    const scope = this.scopeOf(component.body, defined);
    for (const { name, value } of component.parameters) {
      const given = overrides.get(name);
      const held = given ? this.held(given, from) : value ? this.held(value, scope) : undefined;
      if (held === undefined) refuse(component.token, `parameter ${name} has no value`);
      scope.parameters.set(name, held);
    }
    for (const name of overrides.keys())
      if (!component.parameters.some((each) => each.name === name))
        refuse(component.token, `${component.name ?? 'it'} has no parameter ${name}`);
    for (const [name, value] of defaultsOf(from))
      if (!scope.defaults.has(name)) scope.defaults.set(name, value);
    return scope;
  }

  held(expression: Expression, scope: Scope): Held {
    switch (expression.kind) {
      case 'number':
      case 'text':
        return expression.value;
      case 'name': {
        const parameter = lookUp(scope, (each) => each.parameters.get(expression.name));
        return parameter ?? this.enumerator(expression.name, scope) ?? expression.name;
      }
      case 'unary': {
        const of = this.number(expression.of, scope);
        return expression.operator === '-'
          ? -of
          : expression.operator === '!'
            ? Number(of === 0)
            : expression.operator === '~'
              ? ~of >>> 0
              : of;
      }
      case 'choice':
        return this.number(expression.condition, scope) === 0
          ? this.held(expression.no, scope)
          : this.held(expression.yes, scope);
      case 'binary':
        return binary(
          expression.operator,
          this.number(expression.left, scope),
          this.number(expression.right, scope),
        );
    }
  }

  private enumerator(name: string, scope: Scope): number | undefined {
    const [type, value] = name.split('::');
    const known = value === undefined ? undefined : lookUp(scope, (each) => each.enums.get(type as string));
    const at = known?.values.findIndex((each) => each.name === value) ?? -1;
    return known && at >= 0 ? this.valuesOf(known, scope)[at]?.value : undefined;
  }

  number(expression: Expression, scope: Scope, token?: Token): number {
    const held = this.held(expression, scope);
    if (typeof held === 'number' && Number.isSafeInteger(held)) return held;
    const at = expression.kind === 'name' ? expression.token : token;
    if (at) refuse(at, `"${String(held).slice(0, 40)}" is no number here`);
    throw new Misread(`"${String(held).slice(0, 40)}" is no number`, 1, 1);
  }

  valuesOf({ values }: Extract<Statement, { kind: 'enum' }>, scope: Scope): FileValue[] {
    let next = 0;
    return values.map(({ name, value, says }) => {
      const number = value ? this.number(value, scope) : next;
      next = number + 1;
      return { name, description: says, value: number };
    });
  }

  /** Properties that a body says of its own component, over the defaults; those set from outside over both. */
  properties(component: Component, scope: Scope, from: Properties): Properties {
    const all: Properties = new Map(defaultsOf(scope));
    for (const statement of component.body)
      if (statement.kind === 'property' && !statement.isDefault) all.set(statement.name, statement.value);
    for (const [name, value] of from) all.set(name, value);
    return all;
  }

  text(properties: Properties, name: string, scope: Scope): string {
    const value = properties.get(name);
    const held = value ? this.held(value, scope) : '';
    return typeof held === 'string' ? held.replace(/\s+/g, ' ').trim() : String(held);
  }

  value(properties: Properties, name: string, scope: Scope): Held | undefined {
    if (!properties.has(name)) return undefined;
    const value = properties.get(name);
    return value ? this.held(value, scope) : 1;
  }

  isSet(properties: Properties, name: string, scope: Scope): boolean {
    const value = this.value(properties, name, scope);
    return value !== undefined && value !== 0;
  }

  /** Registers of a body, and how much room it takes. */
  body(component: Component, scope: Scope, prefix: string, set: Assigned = nothing()): Made {
    if (++this.depth > DEEPEST) refuse(component.token, `nested deeper than ${DEEPEST} levels`);
    const registers: FileRegister[] = [];
    let next = 0;
    let size = 0;
    const assigned = this.assignedIn(component, prefix, set);
    for (const statement of component.body) {
      if (statement.kind !== 'instances') continue;
      const { component: type, scope: defined } = this.typeOf(statement, scope);
      if (type.kind === 'signal' || type.kind === 'field') continue;
      if (type.kind === 'mem') {
        this.notCarried.add('memories', prefix + (statement.items[0]?.name ?? ''));
        continue;
      }
      for (const item of statement.items) {
        const inner = this.enter(type, defined, statement.overrides, scope);
        const count = item.dimensions.reduce((all, each) => all * this.number(each, scope, item.token), 1);
        if (!(count >= 1) || this.count + count > LIMITS.fileRegisters)
          refuse(
            item.token,
            `an array of ${count} cannot be: at most ${limitText('fileRegisters')} are taken`,
          );
        const element = (index: number): Made => {
          this.count++;
          const called = item.name + (item.dimensions.length > 0 ? String(index) : '');
          const title = prefix + called;
          const toInstance = nothing();
          for (const name of new Set([item.name, called]))
            assign(toInstance, assigned.within.get(name) ?? nothing());
          return type.kind === 'reg'
            ? this.register(type, inner, title, toInstance, item, statement.alias && prefix + statement.alias)
            : this.body(type, inner, `${title}.`, toInstance);
        };
        const first = element(0);
        const given = (expression: Expression | undefined, least: number): number | undefined => {
          const value = expression && this.number(expression, scope, item.token);
          if (value !== undefined && value < least)
            refuse(item.token, `an address, step or alignment of ${value} cannot be`);
          return value;
        };
        const stride = given(item.stride, 0) ?? first.size;
        const alignment = given(item.align, 1) ?? 2 ** Math.ceil(Math.log2(Math.max(1, first.size)));
        const offset = given(item.address, 0) ?? Math.ceil(next / alignment) * alignment;
        for (let index = 0; index < count; index++) {
          const made = index === 0 ? first : element(index);
          for (const register of made.registers)
            registers.push({ ...register, offset: register.offset + offset + index * stride });
        }
        next = offset + (count - 1) * stride + first.size;
        size = Math.max(size, next);
      }
    }
    this.depth--;
    return { registers, size };
  }

  private register(
    type: Component,
    scope: Scope,
    name: string,
    set: Assigned,
    item: InstanceItem,
    aliasOf: string | undefined,
  ): Made {
    const properties = this.properties(type, scope, set.properties);
    const width = this.value(properties, 'regwidth', scope) ?? 32;
    if (width === 64) {
      this.notCarried.add('registers of 64 bits', name);
      return { registers: [], size: 8 };
    }
    if (typeof width !== 'number' || ![8, 16, 32].includes(width))
      refuse(item.token, `a register of ${width} bits is not read: 8, 16 or 32`);
    const { fields, reset, resetMask } = this.fields(type, scope, name, width, set);
    const accesses = new Set(fields.map(({ access }) => access ?? 'read-write'));
    const [only] = accesses;
    const access = accesses.size === 1 && only ? only : 'read-write';
    return {
      size: width / 8,
      registers: [
        {
          name,
          description: this.text(properties, 'desc', scope) || this.text(properties, 'name', scope),
          offset: 0,
          bits: width,
          access,
          reset,
          ...(resetMask === maskOfBits(0, width) ? {} : { resetMask }),
          ...(aliasOf === undefined ? {} : { aliasOf }),
          fields,
          line: item.token.line,
        },
      ],
    };
  }

  private fields(
    register: Component,
    scope: Scope,
    name: string,
    width: number,
    set: Assigned,
  ): { fields: FileField[]; reset: number; resetMask: number } {
    const fields: FileField[] = [];
    const assigned = this.assignedIn(register, `${name}.`, set);
    let next = 0;
    let reset = 0;
    let resetMask = maskOfBits(0, width);
    for (const statement of register.body) {
      if (statement.kind !== 'instances') continue;
      const { component: type, scope: defined } = this.typeOf(statement, scope);
      if (type.kind !== 'field') continue;
      for (const item of statement.items) {
        const inner = this.enter(type, defined, statement.overrides, scope);
        const properties = this.properties(
          type,
          inner,
          assigned.within.get(item.name)?.properties ?? new Map(),
        );
        const [low, bits] = this.place(item, scope, properties, next);
        if (low < 0 || bits < 1 || low + bits > width)
          refuse(item.token, `field ${item.name} is outside its register of ${width} bits`);
        next = low + bits;
        const value = item.reset ? this.held(item.reset, scope) : this.value(properties, 'reset', inner);
        if (typeof value === 'number' && Number.isSafeInteger(value)) reset += (value % 2 ** bits) * 2 ** low;
        else resetMask = (resetMask & ~maskOfBits(low, bits)) >>> 0;
        fields.push(this.field(item, properties, inner, name, low, bits));
      }
    }
    return { fields, reset, resetMask };
  }

  /** `a.b->prop = value` of a body, under what was assigned to its instances from outside; references are from where they stand. */
  private assignedIn(component: Component, prefix: string, set: Assigned): Assigned {
    const all = nothing();
    for (const statement of component.body) {
      if (statement.kind !== 'dynamic') continue;
      if (statement.path.some((name) => name.endsWith('[]'))) {
        this.notCarried.add(
          'assignments to elements of an array that no number names',
          prefix + statement.path.join('.'),
        );
        continue;
      }
      const to = statement.path.reduce((at, name) => {
        const inner = at.within.get(name) ?? nothing();
        at.within.set(name, inner);
        return inner;
      }, all);
      const { value } = statement;
      const isReference = value?.kind === 'name' && REFERRING.has(statement.name);
      to.properties.set(statement.name, isReference ? { kind: 'text', value: prefix + value.name } : value);
    }
    assign(all, set);
    return all;
  }

  /** What the hardware does to a field by itself; of one that software cannot change, it is all that happens. */
  private hardwareOf(properties: Properties, scope: Scope, sw: string): Pick<FileField, 'hardware'> {
    if (this.isSet(properties, 'hwset', scope)) return { hardware: 'sets' };
    if (this.isSet(properties, 'hwclr', scope)) return { hardware: 'clears' };
    const hw = String(this.value(properties, 'hw', scope) ?? '');
    return (hw === 'w' || hw === 'rw' || hw === 'wr') && sw !== 'w' ? { hardware: 'writes' } : {};
  }

  /** `swwe`, `swwel`: a field of the map that lets writes through, high or low. */
  private enabledBy(properties: Properties, scope: Scope, where: string): Pick<FileField, 'enabledBy'> {
    for (const [property, openAt] of [
      ['swwe', 1],
      ['swwel', 0],
    ] as const) {
      const held = this.value(properties, property, scope);
      // `LOCK.open->anded` is of the same field.
      if (typeof held === 'string') return { enabledBy: { field: held.split('->')[0] as string, openAt } };
      if (held !== undefined && held !== 0)
        this.notCarried.add(`${property} by a signal of the hardware`, where);
    }
    return {};
  }

  private place(
    item: InstanceItem,
    scope: Scope,
    properties: Properties,
    next: number,
  ): [low: number, bits: number] {
    if (item.range) {
      const [left, right] = [item.range.high, item.range.low].map((each) =>
        this.number(each, scope, item.token),
      ) as [number, number];
      return [Math.min(left, right), Math.abs(left - right) + 1];
    }
    const width = item.dimensions[0]
      ? this.number(item.dimensions[0], scope, item.token)
      : this.value(properties, 'fieldwidth', scope);
    return [next, typeof width === 'number' ? width : 1];
  }

  private field(
    item: InstanceItem,
    properties: Properties,
    scope: Scope,
    register: string,
    low: number,
    bits: number,
  ): FileField {
    const sw = String(this.value(properties, 'sw', scope) ?? 'rw');
    const onwrite = String(this.value(properties, 'onwrite', scope) ?? '');
    const shorthand = Object.keys(ON_WRITE).find(
      (name) => ['woclr', 'woset'].includes(name) && this.isSet(properties, name, scope),
    );
    const writes = ON_WRITE[onwrite] ?? (shorthand ? ON_WRITE[shorthand] : undefined);
    const onread = String(this.value(properties, 'onread', scope) ?? '');
    const reads: ReadEffect | undefined =
      onread === 'rclr' || this.isSet(properties, 'rclr', scope)
        ? 'clear'
        : onread === 'rset' || this.isSet(properties, 'rset', scope)
          ? 'set'
          : properties.has('onread')
            ? 'modify'
            : undefined;
    for (const property of NOT_CARRIED)
      if (this.isSet(properties, property, scope)) this.notCarried.add(property, `${register}.${item.name}`);
    if (onwrite === 'wuser') this.notCarried.add('onwrite wuser', `${register}.${item.name}`);
    const encode = properties.get('encode');
    const known = encode?.kind === 'name' ? lookUp(scope, (each) => each.enums.get(encode.name)) : undefined;
    const values = known ? this.valuesOf(known, scope) : [];
    return {
      name: item.name,
      description: this.text(properties, 'desc', scope) || this.text(properties, 'name', scope),
      low,
      bits,
      ...(SW_ACCESS[sw] ? { access: SW_ACCESS[sw] } : {}),
      ...(writes ? { writes } : {}),
      ...(reads ? { reads } : {}),
      ...(this.isSet(properties, 'singlepulse', scope) ? { pulse: true as const } : {}),
      ...this.hardwareOf(properties, scope, sw),
      ...this.enabledBy(properties, scope, `${register}.${item.name}`),
      ...(values.length > 0 ? { values } : {}),
    };
  }
}

const DEEPEST = 40;

/** Properties whose value is something in the hierarchy. */
const REFERRING: ReadonlySet<string> = new Set(['swwe', 'swwel']);

function refuse(token: Token, message: string): never {
  throw new Misread(message, token.line, token.column);
}

function lookUp<T>(scope: Scope, find: (scope: Scope) => T | undefined): T | undefined {
  for (let at: Scope | undefined = scope; at; at = at.outer) {
    const known = find(at);
    if (known !== undefined) return known;
  }
  return undefined;
}

/** Defaults of a place, the nearest first. */
function defaultsOf(scope: Scope): Properties {
  const all: Properties = new Map();
  for (let at: Scope | undefined = scope; at; at = at.outer)
    for (const [name, value] of at.defaults) if (!all.has(name)) all.set(name, value);
  return all;
}

/** What was assigned from outside: to an instance, and to those within it. */
interface Assigned {
  properties: Properties;
  within: Map<string, Assigned>;
}

const nothing = (): Assigned => ({ properties: new Map(), within: new Map() });

function assign(to: Assigned, from: Assigned): void {
  for (const [name, value] of from.properties) to.properties.set(name, value);
  for (const [name, inner] of from.within) {
    const known = to.within.get(name) ?? nothing();
    assign(known, inner);
    to.within.set(name, known);
  }
}

function binary(operator: string, left: number, right: number): number {
  if (!Number.isSafeInteger(left) || !Number.isSafeInteger(right)) return Number.NaN;
  switch (operator) {
    case '+':
      return left + right;
    case '-':
      return left - right;
    case '*':
      return left * right;
    case '/':
      return right === 0 ? Number.NaN : Math.trunc(left / right);
    case '%':
      return right === 0 ? Number.NaN : left % right;
    case '**':
      return left ** right;
    case '<<':
      return left * 2 ** right;
    case '>>':
      return Math.floor(left / 2 ** right);
    case '&':
      return Number(BigInt(left) & BigInt(right));
    case '|':
      return Number(BigInt(left) | BigInt(right));
    case '^':
      return Number(BigInt(left) ^ BigInt(right));
    case '~^':
    case '^~':
      return ~(left ^ right) >>> 0;
    case '==':
      return Number(left === right);
    case '!=':
      return Number(left !== right);
    case '<':
      return Number(left < right);
    case '>':
      return Number(left > right);
    case '<=':
      return Number(left <= right);
    case '>=':
      return Number(left >= right);
    case '&&':
      return Number(left !== 0 && right !== 0);
    default:
      return Number(left !== 0 || right !== 0);
  }
}

/** What is described: the address map that stands at the outermost level by itself, or the last that is defined there. */
function outermost(
  statements: readonly Statement[],
): { component: Component; overrides: Map<string, Expression>; name: string } | undefined {
  for (const statement of [...statements].reverse()) {
    if (statement.kind === 'instances' && statement.items[0]) {
      const of = typeof statement.of === 'string' ? definitionIn(statements, statement.of) : statement.of;
      if (of?.kind === 'addrmap')
        return { component: of, overrides: statement.overrides, name: statement.items[0].name };
    }
    if (statement.kind === 'define' && statement.component.kind === 'addrmap')
      return { component: statement.component, overrides: new Map(), name: statement.component.name ?? '' };
  }
  return undefined;
}

const definitionIn = (statements: readonly Statement[], name: string): Component | undefined =>
  statements.flatMap((each) =>
    each.kind === 'define' && each.component.name === name ? [each.component] : [],
  )[0];

/** Address maps and register files right in the map are peripherals; registers right in it are those of the map itself. */
function peripheralsOf(
  name: string,
  description: string,
  registers: readonly FileRegister[],
): PeripheralRegisters[] {
  const byBlock = new Map<string, FileRegister[]>();
  for (const register of registers) {
    const dot = register.name.indexOf('.');
    const block = dot < 0 ? name : register.name.slice(0, dot);
    const inBlock = dot < 0 ? register : { ...register, name: register.name.slice(dot + 1) };
    byBlock.set(block, [...(byBlock.get(block) ?? []), inBlock]);
  }
  const inMap = (path: string): string =>
    byBlock.has(path.slice(0, path.indexOf('.'))) ? path : `${name}.${path}`;
  const bound = (field: FileField): FileField =>
    field.enabledBy
      ? { ...field, enabledBy: { ...field.enabledBy, field: inMap(field.enabledBy.field) } }
      : field;
  return [...byBlock].map(([block, all]) => {
    const base = all.reduce((least, { offset }) => Math.min(least, offset), Number.MAX_SAFE_INTEGER);
    return {
      name: block,
      description: block === name ? description : '',
      group: name,
      base,
      registers: all.map((register) => ({
        ...register,
        offset: register.offset - base,
        fields: register.fields.map(bound),
        ...(register.aliasOf === undefined
          ? {}
          : { aliasOf: inMap(register.aliasOf).slice(block.length + 1) }),
      })),
    };
  });
}

/** A SystemRDL text → its registers. */
export function readRdl(name: string, text: string): Result<RegisterFile> {
  if (text.length > LIMITS.registerFileCharacters)
    return fail({ place: name, message: `the file ${tooLarge('registerFileCharacters')}` });
  const elaboration = new Elaboration();
  try {
    const statements = parseRdl(text);
    const top = outermost(statements);
    if (!top) return fail({ place: name, message: 'there is no address map (addrmap) that could be read' });
    const root = elaboration.scopeOf(statements);
    const scope = elaboration.enter(top.component, root, top.overrides, root);
    const properties = elaboration.properties(top.component, scope, new Map());
    const { registers } = elaboration.body(top.component, scope, '');
    if (registers.length === 0)
      return fail({ place: name, message: `the address map ${top.name} has no registers` });
    const description =
      elaboration.text(properties, 'desc', scope) || elaboration.text(properties, 'name', scope);
    const notCarried = elaboration.notCarried.lines();
    return ok({
      name: top.name,
      description,
      width: 32,
      endian: elaboration.isSet(properties, 'bigendian', scope) ? 'big' : 'little',
      peripherals: peripheralsOf(top.name, description, registers),
      ...(notCarried.length > 0 ? { notCarried } : {}),
    });
  } catch (error) {
    if (!(error instanceof Misread)) throw error;
    return fail({ place: `${name}:${error.line}:${error.column}`, message: error.message });
  }
}
