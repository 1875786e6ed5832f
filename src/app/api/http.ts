import { type AnyObjectSchema, type InferType, ValidationError } from 'yup';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { boundProblems, type Problem } from '@/core/base/problems';
import { failureOf, saysJson } from '@/server/failure';

/** Answers shared by all route handlers. Failures are `{problems: [{place, message}]}`, for people to read. */

export const answer = (body: unknown, status = 200): Response => Response.json(body, { status });

export const refuse = (status: number, ...problems: Problem[]): Response =>
  answer({ problems: boundProblems(problems) }, status);

/** Leads elsewhere, with cookies. */
export const redirect = (to: string, ...cookies: string[]): Response => {
  const answered = new Response(null, {
    status: 303,
    headers: { location: to, 'cache-control': 'no-store' },
  });
  for (const one of cookies) answered.headers.append('set-cookie', one);
  return answered;
};

export const notFound = (what: string): Response => refuse(404, { place: what, message: 'is not there' });

type Context<Params> = { params: Promise<Params> };

/** Wraps a handler: what goes wrong inside becomes an answer and a log line. Who may ask is settled in `server/http/gate.ts`. */
export function route<Params = Record<string, never>>(
  handler: (request: Request, params: Params) => Promise<Response>,
) {
  return async (request: Request, context: Context<Params>): Promise<Response> => {
    try {
      return await handler(request, await context.params);
    } catch (error) {
      return failure(error as Error & { code?: string });
    }
  };
}

function failure(error: Error & { code?: string }): Response {
  if (error instanceof BadRequest) return refuse(error.status, ...error.problems);
  const { status, problem } = failureOf(error);
  return refuse(status, problem);
}

export class BadRequest extends Error {
  constructor(
    readonly status: number,
    readonly problems: Problem[],
  ) {
    super(problems[0]?.message);
  }
}

/** The request's JSON body, read as it comes. Throws {@link BadRequest} when it is none, or too large. */
export async function readBody(request: Request, limit: BodyLimit = 'requestBytes'): Promise<unknown> {
  const bad = (status: number, message: string): BadRequest =>
    new BadRequest(status, [{ place: 'request', message }]);
  if (!saysJson(request.headers.get('content-type'))) throw bad(415, 'must be application/json');
  const text = await readText(request, LIMITS[limit]);
  if (text === undefined) throw bad(413, tooLarge(limit));
  try {
    return JSON.parse(text);
  } catch {
    throw bad(400, 'is not valid JSON');
  }
}
type BodyLimit = 'requestBytes' | 'partRequestBytes';

/** The body as bytes; undefined as soon as it is longer than `most`, and then no more of it is read. */
export async function readBytes(request: Request, most: number): Promise<Uint8Array | undefined> {
  const reader = request.body?.getReader();
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for (let piece = await reader?.read(); piece && !piece.done; piece = await reader?.read()) {
    bytes += piece.value.byteLength;
    if (bytes > most) {
      await reader?.cancel().catch(() => undefined);
      return undefined;
    }
    pieces.push(piece.value);
  }
  return new Uint8Array(Buffer.concat(pieces));
}

/** The body as text; undefined as soon as it is longer than `most` bytes, and then no more of it is read. */
async function readText(request: Request, most: number): Promise<string | undefined> {
  const reader = request.body?.getReader();
  if (!reader) return '';
  const decoder = new TextDecoder();
  let text = '';
  let bytes = 0;
  for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
    bytes += piece.value.byteLength;
    if (bytes > most) {
      await reader.cancel().catch(() => undefined);
      return undefined;
    }
    text += decoder.decode(piece.value, { stream: true });
  }
  return text + decoder.decode();
}

/** The body checked against a Yup schema. Throws {@link BadRequest} with a problem for each wrong field. */
export async function readForm<Schema extends AnyObjectSchema>(
  request: Request,
  schema: Schema,
  limit: BodyLimit = 'requestBytes',
): Promise<InferType<Schema>> {
  const body = await readBody(request, limit);
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
