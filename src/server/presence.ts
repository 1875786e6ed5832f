import type { Present } from '@/core/review/presence';
import { tellPresence } from './announce';
import { onPresence, wakeWatchers } from './live';

/**
 * Who has a plan open. It is kept in memory only: each server holds what its own windows and the others tell, and forgets who has
 * not been heard of for a while. Nothing depends on it.
 */
interface Seen extends Present {
  until: number;
}

const FORGOTTEN_MS = 45_000;
const MOST_PRESENT = 200;
const MOST_PLANS = 1000;

const shared = globalThis as typeof globalThis & { mavrekPresent?: Map<string, Map<string, Seen>> };

function presentOn(id: string): Map<string, Seen> {
  shared.mavrekPresent ??= new Map();
  const plans = shared.mavrekPresent;
  const people = plans.get(id) ?? new Map<string, Seen>();
  plans.set(id, people);
  const now = Date.now();
  for (const [client, { until }] of people) if (until < now) people.delete(client);
  // Plans that nobody is on any more are forgotten, now and then.
  if (plans.size > MOST_PLANS)
    for (const [other, there] of plans)
      if (other !== id && [...there.values()].every(({ until }) => until < now)) plans.delete(other);
  return people;
}

/** Who has a plan open now, in no order that means anything. */
export const peopleOn = (id: string): Present[] =>
  [...presentOn(id).values()].map(({ until: _until, ...present }) => present);

/** Somebody is here, or has left: in this process. Watchers are woken when that is news. */
export function see(id: string, one: Present, left: boolean): void {
  const people = presentOn(id);
  const before = people.get(one.client);
  if (left) {
    if (people.delete(one.client)) wakeWatchers(id, 'presence');
    return;
  }
  if (!before && people.size >= MOST_PRESENT) return;
  people.set(one.client, { ...one, until: Date.now() + FORGOTTEN_MS });
  if (before?.author !== one.author || before.selection !== one.selection || before.view !== one.view)
    wakeWatchers(id, 'presence');
}

/** The same, and to the other servers. */
export function saysPresence(id: string, one: Present, left: boolean): void {
  see(id, one, left);
  tellPresence(id, { ...one, left });
}

onPresence((id, told) => {
  const { left, ...one } = told as Present & { left: boolean };
  see(id, one, left);
});
