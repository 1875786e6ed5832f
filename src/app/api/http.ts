import type { AnyObjectSchema, InferType } from 'yup';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { boundProblems, type Problem } from '@/core/base/problems';
import { failureOf, saysJson } from '@/server/failure';
import { bodyRule } from '@/server/forms/bodies';
import { formName, formValue, isSmall } from '@/server/forms/read-form';
import { work } from '@/server/work/pool';

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

/** The request's JSON body as bytes, as large as its route takes. Throws {@link BadRequest} when it is none, or too large. */
export async function readJson(request: Request): Promise<Uint8Array> {
  const bad = (status: number, message: string): BadRequest =>
    new BadRequest(status, [{ place: 'request', message }]);
  if (!saysJson(request.headers.get('content-type'))) throw bad(415, 'must be application/json');
  const { bytes: limit } = bodyRule(request.method, new URL(request.url).pathname);
  const pieces: Uint8Array[] = [];
  if (!(await readPieces(request, LIMITS[limit], (piece) => pieces.push(piece))))
    throw bad(413, tooLarge(limit));
  return new Uint8Array(Buffer.concat(pieces));
}

/** The body checked against a Yup schema. Throws {@link BadRequest} with a problem for each wrong field. */
export async function readForm<Schema extends AnyObjectSchema>(
  request: Request,
  schema: Schema,
): Promise<InferType<Schema>> {
  const bytes = await readJson(request);
  const form = formName(schema);
  const value = isSmall(bytes) ? formValue(form, bytes) : await work('readForm', { form, bytes });
  if (!value.ok) throw new BadRequest(400, value.problems);
  return value.value as InferType<Schema>;
}

/** Gives the pieces of the body as they arrive; false as soon as they are more than `most` bytes, and then no more is read. */
export async function readPieces(
  request: Request,
  most: number,
  take: (piece: Uint8Array) => void,
): Promise<boolean> {
  const reader = request.body?.getReader();
  let bytes = 0;
  for (let piece = await reader?.read(); piece && !piece.done; piece = await reader?.read()) {
    bytes += piece.value.byteLength;
    if (bytes > most) {
      await reader?.cancel().catch(() => undefined);
      return false;
    }
    take(piece.value);
  }
  return true;
}
