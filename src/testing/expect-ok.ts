import { formatProblems, type Result } from '@/core/base/result';

/** Unwraps a result in a test; a failure shows its problems. */
export function expectOk<T>(result: Result<T>): T {
  if (!result.ok) throw new Error(formatProblems(result.problems));
  return result.value;
}
