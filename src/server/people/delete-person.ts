import { fail, ok, type Result } from '@/core/base/result';
import { announceRenamed } from '../announce';
import { type Queryable, query, transaction } from '../db';
import { forgetAccess } from './access-cache';
import { accountBy } from './accounts';
import { asServer } from './who';

/**
 * Deletes a person: what they did stays, under a pseudonym, in histories, comments, revisions, verdicts, waivers and the audit log;
 * address, password, sessions and tokens go. Refused while a workspace would lose its last owner.
 */
export async function deletePerson(id: string): Promise<Result<string>> {
  const done = await asServer(() =>
    transaction(async (client): Promise<Result<string>> => {
      const account = await accountBy('id', id, client);
      if (!account) return fail({ place: 'person', message: 'is not there' });
      const { rows: workspaces } = await client.query<{ id: string }>(
        'select w.id from workspaces w join members m on m.workspace_id = w.id where m.person_id = $1 for update of w',
        [id],
      );
      const { rows: alone } = await client.query<{ name: string }>(
        `select w.name from members m join workspaces w on w.id = m.workspace_id
         where m.person_id = $1 and m.role = 'owner' and not exists (
           select 1 from members o where o.workspace_id = m.workspace_id and o.role = 'owner' and o.person_id <> $1)
           and exists (select 1 from members o where o.workspace_id = m.workspace_id and o.person_id <> $1)`,
        [id],
      );
      if (alone[0])
        return fail({
          place: 'person',
          message: `is the only owner of ${alone[0].name}; make somebody else one first`,
        });
      const pseudonym = `former member ${id.slice(0, 6)}`;
      await client.query(
        `update people set name = $2, email = null, password = null, issuer = null, subject = null, deleted_at = now()
         where id = $1`,
        [id, pseudonym],
      );
      for (const table of ['sessions', 'tokens', 'known_devices', 'members'])
        await client.query(`delete from ${table} where person_id = $1`, [id]);
      await rename(client, id, workspaces, account.name, pseudonym);
      await client.query('update comments set resolved_by = $2 where resolved_person_id = $1', [
        id,
        pseudonym,
      ]);
      await client.query('update audit set who = $2 where person_id = $1', [id, pseudonym]);
      return ok(pseudonym);
    }),
  );
  forgetAccess();
  announceRenamed();
  return done;
}

/** Puts a pseudonym wherever somebody is an author: of edits and what else they did, and of waivers in the plans they could reach. */
async function rename(
  client: Queryable,
  id: string,
  workspaces: readonly { id: string }[],
  was: string,
  becomes: string,
): Promise<void> {
  await client.query(
    "select set_config('mavrek.renamed', $1, true), set_config('mavrek.pseudonym', $2, true)",
    [was, becomes],
  );
  await client.query('update comments set author = $2 where person_id = $1', [id, becomes]);
  // Each row at once: what is kept for good lets itself be renamed wholly, or not at all.
  const inside: Record<string, { authored: boolean; documents: readonly string[] }> = {
    edits: { authored: true, documents: ['edit'] },
    folded_edits: { authored: false, documents: ['edits'] },
    snapshots: { authored: false, documents: ['plan'] },
    revisions: { authored: true, documents: ['plan', 'findings'] },
    verdicts: { authored: true, documents: [] },
  };
  for (const [table, { authored, documents }] of Object.entries(inside)) {
    const sets = [
      ...(authored ? ['author = case when t.author = $1 then $2 else t.author end'] : []),
      ...documents.map((column) => `${column} = mavrek_renamed(t.${column}, $1, $2)`),
    ];
    const holds = [
      ...(authored ? ['t.author = $1'] : []),
      ...documents.map((column) => `strpos(t.${column}::text, '"author": ' || to_jsonb($1::text)::text) > 0`),
    ];
    await client.query(
      `update ${table} t set ${sets.join(', ')} from plans p
       where p.id = t.plan_id and (p.workspace_id = any($3) or ${authored ? 't.person_id = $4' : '$4::text is null'})
         and (${holds.join(' or ')})`,
      [was, becomes, workspaces.map((one) => one.id), id],
    );
  }
}

/** Whether somebody owns every workspace that another is in: then they may delete that account. */
export async function ownsAllOf(owner: string, other: string): Promise<boolean> {
  const rows = await asServer(() =>
    query(
      `select 1 from members m where m.person_id = $2 and not exists (
         select 1 from members o where o.workspace_id = m.workspace_id and o.person_id = $1 and o.role = 'owner')`,
      [owner, other],
    ),
  );
  return rows.length === 0;
}
