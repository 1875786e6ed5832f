import { database } from './db';
import { forgetPlans, wakeWatchers } from './live';
import { log } from './log';
import { asServer } from './people/who';

/** The channel on which servers tell each other of new edits; the payload is a plan's id, and what is new where that is not edits. */
export const EDIT_CHANNEL = 'mavrek_edits';

/**
 * Says that a plan has new edits: to this process's watchers at once, to other servers after it. A notice is no part of the
 * transaction that stores the edits, since PostgreSQL lets such transactions commit only one after the other; a notice that is
 * lost costs watchers a delay, never an edit (streams look again at every heartbeat).
 */
export function announce(id: string): void {
  wakeWatchers(id, 'edits');
  waiting.add(id);
  if (!telling) void asServer(tell);
}

/** The same of what people say about it. */
export function announceComments(id: string): void {
  wakeWatchers(id, 'comments');
  waiting.add(`${id} comments`);
  if (!telling) void asServer(tell);
}

/** Says that a person was renamed in what is stored: what servers remember of plans may hold the old name. */
export function announceRenamed(): void {
  forgetPlans();
  waiting.add('* renamed');
  if (!telling) void asServer(tell);
}

/** Tells other servers where somebody is: at once, since it is old after a moment, and nothing is lost if it is. */
export function tellPresence(id: string, told: object): void {
  asServer(() =>
    database.query({
      name: 'tell-presence',
      text: 'select pg_notify($1, $2)',
      values: [EDIT_CHANNEL, `${id} presence ${JSON.stringify(told)}`],
    }),
  ).catch((error: Error) => log.warn({ err: error.message }, 'other servers were not told who is where'));
}

const PAUSE_MS = 10;
const waiting = new Set<string>();
let telling = false;

async function tell(): Promise<void> {
  telling = true;
  while (waiting.size > 0) {
    // Many writers make many edits in these few milliseconds; one notice a plan is enough.
    await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    const ids = [...waiting];
    waiting.clear();
    await database
      .query({
        name: 'announce',
        text: 'select pg_notify($1, one) from unnest($2::text[]) as one',
        values: [EDIT_CHANNEL, ids],
      })
      .catch((error: Error) => log.warn({ err: error.message }, 'other servers were not told of new edits'));
  }
  telling = false;
}
