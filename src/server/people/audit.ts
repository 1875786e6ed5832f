import type { AuditEntry } from '@/core/people/rights';
import { query } from '../db';
import { log } from '../log';
import { asServer, type Who } from './who';

/** Who did what, for good. What is written into a plan is in its history instead. */

export interface Done {
  action: string;
  target: string;
  status: number;
}

/** Notes something that was done, or refused. It never holds up or undoes what it tells of. */
export function note(who: Pick<Who, 'workspace' | 'person' | 'via'>, { action, target, status }: Done): void {
  asServer(() =>
    query(
      `insert into audit (workspace_id, person_id, who, via, action, target, status)
       values ((select id from workspaces where id = $1), (select id from people where id = $2), $3, $4, $5, $6, $7)`,
      [
        who.workspace,
        who.person?.id ?? null,
        who.person?.name ?? '',
        who.via,
        action,
        target.slice(0, 300),
        status,
      ],
    ),
  ).catch((error: Error) => log.error({ err: error.message, action }, 'the audit log was not written'));
}

const PAGE = 200;

/** Entries of a workspace, newest first, a page at a time. */
export async function auditOf(
  workspace: string,
  before = Number.MAX_SAFE_INTEGER,
): Promise<{ entries: AuditEntry[]; more: boolean }> {
  const rows = await query<Omit<AuditEntry, 'at'> & { at: Date }>(
    // A plan is told by its name, which people know it by.
    `select a.id, a.at, a.who, a.via, a.action, a.status,
       case when p.id is null then a.target else concat_ws(' ', p.name, substr(a.target, length(p.id) + 2)) end as target
     from audit a left join plans p on p.id = split_part(a.target, ' ', 1) and p.workspace_id = a.workspace_id
       and a.action like '% /api/plans/{id}%'
     where a.workspace_id = $1 and a.id < $2 order by a.id desc limit $3`,
    [workspace, before, PAGE + 1],
  );
  return {
    entries: rows.slice(0, PAGE).map((row) => ({ ...row, at: row.at.toISOString() })),
    more: rows.length > PAGE,
  };
}
