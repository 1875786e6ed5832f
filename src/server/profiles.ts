import { fail, ok, type Result } from '@/core/base/result';
import { newId } from '@/core/base/text/new-id';
import { migratePlan } from '@/core/plan/migrations';
import type { Plan } from '@/core/plan/model/types';
import { planFromProfile } from '@/core/plan/profile';
import type { ProfileSummary } from '@/core/plan/profile-summary';
import { query } from './db';
import { findPlanPart, packagesOf } from './parts';
import { workspaceNow } from './people/who';
import { storePlan } from './plans';

/** Board profiles, by part and name. */
export async function listProfiles(): Promise<ProfileSummary[]> {
  return query<ProfileSummary>(
    'select id, name, device, package, nets from board_profiles where workspace_id = $1 order by lower(name), id limit 500',
    [workspaceNow()],
  );
}

/** Keeps a board's fixed wiring (see `profileOf`) under a name; a profile of that name for the same part is replaced. */
export async function saveProfile(name: string, profile: Plan): Promise<Result<string>> {
  const part = await findPlanPart(profile);
  if (!part || !(await packagesOf(part)).packages.includes(profile.package))
    return fail({ place: 'device', message: `there is no part "${profile.device}" with that package here` });
  if (profile.nets.length === 0)
    return fail({ place: 'nets', message: 'no net is locked, so there is no fixed wiring to keep' });
  const rows = await query<{ id: string }>(
    `insert into board_profiles (id, name, device, package, nets, content, workspace_id) values ($1, $2, $3, $4, $5, $6, $7)
     on conflict (workspace_id, device, name) do update
       set package = excluded.package, nets = excluded.nets, content = excluded.content, updated_at = now()
     returning id`,
    [
      newId(),
      name,
      profile.device,
      profile.package,
      profile.nets.length,
      JSON.stringify(profile),
      workspaceNow(),
    ],
  );
  return ok(rows[0]?.id ?? '');
}

/** A new plan that starts from a profile, its wiring locked. */
export async function createFromProfile(name: string, profileId: string): Promise<Result<string>> {
  const rows = await query<{ content: Plan }>(
    'select content from board_profiles where id = $1 and workspace_id = $2',
    [profileId, workspaceNow()],
  );
  if (!rows[0]) return fail({ place: 'profile', message: 'that profile is gone' });
  return storePlan(planFromProfile(migratePlan(rows[0].content) as Plan, name));
}

export async function removeProfile(id: string): Promise<boolean> {
  return (
    (
      await query<{ id: string }>(
        'delete from board_profiles where id = $1 and workspace_id = $2 returning id',
        [id, workspaceNow()],
      )
    ).length > 0
  );
}
