import { fail, ok, type Result } from '@/core/base/result';
import { freeName } from '@/core/base/text/free-name';
import { newId } from '@/core/base/text/new-id';
import { emptyPlan, type Plan } from '@/core/plan/model/types';
import type { PlanSummary } from '@/core/plan/summary';
import { catchUp, countNow } from './counts';
import { database, type Queryable, query, transaction } from './db';
import { HEAD_COLUMNS, headSeq, headValues, insertSnapshot, loadPlan } from './edit-store';
import { findPart, findPlanPart, packagesOf } from './parts';
import { workspaceNow } from './people/who';

const SUMMARY = `select id, name, revision, device, package, nets, placed, errors, warnings,
  updated_at as "updatedAt", deleted_at as "deletedAt", counted_seq is not distinct from seq as counted from plans`;

/** The most plans that a list tells; what is further back is found by its name. */
export const LISTED_PLANS = 500;

/**
 * Plans, the one changed last first, all or those whose name, revision or part holds some words. Deleted ones come after, for a while,
 * so that they can be brought back.
 */
export async function listPlans(find = ''): Promise<PlanSummary[]> {
  const rows = await query<PlanSummary & { updatedAt: Date; deletedAt: Date | null; counted: boolean }>(
    `${SUMMARY} where workspace_id = $1 and (deleted_at is null or deleted_at > now() - interval '30 days')
       and (select bool_and(strpos(lower(concat_ws(' ', name, revision, device)), word) > 0)
            from unnest($2::text[]) word) is not false
     order by deleted_at is not null, coalesce(deleted_at, updated_at) desc limit ${LISTED_PLANS}`,
    [workspaceNow(), find.toLowerCase().split(/\s+/).filter(Boolean).slice(0, 10)],
  );
  catchUp(rows.filter((row) => !row.counted && row.deletedAt === null).map((row) => row.id));
  return rows.map(({ counted: _counted, ...row }) => ({
    ...row,
    updatedAt: row.updatedAt.toISOString(),
    deletedAt: row.deletedAt?.toISOString() ?? null,
  }));
}

async function insertPlan(client: Queryable, id: string, plan: Plan): Promise<void> {
  const places = HEAD_COLUMNS.map((_column, index) => `$${index + 3}`).join(', ');
  await client.query(
    `insert into plans (id, workspace_id, ${HEAD_COLUMNS.join(', ')}) values ($1, $2, ${places})`,
    [id, workspaceNow(), ...headValues(plan)],
  );
  await insertSnapshot(client, id, 0, plan);
}

/** Stores a plan under a new id. Refuses parts and packages that are not known here. */
export async function storePlan(plan: Plan, wantedId?: string): Promise<Result<string>> {
  const part = await findPlanPart(plan);
  if (!part) return fail({ place: 'device', message: `there is no part "${plan.device}" here` });
  const { name, packages } = await packagesOf(part);
  if (!packages.includes(plan.package)) {
    const message = `${name} has no package "${plan.package}"; it has ${packages.join(', ')}`;
    return fail({ place: 'package', message });
  }
  const id = wantedId ?? newId();
  await transaction((client) => insertPlan(client, id, plan));
  // The list that is asked for next should show them; where counting takes long, it follows.
  await Promise.race([countNow(id), new Promise((done) => setTimeout(done, 1000).unref())]);
  return ok(id);
}

export async function createPlan(name: string, deviceId: string, packageId: string): Promise<Result<string>> {
  const part = await findPart(deviceId);
  return storePlan(emptyPlan(name, deviceId, packageId, part?.fingerprint ?? ''));
}

/** The plan and its newest sequence number; undefined when it is not there or deleted. */
export async function readPlan(id: string): Promise<{ plan: Plan; seq: number } | undefined> {
  return (await planIsThere(id)) ? loadPlan(database, id) : undefined;
}

/** Whether there is such a plan, without reading it. */
export const planIsThere = async (id: string): Promise<boolean> =>
  (await headSeq(database, id)) !== undefined;

/** A copy with a name that says so and a history of its own. */
export async function duplicatePlan(id: string): Promise<Result<string> | undefined> {
  const current = await readPlan(id);
  if (!current) return undefined;
  const names = new Set((await listPlans()).map((plan) => plan.name));
  const stem = current.plan.name.slice(0, 105);
  const name = freeName(`${stem} copy`, (one) => names.has(one), ' ');
  return storePlan({ ...current.plan, name });
}

/** How many other plans have a plan's name and revision. */
export async function countNamesakes(id: string): Promise<number> {
  const rows = await query<{ count: number }>(
    `select count(*)::int as count from plans p join plans o on o.workspace_id = p.workspace_id and lower(trim(o.name)) = lower(trim(p.name))
       and o.revision = p.revision and o.id <> p.id and o.deleted_at is null
     where p.id = $1 and p.workspace_id = $2`,
    [id, workspaceNow()],
  );
  return rows[0]?.count ?? 0;
}

/** Deleting hides a plan; nothing is removed, so that it can be brought back. */
export async function setDeleted(id: string, deleted: boolean): Promise<boolean> {
  const rows = await query(
    `update plans set deleted_at = case when $2 then now() end
     where id = $1 and workspace_id = $3 and (deleted_at is null) = $2 returning id`,
    [id, deleted, workspaceNow()],
  );
  return rows.length > 0;
}
