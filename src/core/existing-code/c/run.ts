import type {
  Declaration,
  Designator,
  Expression,
  FunctionDefinition,
  Initializer,
  Statement,
  Unit,
} from './ast';
import type { Bus, Told } from './bus';
import { wholeValue } from './constant';
import { Expressions, type Frame, type Variable } from './expressions';
import { isBreak, leaves, onlyWaits } from './flow';
import type { Memory } from './memory';
import { isWhole, type Part, partAt, placesIn } from './parts';
import { Store } from './store';
import type { Place } from './tokens';
import { type CType, memberOf, sizeOf } from './types';
import { type CValue, converted, isKnown, numberOf, promoted, truthOf, UNKNOWN } from './value';

export interface RunLimits {
  /** Expressions and statements that are looked at, at most. */
  steps: number;
}

type Flow = 'next' | 'break' | 'continue' | 'return';

/** Ends what is followed: an endless loop, or more than anybody would wait for. */
class Ended extends Error {}

const DEEPEST_CALLS = 64;
/** Rounds after which a loop that only reads is taken to wait for what the description does not say. */
const WAITING_ROUNDS = 2_000;
/** Rounds after which a loop that does nothing is taken to pass time only. */
const IDLE_ROUNDS = 64;
const IDLE_CYCLES = 100_000;

/** Follows C as it would run, on numbers of which some bits may not be known. Nothing of it is executed. */
export class Runner extends Expressions {
  private readonly functions = new Map<string, FunctionDefinition>();
  private readonly ownFunctions = new Map<Unit, Map<string, FunctionDefinition>>();
  private readonly unitOf = new Map<FunctionDefinition, Unit>();
  private readonly statics = new Map<Declaration, number>();
  private readonly functionAt = new Map<number, FunctionDefinition>();
  private readonly addressOf = new Map<FunctionDefinition, number>();
  private steps = 0;
  private calls = 0;

  constructor(
    private readonly units: readonly Unit[],
    memory: Memory,
    bus: Bus,
    told: Told,
    private readonly limits: RunLimits,
    bigEndian: boolean,
  ) {
    super(new Store(memory, bus, told, bigEndian), told);
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
      const own = new Map<string, Variable>();
      this.ownGlobals.set(unit, own);
      for (const one of unit.objects) {
        const known = own.get(one.name) ?? (one.static ? undefined : this.globals.get(one.name));
        if (one.external && !one.value && !known) {
          // Its definition may come in another file.
          continue;
        }
        const type = this.completed(one.type, one.value);
        const address = known?.address ?? this.at.memory.take(sizeOf(type) ?? 4, true);
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

  protected step(place: Place): void {
    if (++this.steps <= this.limits.steps) return;
    if (this.steps === this.limits.steps + 1)
      this.told.notUnderstood(place, 'it takes too long to follow the code; it is left here');
    throw new Ended();
  }

  // Functions

  protected enter(definition: FunctionDefinition, given: readonly CValue[]): CValue {
    const unit = this.unitOf.get(definition) as Unit;
    if (this.calls >= DEEPEST_CALLS) {
      this.told.notUnderstood(definition.place, `${definition.name} is called within itself too often`);
      return UNKNOWN;
    }
    const frame = this.frame(unit);
    definition.type.parameters.forEach(({ name, type }, at) => {
      if (name === undefined) return;
      const address = this.at.memory.take(sizeOf(type) ?? 4, false);
      if (address === undefined) throw new Ended();
      frame.scopes[0]?.set(name, { address, type });
      this.at.store(
        { kind: 'memory', address, type, volatile: true },
        given[at] ?? UNKNOWN,
        definition.place,
      );
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

  protected functionNamed(name: string, frame: Frame): FunctionDefinition | undefined {
    return this.ownFunctions.get(frame.unit)?.get(name) ?? this.functions.get(name);
  }

  protected functionIn(value: CValue): FunctionDefinition | undefined {
    return value.kind === 'pointer' ? this.functionAt.get(value.address) : undefined;
  }

  protected functionPointer(definition: FunctionDefinition): CValue {
    let address = this.addressOf.get(definition);
    if (address === undefined) {
      address = this.at.memory.take(4, false);
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
        this.value(statement.value, frame);
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
      const [accesses, writes, effects] = [this.at.accesses, this.at.writes, this.effects];
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
      if (next) this.value(next, frame);
      this.step(place);
      const touched = this.at.accesses > accesses;
      if (!touched) this.at.bus.wait(1);
      if (!touched && idle && round >= IDLE_ROUNDS) {
        this.at.bus.wait(IDLE_CYCLES);
        return 'next';
      }
      const onlyReads = touched && this.at.writes === writes && this.effects - effects <= 1;
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
      const { effects } = this;
      const { accesses, writes } = this.at;
      if (round === IDLE_ROUNDS - 1) this.at.bus.wait(IDLE_CYCLES);
      truth = truthOf(this.value(condition, frame));
      if (this.at.accesses === accesses || this.effects !== effects || this.at.writes !== writes) break;
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

  private declare(one: Declaration, frame: Frame): void {
    if (one.type.kind === 'function' || (one.external && !one.value)) return;
    const type = this.completed(one.type, one.value);
    const places = one.static ? this.statics : frame.places;
    let address = places.get(one);
    const fresh = address === undefined;
    address ??= this.at.memory.take(sizeOf(type) ?? 4, one.static || one.value?.kind === 'list');
    if (address === undefined) {
      this.told.notUnderstood(one.place, `${one.name} is too large`);
      throw new Ended();
    }
    places.set(one, address);
    frame.scopes.at(-1)?.set(one.name, { address, type });
    if (one.value && (fresh || !one.static)) this.initialize(address, type, one.value, frame);
  }

  /** An array without a length has that of its value. */
  protected completed(type: CType, value: Initializer | undefined): CType {
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

  protected initialize(address: number, type: CType, value: Initializer, frame: Frame): void {
    if (value.kind === 'one') {
      if (type.kind === 'array' && value.value.kind === 'string') {
        this.at.memory.text(address, value.value.bytes.slice(0, sizeOf(type)));
        return;
      }
      this.at.store(
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
    if (whole) for (let k = 0; k < size; k++) this.at.memory.write(address + k, { value: 0, known: 0xff });
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
      this.at.store(
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
}
