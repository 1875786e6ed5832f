import { newEdits } from '@/server/edit-log';
import { watchPlan } from '@/server/live';
import { log } from '@/server/log';
import { readPlan } from '@/server/plans';
import { peopleOn } from '@/server/presence';
import { notFound, route } from '../../../http';

export const dynamic = 'force-dynamic';

const HEARTBEAT_MS = 15_000;
/** Beats after which comments are looked at again, for a notice that was lost. */
const COMMENTS_EACH = 4;

/** Server-sent events: every edit after `?after=` (or after Last-Event-ID when the browser reconnects), as it is committed. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  if (!(await readPlan(id))) return notFound('plan');
  const asked = request.headers.get('last-event-id') ?? new URL(request.url).searchParams.get('after') ?? '0';
  let sent = Number.isSafeInteger(Number(asked)) ? Number(asked) : 0;
  const encoder = new TextEncoder();
  let close = (): void => undefined;

  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      let busy = false;
      let again = false;
      const send = (text: string): void => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          close();
        }
      };
      const look = async (): Promise<void> => {
        if (busy) {
          again = true;
          return;
        }
        busy = true;
        do {
          again = false;
          for (const logged of await newEdits(id, sent)) {
            sent = logged.seq;
            send(`id: ${logged.seq}\ndata: ${JSON.stringify(logged)}\n\n`);
          }
        } while (again);
        busy = false;
      };
      const lookOrEnd = (): void => {
        look().catch((error: Error) => {
          log.warn({ err: error.message }, 'live updates: stream ended');
          close();
        });
      };
      const comments = (): void => send('event: comments\ndata: {}\n\n');
      const people = (): void => send(`event: presence\ndata: ${JSON.stringify(peopleOn(id))}\n\n`);
      const unwatch = watchPlan(id, (news) => {
        if (news === 'comments') comments();
        else if (news === 'presence') people();
        else lookOrEnd();
      });
      let beats = 0;
      // A notice from another server can be lost; it costs no more than the time to the next beat.
      const heartbeat = setInterval(() => {
        send(': still here\n\n');
        lookOrEnd();
        // Who has gone without a word is forgotten by then.
        people();
        if (++beats % COMMENTS_EACH === 0) comments();
      }, HEARTBEAT_MS);
      close = () => {
        unwatch();
        clearInterval(heartbeat);
        try {
          controller.close();
        } catch {
          // Closed by the other side already.
        }
      };
      request.signal.addEventListener('abort', close);
      send('retry: 1000\n\n');
      people();
      lookOrEnd();
    },
    cancel: () => close(),
  });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    },
  });
});
