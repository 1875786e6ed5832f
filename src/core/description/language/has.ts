import { type Condition, conditionHolds, parseCondition, variablesIn } from './condition';
import type { Scope } from './expression';

/**
 * Whether something is there for a pad, port, signal or peripheral: a column that is filled in (`pad.pull`), or a condition
 * (`b < 4 and not pad.analog`). A column alone asks whether it is filled in, whatever the number; what compares an empty column
 * does not hold.
 */
export interface Has {
  holds(scope: Scope): boolean;
  variables: ReadonlySet<string>;
}

/** Parses the words of `has`. Throws `ExpressionError` with the column. */
export function parseHas(text: string): Has {
  const condition = parseCondition(text);
  const variables = variablesIn(condition);
  return { variables, holds: (scope) => there(condition, scope) };
}

/**
 * Parses the words of a stage's `where`. Here a number counts: an empty column is 0, and 0 does not hold. Only `m` alone asks
 * whether there is a code, for 0 is one. Throws `ExpressionError` with the column.
 */
export function parseWhere(text: string): Has {
  const condition = parseCondition(text);
  const variables = variablesIn(condition);
  if (text.trim() === 'm') return { variables, holds: (scope) => scope('m') !== undefined };
  return { variables, holds: (scope) => conditionHolds(condition, (name) => scope(name) ?? 0) };
}

function there(condition: Condition, scope: Scope): boolean {
  switch (condition.kind) {
    case 'and':
      return there(condition.left, scope) && there(condition.right, scope);
    case 'or':
      return there(condition.left, scope) || there(condition.right, scope);
    case 'not':
      return !there(condition.of, scope);
    case 'compare': {
      const names = [...variablesIn(condition)];
      const filled = names.every((name) => scope(name) !== undefined);
      if (condition.alone && condition.left.kind === 'variable') return filled;
      return filled && conditionHolds(condition, scope);
    }
  }
}
