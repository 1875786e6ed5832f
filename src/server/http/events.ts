import type { IncomingMessage, ServerResponse } from 'node:http';
import { failureOf } from '../failure';
import { planIsThere } from '../plans';
import { openStream, STREAM_HEADERS, seenOf } from '../stream';

/** Who does not take what is sent falls behind without end; they come again and ask for what is missing. */
const MOST_WAITING = 4_000_000;

/**
 * Streams of events are answered here, without the way through the application: fifty people on one plan are told of five hundred
 * edits a second each.
 */
export function answersEvents(request: IncomingMessage, response: ServerResponse): boolean {
  const plan = /^\/api\/plans\/([^/?#]+)\/events(?:\?|$)/.exec(request.url ?? '')?.[1];
  if (plan === undefined || request.method !== 'GET') return false;
  open(decodeURIComponent(plan), request, response).catch((error: Error & { code?: string }) => {
    const { status, problem } = failureOf(error);
    if (response.headersSent) response.destroy();
    else refuse(response, status, problem);
  });
  return true;
}

async function open(id: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (!(await planIsThere(id))) return refuse(response, 404, { place: 'plan', message: 'is not there' });
  response.writeHead(200, STREAM_HEADERS);
  response.flushHeaders();
  request.socket.setNoDelay(true);
  const last = request.headers['last-event-id'];
  const stop = openStream(id, seenOf(typeof last === 'string' ? last : undefined, request.url ?? ''), {
    send(text) {
      if (response.destroyed || response.writableLength > MOST_WAITING) return false;
      response.write(text);
      return true;
    },
    end: () => response.end(),
  });
  response.once('close', stop);
}

function refuse(response: ServerResponse, status: number, problem: { place: string; message: string }): void {
  response.writeHead(status, { 'content-type': 'application/json', 'cache-control': 'no-store' });
  response.end(JSON.stringify({ problems: [problem] }));
}
