import { derive } from '@/core/derive';
import { applyEdit, type Edit } from '@/core/plan/edit';
import type { Plan } from '@/core/plan/types';
import type { Problem } from '@/core/result';
import { database, type Queryable, transaction } from './db';
import { partDevice, planDevice } from './parts';

/** A snapshot is kept every so many edits, so that loading replays at most that many. */
const SNAPSHOT_EVERY = 50;

/** The channel on which servers tell each other of new edits; the payload is the plan's id. */
export const EDIT_CHANNEL = 'mavrek_edits';

export interface LoggedEdit {
  seq: number;
  editId: string;
  client: string;
  edit: Edit;
}

export interface NewEdit {
  editId: string;
  client: string;
  /** The newest sequence number its author had seen. */
  madeAgainst: number;
  edit: Edit;
}

export type AppendResult =
  | { status: 'saved'; seq: number; edits: LoggedEdit[] }
  | { status: 'refused'; problems: Problem[]; edits: LoggedEdit[] }
  | { status: 'gone' };

/** The plan as of its newest edit: the latest snapshot with the edits after it. */
export async function loadPlan(
  client: Queryable,
  id: string,
): Promise<{ plan: Plan; seq: number } | undefined> {
  const snapshots = await client.query<{ seq: number; plan: Plan }>(
    'select seq, plan from snapshots where plan_id = $1 order by seq desc limit 1',
    [id],
  );
  const snapshot = snapshots.rows[0];
  if (!snapshot) return undefined;
  let { plan, seq } = snapshot;
  for (const row of await editsAfter(client, id, seq)) {
    const next = applyEdit(plan, row.edit);
    if (!next.ok)
      throw new Error(`edit ${row.seq} of plan ${id} does not replay: ${next.problems[0]?.message}`);
    plan = next.value;
    seq = row.seq;
  }
  return { plan, seq };
}

export async function editsAfter(client: Queryable, id: string, seq: number): Promise<LoggedEdit[]> {
  const { rows } = await client.query<LoggedEdit>(
    'select seq, edit_id as "editId", client, edit from edits where plan_id = $1 and seq > $2 order by seq',
    [id, seq],
  );
  return rows;
}

/**
 * Appends one edit. It is acknowledged only after the commit; an edit sent again is stored once; one that does not apply to
 * the plan as it is now is refused with the reason. The answer brings all edits its author had not seen, its own included.
 */
export async function appendEdit(id: string, entry: NewEdit): Promise<AppendResult> {
  return transaction(async (client) => {
    const head = await client.query<{ seq: number; deleted: boolean }>(
      'select seq, deleted_at is not null as deleted from plans where id = $1 for update',
      [id],
    );
    if (!head.rows[0] || head.rows[0].deleted) return { status: 'gone' };
    const known = await client.query<{ seq: number }>(
      'select seq from edits where plan_id = $1 and edit_id = $2',
      [id, entry.editId],
    );
    const unseen = () => editsAfter(client, id, entry.madeAgainst);
    if (known.rows[0]) return { status: 'saved', seq: known.rows[0].seq, edits: await unseen() };
    const current = await loadPlan(client, id);
    if (!current) return { status: 'gone' };
    const next = applyEdit(current.plan, entry.edit);
    if (!next.ok) return { status: 'refused', problems: next.problems, edits: await unseen() };

    if (next.value.device !== current.plan.device || next.value.package !== current.plan.package) {
      const known = await partDevice(next.value.device, undefined, client);
      if (!known?.packages.has(next.value.package)) {
        const message = `there is no part ${next.value.device} with package ${next.value.package} here`;
        return { status: 'refused', problems: [{ place: 'edit', message }], edits: await unseen() };
      }
    }
    const seq = current.seq + 1;
    await client.query(
      'insert into edits (plan_id, seq, edit_id, client, made_against, edit) values ($1, $2, $3, $4, $5, $6)',
      [id, seq, entry.editId, entry.client, entry.madeAgainst, JSON.stringify(entry.edit)],
    );
    if (seq % SNAPSHOT_EVERY === 0) await insertSnapshot(client, id, seq, next.value);
    await updateHead(client, id, seq, next.value);
    await client.query('select pg_notify($1, $2)', [EDIT_CHANNEL, id]);
    return { status: 'saved', seq, edits: await unseen() };
  });
}

export async function insertSnapshot(client: Queryable, id: string, seq: number, plan: Plan): Promise<void> {
  await client.query('insert into snapshots (plan_id, seq, plan) values ($1, $2, $3)', [
    id,
    seq,
    JSON.stringify(plan),
  ]);
}

/** The columns of a plan's head, behind its id: what lists show, and on which description it stands. */
export const HEAD_COLUMNS = [
  'name',
  'revision',
  'device',
  'package',
  'nets',
  'placed',
  'errors',
  'warnings',
  'device_fingerprint',
] as const;

export async function headValues(client: Queryable, plan: Plan): Promise<(string | number)[]> {
  const { nets, placed, errors, warnings } = await countsOf(client, plan);
  const { name, revision, device, package: pkg, deviceFingerprint } = plan;
  return [name, revision, device, pkg, nets, placed, errors, warnings, deviceFingerprint];
}

async function updateHead(client: Queryable, id: string, seq: number, plan: Plan): Promise<void> {
  const sets = HEAD_COLUMNS.map((column, index) => `${column} = $${index + 3}`).join(', ');
  await client.query(`update plans set seq = $2, ${sets}, updated_at = now() where id = $1`, [
    id,
    seq,
    ...(await headValues(client, plan)),
  ]);
}

/** What the list of plans shows of a plan. */
async function countsOf(client: Queryable, plan: Plan) {
  const device = await planDevice(plan, client);
  const derived = device && derive(device, plan);
  const counts = derived?.ok ? derived.value.counts : { error: 0, warning: 0 };
  return {
    nets: plan.nets.length,
    placed: plan.nets.filter((net) => net.placement).length,
    errors: counts.error,
    warnings: counts.warning,
  };
}

/** Edits after a sequence number, outside a transaction. */
export const newEdits = (id: string, seq: number): Promise<LoggedEdit[]> => editsAfter(database, id, seq);
