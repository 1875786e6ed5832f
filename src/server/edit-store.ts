import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { EDIT_FORMAT, migrateEdit, migratePlan } from '@/core/plan/migrations';
import type { Plan } from '@/core/plan/model/types';
import type { Queryable } from './db';
import { workspaceNow } from './people/who';

/** The log of edits as SQL. Statements have names, so that each connection prepares them once. */

export interface LoggedEdit {
  seq: number;
  editId: string;
  client: string;
  edit: Edit;
}

export interface StoredEdit extends LoggedEdit {
  madeAgainst: number;
  /** Who made it, as they call themselves; empty when they do not say. */
  author: string;
  /** Their account, where there are accounts. */
  personId: string | null;
}

/** The columns of a plan's head, behind its id: what lists show, and on which description it stands. */
export const HEAD_COLUMNS = [
  'name',
  'revision',
  'device',
  'package',
  'nets',
  'placed',
  'device_fingerprint',
] as const;

/** What the head says of a plan and is known without deriving it. */
export function headValues(plan: Plan): (string | number)[] {
  const { name, revision, device, package: pkg, deviceFingerprint, nets } = plan;
  const placed = nets.filter((net) => net.placement).length;
  return [name, revision, device, pkg, nets.length, placed, deviceFingerprint];
}

const SETS = HEAD_COLUMNS.map((column, index) => `${column} = $${index + 4}`).join(', ');
const LAST = HEAD_COLUMNS.length + 4;

/**
 * Stores edits that follow `from`, and the head as they make it, in one statement, which is one transaction: everything or
 * nothing, and only while `from` is the plan's newest number and none of them is in the log already. Answers whether it was so.
 */
export async function storeEdits(
  client: Queryable,
  id: string,
  from: number,
  edits: readonly StoredEdit[],
  plan: Plan,
  withSnapshot: boolean,
): Promise<boolean> {
  const seq = from + edits.length;
  const { rows } = await client.query<{ stored: boolean }>({
    name: 'store-edits',
    text: `with head as (
        update plans set seq = $3, ${SETS}, updated_at = now()
        where id = $1 and seq = $2 and workspace_id = $${LAST + 2} and deleted_at is null
          and not exists (select 1 from edits e where e.workspace_id = $${LAST + 2} and e.plan_id = $1 and e.edit_id = any ($${LAST + 3}))
          and not exists (select 1 from folded_edits f where f.edit_ids && $${LAST + 3}::text[] and f.plan_id = $1)
        returning id
      ), log as (
        insert into edits (workspace_id, plan_id, seq, edit_id, client, author, person_id, made_against, format, edit)
        select $${LAST + 2}, head.id, one.seq, one.edit_id, one.client, one.author, one.person_id, one.made_against, ${EDIT_FORMAT}, one.edit
        from head, jsonb_to_recordset($${LAST}::jsonb)
          as one (seq bigint, edit_id text, client text, author text, person_id text, made_against bigint, edit jsonb)
      ), snap as (
        insert into snapshots (plan_id, seq, plan) select head.id, $3, $${LAST + 1}::jsonb from head
        where $${LAST + 1}::jsonb is not null
      )
      select exists (select 1 from head) as stored`,
    values: [
      id,
      from,
      seq,
      ...headValues(plan),
      JSON.stringify(
        edits.map((one) => ({
          seq: one.seq,
          edit_id: one.editId,
          client: one.client,
          author: one.author,
          person_id: one.personId,
          made_against: one.madeAgainst,
          edit: one.edit,
        })),
      ),
      withSnapshot ? JSON.stringify(plan) : null,
      workspaceNow(),
      edits.map((one) => one.editId),
    ],
  });
  return rows[0]?.stored === true;
}

export async function insertSnapshot(client: Queryable, id: string, seq: number, plan: Plan): Promise<void> {
  await client.query('insert into snapshots (plan_id, seq, plan) values ($1, $2, $3)', [
    id,
    seq,
    JSON.stringify(plan),
  ]);
}

export async function editsAfter(
  client: Queryable,
  id: string,
  seq: number,
  upTo = Number.MAX_SAFE_INTEGER,
): Promise<LoggedEdit[]> {
  const { rows } = await client.query<FoldedEdit>({
    name: 'edits-after',
    text: `select seq, edit_id as "editId", client, format, edit from edits
      where workspace_id = $4 and plan_id = $1 and seq > $2 and seq <= $3 order by seq`,
    values: [id, seq, upTo, workspaceNow()],
  });
  // What is missing at the beginning is old.
  const old = rows[0]?.seq === seq + 1 ? [] : await foldedEdits(client, id, seq, upTo);
  return [...old, ...rows].map(({ seq: number, editId, client: window, format, edit }) => ({
    seq: number,
    editId,
    client: window,
    edit: migrateEdit(edit, format) as Edit,
  }));
}

/** An edit as it is stored, here or folded. */
export interface FoldedEdit extends LoggedEdit {
  format: number;
  author: string;
  /** ISO 8601. */
  at: string;
}

/** Old edits after a number up to another, in their order. */
export async function foldedEdits(
  client: Queryable,
  id: string,
  after: number,
  upTo: number,
): Promise<FoldedEdit[]> {
  const { rows } = await client.query<{ edits: FoldedEdit[] }>({
    name: 'folded-edits',
    text: 'select edits from folded_edits where plan_id = $1 and last > $2 and first <= $3 order by first',
    values: [id, after, upTo],
  });
  return rows.flatMap(({ edits }) => edits.filter(({ seq }) => seq > after && seq <= upTo));
}

/** Numbers of edits that are in the log already, by their ids. */
export async function knownEdits(
  client: Queryable,
  id: string,
  editIds: readonly string[],
): Promise<Map<string, number>> {
  const { rows } = await client.query<{ editId: string; seq: number }>(
    `select edit_id as "editId", seq from edits where workspace_id = $3 and plan_id = $1 and edit_id = any($2)
     union all
     select e->>'editId', (e->>'seq')::bigint from folded_edits f, jsonb_array_elements(f.edits) e
     where f.edit_ids && $2::text[] and f.plan_id = $1 and e->>'editId' = any($2)`,
    [id, editIds, workspaceNow()],
  );
  return new Map(rows.map((row) => [row.editId, row.seq]));
}

export interface Head {
  seq: number;
  plan: Plan;
}

/** The plan as of its newest edit, or as of edit `upTo`: the latest snapshot with the edits after it. */
export async function loadPlan(
  client: Queryable,
  id: string,
  upTo = Number.MAX_SAFE_INTEGER,
): Promise<Head | undefined> {
  const { rows } = await client.query<Head>(
    'select seq, plan from snapshots where plan_id = $1 and seq <= $2 order by seq desc limit 1',
    [id, upTo],
  );
  const [snapshot] = rows;
  return (
    snapshot &&
    replay(
      id,
      { seq: snapshot.seq, plan: migratePlan(snapshot.plan) as Plan },
      await editsAfter(client, id, snapshot.seq, upTo),
    )
  );
}

function replay(id: string, from: Head, edits: readonly LoggedEdit[]): Head {
  let { plan, seq } = from;
  for (const row of edits) {
    const next = applyEdit(plan, row.edit);
    if (!next.ok)
      throw new Error(`edit ${row.seq} of plan ${id} does not replay: ${next.problems[0]?.message}`);
    plan = next.value;
    seq = row.seq;
  }
  return { plan, seq };
}

/** The newest number of a plan that is not deleted; undefined otherwise. */
export async function headSeq(client: Queryable, id: string): Promise<number | undefined> {
  const { rows } = await client.query<{ seq: number }>({
    name: 'head-seq',
    text: 'select seq from plans where id = $1 and workspace_id = $2 and deleted_at is null',
    values: [id, workspaceNow()],
  });
  return rows[0]?.seq;
}
