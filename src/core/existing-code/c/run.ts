import type {
  Declaration,
  Designator,
  Expression,
  FunctionDefinition,
  Initializer,
  Statement,
  Unit,
} from './ast';
import { offsetOf, wholeValue } from './constant';
import type { Memory } from './memory';
import type { Place } from './tokens';
import { asVolatile, CHAR, type CType, INT, type IntType, memberOf, sizeOf, UNSIGNED } from './types';
import {
  type CValue,
  converted,
  type Int,
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

/** An access to what is no variable of the code. */
export interface BusAccess {
  place: Place;
  /** By its address, or by what it is called in a header that is not there. */
  at: { address: number } | { path: readonly string[] };
  /** Undefined where the type is not known: then as wide as the register. */
  bits: 8 | 16 | 32 | undefined;
  volatile: boolean;
  /** The member or macro by which it is reached. */
  said?: string;
}

export interface BusWrite extends BusAccess {
  value: number;
  known: number;
  /** `=`, or the sign of the compound assignment, with the number behind it; `field` for a bit-field. */
  how: { sign: string; value: number; known: number };
}

/** What lies outside of the code. Undefined: nothing is known of it there. */
export interface Bus {
  read(access: BusAccess): { value: number; known: number; bits: 8 | 16 | 32 } | undefined;
  write(access: BusWrite): void;
  /** Time that passes without an access. */
  wait(cycles: number): void;
}

/** What is told while code is followed. */
export interface Told {
  notUnderstood(place: Place, message: string): void;
  suspicious(
    rule: 'shift-too-far' | 'value-does-not-fit' | 'precedence' | 'endless-wait',
    place: Place,
    message: string,
  ): void;
}

export interface RunLimits {
  /** Expressions and statements that are looked at, at most. */
  steps: number;
}

interface MemoryPlace {
  kind: 'memory';
  address: number;
  type: CType;
  volatile: boolean;
  /** The member by which it is reached. */
  said?: string;
  field?: { low: number; bits: number };
}
type Lvalue = MemoryPlace | { kind: 'path'; path: readonly string[] } | { kind: 'unknown' };

const busWidth = (bytes: number): 8 | 16 | 32 | undefined =>
  bytes === 1 ? 8 : bytes === 2 ? 16 : bytes === 4 ? 32 : undefined;

function accessTo(
  target: MemoryPlace | { kind: 'path'; path: readonly string[] },
  place: Place,
  bits: 8 | 16 | 32 | undefined,
): BusAccess {
  if (target.kind === 'path') return { place, at: { path: target.path }, bits, volatile: true };
  const said = target.said ?? place.macro;
  return {
    place,
    at: { address: target.address },
    bits,
    volatile: target.volatile,
    ...(said === undefined ? {} : { said }),
  };
}

type Flow = 'next' | 'break' | 'continue' | 'return';

/** Ends what is followed: an endless loop, or more than anybody would wait for. */
class Ended extends Error {}

interface Frame {
  scopes: Map<string, { address: number; type: CType }>[];
  /** One place for each declaration, however often a loop comes by. */
  places: Map<Declaration, number>;
  /** How often a way out of a loop was not known to be taken. */
  rounds: Map<Statement, number>;
  result: CValue;
  unit: Unit;
}

const DEEPEST_CALLS = 64;
/** Rounds after which a loop that only reads is taken to wait for what the description does not say. */
const WAITING_ROUNDS = 2_000;
/** Rounds after which a loop that does nothing is taken to pass time only. */
const IDLE_ROUNDS = 64;
const IDLE_CYCLES = 100_000;

/** Follows C as it would run, on numbers of which some bits may not be known. Nothing of it is executed. */
export class Runner {
  private readonly functions = new Map<string, FunctionDefinition>();
  private readonly ownFunctions = new Map<Unit, Map<string, FunctionDefinition>>();
  private readonly unitOf = new Map<FunctionDefinition, Unit>();
  private readonly globals = new Map<string, { address: number; type: CType }>();
  private readonly ownGlobals = new Map<Unit, Map<string, { address: number; type: CType }>>();
  private readonly statics = new Map<Declaration, number>();
  private readonly functionAt = new Map<number, FunctionDefinition>();
  private readonly addressOf = new Map<FunctionDefinition, number>();
  private readonly strangers = new Set<string>();
  private steps = 0;
  private calls = 0;
  /** Accesses to the bus so far, and writes among them: by these loops that wait are told from those that work. */
  private accesses = 0;
  private writes = 0;
  /** Assignments to variables and calls. */
  private effects = 0;

  constructor(
    private readonly units: readonly Unit[],
    private readonly memory: Memory,
    private readonly bus: Bus,
    private readonly told: Told,
    private readonly limits: RunLimits,
    private readonly bigEndian: boolean,
  ) {
    for (const unit of units) {
      const own = new Map<string, FunctionDefinition>();
      for (const one of unit.functions) {
        own.set(one.name, one);
        if (!one.static || !this.functions.has(one.name)) this.functions.set(one.name, one);
        this.unitOf.set(one, unit);
      }
      this.ownFunctions.set(unit, own);
    }
  }

  /** Gives every variable outside of functions its place and value, as before the first function. */
  start(): void {
    const pending: [Unit, Declaration, number, CType][] = [];
    for (const unit of this.units) {
      const own = new Map<string, { address: number; type: CType }>();
      this.ownGlobals.set(unit, own);
      for (const one of unit.objects) {
        const known = own.get(one.name) ?? (one.static ? undefined : this.globals.get(one.name));
        if (one.external && !one.value && !known) {
          // Its definition may come in another file.
          continue;
        }
        const type = this.completed(one.type, one.value);
        const address = known?.address ?? this.memory.take(sizeOf(type) ?? 4, true);
        if (address === undefined) {
          this.told.notUnderstood(one.place, `${one.name} is too large`);
          continue;
        }
        own.set(one.name, { address, type });
        if (!one.static) this.globals.set(one.name, { address, type });
        if (one.value) pending.push([unit, one, address, type]);
      }
    }
    for (const [unit, one, address, type] of pending) {
      const frame = this.frame(unit);
      if (one.value) this.guarded(() => this.initialize(address, type, one.value as Initializer, frame));
    }
  }

  /** Follows a function that is given nothing. */
  call(definition: FunctionDefinition): void {
    this.guarded(() =>
      this.enter(
        definition,
        definition.type.parameters.map(() => UNKNOWN),
      ),
    );
  }

  /** Follows statements that stand outside of functions. */
  loose(unit: Unit): void {
    const frame = this.frame(unit);
    this.guarded(() => {
      for (const one of unit.loose) this.statement(one, frame);
    });
  }

  private guarded(work: () => void): void {
    try {
      work();
    } catch (error) {
      if (!(error instanceof Ended)) throw error;
    }
  }

  private frame(unit: Unit): Frame {
    return { scopes: [new Map()], places: new Map(), rounds: new Map(), result: UNKNOWN, unit };
  }

  private step(place: Place): void {
    if (++this.steps <= this.limits.steps) return;
    if (this.steps === this.limits.steps + 1)
      this.told.notUnderstood(place, 'it takes too long to follow the code; it is left here');
    throw new Ended();
  }

  // Functions

  private enter(definition: FunctionDefinition, given: readonly CValue[]): CValue {
    const unit = this.unitOf.get(definition) as Unit;
    if (this.calls >= DEEPEST_CALLS) {
      this.told.notUnderstood(definition.place, `${definition.name} is called within itself too often`);
      return UNKNOWN;
    }
    const frame = this.frame(unit);
    definition.type.parameters.forEach(({ name, type }, at) => {
      if (name === undefined) return;
      const address = this.memory.take(sizeOf(type) ?? 4, false);
      if (address === undefined) throw new Ended();
      frame.scopes[0]?.set(name, { address, type });
      this.store({ kind: 'memory', address, type, volatile: true }, given[at] ?? UNKNOWN, definition.place);
    });
    this.calls++;
    try {
      this.statement(definition.body, frame);
    } finally {
      this.calls--;
    }
    const { returns } = definition.type;
    return returns.kind === 'int' && frame.result.kind === 'int'
      ? converted(frame.result, returns)
      : frame.result;
  }

  private callExpression(expression: Extract<Expression, { kind: 'call' }>, frame: Frame): CValue {
    const { of, given, place } = expression;
    const name = of.kind === 'name' && !this.variable(of.name, frame) ? of.name : undefined;
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

  private functionNamed(name: string, frame: Frame): FunctionDefinition | undefined {
    return this.ownFunctions.get(frame.unit)?.get(name) ?? this.functions.get(name);
  }

  private functionIn(value: CValue): FunctionDefinition | undefined {
    return value.kind === 'pointer' ? this.functionAt.get(value.address) : undefined;
  }

  private functionPointer(definition: FunctionDefinition): CValue {
    let address = this.addressOf.get(definition);
    if (address === undefined) {
      address = this.memory.take(4, false);
      if (address === undefined) return UNKNOWN;
      this.addressOf.set(definition, address);
      this.functionAt.set(address, definition);
    }
    return { kind: 'pointer', to: definition.type, address };
  }

  // Statements

  private statement(statement: Statement, frame: Frame): Flow {
    this.step(statement.place);
    switch (statement.kind) {
      case 'block': {
        frame.scopes.push(new Map());
        const flow = this.list(statement.list, frame);
        frame.scopes.pop();
        return flow;
      }
      case 'declare':
        for (const one of statement.list) this.declare(one, frame);
        return 'next';
      case 'do':
        this.value(statement.value, frame, true);
        return 'next';
      case 'if': {
        const truth = truthOf(this.condition(statement.condition, frame));
        if (truth === undefined && isBreak(statement.yes)) {
          // Waiting for the part: it shows it soon, or is taken to.
          const rounds = (frame.rounds.get(statement) ?? 0) + 1;
          frame.rounds.set(statement, rounds);
          return rounds > IDLE_ROUNDS ? 'break' : 'next';
        }
        if (truth === undefined) {
          this.told.notUnderstood(
            statement.place,
            'whether this is done hangs on what is only known at run time; it is left out',
          );
          return 'next';
        }
        const branch = truth ? statement.yes : statement.no;
        return branch ? this.statement(branch, frame) : 'next';
      }
      case 'for': {
        frame.scopes.push(new Map());
        if (statement.first) this.statement(statement.first, frame);
        const flow = this.statement(statement.loop, frame);
        frame.scopes.pop();
        return flow;
      }
      case 'loop':
        return this.loop(statement, frame);
      case 'switch':
        return this.choose(statement, frame);
      case 'case':
        return this.statement(statement.body, frame);
      case 'return':
        frame.result = statement.value ? this.value(statement.value, frame) : UNKNOWN;
        return 'return';
      case 'break':
      case 'continue':
        return statement.kind;
      case 'nothing':
        return 'next';
      case 'other':
        if (statement.what !== 'not read')
          this.told.notUnderstood(
            statement.place,
            statement.what === 'goto' ? 'goto is not followed' : `${statement.what} is not understood`,
          );
        return 'next';
    }
  }

  private list(list: readonly Statement[], frame: Frame): Flow {
    for (const one of list) {
      const flow = this.statement(one, frame);
      if (flow !== 'next') return flow;
    }
    return 'next';
  }

  private loop(statement: Extract<Statement, { kind: 'loop' }>, frame: Frame): Flow {
    const { condition, next, body, test, place } = statement;
    const always = condition ? wholeValue(condition, frame.unit.enumerators) : 1n;
    const endless = always !== undefined && always !== 0n;
    // What a program does for ever is no initialisation any more.
    if (endless && !leaves(body)) throw new Ended();
    const idle =
      body.kind === 'nothing' || (body.kind === 'block' && body.list.every((one) => one.kind === 'nothing'));
    // Waiting with a count of tries, or a way out of it.
    const waits = onlyWaits(body);
    for (let round = 0; ; round++) {
      const [accesses, writes, effects] = [this.accesses, this.writes, this.effects];
      if (test === 'before' || round > 0) {
        const truth = condition ? this.awaited(condition, frame) : true;
        // Until something outside is so: that is taken to come.
        if (truth === undefined) {
          if (!idle && !waits)
            this.told.notUnderstood(
              place,
              'how often this is done is only known at run time; it is left out',
            );
          return 'next';
        }
        if (!truth) return 'next';
      }
      const flow = this.statement(body, frame);
      if (flow === 'return') return flow;
      if (flow === 'break') return 'next';
      if (next) this.value(next, frame, true);
      this.step(place);
      const touched = this.accesses > accesses;
      if (!touched) this.bus.wait(1);
      if (!touched && idle && round >= IDLE_ROUNDS) {
        this.bus.wait(IDLE_CYCLES);
        return 'next';
      }
      const onlyReads = touched && this.writes === writes && this.effects - effects <= 1;
      if (onlyReads && round >= WAITING_ROUNDS) {
        this.told.suspicious(
          'endless-wait',
          place,
          'this waits for what never comes, as far as the part is described',
        );
        return 'next';
      }
    }
  }

  /** A condition of a loop; one that hangs on what the part is about to show is looked at until it is known. */
  private awaited(condition: Expression, frame: Frame): boolean | undefined {
    let truth = truthOf(this.condition(condition, frame));
    for (let round = 0; truth === undefined && round < IDLE_ROUNDS; round++) {
      const { accesses, effects, writes } = this;
      if (round === IDLE_ROUNDS - 1) this.bus.wait(IDLE_CYCLES);
      truth = truthOf(this.value(condition, frame));
      if (this.accesses === accesses || this.effects !== effects || this.writes !== writes) break;
    }
    return truth;
  }

  private choose({ of, body }: Extract<Statement, { kind: 'switch' }>, frame: Frame): Flow {
    const value = this.value(of, frame);
    if (value.kind !== 'int' || !isKnown(value)) {
      this.told.notUnderstood(of.place, 'which case it is, is only known at run time; it is left out');
      return 'next';
    }
    const wanted = numberOf(promoted(value));
    const list = body.kind === 'block' ? body.list : [body];
    const from = (
      isWanted: (one: Extract<Statement, { kind: 'case' }>) => boolean,
    ): Statement[] | undefined => {
      for (const [at, statement] of list.entries()) {
        for (let one: Statement = statement; one.kind === 'case'; one = one.body)
          if (isWanted(one)) return [one, ...list.slice(at + 1)];
      }
      return undefined;
    };
    const matches = (label: Expression | undefined): boolean => {
      if (!label) return false;
      const own = this.value(label, frame);
      return own.kind === 'int' && isKnown(own) && numberOf(promoted(own)) === wanted;
    };
    const rest = from((one) => matches(one.value)) ?? from((one) => !one.value);
    if (!rest) return 'next';
    frame.scopes.push(new Map());
    const flow = this.list(rest, frame);
    frame.scopes.pop();
    return flow === 'break' ? 'next' : flow;
  }

  // Variables

  private variable(name: string, frame: Frame): { address: number; type: CType } | undefined {
    for (let at = frame.scopes.length - 1; at >= 0; at--) {
      const found = frame.scopes[at]?.get(name);
      if (found) return found;
    }
    return this.ownGlobals.get(frame.unit)?.get(name) ?? this.globals.get(name);
  }

  private declare(one: Declaration, frame: Frame): void {
    if (one.type.kind === 'function' || (one.external && !one.value)) return;
    const type = this.completed(one.type, one.value);
    const places = one.static ? this.statics : frame.places;
    let address = places.get(one);
    const fresh = address === undefined;
    address ??= this.memory.take(sizeOf(type) ?? 4, one.static || one.value?.kind === 'list');
    if (address === undefined) {
      this.told.notUnderstood(one.place, `${one.name} is too large`);
      throw new Ended();
    }
    places.set(one, address);
    frame.scopes.at(-1)?.set(one.name, { address, type });
    if (one.value && (fresh || !one.static)) this.initialize(address, type, one.value, frame);
  }

  /** An array without a length has that of its value. */
  private completed(type: CType, value: Initializer | undefined): CType {
    if (type.kind !== 'array' || type.count !== undefined || !value) return type;
    if (value.kind === 'one')
      return { ...type, count: value.value.kind === 'string' ? value.value.bytes.length : 1 };
    // Without braces around them, as many values as an element has places make one.
    const places = placesIn(type.of);
    let [at, most] = [0, 0];
    for (const { to, value: one } of value.entries) {
      const [first] = to;
      if (first && 'index' in first) at = Number(wholeValue(first.index, new Map()) ?? 0n) * places;
      const single = one.kind === 'one' && places > 1 && !isWhole(one.value, type.of) && to.length === 0;
      at = single ? at + 1 : (Math.ceil(at / places) + 1) * places;
      most = Math.max(most, Math.ceil(at / places));
    }
    return { ...type, count: most };
  }

  private initialize(address: number, type: CType, value: Initializer, frame: Frame): void {
    if (value.kind === 'one') {
      if (type.kind === 'array' && value.value.kind === 'string') {
        this.memory.text(address, value.value.bytes.slice(0, sizeOf(type)));
        return;
      }
      this.store(
        { kind: 'memory', address, type, volatile: true },
        this.value(value.value, frame),
        value.value.place,
      );
      return;
    }
    if (type.kind !== 'array' && type.kind !== 'struct') {
      const [only] = value.entries;
      if (only) this.initialize(address, type, only.value, frame);
      return;
    }
    this.fill(address, type, value.entries.slice(), frame, value.place, true);
  }

  /** Takes from a list what an array or struct needs; the rest is left to what is around it. */
  private fill(
    address: number,
    type: CType,
    entries: { to: Designator[]; value: Initializer }[],
    frame: Frame,
    place: Place,
    whole: boolean,
  ): void {
    const size = sizeOf(type) ?? 0;
    if (whole) for (let k = 0; k < size; k++) this.memory.write(address + k, { value: 0, known: 0xff });
    let at = 0;
    while (entries.length > 0) {
      this.step(place);
      const [entry] = entries;
      if (!entry) return;
      const [first, ...deeper] = entry.to;
      if (first) {
        if (!whole) return;
        if ('index' in first) {
          const index = this.value(first.index, frame);
          at = index.kind === 'int' && isKnown(index) ? Number(numberOf(index)) : at;
        } else if (type.kind === 'struct') {
          const found = type.body.members?.findIndex((member) => member.name === first.member) ?? -1;
          if (found < 0) {
            // A member of a member without a name.
            const inner = memberOf(type, first.member);
            entries.shift();
            if (inner) this.put(address, inner, entry.value, frame, place);
            else this.told.notUnderstood(place, `there is no member ${first.member}`);
            continue;
          }
          at = found;
        }
      }
      const target = partAt(type, at);
      if (!target) {
        if (whole) this.told.notUnderstood(place, 'there are more values than places');
        return;
      }
      at++;
      if (deeper.length > 0) {
        entries.shift();
        this.fill(
          address + target.offset,
          target.type,
          [{ to: deeper, value: entry.value }],
          frame,
          place,
          true,
        );
      } else if (
        entry.value.kind === 'one' &&
        (target.type.kind === 'array' || target.type.kind === 'struct') &&
        !isWhole(entry.value.value, target.type)
      ) {
        if (first) entries[0] = { to: [], value: entry.value };
        this.fill(address + target.offset, target.type, entries, frame, place, false);
      } else {
        entries.shift();
        this.put(address, target, entry.value, frame, place);
      }
    }
  }

  private put(address: number, part: Part, value: Initializer, frame: Frame, place: Place): void {
    if (!part.field) this.initialize(address + part.offset, part.type, value, frame);
    else if (value.kind === 'one')
      this.store(
        {
          kind: 'memory',
          address: address + part.offset,
          type: part.type,
          volatile: true,
          field: part.field,
        },
        this.value(value.value, frame),
        place,
      );
  }

  // Expressions

  /** A condition; an assignment in one is seldom meant. */
  private condition(expression: Expression, frame: Frame): CValue {
    if (expression.kind === 'assign' && !expression.operator && !expression.bracketed)
      this.told.suspicious('precedence', expression.place, 'this assigns where a comparison is expected');
    return this.value(expression, frame);
  }

  private value(expression: Expression, frame: Frame, unused = false): CValue {
    this.step(expression.place);
    switch (expression.kind) {
      case 'number':
        return intOf(expression.value, expression.type);
      case 'float':
        return UNKNOWN;
      case 'string': {
        const { bytes } = expression;
        const address = this.memory.take(bytes.length, false);
        if (address === undefined) return UNKNOWN;
        this.memory.text(address, bytes);
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
        const before = this.load(target, expression.place);
        const after = this.operate(expression.by > 0 ? '+' : '-', before, intOf(1n, INT), expression.place);
        this.effects++;
        this.store(target, after, expression.place, expression.by > 0 ? '+' : '-', intOf(1n, INT));
        return expression.after ? before : asKept(target, after);
      }
      case 'binary':
        return this.binary(expression, frame);
      case 'assign':
        return this.assign(expression, frame);
      case 'choose': {
        const truth = truthOf(this.value(expression.condition, frame));
        if (truth !== undefined) return this.value(truth ? expression.yes : expression.no, frame);
        return UNKNOWN;
      }
      case 'call':
        return this.callExpression(expression, frame);
      case 'cast':
        return this.cast(
          this.value(expression.of, frame, unused || expression.type.kind === 'void'),
          expression.type,
        );
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
        this.value(expression.left, frame, true);
        return this.value(expression.right, frame, unused);
      case 'literal': {
        const target = this.literal(expression, frame);
        return target ? this.load(target, expression.place) : UNKNOWN;
      }
    }
  }

  private literal(expression: Extract<Expression, { kind: 'literal' }>, frame: Frame): Lvalue | undefined {
    const type = this.completed(expression.type, expression.value);
    const address = this.memory.take(sizeOf(type) ?? 4, true);
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
      if (expression.name === 'NULL' || expression.name === 'nullptr')
        return { kind: 'pointer', to: { kind: 'void' }, address: 0 };
      const definition = this.functionNamed(expression.name, frame);
      if (definition) return this.functionPointer(definition);
    }
    return this.load(this.lvalue(expression, frame), expression.place);
  }

  private unary(expression: Extract<Expression, { kind: 'unary' }>, frame: Frame): CValue {
    const { operator, of, place } = expression;
    if (operator === '*') {
      const value = this.value(of, frame);
      if (value.kind === 'pointer' && value.to.kind === 'function') return value;
      return this.load(this.pointedAt(value, place), place);
    }
    if (operator === '&') {
      if (of.kind === 'name' && !this.variable(of.name, frame)) {
        const definition = this.functionNamed(of.name, frame);
        if (definition) return this.functionPointer(definition);
      }
      const target = this.lvalue(of, frame);
      if (target.kind === 'path') return { kind: 'path', path: target.path };
      if (target.kind !== 'memory' || target.field) return UNKNOWN;
      const to = target.volatile && !this.memory.has(target.address) ? asVolatile(target.type) : target.type;
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
    return value.kind === 'path' ? this.load({ kind: 'path', path: value.path }, place) : value;
  }

  private assign(expression: Extract<Expression, { kind: 'assign' }>, frame: Frame): CValue {
    const { operator, left, right, place } = expression;
    const target = this.lvalue(left, frame);
    let value = this.value(right, frame);
    if (value.kind === 'path') value = this.number(value, right.place);
    this.effects++;
    if (!operator) {
      this.store(target, value, place, '', value);
      return asKept(target, value);
    }
    const whole = this.operate(operator, this.load(target, place), value, place);
    this.store(target, whole, place, operator, value);
    return asKept(target, whole);
  }

  private cast(value: CValue, type: CType): CValue {
    if (type.kind === 'pointer') {
      if (value.kind === 'pointer') return { ...value, to: type.to };
      if (value.kind === 'int' && isKnown(value))
        return { kind: 'pointer', to: type.to, address: Number(BigInt.asUintN(32, value.value)) };
      return value.kind === 'path' ? value : UNKNOWN;
    }
    if (type.kind === 'int') {
      if (value.kind === 'int') return converted(value, type);
      if (value.kind === 'pointer') return intOf(BigInt(value.address), type);
      return value.kind === 'path' ? value : unknownInt(type);
    }
    return value;
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
      return this.pointedAt(this.load(target, expression.place), expression.place);
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
    const address = this.memory.take(value.bytes.length, false);
    if (address === undefined) return { kind: 'unknown' };
    const target: Lvalue = { kind: 'memory', address, type: value.type, volatile: true };
    this.store(target, value, expression.place);
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

  private load(target: Lvalue, place: Place): CValue {
    if (target.kind === 'unknown') return UNKNOWN;
    if (target.kind === 'path') return this.fromBus(accessTo(target, place, undefined), UNSIGNED);
    const { address, type, field } = target;
    const isOutside = !this.memory.has(address);
    if (type.kind === 'array')
      return { kind: 'pointer', to: isOutside && target.volatile ? asVolatile(type.of) : type.of, address };
    if (type.kind === 'function') return { kind: 'pointer', to: type, address };
    if (type.kind === 'unknown' && isOutside)
      return this.fromBus(accessTo(target, place, undefined), UNSIGNED);
    if (type.kind === 'float' || type.kind === 'void' || type.kind === 'unknown') return UNKNOWN;
    const size = sizeOf(type) ?? 4;
    if (isOutside) return this.loadOutside(target, type, size, place);
    if (type.kind === 'struct') {
      const bytes = Array.from({ length: size }, (_, k) => this.memory.read(address + k));
      return { kind: 'struct', type, bytes };
    }
    const { value, known } = this.memory.number(address, size, this.bigEndian);
    if (type.kind === 'pointer') {
      if (known !== 0xffffffffn) return this.paths.get(address) ?? UNKNOWN;
      return { kind: 'pointer', to: type.to, address: Number(value) };
    }
    const whole: Int = { kind: 'int', type, value, known };
    return field ? fieldOf(whole, field, type) : whole;
  }

  private loadOutside(target: MemoryPlace, type: CType, size: number, place: Place): CValue {
    if (type.kind === 'struct') return UNKNOWN;
    const bits = busWidth(size);
    if (!bits) {
      this.told.notUnderstood(place, `an access of ${size * 8} bits`);
      return UNKNOWN;
    }
    const plain: IntType = type.kind === 'int' ? type : UNSIGNED;
    const unit: IntType = { kind: 'int', bits: plain.bits, signed: false };
    const whole = this.fromBus(accessTo(target, place, bits), target.field ? unit : plain);
    const value = target.field && whole.kind === 'int' ? fieldOf(whole, target.field, plain) : whole;
    return type.kind === 'pointer' ? this.cast(value, type) : value;
  }

  /** Pointers that hold what a register is called instead of an address. */
  private readonly paths = new Map<number, CValue>();

  private fromBus(access: BusAccess, type: IntType): CValue {
    this.accesses++;
    const read = this.bus.read(access);
    if (!read) return 'path' in access.at ? { kind: 'path', path: access.at.path } : unknownInt(type);
    const own: IntType = access.bits === undefined ? { kind: 'int', bits: read.bits, signed: false } : type;
    return { kind: 'int', type: own, value: BigInt(read.value >>> 0), known: BigInt(read.known >>> 0) };
  }

  private store(target: Lvalue, given: CValue, place: Place, sign?: string, by?: CValue): void {
    if (target.kind === 'unknown') {
      if (sign !== undefined) this.told.notUnderstood(place, 'where this writes to is not known');
      return;
    }
    if (target.kind === 'path') {
      this.toBus(accessTo(target, place, undefined), given, sign ?? '', by);
      return;
    }
    const { address, type, field } = target;
    const size = sizeOf(type) ?? 4;
    if (this.memory.has(address)) {
      this.keep(address, type, size, given, field);
      return;
    }
    const bits = type.kind === 'unknown' ? undefined : busWidth(size);
    if (type.kind === 'struct' || (type.kind !== 'unknown' && !bits)) {
      this.told.notUnderstood(place, 'a write of more than one number');
      return;
    }
    const access = accessTo(target, place, bits);
    if (!field) {
      this.toBus(
        access,
        type.kind === 'int' ? this.fitting(given, type, place, sign) : given,
        sign ?? '',
        by,
      );
      return;
    }
    // A bit-field is read, changed and written with its whole unit.
    const held = this.fromBus(access, { kind: 'int', bits: bits ?? 32, signed: false });
    if (held.kind === 'int') this.toBus(access, withField(held, field, given), 'field', given);
  }

  /** A number as the register's type takes it; what does not fit is told. */
  private fitting(given: CValue, type: IntType, place: Place, sign: string | undefined): CValue {
    if (given.kind === 'pointer') return intOf(BigInt(given.address), type);
    if (given.kind !== 'int') return given;
    const lost = (given.value & given.known) >> BigInt(type.bits);
    const negative = given.type.signed && isKnown(given) && numberOf(given) < 0n;
    if (lost !== 0n && !negative && sign === '')
      this.told.suspicious(
        'value-does-not-fit',
        place,
        `0x${given.value.toString(16).toUpperCase()} does not fit into ${type.bits} bits`,
      );
    return converted(given, type);
  }

  private keep(
    address: number,
    type: CType,
    size: number,
    given: CValue,
    field: { low: number; bits: number } | undefined,
  ): void {
    this.paths.delete(address);
    if (type.kind === 'struct' && given.kind === 'struct') {
      for (const [k, byte] of given.bytes.entries()) this.memory.write(address + k, byte);
      return;
    }
    if (given.kind === 'path') this.paths.set(address, given);
    const plain: IntType = type.kind === 'int' ? type : UNSIGNED;
    let value: Int = unknownInt(plain);
    if (given.kind === 'int') value = converted(given, plain);
    else if (given.kind === 'pointer') value = intOf(BigInt(given.address), plain);
    if (field) {
      const held = this.memory.number(address, size, this.bigEndian);
      value = withField(
        { kind: 'int', type: { ...plain, signed: false, bool: undefined }, ...held },
        field,
        given,
      );
    }
    this.memory.setNumber(address, size, value.value, value.known, this.bigEndian);
  }

  private toBus(access: BusAccess, given: CValue, sign: string, by: CValue | undefined): void {
    this.accesses++;
    this.writes++;
    this.bus.write({ ...access, ...numbersOf(given), how: { sign, ...numbersOf(by ?? given) } });
  }
}

/** A value as the bus has it: number and known bits. */
function numbersOf(value: CValue): { value: number; known: number } {
  if (value.kind === 'pointer') return { value: value.address, known: 0xffffffff };
  if (value.kind !== 'int') return { value: 0, known: 0 };
  const wide = converted(value, UNSIGNED);
  return { value: Number(wide.value & wide.known), known: Number(wide.known) };
}

/** Places for numbers in a type. */
function placesIn(type: CType): number {
  if (type.kind === 'array') return Math.max(1, (type.count ?? 1) * placesIn(type.of));
  if (type.kind !== 'struct' || !type.body.members) return 1;
  const each = type.body.members.map((member) => placesIn(member.type));
  return Math.max(1, type.body.union ? (each[0] ?? 1) : each.reduce((sum, one) => sum + one, 0));
}

interface Part {
  type: CType;
  offset: number;
  field?: { low: number; bits: number };
}

function partAt(type: CType, at: number): Part | undefined {
  if (type.kind === 'array') {
    const size = sizeOf(type.of);
    return size === undefined || at < 0 || at >= (type.count ?? 0)
      ? undefined
      : { type: type.of, offset: at * size };
  }
  if (type.kind !== 'struct') return undefined;
  if (type.body.union && at > 0) return undefined;
  return type.body.members?.[at];
}

/** Whether a value without braces is all of a struct, or of an array of characters. */
const isWhole = (value: Expression, type: CType): boolean =>
  type.kind === 'array'
    ? value.kind === 'string'
    : !['number', 'cast', 'binary', 'string', 'float', 'unary', 'size', 'offset'].includes(value.kind) &&
      value.kind !== 'name';

const isVolatile = (outer: { volatile: boolean; address: number }, type: CType): boolean =>
  outer.volatile || (type.volatile ?? false);

/** What an assignment gives: the value as its place holds it. */
function asKept(target: Lvalue, value: CValue): CValue {
  if (target.kind !== 'memory' || target.type.kind !== 'int' || value.kind !== 'int') return value;
  const own = converted(value, target.type);
  return target.field ? fieldOf(own, { ...target.field, low: 0 }, target.type) : own;
}

function fieldOf(whole: Int, { low, bits }: { low: number; bits: number }, type: IntType): Int {
  const mask = (1n << BigInt(bits)) - 1n;
  const own: Int = {
    kind: 'int',
    type: UNSIGNED,
    value: (whole.value >> BigInt(low)) & mask,
    known: ((whole.known >> BigInt(low)) & mask) | (0xffffffffn & ~mask),
  };
  if (!type.signed || type.bool || !isKnown(own) || own.value >> BigInt(bits - 1) === 0n) return own;
  return intOf(own.value | ~mask, INT);
}

function withField(whole: Int, { low, bits }: { low: number; bits: number }, given: CValue): Int {
  const mask = ((1n << BigInt(bits)) - 1n) << BigInt(low);
  const part = given.kind === 'int' ? converted(given, UNSIGNED) : unknownInt(UNSIGNED);
  return {
    ...whole,
    value: (whole.value & ~mask) | ((part.value << BigInt(low)) & mask),
    known: (whole.known & ~mask) | ((part.known << BigInt(low)) & mask),
  };
}

function pointerResult(operator: string, left: CValue, right: CValue): CValue {
  if (left.kind === 'pointer' && right.kind === 'pointer') {
    if (operator === '-') {
      const size = sizeOf(left.to) ?? 1;
      return intOf(BigInt(Math.trunc((left.address - right.address) / size)), INT);
    }
    return (
      operated(operator, intOf(BigInt(left.address), UNSIGNED), intOf(BigInt(right.address), UNSIGNED)) ??
      UNKNOWN
    );
  }
  const [pointer, number] = left.kind === 'pointer' ? [left, right] : [right, left];
  if (pointer.kind !== 'pointer' || number.kind !== 'int' || !isKnown(number)) return UNKNOWN;
  if (operator !== '+' && operator !== '-')
    return (
      operated(
        operator,
        left.kind === 'pointer' ? intOf(BigInt(left.address), UNSIGNED) : (left as Int),
        right.kind === 'pointer' ? intOf(BigInt(right.address), UNSIGNED) : (right as Int),
      ) ?? UNKNOWN
    );
  const by = Number(numberOf(promoted(number))) * (sizeOf(pointer.to) ?? 1);
  return { ...pointer, address: (pointer.address + (operator === '-' ? -by : by)) >>> 0 };
}

/** Whether something within leaves the loop that this is the body of. */
function leaves(body: Statement): boolean {
  switch (body.kind) {
    case 'break':
    case 'return':
      return true;
    case 'other':
      return body.what === 'goto';
    case 'block':
      return body.list.some(leaves);
    case 'if':
      return leaves(body.yes) || (body.no !== undefined && leaves(body.no));
    case 'case':
      return leaves(body.body);
    case 'loop':
      return returns(body.body);
    case 'for':
      return leaves(body.loop);
    case 'switch':
      return returns(body.body);
    default:
      return false;
  }
}

const isBreak = (statement: Statement): boolean =>
  statement.kind === 'break' ||
  (statement.kind === 'block' && statement.list.length === 1 && statement.list.every(isBreak));

/** Whether the body of a loop does nothing but count, or give up. */
function onlyWaits(body: Statement): boolean {
  switch (body.kind) {
    case 'nothing':
    case 'break':
    case 'continue':
    case 'return':
      return true;
    case 'do':
      return body.value.kind === 'step';
    case 'block':
      return body.list.every(onlyWaits);
    case 'if':
      return onlyWaits(body.yes) && (body.no === undefined || onlyWaits(body.no));
    default:
      return false;
  }
}

function returns(body: Statement): boolean {
  switch (body.kind) {
    case 'return':
      return true;
    case 'block':
      return body.list.some(returns);
    case 'if':
      return returns(body.yes) || (body.no !== undefined && returns(body.no));
    case 'case':
    case 'loop':
    case 'switch':
      return returns(body.body);
    case 'for':
      return returns(body.loop);
    default:
      return false;
  }
}
