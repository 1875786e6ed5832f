/**
 * The position language: integers, variables, `+ - * / % << >> & ^ |`, `~` and parentheses. It is total: every expression of it
 * ends, and the only run-time errors are an unknown variable, division by zero and leaving the range of exact integers.
 * Nothing is ever handed to the JavaScript evaluator.
 */

export type Expression =
  | { kind: 'number'; value: number }
  | { kind: 'variable'; name: string }
  /** All 32 bits turned. */
  | { kind: 'not'; of: Expression }
  | { kind: 'binary'; operator: Operator; left: Expression; right: Expression };

type Operator = '+' | '-' | '*' | '/' | '%' | '<<' | '>>' | '&' | '^' | '|';

/** Binding power, C's order: `|` loosest, then `^`, `&`, shifts, sums, products. */
const POWER: Record<Operator, number> = {
  '|': 1,
  '^': 2,
  '&': 3,
  '<<': 4,
  '>>': 4,
  '+': 5,
  '-': 5,
  '*': 6,
  '/': 6,
  '%': 6,
};

const LIMIT_LENGTH = 500;
const LIMIT_DEPTH = 60;

/** What is wrong with an expression and at which column (1-based) of its text. */
export class ExpressionError extends Error {
  constructor(
    message: string,
    readonly column: number,
  ) {
    super(message);
  }
}

export interface Token {
  text: string;
  kind: 'number' | 'word' | 'symbol';
  column: number;
}

const TOKEN =
  /\s*(?:(0[xX][0-9A-Fa-f]+|0[bB][01]+|\d+)|([A-Za-z_][A-Za-z0-9_.]*)|(:=|<<|>>|<=|>=|!=|[-+*/%&^|~()=,<>[\]]))/y;

/** Splits a text into tokens. Throws {@link ExpressionError} on a character the language does not have. */
export function tokenise(text: string): Token[] {
  if (text.length > LIMIT_LENGTH) {
    throw new ExpressionError(`longer than ${LIMIT_LENGTH} characters`, LIMIT_LENGTH);
  }
  const tokens: Token[] = [];
  TOKEN.lastIndex = 0;
  let end = 0;
  while (end < text.length) {
    TOKEN.lastIndex = end;
    const match = TOKEN.exec(text);
    if (!match) {
      const rest = text.slice(end);
      if (rest.trim() === '') break;
      const at = end + rest.search(/\S/);
      throw new ExpressionError(`unexpected character "${text[at]}"`, at + 1);
    }
    const found = match[1] ?? match[2] ?? match[3] ?? '';
    tokens.push({
      text: found,
      kind: match[1] ? 'number' : match[2] ? 'word' : 'symbol',
      column: TOKEN.lastIndex - found.length + 1,
    });
    end = TOKEN.lastIndex;
  }
  return tokens;
}

/** A reader over tokens; statements (see `statement.ts`) parse expressions in their middle with it. */
export interface TokenReader {
  tokens: Token[];
  position: number;
  endColumn: number;
}

export const readerOf = (text: string): TokenReader => ({
  tokens: tokenise(text),
  position: 0,
  endColumn: text.length + 1,
});

export const peek = (reader: TokenReader): Token | undefined => reader.tokens[reader.position];

export function take(reader: TokenReader, text?: string): Token {
  const token = reader.tokens[reader.position];
  if (!token || (text !== undefined && token.text !== text)) {
    const expected = text === undefined ? 'more' : `"${text}"`;
    throw new ExpressionError(
      token ? `expected ${expected}, found "${token.text}"` : `expected ${expected}, found the end`,
      token?.column ?? reader.endColumn,
    );
  }
  reader.position++;
  return token;
}

const isOperator = (text: string): text is Operator => text in POWER;

/** Reads the longest expression at the reader's position and stops before the first token that cannot continue it. */
export function readExpression(reader: TokenReader, power = 0, depth = 0): Expression {
  if (depth > LIMIT_DEPTH) throw new ExpressionError('nested too deeply', peek(reader)?.column ?? 1);
  let left = readOperand(reader, depth);
  for (;;) {
    const token = peek(reader);
    if (token?.kind !== 'symbol' || !isOperator(token.text) || POWER[token.text] <= power) return left;
    reader.position++;
    const right = readExpression(reader, POWER[token.text], depth + 1);
    left = { kind: 'binary', operator: token.text, left, right };
  }
}

function readOperand(reader: TokenReader, depth: number): Expression {
  const token = take(reader);
  if (token.kind === 'number') {
    const value = Number(token.text);
    if (!Number.isSafeInteger(value)) throw new ExpressionError('number too large', token.column);
    return { kind: 'number', value };
  }
  if (token.kind === 'word') return { kind: 'variable', name: token.text };
  if (token.text === '~') {
    if (depth > LIMIT_DEPTH) throw new ExpressionError('nested too deeply', token.column);
    return { kind: 'not', of: readOperand(reader, depth + 1) };
  }
  if (token.text === '(') {
    const inner = readExpression(reader, 0, depth + 1);
    take(reader, ')');
    return inner;
  }
  throw new ExpressionError(`expected a number, a variable or "(", found "${token.text}"`, token.column);
}

/** Parses a whole text. Throws {@link ExpressionError} with the column of the first thing that is wrong. */
export function parseExpression(text: string): Expression {
  const reader = readerOf(text);
  const expression = readExpression(reader);
  const rest = peek(reader);
  if (rest) throw new ExpressionError(`unexpected "${rest.text}"`, rest.column);
  return expression;
}

/** Gives a variable's value, or undefined when there is no such variable here. */
export type Scope = (name: string) => number | undefined;

/** Evaluates to an exact integer. Throws {@link ExpressionError} on an unknown variable, division by zero or overflow. */
export function evaluate(expression: Expression, scope: Scope): number {
  switch (expression.kind) {
    case 'number':
      return expression.value;
    case 'variable': {
      const value = scope(expression.name);
      if (value === undefined) throw new ExpressionError(`"${expression.name}" has no value here`, 1);
      return value;
    }
    case 'not':
      return turned(evaluate(expression.of, scope));
    case 'binary':
      return combine(
        expression.operator,
        evaluate(expression.left, scope),
        evaluate(expression.right, scope),
      );
  }
}

function turned(value: number): number {
  if (value < 0 || value > 0xffffffff)
    throw new ExpressionError(`~${value}: bits are taken of 32-bit numbers only`, 1);
  return ~value >>> 0;
}

function combine(operator: Operator, left: number, right: number): number {
  const value = rawCombine(operator, left, right);
  if (!Number.isSafeInteger(value)) throw new ExpressionError(`${left} ${operator} ${right} overflows`, 1);
  return value;
}

function rawCombine(operator: Operator, left: number, right: number): number {
  switch (operator) {
    case '+':
      return left + right;
    case '-':
      return left - right;
    case '*':
      return left * right;
    case '/':
    case '%': {
      if (right === 0) throw new ExpressionError(`${left} ${operator} 0: division by zero`, 1);
      const quotient = Math.trunc(left / right);
      return operator === '/' ? quotient : left - quotient * right;
    }
    case '<<':
    case '>>': {
      if (right < 0 || right > 52) throw new ExpressionError(`shift by ${right} is out of range`, 1);
      return operator === '<<' ? left * 2 ** right : Math.floor(left / 2 ** right);
    }
    case '&':
    case '^':
    case '|': {
      if (left < 0 || right < 0 || left > 0xffffffff || right > 0xffffffff) {
        throw new ExpressionError(`${left} ${operator} ${right}: bits are taken of 32-bit numbers only`, 1);
      }
      return (operator === '&' ? left & right : operator === '^' ? left ^ right : left | right) >>> 0;
    }
  }
}

/** The variables an expression mentions. */
export function variablesOf(expression: Expression, into = new Set<string>()): Set<string> {
  if (expression.kind === 'variable') into.add(expression.name);
  if (expression.kind === 'not') variablesOf(expression.of, into);
  if (expression.kind === 'binary') {
    variablesOf(expression.left, into);
    variablesOf(expression.right, into);
  }
  return into;
}
