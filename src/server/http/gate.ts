import type { IncomingMessage, ServerResponse } from 'node:http';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { bodyRule, watchBody } from '../forms/bodies';
import { contentPolicy, FIXED_HEADERS, newNonce } from './headers';
import type { Hosts } from './hosts';

/**
 * What every request passes before the application sees it: headers for the answer, who it calls, a path that can be read, and
 * the size of its body, counted as it arrives. Answers false when the request has been answered here.
 */
export function admit(request: IncomingMessage, response: ServerResponse, hosts: Hosts): boolean {
  const nonce = newNonce();
  const policy = contentPolicy(nonce);
  for (const [name, value] of Object.entries(FIXED_HEADERS)) response.setHeader(name, value);
  response.setHeader('content-security-policy', policy);
  // The renderer takes the nonce for its scripts from here; nobody else may set it.
  request.headers['content-security-policy'] = policy;

  if (!hosts.known(request.headers.host)) {
    const message = 'is not asked for by a name of its own; MAVREK_HOSTS names others';
    refuse(request, response, 421, 'server', message);
    return false;
  }
  const unreadable = pathProblem(request.url ?? '');
  if (unreadable !== undefined) {
    refuse(request, response, 400, 'address', unreadable);
    return false;
  }
  const { method = 'GET' } = request;
  const { origin, 'sec-fetch-site': site } = request.headers;
  // A page of another site must not be able to change plans of somebody who has Mavrek open.
  const foreign = origin === undefined ? site === 'cross-site' : !hosts.ownOrigin(origin);
  if (foreign && method !== 'GET' && method !== 'HEAD') {
    refuse(request, response, 403, 'request', 'comes from another site');
    return false;
  }
  return boundBody(request, response);
}

/**
 * Why an address is not one; undefined for one that can mean one thing only. Whoever looks at it later, with other habits of reading
 * dots, slashes and percent signs, must not take it for another one than was let in.
 */
function pathProblem(url: string): string | undefined {
  const raw = url.split('?')[0] ?? '';
  let path: string;
  try {
    path = decodeURIComponent(raw);
  } catch {
    return 'cannot be read: a percent sign is followed by no character';
  }
  if (!url.startsWith('/')) return 'does not begin with a slash';
  const inner = path.split('/').slice(1);
  if (
    inner.slice(0, -1).includes('') ||
    inner.some((one) => one === '.' || one === '..') ||
    path.includes('\\')
  )
    return 'goes a way that no address here goes';
  return undefined;
}

/** Holds the body to the rule of its route as it arrives, in pieces of any kind; the first that breaks it is answered and cut off. */
function boundBody(request: IncomingMessage, response: ServerResponse): boolean {
  const rule = bodyRule(request.method ?? 'GET', (request.url ?? '/').split('?')[0] as string);
  if (Number(request.headers['content-length'] ?? 0) > LIMITS[rule.bytes]) {
    refuse(request, response, 413, 'request', tooLarge(rule.bytes));
    return false;
  }
  const problemWith = watchBody(rule);
  const push = request.push.bind(request);
  let broken = false;
  request.push = (piece: Buffer | null, encoding?: BufferEncoding): boolean => {
    const wrong = broken || piece === null ? undefined : problemWith(piece);
    if (!broken && wrong === undefined) return push(piece, encoding);
    // What comes after it is not let through either.
    if (wrong !== undefined) {
      broken = true;
      if (response.headersSent) request.destroy();
      else refuse(request, response, wrong.status, 'request', wrong.message);
    }
    return false;
  };
  return true;
}

/** Answers with a problem and closes the connection: what the other side still sends is not read. */
function refuse(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  place: string,
  message: string,
): void {
  const body = JSON.stringify({ problems: [{ place, message }] });
  response.writeHead(status, {
    'content-type': 'application/json',
    'content-length': Buffer.byteLength(body),
    connection: 'close',
    'cache-control': 'no-store',
  });
  response.end(request.method === 'HEAD' ? undefined : body, () => {
    if (!request.complete) request.destroy();
  });
}
