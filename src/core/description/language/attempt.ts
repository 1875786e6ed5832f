import type { Problems } from '../../base/problems';
import { ExpressionError } from './expression';

/** Runs a step of compilation; what it throws as {@link ExpressionError} becomes a problem at the place. */
export function attempt<T>(step: () => T, place: string, problems: Problems): T | undefined {
  try {
    return step();
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    problems.push({ place: `${place}, column ${error.column}`, message: error.message });
    return undefined;
  }
}
