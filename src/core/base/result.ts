import { boundProblems, type Problem } from './problems';

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
