import type { Invitation, Role } from '@/core/people/rights';
import { type Queryable, query } from '../db';
import { newId } from '../ids';
import { digestOf, newSecret } from './secrets';
import { asServer } from './who';

/** Accounts are made by invitation only: a link, good once, for a while, for one address. */
const DAYS = 14;

/** Makes an invitation and tells the secret of its link, this once. */
export async function invite(
  workspace: string,
  {
    email,
    role,
    by,
    personId = null,
  }: { email: string; role: Role; by: string | null; personId?: string | null },
): Promise<{ id: string; key: string }> {
  const id = newId();
  const key = newSecret();
  await asServer(() =>
    query(
      `insert into invitations (id, digest, workspace_id, email, role, made_by, person_id, expires_at)
       values ($1, $2, $3, $4, $5, $6, $7, now() + interval '${DAYS} days')`,
      [id, digestOf(key), workspace, email, role, by, personId],
    ),
  );
  return { id, key };
}

export interface OpenInvitation {
  id: string;
  workspace: string;
  workspaceName: string;
  email: string;
  role: Role;
  /** The account that it sets a new password of; null for an invitation. */
  personId: string | null;
  /** The address has an account. */
  known: boolean;
}

const OPEN = `select i.id, i.workspace_id as workspace, w.name as "workspaceName", i.email, i.role,
    i.person_id as "personId", exists (select 1 from people p where lower(p.email) = lower(i.email)) as known
  from invitations i join workspaces w on w.id = i.workspace_id
  where i.taken_at is null and i.expires_at > now()`;

/** The invitation behind a link, while it is open. */
export async function invitationOf(key: string): Promise<OpenInvitation | undefined> {
  const [row] = await asServer(() => query<OpenInvitation>(`${OPEN} and i.digest = $1`, [digestOf(key)]));
  return row;
}

/** What somebody is invited to under an address. */
export const invitationsFor = (email: string): Promise<OpenInvitation[]> =>
  asServer(() =>
    query<OpenInvitation>(
      `${OPEN} and i.person_id is null and lower(i.email) = lower($1) order by i.made_at`,
      [email],
    ),
  );

/** Takes an invitation, once. False when somebody was faster, or it was withdrawn. */
export async function takeInvitation(
  client: Queryable,
  { id, workspace, role }: OpenInvitation,
  personId: string,
): Promise<boolean> {
  const { rows } = await client.query(
    'update invitations set taken_at = now() where id = $1 and taken_at is null and expires_at > now() returning id',
    [id],
  );
  if (rows.length === 0) return false;
  // Who is in already keeps the role that they have.
  await client.query(
    'insert into members (workspace_id, person_id, role) values ($1, $2, $3) on conflict do nothing',
    [workspace, personId, role],
  );
  return true;
}

export async function listInvitations(workspace: string): Promise<Invitation[]> {
  const rows = await asServer(() =>
    query<Omit<Invitation, 'madeAt' | 'expiresAt'> & { madeAt: Date; expiresAt: Date }>(
      `select id, email, role, made_at as "madeAt", expires_at as "expiresAt" from invitations
       where workspace_id = $1 and taken_at is null and person_id is null and expires_at > now() order by made_at desc limit 500`,
      [workspace],
    ),
  );
  return rows.map(({ madeAt, expiresAt, ...row }) => ({
    ...row,
    madeAt: madeAt.toISOString(),
    expiresAt: expiresAt.toISOString(),
  }));
}

export async function withdrawInvitation(workspace: string, id: string): Promise<boolean> {
  const rows = await asServer(() =>
    query('delete from invitations where workspace_id = $1 and id = $2 and taken_at is null returning id', [
      workspace,
      id,
    ]),
  );
  return rows.length > 0;
}
