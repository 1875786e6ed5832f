import { ExpressionError } from './expression';

/**
 * The language of clauses: what a read of an address gives, and what a write of a value `v` does to the hardware's state. Words of 32 bits
 * and assignments to named state; a recursive descent over operators by their binding power. From loosest to tightest: `c ? a : b`;
 * `== != < >=`; `|`; `^`; `&`; `<< >>`; `+ -`; `~`. Comparisons give 1 or 0, and bind looser than bit operators, so that
 * `A & 1 == 1` means what it seems to. `each(A, n)` repeats every bit of A n times. `A > B` and `A <= B` are read as the opposite order.
 * Names: `R`, `BLOCK.R`, `BLOCK[PA].R` of one instance, `BLOCK[*].R` of all of them, `R[3]` of an array, `R[S]` of the element that the
 * register S says; columns as in expressions. `pick(S, A, B, C)` is A where S is 0, B where it is 1, and so on, and 0 beyond.
 */
export type Term =
  | { kind: 'number'; value: number }
  | { kind: 'name'; name: string; column: number }
  | { kind: 'not'; of: Term }
  | { kind: 'binary'; operator: BinaryOperator; left: Term; right: Term }
  | { kind: 'choice'; condition: Term; yes: Term; no: Term }
  | { kind: 'each'; of: Term; times: number }
  | { kind: 'pick'; index: Term; of: Term[] };

const POWER = {
  '==': 1,
  '!=': 1,
  '<': 1,
  '>=': 1,
  '|': 2,
  '^': 3,
  '&': 4,
  '<<': 5,
  '>>': 5,
  '+': 6,
  '-': 6,
} as const;
export type BinaryOperator = keyof typeof POWER;

/** `A > B` is `B < A`. */
const OPPOSITE: ReadonlyMap<string, BinaryOperator> = new Map([
  ['>', '<'],
  ['<=', '>='],
]);

/** `target := value`; `|= &= ^=` are read as the assignment that they stand for. */
export interface Assignment {
  target: string;
  value: Term;
}

/** Texts of users are limited by the schema; with all names filled in they are longer. */
const LONGEST = 200_000;
const DEEPEST = 200;
const TOKEN =
  /\s*(?:(0[xX][0-9A-Fa-f]+|0[bB][01]+|\d+)|([A-Za-z_]\w*(?:\[[\w.]+\]|\[\*\])?(?:\.\w+(?:\[\w+\])?)*)|(:=|\|=|&=|\^=|<<|>>|==|!=|>=|<=|[-+|^&~<>()?:;,]))/y;

interface Token {
  kind: 'number' | 'word' | 'symbol' | 'end';
  text: string;
  column: number;
}

/** Tokens of one text, read from its beginning. */
class Reader {
  private readonly tokens: Token[] = [];
  private at = 0;

  constructor(text: string) {
    if (text.length > LONGEST) throw new ExpressionError(`longer than ${LONGEST} characters`, LONGEST);
    TOKEN.lastIndex = 0;
    let end = 0;
    while (text.slice(end).trim() !== '') {
      TOKEN.lastIndex = end;
      const match = TOKEN.exec(text);
      if (!match) {
        const at = end + text.slice(end).search(/\S/);
        throw new ExpressionError(`unexpected character "${text[at]}"`, at + 1);
      }
      end = TOKEN.lastIndex;
      const token = match[1] ?? match[2] ?? match[3] ?? '';
      const kind = match[1] ? 'number' : match[2] ? 'word' : 'symbol';
      this.tokens.push({ kind, text: token, column: end - token.length + 1 });
    }
    this.tokens.push({ kind: 'end', text: 'the end', column: text.length + 1 });
  }

  peek(): Token {
    return this.tokens[this.at] as Token;
  }

  take(): Token {
    const token = this.peek();
    if (token.kind !== 'end') this.at++;
    return token;
  }

  /** Takes a symbol if it is next. */
  skip(text: string): boolean {
    if (this.peek().kind !== 'symbol' || this.peek().text !== text) return false;
    this.at++;
    return true;
  }

  expect(text: string): void {
    const { text: next, column } = this.peek();
    if (!this.skip(text)) throw new ExpressionError(`expected "${text}" before ${quoted(next)}`, column);
  }

  end(): void {
    const { kind, text, column } = this.peek();
    if (kind !== 'end') throw new ExpressionError(`unexpected ${quoted(text)}`, column);
  }
}

const quoted = (text: string): string => (text === 'the end' ? text : `"${text}"`);

/** Parses a value. Throws {@link ExpressionError} with the column of what is wrong. */
export function parseTerm(text: string): Term {
  const reader = new Reader(text);
  const term = readChoice(reader, 0);
  reader.end();
  return term;
}

/** Parses `A := term; B |= term`. Throws {@link ExpressionError}. */
export function parseAssignments(text: string): Assignment[] {
  const reader = new Reader(text);
  const assignments: Assignment[] = [];
  while (reader.peek().kind !== 'end') {
    const { kind, text: target, column } = reader.take();
    if (kind !== 'word')
      throw new ExpressionError(`expected what is written, found ${quoted(target)}`, column);
    const operator = reader.take();
    if (!/^(:|\||&|\^)=$/.test(operator.text))
      throw new ExpressionError(`expected ":=" before ${quoted(operator.text)}`, operator.column);
    const right = readChoice(reader, 0);
    assignments.push({
      target,
      value:
        operator.text === ':='
          ? right
          : {
              kind: 'binary',
              operator: operator.text.slice(0, 1) as BinaryOperator,
              left: { kind: 'name', name: target, column },
              right,
            },
    });
    if (!reader.skip(';')) break;
  }
  reader.end();
  return assignments;
}

function readChoice(reader: Reader, depth: number): Term {
  if (depth > DEEPEST) throw new ExpressionError('nested too deeply', reader.peek().column);
  const condition = readBinary(reader, 0, depth);
  if (!reader.skip('?')) return condition;
  const yes = readChoice(reader, depth + 1);
  reader.expect(':');
  return { kind: 'choice', condition, yes, no: readChoice(reader, depth + 1) };
}

function readBinary(reader: Reader, power: number, depth: number): Term {
  let left = readOperand(reader, depth);
  for (;;) {
    const { kind, text } = reader.peek();
    const opposite = kind === 'symbol' ? OPPOSITE.get(text) : undefined;
    const operator = opposite ?? text;
    const binding =
      kind === 'symbol' && Object.hasOwn(POWER, operator) ? POWER[operator as BinaryOperator] : 0;
    if (binding <= power) return left;
    reader.take();
    const right = readBinary(reader, binding, depth + 1);
    left = {
      kind: 'binary',
      operator: operator as BinaryOperator,
      ...(opposite ? { left: right, right: left } : { left, right }),
    };
  }
}

function readOperand(reader: Reader, depth: number): Term {
  if (depth > DEEPEST) throw new ExpressionError('nested too deeply', reader.peek().column);
  const { kind, text, column } = reader.take();
  if (kind === 'number') {
    const value = Number(text);
    if (value > 0xffffffff) throw new ExpressionError('words have 32 bits', column);
    return { kind: 'number', value };
  }
  if (text === '~') return { kind: 'not', of: readOperand(reader, depth + 1) };
  if (text === '(') {
    const inner = readChoice(reader, depth + 1);
    reader.expect(')');
    return inner;
  }
  if (kind === 'word' && text === 'each' && reader.skip('(')) {
    const of = readChoice(reader, depth + 1);
    reader.expect(',');
    const times = reader.take();
    const count = Number(times.text);
    if (times.kind !== 'number' || count < 1 || count > 32)
      throw new ExpressionError('each bit can be repeated 1 to 32 times', times.column);
    reader.expect(')');
    return { kind: 'each', of, times: count };
  }
  if (kind === 'word' && text === 'pick' && reader.skip('(')) {
    const index = readChoice(reader, depth + 1);
    const of: Term[] = [];
    while (reader.skip(',')) of.push(readChoice(reader, depth + 1));
    reader.expect(')');
    return { kind: 'pick', index, of };
  }
  if (kind === 'word') return { kind: 'name', name: text, column };
  throw new ExpressionError(`expected a value, found ${quoted(text)}`, column);
}

/** The term as text that is read as the same term. */
export function printTerm(term: Term, power = 0): string {
  const text = plainText(term);
  const binding = term.kind === 'binary' ? POWER[term.operator] : term.kind === 'choice' ? 0 : 9;
  return binding < power ? `(${text})` : text;
}

function plainText(term: Term): string {
  switch (term.kind) {
    case 'number':
      return term.value < 10 ? String(term.value) : `0x${term.value.toString(16).toUpperCase()}`;
    case 'name':
      return term.name;
    case 'not':
      return `~${printTerm(term.of, 9)}`;
    case 'each':
      return `each(${printTerm(term.of)}, ${term.times})`;
    case 'pick':
      return `pick(${[term.index, ...term.of].map((part) => printTerm(part)).join(', ')})`;
    case 'choice':
      return `${printTerm(term.condition, 1)} ? ${printTerm(term.yes)} : ${printTerm(term.no)}`;
    case 'binary': {
      const power = POWER[term.operator];
      // A number reads better on the right.
      const turned = term.operator === '<' ? '>' : term.operator === '>=' ? '<=' : undefined;
      if (turned && term.left.kind === 'number' && term.right.kind !== 'number')
        return `${printTerm(term.right, power)} ${turned} ${printTerm(term.left, power + 1)}`;
      return `${printTerm(term.left, power)} ${term.operator} ${printTerm(term.right, power + 1)}`;
    }
  }
}

/** The names that a term reads, each once. */
export function namesIn(term: Term, names = new Set<string>()): Set<string> {
  switch (term.kind) {
    case 'number':
      break;
    case 'name':
      names.add(term.name);
      break;
    case 'not':
    case 'each':
      namesIn(term.of, names);
      break;
    case 'choice':
      for (const inner of [term.condition, term.yes, term.no]) namesIn(inner, names);
      break;
    case 'pick':
      for (const inner of [term.index, ...term.of]) namesIn(inner, names);
      break;
    case 'binary':
      for (const inner of [term.left, term.right]) namesIn(inner, names);
  }
  return names;
}

/** A term with its names replaced, and what is then known worked out. */
export function mapNames(term: Term, of: (name: string, column: number) => Term): Term {
  const inner = (part: Term): Term => mapNames(part, of);
  switch (term.kind) {
    case 'number':
      return term;
    case 'name':
      return of(term.name, term.column);
    case 'not':
      return settled({ kind: 'not', of: inner(term.of) });
    case 'each':
      return { ...term, of: inner(term.of) };
    case 'choice': {
      const condition = inner(term.condition);
      if (condition.kind === 'number') return inner(condition.value === 0 ? term.no : term.yes);
      return { kind: 'choice', condition, yes: inner(term.yes), no: inner(term.no) };
    }
    case 'pick': {
      const index = inner(term.index);
      if (index.kind !== 'number') return { kind: 'pick', index, of: term.of.map(inner) };
      const picked = term.of[index.value];
      return picked ? inner(picked) : { kind: 'number', value: 0 };
    }
    case 'binary':
      return settled({ ...term, left: inner(term.left), right: inner(term.right) });
  }
}

/** A number where all of a term is known. */
function settled(term: Term): Term {
  if (term.kind === 'not' && term.of.kind === 'number')
    return { kind: 'number', value: ~term.of.value >>> 0 };
  if (term.kind !== 'binary' || term.left.kind !== 'number' || term.right.kind !== 'number') return term;
  return { kind: 'number', value: calculate(term.operator, term.left.value, term.right.value) };
}

function calculate(operator: BinaryOperator, a: number, b: number): number {
  switch (operator) {
    case '==':
      return a === b ? 1 : 0;
    case '!=':
      return a === b ? 0 : 1;
    case '<':
      return a < b ? 1 : 0;
    case '>=':
      return a >= b ? 1 : 0;
    case '|':
      return (a | b) >>> 0;
    case '^':
      return (a ^ b) >>> 0;
    case '&':
      return (a & b) >>> 0;
    case '<<':
      return b > 31 ? 0 : (a << b) >>> 0;
    case '>>':
      return b > 31 ? 0 : a >>> b;
    case '+':
      return (a + b) >>> 0;
    case '-':
      return (a - b) >>> 0;
  }
}
