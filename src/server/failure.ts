import type { Problem } from '@/core/base/problems';
import { log } from './log';
import { WorkRefused } from './work/pool';

/** What is answered when handling a request has thrown; what nobody could foresee is logged. */
export function failureOf(error: Error & { code?: string }): { status: number; problem: Problem } {
  // 503 asks to try again; what is too large or takes too long will be that again.
  if (error instanceof WorkRefused)
    return {
      status: error.kind === 'busy' ? 503 : 422,
      problem: { place: 'request', message: error.message },
    };
  // Class 22 are data exceptions: a text that PostgreSQL cannot store, such as one with a NUL character.
  if (error.code?.startsWith('22'))
    return { status: 400, problem: { place: 'request', message: 'holds text that cannot be stored' } };
  // Whoever asked has left before the body was whole: nobody reads the answer, and nothing is wrong here.
  if (error.code === 'ERR_STREAM_PREMATURE_CLOSE')
    return { status: 400, problem: { place: 'request', message: 'ended before its body was whole' } };
  log.error({ err: { message: error.message, code: error.code, stack: error.stack } }, 'request failed');
  return { status: 503, problem: { place: 'server', message: 'could not do this now; nothing was changed' } };
}

/** Whether a body says that it is JSON, and nothing like it. */
export const saysJson = (contentType: string | null | undefined): boolean =>
  (contentType ?? '').split(';')[0]?.trim().toLowerCase() === 'application/json';
