import type { Problem } from '@/core/base/problems';
import { fail, ok, type Result } from '@/core/base/result';
import { commonCircuits, type Family, type FoundVariants } from '@/core/variants/variants';
import { query, transaction } from './db';
import { appendEdit } from './edit-log';
import { newId } from './ids';
import { findPlanPart, wholePart } from './parts';
import { workspaceNow } from './people/who';
import { readPlan } from './plans';
import { work } from './work/pool';

/** The family of a plan; undefined where it has none. Plans that were deleted are not in it. */
export async function familyOf(planId: string): Promise<Family | undefined> {
  const rows = await query<{ id: string; circuits: string[] }>(
    `select p.id, f.circuits from variants own
       join families f on f.id = own.family_id
       join variants v on v.family_id = f.id
       join plans p on p.id = v.plan_id and p.deleted_at is null
     where own.plan_id = $1 and f.workspace_id = $2 order by p.id <> $1, lower(p.name), p.id`,
    [planId, workspaceNow()],
  );
  const [first] = rows;
  if (!first || rows.length < 2) return undefined;
  return { plans: rows.map(({ id }) => id), circuits: first.circuits };
}

const MOST_VARIANTS = 20;

/** Makes plans variants of each other; a plan is in one family only. One plan alone leaves its family. */
export async function setFamily(
  planId: string,
  { plans, circuits }: { plans: readonly string[]; circuits: readonly string[] },
): Promise<Result<Family | null>> {
  const ids = [...new Set([planId, ...plans])];
  if (ids.length > MOST_VARIANTS)
    return fail({ place: 'plans', message: `at most ${MOST_VARIANTS} plans are variants of each other` });
  const there = await query<{ id: string }>(
    'select id from plans where id = any($1) and workspace_id = $2 and deleted_at is null',
    [ids, workspaceNow()],
  );
  const gone = ids.find((id) => !there.some((one) => one.id === id));
  if (gone !== undefined) return fail({ place: 'plans', message: `there is no plan "${gone}"` });
  const family = newId();
  await transaction(async (client) => {
    await client.query('delete from variants where plan_id = any($1)', [ids]);
    await client.query(
      `delete from families f
       where f.workspace_id = $1 and not exists (select 1 from variants v where v.family_id = f.id)`,
      [workspaceNow()],
    );
    if (ids.length < 2) return;
    await client.query('insert into families (id, circuits, workspace_id) values ($1, $2, $3)', [
      family,
      JSON.stringify(circuits),
      workspaceNow(),
    ]);
    await client.query(
      'insert into variants (plan_id, family_id) select one, $2 from unnest($1::text[]) one',
      [ids, family],
    );
  });
  return ok((await familyOf(planId)) ?? null);
}

const sideOf = async (id: string) => {
  const current = await readPlan(id);
  const part = current && (await findPlanPart(current.plan));
  if (!current || !part) return undefined;
  return { ...current, part: await wholePart(part) };
};

/** What the variants of a plan do not agree on. */
export async function reportOf(planId: string): Promise<Result<FoundVariants> | undefined> {
  const family = await familyOf(planId);
  if (!family) return undefined;
  const sides = await Promise.all(family.plans.map(sideOf));
  const problems: Problem[] = sides.flatMap((side, at) =>
    side
      ? []
      : [{ place: family.plans[at] ?? '', message: 'the part of this variant is not installed here' }],
  );
  if (problems.length > 0) return fail(...problems);
  const there = sides.flatMap((side) => side ?? []);
  const report = await work('variants', { sides: there, circuits: family.circuits });
  return report.ok
    ? ok({ family, all: commonCircuits(there.map(({ plan }) => plan)), report: report.value })
    : report;
}

/** Makes a net of one variant what it is in another, by an edit; undefined when either is not there. */
export async function takeOver(
  planId: string,
  {
    from,
    circuit,
    net,
    field,
    author,
  }: { from: string; circuit: string; net: string; field?: string; author: string },
): Promise<Result<null> | undefined> {
  // Only variants of one application have anything to take over from each other.
  if (!(await familyOf(planId))?.plans.includes(from)) return undefined;
  const [source, target] = await Promise.all([sideOf(from), sideOf(planId)]);
  if (!source || !target) return undefined;
  const edit = await work('shareEdit', { from: source, to: target, place: { circuit, net }, field });
  if (!edit.ok) return edit;
  if (edit.value === null) return ok(null);
  const result = await appendEdit(planId, {
    editId: newId(),
    client: 'variants',
    author,
    madeAgainst: target.seq,
    edit: edit.value,
  });
  if (result.status === 'gone') return undefined;
  return result.status === 'saved' ? ok(null) : fail(...result.problems);
}
