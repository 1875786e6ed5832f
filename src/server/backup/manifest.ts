import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import type pg from 'pg';

export const BACKUP_FORMAT = 'mavrek-backup/1';

/** What a backup holds, to be held against what comes back. */
export interface Manifest {
  format: typeof BACKUP_FORMAT;
  /** ISO 8601. */
  at: string;
  /** SHA-256 of the dump. */
  sha256: string;
  /** Rows of each table. */
  rows: Record<string, number>;
  /** For each plan its newest number: nothing that was acknowledged is missing. */
  plans: number;
  newestEdits: string;
}

export async function sha256Of(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of createReadStream(file)) hash.update(piece as Buffer);
  return hash.digest('hex');
}

/** Rows of every table of the schema, and a digest of all plans with their newest numbers; as the transaction sees them. */
export async function contentsOf(
  client: pg.ClientBase,
): Promise<Pick<Manifest, 'rows' | 'plans' | 'newestEdits'>> {
  const tables = await client.query<{ name: string }>(
    `select tablename as name from pg_tables where schemaname = 'public' order by 1`,
  );
  const rows: Record<string, number> = {};
  for (const { name } of tables.rows) {
    const quoted = name.replaceAll('"', '""');
    const { rows: counted } = await client.query<{ count: number }>(
      `select count(*)::int as count from "${quoted}"`,
    );
    rows[name] = counted[0]?.count ?? 0;
  }
  // What is old is folded; versions before that had no such table.
  const folds = rows.folded_edits !== undefined;
  const heads = await client.query<{ id: string; seq: string; newest: string | null }>(
    `select p.id, p.seq::text, greatest((select max(e.seq) from edits e where e.plan_id = p.id)
       ${folds ? ', (select max(f.last) from folded_edits f where f.plan_id = p.id)' : ''})::text as newest
       from plans p order by p.id collate "C"`,
  );
  const hash = createHash('sha256');
  for (const { id, seq, newest } of heads.rows) hash.update(`${id} ${seq} ${newest ?? 0}\n`);
  return { rows, plans: heads.rows.length, newestEdits: hash.digest('hex') };
}
