import { type AnyObjectSchema, type InferType, ValidationError } from 'yup';
import { LARGEST_DEVICE_BYTES } from '@/core/formats/device-files';
import { LARGEST_FILE_BYTES } from '@/core/formats/read-json';
import type { Problem } from '@/core/result';
import { log } from '@/server/log';

/** Answers shared by all route handlers. Failures are `{problems: [{place, message}]}`, for people to read. */

export const answer = (body: unknown, status = 200): Response => Response.json(body, { status });

export const refuse = (status: number, ...problems: Problem[]): Response => answer({ problems }, status);

export const notFound = (what: string): Response => refuse(404, { place: what, message: 'is not there' });

type Context<Params> = { params: Promise<Params> };

/** Wraps a handler: requests from other sites are refused, what goes wrong inside becomes an answer and a log line. */
export function route<Params = Record<string, never>>(
  handler: (request: Request, params: Params) => Promise<Response>,
) {
  return async (request: Request, context: Context<Params>): Promise<Response> => {
    try {
      if (!sameSite(request)) return refuse(403, { place: 'request', message: 'comes from another site' });
      return await handler(request, await context.params);
    } catch (error) {
      return failure(error as Error & { code?: string });
    }
  };
}

/** A page of another site must not be able to change plans of somebody who has Mavrek open. */
function sameSite(request: Request): boolean {
  if (request.method === 'GET') return true;
  const origin = request.headers.get('origin');
  if (origin === null) return true;
  // Behind a proxy the name that the browser knows travels in a header of its own, which no other site can set.
  const hosts = [request.headers.get('host'), request.headers.get('x-forwarded-host')];
  return URL.canParse(origin) && hosts.includes(new URL(origin).host);
}

function failure(error: Error & { code?: string }): Response {
  if (error instanceof BadRequest) return refuse(error.status, ...error.problems);
  // Class 22 are data exceptions: a text that PostgreSQL cannot store, such as one with a NUL character.
  if (error.code?.startsWith('22'))
    return refuse(400, { place: 'request', message: 'holds text that cannot be stored' });
  log.error({ err: { message: error.message, code: error.code, stack: error.stack } }, 'request failed');
  return refuse(503, { place: 'server', message: 'could not do this now; nothing was changed' });
}

export class BadRequest extends Error {
  constructor(
    readonly status: number,
    readonly problems: Problem[],
  ) {
    super(problems[0]?.message);
  }
}

/** Bodies carry a whole plan file at the most, escaped as a JSON string. */
const LARGEST_BODY = 2 * LARGEST_FILE_BYTES + 10_000;
/** A description with a large register map, likewise. */
export const LARGEST_PART_BODY = 2 * LARGEST_DEVICE_BYTES + 10_000;

/** The request's JSON body. Throws {@link BadRequest} when it is none, or too large. */
export async function readBody(request: Request, largest = LARGEST_BODY): Promise<unknown> {
  const bad = (status: number, message: string): BadRequest =>
    new BadRequest(status, [{ place: 'request', message }]);
  if (!request.headers.get('content-type')?.startsWith('application/json'))
    throw bad(415, 'must be application/json');
  const tooLarge = bad(413, `is larger than ${Math.floor(largest / 2_000_000)} MB`);
  if (Number(request.headers.get('content-length') ?? 0) > largest) throw tooLarge;
  const text = await request.text();
  if (text.length > largest) throw tooLarge;
  try {
    return JSON.parse(text);
  } catch {
    throw bad(400, 'is not valid JSON');
  }
}

/** The body checked against a Yup schema. Throws {@link BadRequest} with a problem for each wrong field. */
export async function readForm<Schema extends AnyObjectSchema>(
  request: Request,
  schema: Schema,
  largest = LARGEST_BODY,
): Promise<InferType<Schema>> {
  const body = await readBody(request, largest);
  try {
    return await schema.strict().noUnknown().validate(body, { abortEarly: false });
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const inner = error.inner.length > 0 ? error.inner : [error];
    throw new BadRequest(
      400,
      inner.map((one) => ({ place: one.path || 'request', message: one.errors[0] ?? one.message })),
    );
  }
}
