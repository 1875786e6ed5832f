import type { IncomingMessage, ServerResponse } from 'node:http';
import { failureOf, saysJson } from '../failure';
import { type EditAnswer, receiveEdit } from '../receive-edit';

/**
 * Edits are nine in ten of all requests that change something, and each is small: they are answered here, without the way through
 * the application, which costs several times as much as storing them. Everything else about them is in `receive-edit.ts`.
 */
export function answersEdit(request: IncomingMessage, response: ServerResponse): boolean {
  const plan = /^\/api\/plans\/([^/?#]+)\/edits(?:\?|$)/.exec(request.url ?? '')?.[1];
  if (plan === undefined || request.method !== 'POST') return false;
  const done = !saysJson(request.headers['content-type'])
    ? Promise.resolve(problem(415, 'request', 'must be application/json'))
    : bodyOf(request).then((body) => receiveEdit(decodeURIComponent(plan), body));
  done
    .catch((error: Error & { code?: string }): EditAnswer => {
      const { status, problem: why } = failureOf(error);
      return { status, body: { problems: [why] } };
    })
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

/** The whole body; the gate has bounded it. A sender who leaves gets no answer, and is no failure of ours. */
const bodyOf = (request: IncomingMessage): Promise<Uint8Array> =>
  new Promise((resolve) => {
    const pieces: Buffer[] = [];
    request.on('data', (piece: Buffer) => pieces.push(piece));
    request.on('end', () => resolve(Buffer.concat(pieces)));
    request.on('error', () => undefined);
  });

const problem = (status: number, place: string, message: string): EditAnswer => ({
  status,
  body: { problems: [{ place, message }] },
});
