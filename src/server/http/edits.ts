import type { IncomingMessage, ServerResponse } from 'node:http';
import { log } from '../log';
import { type EditAnswer, receiveEdit } from '../receive-edit';
import { WorkRefused } from '../work/pool';

/**
 * Edits are nine in ten of all requests that change something, and each is small: they are answered here, without the way through
 * the application, which costs several times as much as storing them. Everything else about them is in `receive-edit.ts`.
 */
export function answersEdit(request: IncomingMessage, response: ServerResponse): boolean {
  const plan = /^\/api\/plans\/([^/?#]+)\/edits(?:\?|$)/.exec(request.url ?? '')?.[1];
  if (plan === undefined || request.method !== 'POST') return false;
  const [type = ''] = (request.headers['content-type'] ?? '').split(';');
  const pieces: Buffer[] = [];
  const done =
    type.trim().toLowerCase() !== 'application/json'
      ? Promise.resolve(problem(415, 'request', 'must be application/json'))
      : bodyOf(request, pieces).then((text) => edit(decodeURIComponent(plan), text));
  done
    .catch((error: Error & { code?: string }) => failure(error))
    .then(({ status, body }) => {
      if (response.headersSent || response.destroyed) return;
      const text = JSON.stringify(body);
      response.writeHead(status, {
        'content-type': 'application/json',
        'content-length': Buffer.byteLength(text),
        'cache-control': 'no-store',
      });
      response.end(text);
    });
  return true;
}

/** The whole body; the gate has bounded it. Rejects when the sender leaves. */
const bodyOf = (request: IncomingMessage, pieces: Buffer[]): Promise<string> =>
  new Promise((resolve, reject) => {
    request.on('data', (piece: Buffer) => pieces.push(piece));
    request.on('end', () => resolve(Buffer.concat(pieces).toString()));
    request.on('error', reject);
    request.on('aborted', () => reject(new Error('aborted')));
  });

async function edit(plan: string, text: string): Promise<EditAnswer> {
  let sent: unknown;
  try {
    sent = JSON.parse(text);
  } catch {
    return problem(400, 'request', 'is not valid JSON');
  }
  return receiveEdit(plan, sent);
}

const problem = (status: number, place: string, message: string): EditAnswer => ({
  status,
  body: { problems: [{ place, message }] },
});

function failure(error: Error & { code?: string }): EditAnswer {
  if (error instanceof WorkRefused)
    return problem(error.kind === 'busy' ? 503 : 422, 'request', error.message);
  // Class 22 are data exceptions: a text that PostgreSQL cannot store, such as one with a NUL character.
  if (error.code?.startsWith('22')) return problem(400, 'request', 'holds text that cannot be stored');
  if (error.message !== 'aborted')
    log.error({ err: { message: error.message, code: error.code, stack: error.stack } }, 'request failed');
  return problem(503, 'server', 'could not do this now; nothing was changed');
}
