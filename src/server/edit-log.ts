import { LIMITS, limitText } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import type { Result } from '@/core/base/result';
import { applyEdit, stepsOf } from '@/core/plan/edits/edits';
import { printPlan } from '@/core/plan/file/print-plan';
import type { Plan } from '@/core/plan/model/types';
import { announce } from './announce';
import { countLater } from './counts';
import { database } from './db';
import {
  editsAfter,
  type Head,
  headSeq,
  knownEdits,
  type LoggedEdit,
  loadPlan,
  type StoredEdit,
  storeEdits,
} from './edit-store';
import { feedStored } from './feed';
import { onForget } from './live';
import { findPart, packagesOf } from './parts';
import { foreignWaiver } from './people/waivers';
import { runAs, together, type Who, whoNow } from './people/who';
import { work } from './work/pool';

/** A snapshot is kept every so many edits, so that loading replays at most about that many; after a large batch at once. */
const SNAPSHOT_EVERY = 50;
const LARGE_BATCH = 100;
/** Edits that go into one transaction. */
const LARGEST_GROUP = 100;
/** Plans whose heads a process remembers, and edits of each. */
const MOST_LANES = 64;
const MOST_RECENT = 200;

export type NewEdit = Omit<StoredEdit, 'seq' | 'author' | 'personId'> & { author?: string };

export type AppendResult =
  | { status: 'saved'; seq: number; edits: LoggedEdit[] }
  | { status: 'refused'; problems: Problem[]; edits: LoggedEdit[] }
  | { status: 'gone' };

/**
 * What this process does about one plan: the edits that wait, and the plan's head as it last saw it. What is remembered is only
 * ever used together with its number, which the database compares when it stores; another server's edit makes it stale, not
 * wrong.
 */
interface Lane {
  waiting: Waiting[];
  busy: boolean;
  head?: Head;
  /** The newest edits, without a gap up to the head. */
  recent: LoggedEdit[];
  /** The plan as text was this long, and the edits since then that much longer at most. */
  size?: { exact: number; added: number };
}

interface Waiting {
  entry: NewEdit;
  /** Whose edit it is; stored with others, all of them must have the rights. */
  by: Who;
  resolve(result: AppendResult): void;
  reject(error: unknown): void;
}

const shared = globalThis as typeof globalThis & { mavrekLanes?: Map<string, Lane> };

function laneOf(id: string): Lane {
  shared.mavrekLanes ??= new Map();
  const lanes = shared.mavrekLanes;
  const lane = lanes.get(id) ?? { waiting: [], busy: false, recent: [] };
  lanes.delete(id);
  lanes.set(id, lane);
  if (lanes.size > MOST_LANES)
    for (const [other, { busy }] of lanes) {
      if (busy) continue;
      lanes.delete(other);
      break;
    }
  return lane;
}

/**
 * Appends one edit. It is acknowledged only after the commit; an edit sent again is stored once; one that does not apply to
 * the plan as it is now is refused with the reason. The answer brings all edits its author had not seen, its own included.
 * Edits of one plan that arrive while others are being stored go into the next transaction together.
 */
export function appendEdit(id: string, entry: NewEdit): Promise<AppendResult> {
  return new Promise((resolve, reject) => {
    const lane = laneOf(id);
    lane.waiting.push({ entry, by: whoNow(), resolve, reject });
    if (!lane.busy) void drain(id, lane);
  });
}

async function drain(id: string, lane: Lane): Promise<void> {
  lane.busy = true;
  while (lane.waiting.length > 0) {
    const group = lane.waiting.splice(0, LARGEST_GROUP);
    try {
      await storeFor(id, lane, group);
    } catch (error) {
      forget(lane);
      // One edit that cannot be stored must not take the others down: each by itself then.
      for (const one of group)
        if (group.length === 1) one.reject(error);
        else
          await storeFor(id, lane, [one]).catch((failure) => {
            forget(lane);
            one.reject(failure);
          });
    }
  }
  lane.busy = false;
}

onForget(() => {
  for (const lane of shared.mavrekLanes?.values() ?? []) forget(lane);
});

function forget(lane: Lane): void {
  lane.head = undefined;
  lane.recent = [];
  lane.size = undefined;
}

const storeFor = (id: string, lane: Lane, group: readonly Waiting[]): Promise<void> =>
  runAs(together(group.map((one) => one.by)), () => storeGroup(id, lane, group));

/** Stores what of a group applies, in one transaction, and answers everybody. Tries anew while other servers are faster. */
async function storeGroup(id: string, lane: Lane, group: readonly Waiting[]): Promise<void> {
  // Only an edit that was sent before is not stored; it is looked for then.
  let known = new Map<string, number>();
  for (let tries = 0; ; tries++) {
    const head = await headOf(id, lane);
    if (!head) {
      // What one of them may not see any more is there for the others.
      if (new Set(group.map((one) => one.by.person?.id)).size > 1)
        throw new Error(`plan ${id} is not there for all`);
      for (const one of group) one.resolve({ status: 'gone' });
      return;
    }
    const { outcome, stored, plan } = await applyGroup(id, lane, head, group, known);
    // What does not apply may be there already: sent once more, to another server or after a while, because an answer got lost.
    const refused = group.filter((one) => 'problems' in (outcome.get(one) ?? {}));
    if (refused.length > 0) {
      const there = await knownEdits(
        database,
        id,
        refused.map((one) => one.entry.editId),
      );
      for (const one of refused) {
        const seq = there.get(one.entry.editId);
        if (seq !== undefined) outcome.set(one, { seq });
      }
    }
    // Storing compares numbers; where nothing is stored, what was refused may have been refused by a plan of yesterday.
    if (stored.length === 0 && (await headSeq(database, id)) !== head.seq) {
      forget(lane);
      if (tries < 20) continue;
    }
    const seq = head.seq + stored.length;
    const snapshot =
      Math.floor(seq / SNAPSHOT_EVERY) > Math.floor(head.seq / SNAPSHOT_EVERY) ||
      stored.some(({ edit }) => stepsOf(edit) >= LARGE_BATCH);
    if (stored.length > 0 && !(await storeEdits(database, id, head.seq, stored, plan, snapshot))) {
      // Another server was faster, or one of them is there already.
      forget(lane);
      if (tries >= 20) throw new Error(`plan ${id} changes faster than an edit can be stored`);
      known = await knownEdits(
        database,
        id,
        group.map((one) => one.entry.editId),
      );
      continue;
    }
    lane.head = { seq, plan };
    lane.recent = [...lane.recent, ...stored.map(toldOf)].slice(-MOST_RECENT);
    if (stored.length > 0) {
      feedStored(id, stored.map(toldOf));
      announce(id);
      countLater(id);
    }
    await Promise.all(
      group.map(async (one) => {
        const result = outcome.get(one);
        if (!result) return;
        const edits = await unseen(id, lane, one.entry.madeAgainst, seq);
        one.resolve(
          'problems' in result
            ? { status: 'refused', problems: result.problems, edits }
            : { status: 'saved', seq: result.seq, edits },
        );
      }),
    );
    return;
  }
}

const toldOf = ({ seq, editId, client, edit }: StoredEdit): LoggedEdit => ({ seq, editId, client, edit });

/** The head as remembered, or as the database has it. Undefined when the plan is not there or deleted. */
async function headOf(id: string, lane: Lane): Promise<Head | undefined> {
  if (lane.head) return lane.head;
  if ((await headSeq(database, id)) === undefined) return undefined;
  return loadPlan(database, id);
}

type Outcome = { seq: number } | { problems: Problem[] };

/** Applies a group's edits one after the other to the head. */
async function applyGroup(
  id: string,
  lane: Lane,
  head: Head,
  group: readonly Waiting[],
  known: Map<string, number>,
) {
  const outcome = new Map<Waiting, Outcome>();
  const numbers = new Map(known);
  for (const one of lane.recent) numbers.set(one.editId, one.seq);
  const stored: StoredEdit[] = [];
  let { plan } = head;
  for (const one of group) {
    const { entry } = one;
    const before = numbers.get(entry.editId);
    if (before !== undefined) {
      outcome.set(one, { seq: before });
      continue;
    }
    // Large batches are applied in a worker thread, so that nobody else waits for them.
    const next =
      stepsOf(entry.edit) < LARGE_BATCH
        ? applyEdit(plan, entry.edit)
        : await work('applyEdit', { plan, edit: entry.edit });
    const problems = next.ok ? await refusals(id, lane, plan, next, one) : next.problems;
    if (!next.ok || problems.length > 0) {
      outcome.set(one, { problems });
      continue;
    }
    plan = next.value;
    const seq = head.seq + stored.length + 1;
    stored.push({
      ...entry,
      seq,
      author: one.by.person?.name ?? entry.author ?? '',
      personId: one.by.person?.id ?? null,
    });
    numbers.set(entry.editId, seq);
    outcome.set(one, { seq });
  }
  return { outcome, stored, plan };
}

/** What only the server knows against an edit that applies: parts that are not here, a plan that could not be read back. */
async function refusals(
  id: string,
  lane: Lane,
  before: Plan,
  { value: after }: Extract<Result<Plan>, { ok: true }>,
  { entry, by }: Waiting,
): Promise<Problem[]> {
  if (by.person) {
    const foreign = await foreignWaiver(database, id, entry.edit, { before, after }, by.person.name);
    if (foreign)
      return [
        {
          place: 'waiver',
          message: `is signed by ${foreign.author}; you sign as ${by.person.name}`,
        },
      ];
  }
  if (after.device !== before.device || after.package !== before.package) {
    const part = await findPart(after.device);
    if (!part || !(await packagesOf(part)).packages.includes(after.package))
      return [
        {
          place: 'edit',
          message: `there is no part ${after.device} with package ${after.package} here`,
        },
      ];
  }
  const added = JSON.stringify(entry.edit).length;
  lane.size ??= { exact: printPlan(before).length, added: 0 };
  lane.size.added += added;
  if (lane.size.exact + lane.size.added <= LIMITS.planBytes) return [];
  lane.size = { exact: printPlan(after).length, added: 0 };
  if (lane.size.exact <= LIMITS.planBytes) return [];
  lane.size = undefined;
  return [{ place: 'edit', message: `a plan takes at most ${limitText('planBytes')}` }];
}

/** The edits that an author who had seen `after` had not: from memory where they are all there. */
async function unseen(id: string, lane: Lane, after: number, upTo: number): Promise<LoggedEdit[]> {
  const first = lane.recent[0];
  if (after >= upTo) return [];
  if (first && first.seq <= after + 1) return lane.recent.filter((one) => one.seq > after);
  return editsAfter(database, id, after);
}
