import { feedStale, openFeed, toldAfter } from './feed';
import { type News, watchPlan } from './live';
import { log } from './log';
import { runAs, whoNow } from './people/who';
import { peopleOn } from './presence';

const HEARTBEAT_MS = 15_000;
/** A right that was withdrawn ends a stream within this and the moment for which access is remembered. */
export const RIGHT_MS = 1000;
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
 * it, which is asked before anything is sent and every second besides. What is to be sent is noted and sent in one place, in turns: so
 * nothing can be sent past the question. The answer stops it.
 */
export function openStream(id: string, seen: number, sink: Sink): () => void {
  const who = whoNow();
  let sent = seen;
  const wanted = new Set<News | 'beat'>();
  let busy = false;
  let timer: NodeJS.Timeout | undefined;
  let stopped = false;

  const send = (text: string): void => {
    if (!stopped && text !== '' && !sink.send(text)) stop();
  };
  const turn = async (): Promise<void> => {
    if (who.stillHere && !(await who.stillHere())) return stop();
    const news = new Set(wanted);
    wanted.clear();
    if (news.has('beat')) send(': still here\n\n');
    if (news.has('edits')) {
      const told = await toldAfter(id, sent);
      if (stopped) return;
      sent = told.at(-1)?.seq ?? sent;
      send(told.map(({ text }) => text).join(''));
    }
    if (news.has('comments')) send('event: comments\ndata: {}\n\n');
    if (news.has('presence')) send(`event: presence\ndata: ${JSON.stringify(peopleOn(id))}\n\n`);
  };
  const turns = async (): Promise<void> => {
    if (busy) return;
    busy = true;
    try {
      do await runAs(who, turn);
      while (wanted.size > 0 && !stopped);
    } catch (error) {
      log.warn({ err: (error as Error).message }, 'live updates: stream ended');
      stop();
    } finally {
      busy = false;
    }
  };
  const tell = (...news: (News | 'beat')[]): void => {
    for (const item of news) wanted.add(item);
    timer ??= setTimeout(() => {
      timer = undefined;
      void turns();
    }, TOGETHER_MS);
  };

  const closeFeed = openFeed(id, seen);
  const unwatch = watchPlan(id, tell);
  let beats = 0;
  // A notice from another server can be lost; it costs no more than the time to the next beat. Who has gone without a word is
  // forgotten by then.
  const heartbeat = setInterval(() => {
    feedStale(id);
    tell('beat', 'edits', 'presence');
    if (++beats % COMMENTS_EACH === 0) tell('comments');
  }, HEARTBEAT_MS);
  const right = who.stillHere && setInterval(() => void turns(), RIGHT_MS);

  function stop(): void {
    if (stopped) return;
    stopped = true;
    unwatch();
    closeFeed();
    clearInterval(heartbeat);
    clearInterval(right);
    clearTimeout(timer);
    sink.end();
  }
  send('retry: 1000\n\n');
  tell('presence', 'edits');
  return stop;
}
