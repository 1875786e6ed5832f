import {
  type Expression,
  ExpressionError,
  peek,
  readExpression,
  readerOf,
  type TokenReader,
  take,
} from './expression';
import { isVariable } from './scope';

/** A register, or some bits of it, as a statement or a guard names it: `GATE.READY bit port.gate`. */
export interface RegisterRef {
  block: string;
  register: string;
  /** Which element of an array; without it, the one that the array's index says. */
  element?: Expression;
  /** Lowest and highest bit; absent when the whole register is meant. */
  low?: Expression;
  high?: Expression;
}

/** A step of a stage. The value of an assignment may name what `let` has read before. */
export type Statement =
  | { kind: 'assign'; target: RegisterRef; value: Expression }
  /** A read for what it does, or, with a name, for what it gives. */
  | { kind: 'read'; target: RegisterRef; name?: string }
  | { kind: 'await'; target: RegisterRef; value: Expression; withinCycles: Expression }
  | { kind: 'wait'; cycles: Expression };

/**
 * Parses one step of a stage:
 * `R := v`, `R bit n := v`, `R bits lo to hi := v`, `read R`, `let name = R`, `await R bit n = v within cycles`, `wait n cycles`;
 * R may be an element of an array, `R[e]`.
 * Throws {@link ExpressionError} with the column.
 */
export function parseStatement(text: string): Statement {
  const reader = readerOf(text);
  const statement = readStatement(reader);
  const rest = peek(reader);
  if (rest) throw new ExpressionError(`unexpected "${rest.text}"`, rest.column);
  return statement;
}

function readStatement(reader: TokenReader): Statement {
  const first = peek(reader)?.text;
  if (first === 'wait') {
    take(reader);
    const cycles = readExpression(reader);
    take(reader, 'cycles');
    return { kind: 'wait', cycles };
  }
  if (first === 'read') {
    take(reader);
    return { kind: 'read', target: readRegister(reader) };
  }
  if (first === 'let') {
    take(reader);
    const name = take(reader);
    if (!/^[a-z]\w*$/.test(name.text) || isVariable(name.text))
      throw new ExpressionError(
        `"${name.text}" is no name for what is read: a small letter, then letters, digits and "_", and no variable`,
        name.column,
      );
    take(reader, '=');
    return { kind: 'read', target: readRegister(reader), name: name.text };
  }
  if (first === 'await') {
    take(reader);
    const target = readRef(reader);
    take(reader, '=');
    const value = readExpression(reader);
    take(reader, 'within');
    return { kind: 'await', target, value, withinCycles: readExpression(reader) };
  }
  const target = readRef(reader);
  take(reader, ':=');
  return { kind: 'assign', target, value: readExpression(reader) };
}

/** A whole register. */
function readRegister(reader: TokenReader): RegisterRef {
  const name = take(reader);
  const [block, register, ...more] = name.text.split('.');
  if (name.kind !== 'word' || !block || !register || more.length > 0) {
    throw new ExpressionError(`expected a register such as PORT.OUT, found "${name.text}"`, name.column);
  }
  if (peek(reader)?.text !== '[') return { block, register };
  take(reader);
  const element = readExpression(reader);
  take(reader, ']');
  return { block, register, element };
}

function readRef(reader: TokenReader): RegisterRef {
  const whole = readRegister(reader);
  const next = peek(reader)?.text;
  if (next !== 'bit' && next !== 'bits') return whole;
  take(reader);
  const low = readExpression(reader);
  if (next === 'bit') return { ...whole, low, high: low };
  take(reader, 'to');
  return { ...whole, low, high: readExpression(reader) };
}

/** Parses a guard's condition: a register bit that must read 1, or with `= 0` one that must read 0. */
export function parseGuard(text: string): { ref: RegisterRef; openAt: 0 | 1 } {
  const reader = readerOf(text);
  const ref = readRef(reader);
  let openAt: 0 | 1 = 1;
  if (peek(reader)?.text === '=') {
    take(reader, '=');
    const level = take(reader);
    if (level.text !== '0' && level.text !== '1') {
      throw new ExpressionError(`a guard opens at 0 or 1, not at "${level.text}"`, level.column);
    }
    openAt = level.text === '0' ? 0 : 1;
  }
  const rest = peek(reader);
  if (rest) throw new ExpressionError(`unexpected "${rest.text}"`, rest.column);
  return { ref, openAt };
}

/** What a register does when it is read or written. */
export type Access =
  | { kind: 'read-write' }
  | { kind: 'read' }
  | { kind: 'write' }
  | { kind: 'set' | 'clear' | 'toggle'; of: string }
  | { kind: 'masked' }
  | { kind: 'strobe' }
  | { kind: 'internal' }
  /** What it does is in its clauses; `holds`: they name bits of its own. */
  | { kind: 'clauses'; holds: boolean }
  | { kind: 'alias'; of: string }
  | SetClear
  | { kind: 'act'; from: string; to: string }
  | Key;

/** One half of the word sets bits of another register, the other half clears them. */
export interface SetClear {
  kind: 'set-clear';
  of: string;
  /** The half that sets; the other one clears. */
  setting: 'lower' | 'upper';
  /** What becomes of a bit for which both are asked. */
  both: 'set' | 'clear' | 'toggle' | 'keep';
}

export interface Key {
  kind: 'key';
  keys: number[];
  opens: string[];
  /** How many writes it is good for; absent where it stays open. */
  writes?: number;
  /** Every write on the bus counts: one to anything else between the keys starts the sequence anew, and uses up one of `writes`. */
  unbroken: boolean;
}

/** Parses the words of `RegisterSource.access`. Throws {@link ExpressionError}. */
export function parseAccess(text: string | undefined): Access {
  const words = (text ?? 'read-write').trim();
  switch (words) {
    case 'read-write':
    case 'read':
    case 'write':
    case 'masked':
    case 'strobe':
    case 'internal':
      return { kind: words };
  }
  const halves = /^(set and clear|clear and set) of ([A-Za-z_]\w*)(?:, both (set|clear|toggle|keep))?$/.exec(
    words,
  );
  if (halves)
    return {
      kind: 'set-clear',
      of: halves[2] as string,
      setting: halves[1] === 'set and clear' ? 'lower' : 'upper',
      both: (halves[3] ?? 'set') as SetClear['both'],
    };
  const mirror = /^alias of ([A-Za-z_]\w*)$/.exec(words);
  if (mirror) return { kind: 'alias', of: mirror[1] as string };
  const act = /^act copies ([A-Za-z_]\w*) to ([A-Za-z_]\w*)$/.exec(words);
  if (act) return { kind: 'act', from: act[1] as string, to: act[2] as string };
  const alias = /^(set|clear|toggle) of ([A-Za-z_][A-Za-z0-9_]*)$/.exec(words);
  if (alias) return { kind: alias[1] as 'set' | 'clear' | 'toggle', of: alias[2] as string };
  const key = /^key (.+?) opens (.+?)(?: (once)| for (\d+) writes)?( unbroken)?$/.exec(words);
  if (key) {
    const keys = (key[1] as string).split(/\s+then\s+/).map(Number);
    if (keys.some((value) => !Number.isInteger(value) || value < 0)) {
      throw new ExpressionError(`"${key[1]}" is not a list of key values`, 5);
    }
    const opens = (key[2] as string).split(/\s*,\s*/);
    const writes = key[3] ? 1 : key[4] === undefined ? undefined : Number(key[4]);
    if (keys.length > MOST_KEYS || (writes !== undefined && (writes < 1 || writes > MOST_KEYS)))
      throw new ExpressionError(`at most ${MOST_KEYS} keys, good for 1 to ${MOST_KEYS} writes, are taken`, 1);
    return { kind: 'key', keys, opens, ...(writes ? { writes } : {}), unbroken: key[5] !== undefined };
  }
  throw new ExpressionError(`access "${words}" is not known; it is one of ${ACCESS_WORDS}`, 1);
}

const MOST_KEYS = 8;
const ACCESS_WORDS =
  '"read-write", "read", "write", "set of R", "clear of R", "toggle of R", "set and clear of R", "masked", "alias of R", "act copies A to B", "strobe", "internal", "key K opens R"';

/** Parses `V in MASK`: reserved bits and the value that every write must give them. Throws {@link ExpressionError}. */
export function parseAlways(text: string): { value: number; mask: number } {
  const match = /^(0[xX][0-9A-Fa-f]+|\d+) in (0[xX][0-9A-Fa-f]+|\d+)$/.exec(text.trim());
  const [value, mask] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || (value & ~mask) !== 0) {
    throw new ExpressionError(`"${text}" is not a value within a mask, like 0x8000 in 0xC000`, 1);
  }
  return { value, mask };
}

/** Which bits of a register take a write: those for which a bit of another (or the same) register has a value. */
export interface WritableWhere {
  register: string;
  /** Bit of it that counts for the lowest bits. */
  from: number;
  bitsEach: number;
  openAt: 0 | 1;
}

/** Parses `R [from K] [by N] [= 0]`. Throws {@link ExpressionError}. */
export function parseWritableWhere(text: string): WritableWhere {
  const match = /^([A-Za-z_]\w*)(?: from (\d+))?(?: by (\d+))?(?: = ([01]))?$/.exec(text.trim());
  const bitsEach = Number(match?.[3] ?? 1);
  if (!match || bitsEach < 1)
    throw new ExpressionError(
      `writable where "${text}" is not known; it is "R", with "from K", "by N" and "= 0" behind it as needed`,
      1,
    );
  return {
    register: match[1] as string,
    from: Number(match[2] ?? 0),
    bitsEach,
    openAt: match[4] === '0' ? 0 : 1,
  };
}

/** `afterCycles` is infinite where the document gives no bound: the bit must be awaited. */
export type Follows =
  | { kind: 'pads'; inverted?: true; invertedBy?: string }
  | { kind: 'register'; register: string; afterCycles: number; inverted: boolean };

/** Parses the words of `RegisterSource.follows`. Throws {@link ExpressionError}. */
export function parseFollows(text: string): Follows {
  if (text === 'pads') return { kind: 'pads' };
  const inverted = /^pads inverted(?: by ([A-Za-z_]\w*))?$/.exec(text);
  if (inverted)
    return inverted[1] === undefined
      ? { kind: 'pads', inverted: true }
      : { kind: 'pads', invertedBy: inverted[1] };
  const match = /^([A-Za-z_][A-Za-z0-9_]*)( inverted)?(?: after (\d+|unknown) cycles)?$/.exec(text);
  if (!match)
    throw new ExpressionError(
      `follows "${text}" is not known; it is "pads", "pads inverted", "pads inverted by R", or "R", with "inverted" and "after N cycles" (or "after unknown cycles") behind it as needed`,
      1,
    );
  return {
    kind: 'register',
    register: match[1] as string,
    inverted: match[2] !== undefined,
    afterCycles: cyclesOf(match[3]),
  };
}

/** Parses `V after N|unknown cycles`. Throws {@link ExpressionError}. */
export function parseReturns(text: string): { value: number; afterCycles: number } {
  const match = /^(0[xX][0-9A-Fa-f]+|\d+) after (\d+|unknown) cycles$/.exec(text.trim());
  const afterCycles = cyclesOf(match?.[2]);
  if (!match || afterCycles < 1)
    throw new ExpressionError(`"${text}" is not a value and a time, like "0 after 40 cycles"`, 1);
  return { value: Number(match[1]), afterCycles };
}

const cyclesOf = (word: string | undefined): number =>
  word === 'unknown' ? Number.POSITIVE_INFINITY : Number(word ?? 0);

/** A bit of a register that shows something; bits are expressions, registers stand beside it. */
export interface Shows {
  bit: Expression;
  of:
    | { kind: 'pad'; inverted: boolean; invertedBy?: BitSource }
    | { kind: 'bit'; source: BitSource; inverted: boolean; afterCycles: number };
}

/** A bit of the register itself, or of one beside it. */
export interface BitSource {
  register?: string;
  bit: Expression;
}

/**
 * Parses `bit N = pad [inverted [by [R] bit K]]` or `bit N = [R] bit K [inverted] [after N|unknown cycles]`.
 * Throws {@link ExpressionError} with the column.
 */
export function parseShows(text: string): Shows {
  const reader = readerOf(text);
  const next = (word: string): boolean => peek(reader)?.text === word && take(reader) !== undefined;
  const source = (): BitSource => {
    const first = peek(reader);
    const register = first?.kind === 'word' && first.text !== 'bit' ? take(reader).text : undefined;
    take(reader, 'bit');
    return { ...(register === undefined ? {} : { register }), bit: readExpression(reader) };
  };
  take(reader, 'bit');
  const bit = readExpression(reader);
  take(reader, '=');
  let of: Shows['of'];
  if (next('pad')) {
    const inverted = next('inverted');
    of = { kind: 'pad', inverted, ...(inverted && next('by') ? { invertedBy: source() } : {}) };
  } else {
    const from = source();
    const inverted = next('inverted');
    let afterCycles = 0;
    if (next('after')) {
      const cycles = take(reader);
      if (cycles.text !== 'unknown' && cycles.kind !== 'number')
        throw new ExpressionError(`"${cycles.text}" is no number of cycles`, cycles.column);
      afterCycles = cyclesOf(cycles.text);
      take(reader, 'cycles');
    }
    of = { kind: 'bit', source: from, inverted, afterCycles };
  }
  const rest = peek(reader);
  if (rest) throw new ExpressionError(`unexpected "${rest.text}"`, rest.column);
  return { bit, of };
}

/** Parses a reset value: `V`, `unknown`, or `V unknown in MASK`. Throws {@link ExpressionError}. */
export function parseReset(text: string, bits: number): { value: number; unknown: number } {
  const words = text.trim();
  if (words === 'unknown') return { value: 0, unknown: bits >= 32 ? 0xffffffff : 2 ** bits - 1 };
  const match = /^(0[xX][0-9A-Fa-f]+|\d+)(?: unknown in (0[xX][0-9A-Fa-f]+|\d+))?$/.exec(words);
  if (!match) throw new ExpressionError(`reset "${text}" is not known`, 1);
  const unknown = Number(match[2] ?? 0);
  return { value: (Number(match[1]) & ~unknown) >>> 0, unknown };
}
