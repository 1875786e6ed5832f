import { planIsThere } from '@/server/plans';
import { openStream, STREAM_HEADERS, seenOf } from '@/server/stream';
import { notFound, route } from '../../../http';

export const dynamic = 'force-dynamic';

/**
 * Server-sent events: every edit after `?after=` (or after Last-Event-ID when the browser reconnects), as it is committed. Where
 * Mavrek's own server runs, it answers these itself (`server/http/events.ts`), since they are so many.
 */
export const GET = route<{ id: string }>(async (request, { id }) => {
  if (!(await planIsThere(id))) return notFound('plan');
  const encoder = new TextEncoder();
  let stop = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      stop = openStream(id, seenOf(request.headers.get('last-event-id'), request.url), {
        send(text) {
          try {
            controller.enqueue(encoder.encode(text));
            return true;
          } catch {
            return false;
          }
        },
        end() {
          try {
            controller.close();
          } catch {
            // Closed by the other side already.
          }
        },
      });
      request.signal.addEventListener('abort', stop);
    },
    cancel: () => stop(),
  });
  return new Response(stream, { headers: STREAM_HEADERS });
});
