import type { SessionHead } from '@/core/people/rights';
import { query } from '../db';
import { newId } from '../ids';
import { forgetAccess } from './access-cache';
import { digestOf, newSecret } from './secrets';
import { asServer } from './who';

/** Who is signed in where. The cookie holds a secret, the table its digest. */

/** Unused for so long it ends by itself; at the latest after the second. */
const IDLE_DAYS = 14;
const LONGEST_DAYS = 90;

export const SESSION_SECONDS = LONGEST_DAYS * 86_400;

export async function startSession(personId: string, agent: string): Promise<string> {
  const secret = newSecret();
  await asServer(() =>
    query(
      `insert into sessions (digest, id, person_id, workspace_id, agent, expires_at)
       select $1, $2, $3, (select workspace_id from members where person_id = $3 order by since limit 1), $4,
         now() + interval '${LONGEST_DAYS} days'`,
      [digestOf(secret), newId(), personId, agent.slice(0, 200)],
    ),
  );
  // What has ended is of no use to anybody.
  await asServer(() =>
    query(`delete from sessions where expires_at < now() or seen_at < now() - interval '${IDLE_DAYS} days'`),
  );
  return secret;
}

export interface OpenSession {
  id: string;
  personId: string;
  name: string;
  workspace: string | null;
  roles: Record<string, string>;
}

/** The session behind a cookie, as long as it lasts, with all roles of whoever it is. */
export async function sessionOf(digest: string): Promise<OpenSession | undefined> {
  const [row] = await asServer(() =>
    query<OpenSession & { stale: boolean }>(
      `select s.id, p.id as "personId", p.name, s.workspace_id as workspace,
         s.seen_at < now() - interval '5 minutes' as stale,
         coalesce((select json_object_agg(m.workspace_id, m.role) from members m where m.person_id = p.id), '{}') as roles
       from sessions s join people p on p.id = s.person_id and p.deleted_at is null
       where s.digest = $1 and s.expires_at > now() and s.seen_at > now() - interval '${IDLE_DAYS} days'`,
      [digest],
    ),
  );
  if (!row) return undefined;
  const { stale, ...session } = row;
  if (stale) await asServer(() => query('update sessions set seen_at = now() where digest = $1', [digest]));
  return session;
}

/** Ends sessions of a person: one, all, or all but one. */
export async function endSessions(
  personId: string,
  which: { only?: string; butNot?: string } = {},
): Promise<boolean> {
  const rows = await asServer(() =>
    query(
      `delete from sessions where person_id = $1 and ($2::text is null or id = $2)
         and ($3::text is null or id <> $3) returning id`,
      [personId, which.only ?? null, which.butNot ?? null],
    ),
  );
  forgetAccess();
  return rows.length > 0;
}

export async function listSessions(personId: string, own: string): Promise<SessionHead[]> {
  const rows = await asServer(() =>
    query<{ id: string; agent: string; madeAt: Date; seenAt: Date }>(
      `select id, agent, made_at as "madeAt", seen_at as "seenAt" from sessions
       where person_id = $1 and expires_at > now() order by seen_at desc limit 100`,
      [personId],
    ),
  );
  return rows.map(({ madeAt, seenAt, ...row }) => ({
    ...row,
    madeAt: madeAt.toISOString(),
    seenAt: seenAt.toISOString(),
    own: row.id === own,
  }));
}

/** Which workspace the pages that are of none show from now on. */
export async function enterWorkspace(sessionId: string, workspace: string): Promise<void> {
  await asServer(() => query('update sessions set workspace_id = $2 where id = $1', [sessionId, workspace]));
  forgetAccess();
}
