import pg from 'pg';
import { EDIT_CHANNEL } from './announce';
import { directUrl } from './db';
import { feedStale } from './feed';
import { log } from './log';

/**
 * Live updates: one connection a process listens for new edits and wakes whoever watches the plan. A wake-up says only
 * "look again", so that a lost notice or a broken connection costs a delay and never an edit.
 */
export type News = 'edits' | 'comments' | 'presence';
type Wake = (news: News) => void;

interface Listener {
  watchers: Map<string, Set<Wake>>;
  client?: pg.Client;
  closed: boolean;
}

const shared = globalThis as typeof globalThis & { mavrekListener?: Listener };

export function watchPlan(id: string, wake: Wake): () => void {
  const listener = listen();
  const wakes = listener.watchers.get(id) ?? new Set();
  wakes.add(wake);
  listener.watchers.set(id, wakes);
  return () => {
    wakes.delete(wake);
    if (wakes.size === 0) listener.watchers.delete(id);
  };
}

/** Wakes whoever watches a plan in this process. */
export function wakeWatchers(id: string, news: News): void {
  for (const wake of shared.mavrekListener?.watchers.get(id) ?? []) wake(news);
}

/** What is done when plans have to be read anew. */
const forgetting = globalThis as typeof globalThis & { mavrekForgetsPlans?: () => void };
export function onForget(forget: () => void): void {
  forgetting.mavrekForgetsPlans = forget;
}
export const forgetPlans = (): void => forgetting.mavrekForgetsPlans?.();

type Hears = (id: string, told: object) => void;
const hearing = globalThis as typeof globalThis & { mavrekHearsPresence?: Hears };

/** Says what to do with what other servers tell of who is where. */
export function onPresence(hears: Hears): void {
  hearing.mavrekHearsPresence = hears;
}

function hearPresence(id: string, text: string): void {
  try {
    hearing.mavrekHearsPresence?.(id, JSON.parse(text) as object);
  } catch {
    // Something else was said on the channel; it is about nothing that must not be lost.
  }
}

function listen(): Listener {
  if (!shared.mavrekListener) {
    shared.mavrekListener = { watchers: new Map(), closed: false };
    connect(shared.mavrekListener, 100);
  }
  return shared.mavrekListener;
}

const LONGEST_PAUSE_MS = 5000;

function connect(listener: Listener, pauseMs: number): void {
  const client = new pg.Client({
    connectionString: directUrl(),
    keepAlive: true,
    connectionTimeoutMillis: 5000,
  });
  listener.client = client;
  let ended = false;
  const again = (why: string): void => {
    if (ended) return;
    ended = true;
    if (listener.closed) return;
    log.warn({ why }, 'live updates: connection lost');
    client.end().catch(() => undefined);
    setTimeout(() => connect(listener, Math.min(pauseMs * 2, LONGEST_PAUSE_MS)), pauseMs).unref();
  };
  client.on('error', (error) => again(error.message));
  client.on('end', () => again('ended'));
  client.on('notification', (message) => {
    const [id = '', news, ...rest] = (message.payload ?? '').split(' ');
    if (news === 'presence') hearPresence(id, rest.join(' '));
    else if (news === 'renamed') forgetPlans();
    else if (news === 'comments') wakeWatchers(id, 'comments');
    else {
      feedStale(id);
      wakeWatchers(id, 'edits');
    }
  });
  client
    .connect()
    .then(() => client.query(`listen ${EDIT_CHANNEL}`))
    .then(() => {
      // Whatever was said while nobody listened is fetched now.
      for (const [id, wakes] of listener.watchers) {
        feedStale(id);
        for (const wake of wakes) {
          wake('edits');
          wake('comments');
        }
      }
    })
    .catch((error: Error) => again(error.message));
}

/** Ends the connection for good, when the process is about to end. */
export async function closeLive(): Promise<void> {
  const listener = shared.mavrekListener;
  if (!listener) return;
  listener.closed = true;
  shared.mavrekListener = undefined;
  await listener.client?.end();
}
