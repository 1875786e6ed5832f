import type { Declaration, Expression, FunctionDefinition, Initializer, Statement, Unit } from './ast';
import type { Lvalue, Told } from './bus';
import { offsetOf } from './constant';
import { asKept, isVolatile, pointerResult } from './parts';
import type { Store } from './store';
import type { Place } from './tokens';
import { asVolatile, CHAR, type CType, INT, type IntType, memberOf, sizeOf, UNSIGNED } from './types';
import {
  type CValue,
  inCommon,
  intOf,
  inverted,
  isKnown,
  negated,
  numberOf,
  operated,
  promoted,
  truthOf,
  UNKNOWN,
  unknownInt,
} from './value';

/** A variable's place. */
export interface Variable {
  address: number;
  type: CType;
}

/** What belongs to one call of a function. */
export interface Frame {
  scopes: Map<string, { address: number; type: CType }>[];
  /** One place for each declaration, however often a loop comes by. */
  places: Map<Declaration, number>;
  /** How often a way out of a loop was not known to be taken. */
  rounds: Map<Statement, number>;
  result: CValue;
  unit: Unit;
}

/** Works out expressions. */
export abstract class Expressions {
  protected readonly globals = new Map<string, Variable>();
  protected readonly ownGlobals = new Map<Unit, Map<string, Variable>>();
  private readonly strangers = new Set<string>();
  /** Assignments to variables and calls. */
  protected effects = 0;

  constructor(
    protected readonly at: Store,
    protected readonly told: Told,
  ) {}

  /** Counts what is done, and ends it when that is too much. */
  protected abstract step(place: Place): void;
  protected abstract enter(definition: FunctionDefinition, given: readonly CValue[]): CValue;
  protected abstract functionNamed(name: string, frame: Frame): FunctionDefinition | undefined;
  protected abstract functionIn(value: CValue): FunctionDefinition | undefined;
  protected abstract functionPointer(definition: FunctionDefinition): CValue;
  protected abstract initialize(address: number, type: CType, value: Initializer, frame: Frame): void;
  protected abstract completed(type: CType, value: Initializer | undefined): CType;

  protected variable(name: string, frame: Frame): { address: number; type: CType } | undefined {
    for (let at = frame.scopes.length - 1; at >= 0; at--) {
      const found = frame.scopes[at]?.get(name);
      if (found) return found;
    }
    return this.ownGlobals.get(frame.unit)?.get(name) ?? this.globals.get(name);
  }

  /** A condition; an assignment in one is seldom meant. */
  protected condition(expression: Expression, frame: Frame): CValue {
    if (expression.kind === 'assign' && !expression.operator && !expression.bracketed)
      this.told.suspicious('precedence', expression.place, 'this assigns where a comparison is expected');
    return this.value(expression, frame);
  }

  protected value(expression: Expression, frame: Frame): CValue {
    this.step(expression.place);
    switch (expression.kind) {
      case 'number':
        return intOf(expression.value, expression.type);
      case 'float':
        return UNKNOWN;
      case 'string': {
        const { bytes } = expression;
        const address = this.at.memory.take(bytes.length, false);
        if (address === undefined) return UNKNOWN;
        this.at.memory.text(address, bytes);
        return { kind: 'pointer', to: CHAR, address };
      }
      case 'name':
      case 'index':
      case 'member':
        return this.read(expression, frame);
      case 'unary':
        return this.unary(expression, frame);
      case 'step': {
        const target = this.lvalue(expression.of, frame);
        const before = this.at.load(target, expression.place);
        const after = this.operate(expression.by > 0 ? '+' : '-', before, intOf(1n, INT), expression.place);
        this.effects++;
        this.at.store(target, after, expression.place, expression.by > 0 ? '+' : '-', intOf(1n, INT));
        return expression.after ? before : asKept(target, after);
      }
      case 'binary':
        return this.binary(expression, frame);
      case 'assign':
        return this.assign(expression, frame);
      case 'choose': {
        const truth = truthOf(this.value(expression.condition, frame));
        if (truth === undefined) return UNKNOWN;
        const [taken, other] = truth ? [expression.yes, expression.no] : [expression.no, expression.yes];
        const value = this.value(taken, frame);
        const type = value.kind === 'int' ? this.typeOf(other, frame) : undefined;
        return value.kind === 'int' && type ? inCommon(value, type) : value;
      }
      case 'call':
        return this.callExpression(expression, frame);
      case 'cast':
        return this.at.cast(this.value(expression.of, frame), expression.type);
      case 'size': {
        const size = expression.type
          ? sizeOf(expression.type)
          : this.sizeOfExpression(expression.of as Expression, frame);
        return size === undefined ? unknownInt(UNSIGNED) : intOf(BigInt(size), UNSIGNED);
      }
      case 'offset': {
        const offset = offsetOf(expression.type, expression.names);
        return offset === undefined ? unknownInt(UNSIGNED) : intOf(BigInt(offset), UNSIGNED);
      }
      case 'comma':
        this.value(expression.left, frame);
        return this.value(expression.right, frame);
      case 'literal': {
        const target = this.literal(expression, frame);
        return target ? this.at.load(target, expression.place) : UNKNOWN;
      }
    }
  }

  /** The type of a number that is not worked out; undefined for anything else. */
  private typeOf(expression: Expression, frame: Frame): IntType | undefined {
    switch (expression.kind) {
      case 'number':
        return expression.type;
      case 'cast':
        return expression.type.kind === 'int' ? expression.type : undefined;
      case 'name':
      case 'member':
      case 'index': {
        if (expression.kind === 'name' && !this.variable(expression.name, frame)) return INT;
        const target = this.lvalue(expression, frame);
        return target.kind === 'memory' && target.type.kind === 'int' ? target.type : undefined;
      }
      case 'unary':
        return expression.operator === '!' ? INT : this.typeOf(expression.of, frame);
      case 'binary': {
        if (['==', '!=', '<', '>', '<=', '>=', '&&', '||'].includes(expression.operator)) return INT;
        const left = this.typeOf(expression.left, frame);
        if (expression.operator === '<<' || expression.operator === '>>') return left;
        const right = this.typeOf(expression.right, frame);
        return left && right && inCommon(intOf(0n, left), right).type;
      }
      case 'choose': {
        const [yes, no] = [this.typeOf(expression.yes, frame), this.typeOf(expression.no, frame)];
        return yes && no && inCommon(intOf(0n, yes), no).type;
      }
      case 'comma':
        return this.typeOf(expression.right, frame);
      case 'call': {
        const name = expression.of.kind === 'name' ? expression.of.name : '';
        const returns = this.functionNamed(name, frame)?.type.returns;
        return returns?.kind === 'int' ? returns : undefined;
      }
      case 'size':
      case 'offset':
        return UNSIGNED;
      default:
        return undefined;
    }
  }

  private literal(expression: Extract<Expression, { kind: 'literal' }>, frame: Frame): Lvalue | undefined {
    const type = this.completed(expression.type, expression.value);
    const address = this.at.memory.take(sizeOf(type) ?? 4, true);
    if (address === undefined) return undefined;
    this.initialize(address, type, expression.value, frame);
    return { kind: 'memory', address, type, volatile: true };
  }

  private sizeOfExpression(expression: Expression, frame: Frame): number | undefined {
    if (expression.kind === 'string') return expression.bytes.length;
    if (
      ['name', 'index', 'member'].includes(expression.kind) ||
      (expression.kind === 'unary' && expression.operator === '*')
    ) {
      const target = this.lvalue(expression, frame);
      return target.kind === 'memory' ? sizeOf(target.type) : undefined;
    }
    const value = this.value(expression, frame);
    return value.kind === 'int' ? value.type.bits / 8 : value.kind === 'pointer' ? 4 : undefined;
  }

  private read(expression: Expression, frame: Frame): CValue {
    if (expression.kind === 'name' && !this.variable(expression.name, frame)) {
      const constant = frame.unit.enumerators.get(expression.name);
      if (constant !== undefined) return intOf(constant, INT);
      if (expression.name === 'true' || expression.name === 'false')
        return intOf(expression.name === 'true' ? 1n : 0n, INT);
      const limit = limitNamed(expression.name);
      if (limit) return limit;
      if (expression.name === 'NULL' || expression.name === 'nullptr')
        return { kind: 'pointer', to: { kind: 'void' }, address: 0 };
      const definition = this.functionNamed(expression.name, frame);
      if (definition) return this.functionPointer(definition);
    }
    return this.at.load(this.lvalue(expression, frame), expression.place);
  }

  private unary(expression: Extract<Expression, { kind: 'unary' }>, frame: Frame): CValue {
    const { operator, of, place } = expression;
    if (operator === '*') {
      const value = this.value(of, frame);
      if (value.kind === 'pointer' && value.to.kind === 'function') return value;
      return this.at.load(this.pointedAt(value, place), place);
    }
    if (operator === '&') {
      if (of.kind === 'name' && !this.variable(of.name, frame)) {
        const definition = this.functionNamed(of.name, frame);
        if (definition) return this.functionPointer(definition);
      }
      const target = this.lvalue(of, frame);
      if (target.kind === 'path') return { kind: 'path', path: target.path };
      if (target.kind !== 'memory' || target.field) return UNKNOWN;
      const to =
        target.volatile && !this.at.memory.has(target.address) ? asVolatile(target.type) : target.type;
      return { kind: 'pointer', to, address: target.address };
    }
    const value = this.number(this.value(of, frame), place);
    if (operator === '!') {
      const truth = truthOf(value);
      return truth === undefined ? unknownInt(INT) : intOf(truth ? 0n : 1n, INT);
    }
    if (value.kind !== 'int') return UNKNOWN;
    return operator === '~' ? inverted(value) : operator === '-' ? negated(value) : promoted(value);
  }

  private binary(expression: Extract<Expression, { kind: 'binary' }>, frame: Frame): CValue {
    const { operator, left, right, place } = expression;
    this.lookAtPrecedence(expression);
    if (operator === '&&' || operator === '||') {
      const first = truthOf(this.number(this.value(left, frame), left.place));
      if (first === (operator === '||')) return intOf(operator === '||' ? 1n : 0n, INT);
      const second = truthOf(this.number(this.value(right, frame), right.place));
      if (second === (operator === '||')) return intOf(operator === '||' ? 1n : 0n, INT);
      if (first === undefined || second === undefined) return unknownInt(INT);
      return intOf(second ? 1n : 0n, INT);
    }
    return this.operate(operator, this.value(left, frame), this.value(right, frame), place);
  }

  /** `a & b == c` compares first, and `!a & b` takes the opposite of all of `a`. */
  private lookAtPrecedence({ operator, left, right, place }: Extract<Expression, { kind: 'binary' }>): void {
    if (!['&', '|', '^'].includes(operator)) return;
    const compares = (one: Expression): boolean =>
      one.kind === 'binary' && !one.bracketed && ['==', '!=', '<', '>', '<=', '>='].includes(one.operator);
    if (compares(left) || compares(right))
      this.told.suspicious(
        'precedence',
        place,
        `the comparison is done before ${operator}: brackets are missing`,
      );
    else if (operator === '&' && left.kind === 'unary' && left.operator === '!' && !left.bracketed)
      this.told.suspicious('precedence', place, '! is done before &: it is 0 or 1 by then');
  }

  private operate(operator: string, a: CValue, b: CValue, place: Place): CValue {
    // Two names of registers or ports are the same, or not, without being read.
    if (a.kind === 'path' && b.kind === 'path' && (operator === '==' || operator === '!='))
      return intOf((a.path.join('.') === b.path.join('.')) === (operator === '==') ? 1n : 0n, INT);
    const [left, right] = [this.number(a, place), this.number(b, place)];
    if (left.kind === 'pointer' || right.kind === 'pointer') return pointerResult(operator, left, right);
    if (left.kind !== 'int' || right.kind !== 'int') return UNKNOWN;
    const result = operated(operator, left, right);
    if (result) return result;
    const shifts = operator === '<<' || operator === '>>';
    if (shifts)
      this.told.suspicious(
        'shift-too-far',
        place,
        `a number of ${promoted(left).type.bits} bits is shifted by ${numberOf(promoted(right))}`,
      );
    else this.told.notUnderstood(place, 'a number is divided by 0');
    return unknownInt(promoted(left).type);
  }

  /** What a path of names holds, where a number is wanted. */
  private number(value: CValue, place: Place): CValue {
    return value.kind === 'path' ? this.at.load({ kind: 'path', path: value.path }, place) : value;
  }

  private assign(expression: Extract<Expression, { kind: 'assign' }>, frame: Frame): CValue {
    const { operator, left, right, place } = expression;
    const target = this.lvalue(left, frame);
    let value = this.value(right, frame);
    if (value.kind === 'path') value = this.number(value, right.place);
    this.effects++;
    if (!operator) {
      this.at.store(target, value, place, '', value);
      return asKept(target, value);
    }
    const whole = this.operate(operator, this.at.load(target, place), value, place);
    this.at.store(target, whole, place, operator, value);
    return asKept(target, whole);
  }

  // Places

  private lvalue(expression: Expression, frame: Frame): Lvalue {
    this.step(expression.place);
    switch (expression.kind) {
      case 'name': {
        const found = this.variable(expression.name, frame);
        if (found) return { kind: 'memory', ...found, volatile: true };
        return { kind: 'path', path: [expression.name] };
      }
      case 'unary':
        if (expression.operator === '*')
          return this.pointedAt(this.value(expression.of, frame), expression.place);
        break;
      case 'index':
        return this.element(expression, frame);
      case 'member':
        return this.member(expression, frame);
      case 'literal':
        return this.literal(expression, frame) ?? { kind: 'unknown' };
      case 'call': {
        const value = this.value(expression, frame);
        if (value.kind === 'path') return { kind: 'path', path: value.path };
        break;
      }
      case 'cast':
        return this.lvalue(expression.of, frame);
    }
    return { kind: 'unknown' };
  }

  private element({ of, at, place }: Extract<Expression, { kind: 'index' }>, frame: Frame): Lvalue {
    const index = this.number(this.value(at, frame), place);
    const base = this.array(of, frame);
    if (index.kind !== 'int' || !isKnown(index)) {
      if (base.kind !== 'unknown')
        this.told.notUnderstood(place, 'which element it is, is only known at run time');
      return { kind: 'unknown' };
    }
    const number = Number(numberOf(promoted(index)));
    if (base.kind === 'path') return { kind: 'path', path: [...base.path, `[${number}]`] };
    if (base.kind !== 'memory') return base;
    const size = sizeOf(base.type);
    if (size === undefined) return { kind: 'unknown' };
    return { ...base, address: base.address + number * size };
  }

  /** The first element of an array, or what a pointer leads to. */
  private array(expression: Expression, frame: Frame): Lvalue {
    if (
      ['name', 'index', 'member', 'literal'].includes(expression.kind) ||
      (expression.kind === 'unary' && expression.operator === '*')
    ) {
      const target = this.lvalue(expression, frame);
      if (target.kind !== 'memory') return target;
      if (target.type.kind === 'array')
        return {
          kind: 'memory',
          address: target.address,
          type: target.type.of,
          volatile: isVolatile(target, target.type.of),
        };
      return this.pointedAt(this.at.load(target, expression.place), expression.place);
    }
    return this.pointedAt(this.value(expression, frame), expression.place);
  }

  private member({ of, name, arrow, place }: Extract<Expression, { kind: 'member' }>, frame: Frame): Lvalue {
    const base = arrow ? this.array(of, frame) : this.structure(of, frame);
    if (base.kind === 'path') return { kind: 'path', path: [...base.path, name] };
    if (base.kind !== 'memory') return base;
    // Of a type that is not there the address, and the name, is what there is.
    if (base.type.kind !== 'struct' || !base.type.body.members)
      return { kind: 'path', path: [`@${base.address}`, name] };
    const member = memberOf(base.type, name);
    if (!member) {
      this.told.notUnderstood(place, `there is no member ${name}`);
      return { kind: 'unknown' };
    }
    return {
      kind: 'memory',
      address: base.address + member.offset,
      type: member.type,
      volatile: isVolatile(base, member.type),
      said: name,
      ...(member.field ? { field: member.field } : {}),
    };
  }

  private structure(expression: Expression, frame: Frame): Lvalue {
    if (expression.kind !== 'call') return this.lvalue(expression, frame);
    const value = this.value(expression, frame);
    if (value.kind === 'path') return { kind: 'path', path: value.path };
    if (value.kind !== 'struct') return { kind: 'unknown' };
    const address = this.at.memory.take(value.bytes.length, false);
    if (address === undefined) return { kind: 'unknown' };
    const target: Lvalue = { kind: 'memory', address, type: value.type, volatile: true };
    this.at.store(target, value, expression.place);
    return target;
  }

  private pointedAt(value: CValue, place: Place): Lvalue {
    if (value.kind === 'path') return { kind: 'path', path: value.path };
    if (value.kind === 'pointer')
      return { kind: 'memory', address: value.address, type: value.to, volatile: value.to.volatile ?? false };
    if (value.kind === 'int') this.told.notUnderstood(place, 'this is no address');
    return { kind: 'unknown' };
  }

  /** The names in `REG(PA, OUT)`, where such a macro is not in the files and one of its arguments is a name that nobody knows. */
  private pathOf({ of, given }: Extract<Expression, { kind: 'call' }>, frame: Frame): string[] | undefined {
    if (of.kind !== 'name' || given.length === 0) return undefined;
    const names = given.map((one) => {
      if (one.kind === 'number') return `[${one.value}]`;
      return one.kind === 'name' && !this.variable(one.name, frame) && !this.functionNamed(one.name, frame)
        ? one.name
        : undefined;
    });
    if (names.some((one) => one === undefined) || names.every((one) => one?.startsWith('[')))
      return undefined;
    return [`${of.name}()`, ...(names as string[])];
  }

  // Reading and writing

  protected callExpression(expression: Extract<Expression, { kind: 'call' }>, frame: Frame): CValue {
    const { of, given, place } = expression;
    const name = of.kind === 'name' && !this.variable(of.name, frame) ? of.name : undefined;
    const sized = /^(U?)INT(8|16|32|64|MAX)_C$/.exec(name ?? '');
    if (sized && given[0] && !this.functionNamed(name ?? '', frame)) {
      const bits = sized[2] === 'MAX' ? 64 : (Number(sized[2]) as 8);
      return this.at.cast(this.value(given[0], frame), { kind: 'int', bits, signed: sized[1] === '' });
    }
    if (name?.startsWith('__builtin_expect') && given[0]) return this.value(given[0], frame);
    const definition =
      name === undefined ? this.functionIn(this.value(of, frame)) : this.functionNamed(name, frame);
    if (!definition) {
      const path = this.pathOf(expression, frame);
      if (path) return { kind: 'path', path };
    }
    const values = given.map((one) => this.value(one, frame));
    this.effects++;
    if (definition) return this.enter(definition, values);
    const told = name ?? 'what is called here';
    if (!this.strangers.has(told)) {
      this.strangers.add(told);
      this.told.notUnderstood(place, `${told} is not in the files: what it does is not known`);
    }
    return UNKNOWN;
  }
}

/** `UINT8_MAX`, `INT32_MIN` …, of a header that is always there. */
function limitNamed(name: string): CValue | undefined {
  const [, unsigned, bits, end] = /^(U?)INT(8|16|32|64)_(MAX|MIN)$/.exec(name) ?? [];
  if (bits === undefined) return undefined;
  const size = BigInt(bits);
  const type: IntType = { kind: 'int', bits: Number(bits) as 8, signed: unsigned === '' };
  if (unsigned !== '') return end === 'MAX' ? intOf((1n << size) - 1n, type) : undefined;
  return intOf(end === 'MAX' ? (1n << (size - 1n)) - 1n : -(1n << (size - 1n)), type);
}
