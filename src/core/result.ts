import { boundProblems } from './problems';

/**
 * Errors a user can cause are values. `place` names where in the user's input the problem sits
 * ("functions.csv, row 41, column F7" or "plan.json:12:5"), so that a message can be acted on.
 */
export interface Problem {
  place: string;
  message: string;
}

export type Result<T> = { ok: true; value: T } | { ok: false; problems: Problem[] };

export const ok = <T>(value: T): Result<T> => ({ ok: true, value });

export const fail = (...problems: Problem[]): Result<never> => failWith(problems);

/** Fails with all of a list; a long one is cut, and its last line says how many more there are. */
export const failWith = (problems: readonly Problem[]): Result<never> => ({
  ok: false,
  problems: boundProblems(problems),
});

/** One line a problem: `place: message`. */
export const formatProblems = (problems: readonly Problem[]): string =>
  problems.map((problem) => `${problem.place}: ${problem.message}`).join('\n');

/** Marks a branch that the types say cannot be reached; reaching it is a bug, hence an exception. */
export function unreachable(value: never): never {
  throw new Error(`unexpected value: ${JSON.stringify(value)}`);
}
