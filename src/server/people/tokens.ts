import { fail, ok, type Result } from '@/core/base/result';
import type { Role, Scope, TokenHead } from '@/core/people/rights';
import { query } from '../db';
import { newId } from '../ids';
import { forgetAccess } from './access-cache';
import { digestOf, newSecret } from './secrets';
import { asServer } from './who';

/** Access tokens: for build servers, in one workspace, never more than their maker may, and not for ever. */

const TOKEN_PREFIX = 'mvk_';
const MOST_TOKENS = 50;

/** Makes a token; the text that lets in is told this once. */
export async function makeToken(
  personId: string,
  workspace: string,
  { name, scope, days }: { name: string; scope: Scope; days: number },
): Promise<Result<{ id: string; token: string }>> {
  const [count] = await asServer(() =>
    query<{ count: number }>('select count(*)::int as count from tokens where person_id = $1', [personId]),
  );
  if ((count?.count ?? 0) >= MOST_TOKENS)
    return fail({ place: 'token', message: `at most ${MOST_TOKENS} tokens a person; withdraw one first` });
  const id = newId();
  const token = `${TOKEN_PREFIX}${newSecret()}`;
  await asServer(() =>
    query(
      `insert into tokens (id, digest, person_id, workspace_id, name, scope, expires_at)
       values ($1, $2, $3, $4, $5, $6, now() + make_interval(days => $7))`,
      [id, digestOf(token), personId, workspace, name, scope, days],
    ),
  );
  return ok({ id, token });
}

export async function listTokens(personId: string): Promise<TokenHead[]> {
  const rows = await asServer(() =>
    query<
      Omit<TokenHead, 'madeAt' | 'expiresAt' | 'usedAt'> & {
        madeAt: Date;
        expiresAt: Date;
        usedAt: Date | null;
      }
    >(
      `select t.id, t.name, t.scope, w.name as workspace, t.made_at as "madeAt", t.expires_at as "expiresAt",
         t.used_at as "usedAt"
       from tokens t join workspaces w on w.id = t.workspace_id where t.person_id = $1 order by t.made_at desc`,
      [personId],
    ),
  );
  return rows.map(({ madeAt, expiresAt, usedAt, ...row }) => ({
    ...row,
    madeAt: madeAt.toISOString(),
    expiresAt: expiresAt.toISOString(),
    usedAt: usedAt?.toISOString() ?? null,
  }));
}

export async function withdrawToken(personId: string, id: string): Promise<boolean> {
  const rows = await asServer(() =>
    query('delete from tokens where person_id = $1 and id = $2 returning id', [personId, id]),
  );
  forgetAccess();
  return rows.length > 0;
}

export interface OpenToken {
  id: string;
  personId: string;
  person: string;
  name: string;
  workspace: string;
  role: Role;
  scope: Scope;
}

/** The token behind a digest while it lasts, and while its maker is in the workspace. */
export async function tokenOf(digest: string): Promise<OpenToken | undefined> {
  const [row] = await asServer(() =>
    query<OpenToken & { stale: boolean }>(
      `select t.id, p.id as "personId", p.name as person, t.name, t.workspace_id as workspace, m.role, t.scope,
         coalesce(t.used_at < now() - interval '5 minutes', true) as stale
       from tokens t join people p on p.id = t.person_id and p.deleted_at is null
         join members m on m.person_id = t.person_id and m.workspace_id = t.workspace_id
       where t.digest = $1 and t.expires_at > now()`,
      [digest],
    ),
  );
  if (!row) return undefined;
  const { stale, ...token } = row;
  if (stale) await asServer(() => query('update tokens set used_at = now() where digest = $1', [digest]));
  return token;
}
