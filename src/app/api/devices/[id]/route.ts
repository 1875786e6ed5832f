import { DEVICE_FORMAT } from '@/core/description/types';
import { findPlanPart, partText, removePart } from '@/server/parts';
import { answer, notFound, refuse, route } from '../../http';

export const dynamic = 'force-dynamic';

/**
 * A description, its corrections inside: today's, or with `?fingerprint=` the one of that fingerprint (else today's where that
 * one was never here). It stays in the browser's cache until it is stored anew,
 * its comments alone included, or goes out in another format.
 */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const fingerprint = new URL(request.url).searchParams.get('fingerprint') ?? '';
  const part = await findPlanPart({ device: id, deviceFingerprint: fingerprint });
  if (!part) return notFound('part');
  const headers = {
    etag: `"${DEVICE_FORMAT.replace('/', '-')}-${part.fingerprint}-${part.worded}"`,
    'cache-control': 'no-cache',
    'content-type': 'application/json',
  };
  if (request.headers.get('if-none-match') === headers.etag)
    return new Response(null, { status: 304, headers });
  return new Response(await partText(part), { headers });
});

/** Refused while a plan uses the part. */
export const DELETE = route<{ id: string }>(async (_request, { id }) => {
  const removed = await removePart(id);
  if (!removed) return notFound('part');
  return removed.ok ? answer({ id }) : refuse(409, ...removed.problems);
});
