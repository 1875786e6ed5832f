import { fail, ok, type Result } from '@/core/base/result';
import type { Member, Role } from '@/core/people/rights';
import { type Queryable, query, transaction } from '../db';
import { newId } from '../ids';
import { storeShippedHere } from '../shipped';
import { forgetAccess } from './access-cache';
import { asServer } from './who';

/** Workspaces and who is in them. Whether whoever asks may is settled by the guard; here all is done with all rights. */

const MOST_WORKSPACES = 20;

/** A new workspace, with the shipped parts, that somebody owns. */
export async function makeWorkspace(personId: string, name: string): Promise<Result<string>> {
  const [count] = await asServer(() =>
    query<{ count: number }>(
      "select count(*)::int as count from members where person_id = $1 and role = 'owner'",
      [personId],
    ),
  );
  if ((count?.count ?? 0) >= MOST_WORKSPACES)
    return fail({ place: 'workspace', message: `nobody owns more than ${MOST_WORKSPACES} workspaces` });
  const id = newId();
  await asServer(() =>
    transaction(async (client) => {
      await client.query('insert into workspaces (id, name) values ($1, $2)', [id, name]);
      await client.query("insert into members (workspace_id, person_id, role) values ($1, $2, 'owner')", [
        id,
        personId,
      ]);
    }),
  );
  await asServer(() => storeShippedHere(), id);
  forgetAccess();
  return ok(id);
}

export async function renameWorkspace(id: string, name: string): Promise<void> {
  await asServer(() => query('update workspaces set name = $2 where id = $1', [id, name]));
}

export const workspacesOf = (personId: string): Promise<{ id: string; name: string; role: Role }[]> =>
  asServer(() =>
    query<{ id: string; name: string; role: Role }>(
      `select w.id, w.name, m.role from members m join workspaces w on w.id = m.workspace_id
       where m.person_id = $1 order by lower(w.name), w.id`,
      [personId],
    ),
  );

export async function listMembers(workspace: string): Promise<Member[]> {
  const rows = await asServer(() =>
    query<Omit<Member, 'since'> & { since: Date }>(
      `select p.id, p.name, coalesce(p.email, '') as email, m.role, m.since
       from members m join people p on p.id = m.person_id
       where m.workspace_id = $1 order by lower(p.name) limit 1000`,
      [workspace],
    ),
  );
  return rows.map((row) => ({ ...row, since: row.since.toISOString() }));
}

/** What would leave a workspace without an owner is not done. Undefined when the person is not in it. */
async function withOwnerLeft(
  workspace: string,
  personId: string,
  change: (client: Queryable) => Promise<unknown>,
): Promise<Result<null> | undefined> {
  const done = await asServer(() =>
    transaction(async (client): Promise<Result<null> | undefined> => {
      // Two owners who step down at the same moment do so one after the other.
      await client.query('select id from workspaces where id = $1 for update', [workspace]);
      const { rows } = await client.query(
        'select role from members where workspace_id = $1 and person_id = $2',
        [workspace, personId],
      );
      if (!rows[0]) return undefined;
      await change(client);
      const { rows: owners } = await client.query(
        "select 1 from members where workspace_id = $1 and role = 'owner' limit 1",
        [workspace],
      );
      if (owners.length === 0) throw new LastOwner();
      return ok(null);
    }),
  ).catch((error: Error) => {
    if (error instanceof LastOwner)
      return fail({
        place: 'role',
        message: 'a workspace keeps at least one owner; make somebody else one first',
      });
    throw error;
  });
  forgetAccess();
  return done;
}

class LastOwner extends Error {}

export const setRole = (workspace: string, personId: string, role: Role) =>
  withOwnerLeft(workspace, personId, (client) =>
    client.query('update members set role = $3 where workspace_id = $1 and person_id = $2', [
      workspace,
      personId,
      role,
    ]),
  );

/** Takes somebody out of a workspace, with the tokens that they made for it. */
export const removeMember = (workspace: string, personId: string) =>
  withOwnerLeft(workspace, personId, async (client) => {
    await client.query('delete from tokens where workspace_id = $1 and person_id = $2', [
      workspace,
      personId,
    ]);
    await client.query('delete from members where workspace_id = $1 and person_id = $2', [
      workspace,
      personId,
    ]);
  });

/** Which workspace a plan is in, deleted or not. */
export async function workspaceOfPlan(id: string): Promise<string | undefined> {
  const [row] = await asServer(() =>
    query<{ workspace: string }>('select workspace_id as workspace from plans where id = $1', [id]),
  );
  return row?.workspace;
}
