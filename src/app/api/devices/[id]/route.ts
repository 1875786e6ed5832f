import { deviceById } from '@/server/devices';
import { notFound, route } from '../../http';

export const dynamic = 'force-dynamic';

/** A device description; it stays in the browser's cache until its fingerprint changes. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const device = deviceById(id);
  if (!device) return notFound('part');
  const headers = { etag: `"${device.fingerprint}"`, 'cache-control': 'no-cache' };
  if (request.headers.get('if-none-match') === headers.etag)
    return new Response(null, { status: 304, headers });
  return Response.json(device.description, { headers });
});
