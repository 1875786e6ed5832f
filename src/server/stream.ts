import { feedStale, openFeed, toldAfter } from './feed';
import { watchPlan } from './live';
import { log } from './log';
import { whoNow } from './people/who';
import { peopleOn } from './presence';

const HEARTBEAT_MS = 15_000;
/** Beats after which comments are looked at again, for a notice that was lost. */
const COMMENTS_EACH = 4;
/** Edits that come within so short a time are sent together. */
const TOGETHER_MS = 15;

export interface Sink {
  /** Text to send; false when nobody takes it any more. */
  send(text: string): boolean;
  /** Nothing more is sent. */
  end(): void;
}

export const STREAM_HEADERS = {
  'content-type': 'text/event-stream',
  'cache-control': 'no-cache, no-transform',
  'x-accel-buffering': 'no',
} as const;

/** Behind which edit a stream begins: what the browser has seen when it comes again, else what the address says. */
export function seenOf(lastEventId: string | null | undefined, url: string): number {
  const asked = Number(lastEventId ?? new URL(url, 'http://own.invalid').searchParams.get('after') ?? 0);
  return Number.isSafeInteger(asked) && asked >= 0 ? asked : 0;
}

/**
 * Tells somebody of a plan: edits in their order as they are stored, that comments are new, who is here. For as long as they may see
 * it, which is asked again before anything is sent. The answer stops it.
 */
export function openStream(id: string, seen: number, sink: Sink): () => void {
  const { stillHere } = whoNow();
  let sent = seen;
  let busy = false;
  let again = false;
  let timer: NodeJS.Timeout | undefined;
  let stopped = false;

  const send = (text: string): void => {
    if (!stopped && !sink.send(text)) stop();
  };
  const look = async (): Promise<void> => {
    if (busy) {
      again = true;
      return;
    }
    busy = true;
    try {
      do {
        again = false;
        if (stillHere && !(await stillHere())) return stop();
        const told = await toldAfter(id, sent);
        if (told.length === 0 || stopped) continue;
        sent = told.at(-1)?.seq ?? sent;
        send(told.map(({ text }) => text).join(''));
      } while (again && !stopped);
    } finally {
      busy = false;
    }
  };
  const lookOrEnd = (): void => {
    look().catch((error: Error) => {
      log.warn({ err: error.message }, 'live updates: stream ended');
      stop();
    });
  };
  const soon = (): void => {
    timer ??= setTimeout(() => {
      timer = undefined;
      lookOrEnd();
    }, TOGETHER_MS);
  };
  const comments = (): void => send('event: comments\ndata: {}\n\n');
  const people = (): void => send(`event: presence\ndata: ${JSON.stringify(peopleOn(id))}\n\n`);

  const closeFeed = openFeed(id, seen);
  const unwatch = watchPlan(id, (news) => {
    if (news === 'comments') comments();
    else if (news === 'presence') people();
    else soon();
  });
  let beats = 0;
  // A notice from another server can be lost; it costs no more than the time to the next beat.
  const heartbeat = setInterval(() => {
    send(': still here\n\n');
    feedStale(id);
    lookOrEnd();
    // Who has gone without a word is forgotten by then.
    people();
    if (++beats % COMMENTS_EACH === 0) comments();
  }, HEARTBEAT_MS);

  function stop(): void {
    if (stopped) return;
    stopped = true;
    unwatch();
    closeFeed();
    clearInterval(heartbeat);
    clearTimeout(timer);
    sink.end();
  }
  send('retry: 1000\n\n');
  people();
  lookOrEnd();
  return stop;
}
