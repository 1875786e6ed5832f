import {
  type Expression,
  ExpressionError,
  peek,
  readExpression,
  readerOf,
  type TokenReader,
  take,
} from './expression';

/** A register, or some bits of it, as a statement or a guard names it: `GATE.READY bit port.gate`. */
export interface RegisterRef {
  block: string;
  register: string;
  /** Lowest and highest bit; absent when the whole register is meant. */
  low?: Expression;
  high?: Expression;
}

export type Statement =
  | { kind: 'assign'; target: RegisterRef; value: Expression }
  | { kind: 'await'; target: RegisterRef; value: Expression; withinCycles: Expression }
  | { kind: 'wait'; cycles: Expression };

/**
 * Parses one step of a stage:
 * `R := v`, `R bit n := v`, `R bits lo to hi := v`, `await R bit n = v within cycles`, `wait n cycles`.
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

function readRef(reader: TokenReader): RegisterRef {
  const name = take(reader);
  const [block, register, ...more] = name.text.split('.');
  if (name.kind !== 'word' || !block || !register || more.length > 0) {
    throw new ExpressionError(`expected a register such as PORT.OUT, found "${name.text}"`, name.column);
  }
  const next = peek(reader)?.text;
  if (next === 'bit') {
    take(reader);
    const low = readExpression(reader);
    return { block, register, low, high: low };
  }
  if (next === 'bits') {
    take(reader);
    const low = readExpression(reader);
    take(reader, 'to');
    return { block, register, low, high: readExpression(reader) };
  }
  return { block, register };
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
  | { kind: 'alias' | 'set-clear'; of: string }
  | { kind: 'act'; from: string; to: string }
  | { kind: 'key'; keys: number[]; opens: string[]; once: boolean };

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
  const both = /^set and clear of ([A-Za-z_]\w*)$/.exec(words);
  if (both) return { kind: 'set-clear', of: both[1] as string };
  const mirror = /^alias of ([A-Za-z_]\w*)$/.exec(words);
  if (mirror) return { kind: 'alias', of: mirror[1] as string };
  const act = /^act copies ([A-Za-z_]\w*) to ([A-Za-z_]\w*)$/.exec(words);
  if (act) return { kind: 'act', from: act[1] as string, to: act[2] as string };
  const alias = /^(set|clear|toggle) of ([A-Za-z_][A-Za-z0-9_]*)$/.exec(words);
  if (alias) return { kind: alias[1] as 'set' | 'clear' | 'toggle', of: alias[2] as string };
  const key = /^key (.+?) opens (.+?)( once)?$/.exec(words);
  if (key) {
    const keys = (key[1] as string).split(/\s+then\s+/).map(Number);
    if (keys.some((value) => !Number.isInteger(value) || value < 0)) {
      throw new ExpressionError(`"${key[1]}" is not a list of key values`, 5);
    }
    const opens = (key[2] as string).split(/\s*,\s*/);
    return { kind: 'key', keys, opens, once: key[3] !== undefined };
  }
  throw new ExpressionError(`access "${words}" is not known`, 1);
}

/** Parses `V in MASK`: reserved bits and the value that every write must give them. Throws {@link ExpressionError}. */
export function parseAlways(text: string): { value: number; mask: number } {
  const match = /^(0[xX][0-9A-Fa-f]+|\d+) in (0[xX][0-9A-Fa-f]+|\d+)$/.exec(text.trim());
  const [value, mask] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || (value & ~mask) !== 0) {
    throw new ExpressionError(`"${text}" is not a value within a mask, like 0x8000 in 0xC000`, 1);
  }
  return { value, mask };
}

/** Parses `R` or `R by N`. Throws {@link ExpressionError}. */
export function parseWritableWhere(text: string): { register: string; bitsEach: number } {
  const match = /^([A-Za-z_]\w*)(?: by (\d+))?$/.exec(text.trim());
  const bitsEach = Number(match?.[2] ?? 1);
  if (!match || bitsEach < 1) throw new ExpressionError(`writable where "${text}" is not known`, 1);
  return { register: match[1] as string, bitsEach };
}

export type Follows =
  | { kind: 'pads'; inverted?: true; invertedBy?: string }
  | { kind: 'register'; register: string; afterCycles: number };

/** Parses the words of `RegisterSource.follows`. Throws {@link ExpressionError}. */
export function parseFollows(text: string): Follows {
  if (text === 'pads') return { kind: 'pads' };
  const inverted = /^pads inverted(?: by ([A-Za-z_]\w*))?$/.exec(text);
  if (inverted)
    return inverted[1] === undefined
      ? { kind: 'pads', inverted: true }
      : { kind: 'pads', invertedBy: inverted[1] };
  const match = /^([A-Za-z_][A-Za-z0-9_]*)(?: after (\d+) cycles)?$/.exec(text);
  if (!match) throw new ExpressionError(`follows "${text}" is not known`, 1);
  return { kind: 'register', register: match[1] as string, afterCycles: Number(match[2] ?? 0) };
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
