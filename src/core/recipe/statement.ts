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

/** Parses a guard's condition, a register bit that must read 1. */
export function parseRegisterRef(text: string): RegisterRef {
  const reader = readerOf(text);
  const ref = readRef(reader);
  const rest = peek(reader);
  if (rest) throw new ExpressionError(`unexpected "${rest.text}"`, rest.column);
  return ref;
}

/** What a register does when it is read or written. */
export type Access =
  | { kind: 'read-write' }
  | { kind: 'read' }
  | { kind: 'write' }
  | { kind: 'set' | 'clear' | 'toggle'; of: string }
  | { kind: 'masked' }
  | { kind: 'key'; keys: number[]; opens: string[] };

/** Parses the words of `RegisterSource.access`. Throws {@link ExpressionError}. */
export function parseAccess(text: string | undefined): Access {
  const words = (text ?? 'read-write').trim();
  if (words === 'read-write' || words === 'read' || words === 'write' || words === 'masked')
    return { kind: words };
  const alias = /^(set|clear|toggle) of ([A-Za-z_][A-Za-z0-9_]*)$/.exec(words);
  if (alias) return { kind: alias[1] as 'set' | 'clear' | 'toggle', of: alias[2] as string };
  const key = /^key (.+) opens (.+)$/.exec(words);
  if (key) {
    const keys = (key[1] as string).split(/\s+then\s+/).map(Number);
    if (keys.some((value) => !Number.isInteger(value) || value < 0)) {
      throw new ExpressionError(`"${key[1]}" is not a list of key values`, 5);
    }
    return { kind: 'key', keys, opens: (key[2] as string).split(/\s*,\s*/) };
  }
  throw new ExpressionError(`access "${words}" is not known`, 1);
}

export type Follows = { kind: 'pads' } | { kind: 'register'; register: string; afterCycles: number };

/** Parses the words of `RegisterSource.follows`. Throws {@link ExpressionError}. */
export function parseFollows(text: string): Follows {
  if (text === 'pads') return { kind: 'pads' };
  const match = /^([A-Za-z_][A-Za-z0-9_]*)(?: after (\d+) cycles)?$/.exec(text);
  if (!match) throw new ExpressionError(`follows "${text}" is not known`, 1);
  return { kind: 'register', register: match[1] as string, afterCycles: Number(match[2] ?? 0) };
}
