import {
  type Expression,
  ExpressionError,
  evaluate,
  peek,
  readExpression,
  readerOf,
  type Scope,
  type TokenReader,
  take,
  variablesOf,
} from './expression';

/** A condition of an invariant: expressions compared, joined by `and`, `or`, `not`. An expression alone holds when it is not 0. */
export type Condition =
  | { kind: 'compare'; operator: Comparison; left: Expression; right: Expression; alone?: true }
  | { kind: 'and' | 'or'; left: Condition; right: Condition }
  | { kind: 'not'; of: Condition };

const COMPARISONS = ['=', '!=', '<', '>', '<=', '>='] as const;
type Comparison = (typeof COMPARISONS)[number];
const isComparison = (text: string | undefined): text is Comparison =>
  COMPARISONS.some((one) => one === text);

const DEEPEST = 30;

/** Parses a whole text. Throws {@link ExpressionError} with the column of the first thing that is wrong. */
export function parseCondition(text: string): Condition {
  const reader = readerOf(text);
  const condition = readOr(reader, 0);
  const rest = peek(reader);
  if (rest) throw new ExpressionError(`unexpected "${rest.text}"`, rest.column);
  return condition;
}

function readOr(reader: TokenReader, depth: number): Condition {
  let left = readAnd(reader, depth);
  while (peek(reader)?.text === 'or') {
    take(reader);
    left = { kind: 'or', left, right: readAnd(reader, depth) };
  }
  return left;
}

function readAnd(reader: TokenReader, depth: number): Condition {
  let left = readNot(reader, depth);
  while (peek(reader)?.text === 'and') {
    take(reader);
    left = { kind: 'and', left, right: readNot(reader, depth) };
  }
  return left;
}

function readNot(reader: TokenReader, depth: number): Condition {
  const first = peek(reader);
  if (depth > DEEPEST) throw new ExpressionError('nested too deeply', first?.column ?? 1);
  if (first?.text === 'not') {
    take(reader);
    return { kind: 'not', of: readNot(reader, depth + 1) };
  }
  // A parenthesis may hold a condition or be part of an expression: what comes after it tells.
  if (first?.text === '(') {
    const start = reader.position;
    try {
      take(reader);
      const inner = readOr(reader, depth + 1);
      take(reader, ')');
      const next = peek(reader)?.text;
      if (next === undefined || next === ')' || next === 'and' || next === 'or') return inner;
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
    }
    reader.position = start;
  }
  const left = readExpression(reader);
  const operator = peek(reader)?.text;
  if (!isComparison(operator))
    return { kind: 'compare', operator: '!=', left, right: { kind: 'number', value: 0 }, alone: true };
  take(reader);
  return { kind: 'compare', operator, left, right: readExpression(reader) };
}

/** Whether a condition holds. Throws {@link ExpressionError} as expressions do. */
export function conditionHolds(condition: Condition, scope: Scope): boolean {
  switch (condition.kind) {
    case 'and':
      return conditionHolds(condition.left, scope) && conditionHolds(condition.right, scope);
    case 'or':
      return conditionHolds(condition.left, scope) || conditionHolds(condition.right, scope);
    case 'not':
      return !conditionHolds(condition.of, scope);
    case 'compare': {
      const left = evaluate(condition.left, scope);
      const right = evaluate(condition.right, scope);
      switch (condition.operator) {
        case '=':
          return left === right;
        case '!=':
          return left !== right;
        case '<':
          return left < right;
        case '>':
          return left > right;
        case '<=':
          return left <= right;
        case '>=':
          return left >= right;
      }
    }
  }
}

/** The variables that a condition mentions. */
export function variablesIn(condition: Condition, into = new Set<string>()): Set<string> {
  switch (condition.kind) {
    case 'not':
      return variablesIn(condition.of, into);
    case 'compare':
      variablesOf(condition.left, into);
      variablesOf(condition.right, into);
      return into;
    default:
      variablesIn(condition.left, into);
      return variablesIn(condition.right, into);
  }
}
