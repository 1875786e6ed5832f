import { append } from '@/core/base/lists';
import { fail, ok, type Result } from '@/core/base/result';
import { freeName } from '@/core/base/text/free-name';
import { applyEdit, describeEdit, type Edit, stepsOf } from '@/core/plan/edits/edits';
import type { History, HistoryEntry, RevisionHead } from '@/core/plan/history';
import { migrateEdit, migratePlan } from '@/core/plan/migrations';
import type { Plan } from '@/core/plan/model/types';
import { database, query } from './db';
import { foldedEdits, headSeq, loadPlan } from './edit-store';
import { findPlanPart, workOnPart } from './parts';
import { personNow, signedName, workspaceNow } from './people/who';
import { listPlans, storePlan } from './plans';
import type { RevisedPlan } from './work/jobs';

/** What became of a plan over time: its edits in words, any moment of it, and the moments that have names. */

const PAGE = 200;

/** Edits before a number, newest first; undefined when the plan is not there. */
export async function planHistory(
  id: string,
  before = Number.MAX_SAFE_INTEGER,
): Promise<History | undefined> {
  const [plan] = await query<{ createdAt: Date }>(
    'select created_at as "createdAt" from plans where id = $1 and workspace_id = $2 and deleted_at is null',
    [id, workspaceNow()],
  );
  if (!plan) return undefined;
  const rows = await query<{
    seq: number;
    at: Date;
    author: string;
    client: string;
    format: number;
    edit: unknown;
  }>(
    `select seq, at, author, client, format, edit from edits
     where workspace_id = $4 and plan_id = $1 and seq < $2 order by seq desc limit $3`,
    [id, before, PAGE + 1, workspaceNow()],
  );
  // Older ones are folded.
  const oldest = rows.at(-1)?.seq ?? before;
  const missing = PAGE + 1 - rows.length;
  if (missing > 0) {
    const upTo = Math.min(oldest - 1, (await headSeq(database, id)) ?? 0);
    const old = await foldedEdits(database, id, Math.max(0, upTo - missing), upTo);
    append(
      rows,
      old.reverse().map((one) => ({ ...one, at: new Date(one.at) })),
    );
  }
  const page = rows.slice(0, PAGE).reverse();
  // Edits speak of nets by their ids; what those were called then, the plan says that each was made on.
  let state = page[0] && (await loadPlan(database, id, page[0].seq - 1))?.plan;
  const entries = page.map(({ seq, at, author, client, format, edit: stored }): HistoryEntry => {
    const edit = migrateEdit(stored, format) as Edit;
    const text = state ? describeEdit(state, edit) : edit.kind;
    const next = state && applyEdit(state, edit);
    state = next?.ok ? next.value : state;
    return { seq, at: at.toISOString(), author, client, text, steps: stepsOf(edit) };
  });
  return { entries: entries.reverse(), more: rows.length > PAGE, createdAt: plan.createdAt.toISOString() };
}

/** The plan as it was behind an edit, 0 for as it was made; undefined when there is no such plan or edit. */
export async function planAt(id: string, seq: number): Promise<{ plan: Plan; seq: number } | undefined> {
  const head = await headSeq(database, id);
  if (head === undefined || seq > head) return undefined;
  return loadPlan(database, id, seq);
}

/** A new plan that begins as another was; undefined when there is no such moment. */
export async function branchPlan(id: string, seq: number): Promise<Result<string> | undefined> {
  const then = await planAt(id, seq);
  if (!then) return undefined;
  const names = new Set((await listPlans()).map((plan) => plan.name));
  const name = freeName(`${then.plan.name.slice(0, 100)} branch`, (one) => names.has(one), ' ');
  return storePlan({ ...then.plan, name });
}

export interface Revision extends RevisionHead, RevisedPlan {
  plan: Plan;
  partFingerprint: string;
}

const HEAD = `name, seq, note, author, fingerprint, at,
  (select count(*)::int from jsonb_array_elements(findings) one
    where one->>'severity' = 'error' and not (one->>'waived')::boolean) as errors,
  (select count(*)::int from jsonb_array_elements(findings) one
    where one->>'severity' = 'warning' and not (one->>'waived')::boolean) as warnings`;

type Row<T> = Omit<T, 'at'> & { at: Date };
const told = <T extends { at: string }>(row: Row<T>): T =>
  ({ ...row, at: row.at.toISOString() }) as unknown as T;

/** The named moments of a plan, newest first. */
export async function listRevisions(id: string): Promise<RevisionHead[]> {
  const rows = await query<Row<RevisionHead>>(
    `select ${HEAD} from revisions where plan_id = $1 order by revisions.id desc limit 500`,
    [id],
  );
  return rows.map((row) => told(row));
}

export async function readRevision(id: string, name: string): Promise<Revision | undefined> {
  const [row] = await query<Row<Revision>>(
    `select ${HEAD}, plan, part_fingerprint as "partFingerprint", findings, files
       from revisions where plan_id = $1 and name = $2`,
    [id, name],
  );
  return row && told<Revision>({ ...row, plan: migratePlan(row.plan) as Plan });
}

/**
 * Keeps a moment of a plan for good, under the revision that the plan says it is, with its findings and the code that it gives.
 * Undefined when there is no such moment.
 */
export async function keepRevision(
  id: string,
  { seq, note, author }: { seq: number; note: string; author: string },
): Promise<Result<RevisionHead> | undefined> {
  const then = await planAt(id, seq);
  if (!then) return undefined;
  const { plan } = then;
  const name = plan.revision.trim();
  if (name === '')
    return fail({ place: 'revision', message: 'the plan says no revision; give it one first' });
  const part = await findPlanPart(plan);
  if (!part) return fail({ place: 'device', message: `there is no part "${plan.device}" here` });
  const targets = await query<{ target: string }>(
    'select distinct target from exports where plan_id = $1 and seq <= $2',
    [id, seq],
  );
  const revised = await workOnPart('revise', part, {
    plan,
    targets: [...new Set(['c', ...targets.map(({ target }) => target)])],
  });
  if (!revised.ok) return revised;
  const { fingerprint, findings, files } = revised.value;
  try {
    await query(
      `insert into revisions (plan_id, name, seq, note, author, plan, fingerprint, part_fingerprint, findings, files, person_id)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
      [
        id,
        name,
        seq,
        note,
        signedName(author),
        JSON.stringify(plan),
        fingerprint,
        part.fingerprint,
        JSON.stringify(findings),
        JSON.stringify(files),
        personNow(),
      ],
    );
  } catch (error) {
    if ((error as { code?: string }).code !== '23505') throw error;
    return fail({
      place: 'revision',
      message: `revision ${name} is kept already, and never changes; give the plan another revision first`,
    });
  }
  const kept = (await listRevisions(id)).find((one) => one.name === name);
  return kept ? ok(kept) : fail({ place: 'revision', message: 'is gone' });
}
