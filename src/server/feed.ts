import { append } from '@/core/base/lists';
import { database } from './db';
import { editsAfter, type LoggedEdit } from './edit-store';
import { asServer } from './people/who';

/**
 * The newest edits of plans that somebody watches, once a process and ready to be sent, however many watch: what this server stores
 * is put in, what others store is read when they say so. Who may watch is settled before, and again as long as they do.
 */
interface Told {
  seq: number;
  text: string;
}

interface Feed {
  told: Told[];
  /** The newest that is in, or before the first. */
  last: number;
  /** There may be newer ones that are not in. */
  stale: boolean;
  reading?: Promise<void> | undefined;
  watchers: number;
}

const MOST = 1000;
const shared = globalThis as typeof globalThis & { mavrekFeeds?: Map<string, Feed> };
shared.mavrekFeeds ??= new Map();
const feeds = shared.mavrekFeeds;

const toldOf = (logged: LoggedEdit): Told => ({
  seq: logged.seq,
  text: `id: ${logged.seq}\ndata: ${JSON.stringify(logged)}\n\n`,
});

function put(feed: Feed, edits: readonly LoggedEdit[]): void {
  const news = edits.filter((one) => one.seq > feed.last);
  if (news.length === 0) return;
  if (news[0]?.seq !== feed.last + 1) {
    feed.stale = true;
    return;
  }
  append(feed.told, news.map(toldOf));
  if (feed.told.length > MOST) feed.told.splice(0, feed.told.length - MOST);
  feed.last = feed.told.at(-1)?.seq ?? feed.last;
}

/** What this server has stored just now. */
export function feedStored(id: string, edits: readonly LoggedEdit[]): void {
  const feed = feeds.get(id);
  if (feed) put(feed, edits);
}

/** There may be edits of other servers: they are read when they are asked for. */
export function feedStale(id: string): void {
  const feed = feeds.get(id);
  if (feed) feed.stale = true;
}

/** Begins to hold a plan's edits ready for somebody who has seen those up to a number; the answer ends it. */
export function openFeed(id: string, seen: number): () => void {
  const feed = feeds.get(id) ?? { told: [], last: seen, stale: true, watchers: 0 };
  feed.watchers++;
  feeds.set(id, feed);
  return () => {
    feed.watchers--;
    if (feed.watchers === 0 && feeds.get(id) === feed) feeds.delete(id);
  };
}

async function read(id: string, feed: Feed): Promise<void> {
  while (feed.stale) {
    feed.stale = false;
    try {
      put(feed, await asServer(() => editsAfter(database, id, feed.last)));
    } catch (error) {
      feed.stale = true;
      throw error;
    }
  }
}

/** Edits after a number as they are sent, in their order. */
export async function toldAfter(id: string, seq: number): Promise<Told[]> {
  const feed = feeds.get(id);
  if (!feed) return [];
  if (feed.stale) {
    feed.reading ??= read(id, feed).finally(() => {
      feed.reading = undefined;
    });
    await feed.reading;
  }
  if (seq >= feed.last) return [];
  const first = feed.told[0]?.seq ?? feed.last + 1;
  if (seq + 1 >= first) return feed.told.slice(seq + 1 - first);
  // Whoever was away for long has more to catch up with than is held ready.
  return (await asServer(() => editsAfter(database, id, seq, feed.last))).map(toldOf);
}
