import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import pg from 'pg';
import { parsePlan } from '@/core/plan/file/plan-file';
import { printPlan } from '@/core/plan/file/print-plan';
import { closeServer } from '../close';
import { database, databaseUrl, query } from '../db';
import { loadPlan } from '../edit-store';
import { ensureRole, migrate } from '../migrate';
import { asServer } from '../people/who';
import { BACKUP_FORMAT, contentsOf, type Manifest, sha256Of } from './manifest';

/**
 * `restore.ts FILE`: a backup into an empty database, in one transaction, held against its manifest; then brought to today's schema, and
 * every plan replayed from its log. Whatever is wrong, the database is not to be used.
 */
async function restore(file: string): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-restore-'));
  const client = new pg.Client({ connectionString: databaseUrl() });
  try {
    execFileSync('tar', ['-xf', file, '-C', folder, 'manifest.json', 'dump'], {
      stdio: ['ignore', 'ignore', 'pipe'],
    });
    const manifest = JSON.parse(readFileSync(join(folder, 'manifest.json'), 'utf8')) as Manifest;
    if (manifest.format !== BACKUP_FORMAT) throw new Error(`${file} is no backup of this kind`);
    const dump = join(folder, 'dump');
    if ((await sha256Of(dump)) !== manifest.sha256)
      throw new Error(`${file} is damaged: its content is not what was written`);
    await client.connect();
    const { rows } = await client.query<{ count: number }>(
      "select count(*)::int as count from pg_tables where schemaname = 'public'",
    );
    if ((rows[0]?.count ?? 0) > 0)
      throw new Error('the database is not empty; a backup goes into an empty one only');
    await ensureRole();
    execFileSync(
      join(process.env.PG_BIN ?? '', 'pg_restore'),
      [
        '--exit-on-error',
        '--single-transaction',
        '--no-owner',
        '--no-privileges',
        `--dbname=${databaseUrl()}`,
        dump,
      ],
      { stdio: ['ignore', 'ignore', 'pipe'] },
    );
    const { rows: counts, plans, newestEdits } = await contentsOf(client);
    for (const [table, count] of Object.entries(manifest.rows))
      if (counts[table] !== count)
        throw new Error(`table ${table} has ${counts[table] ?? 0} rows, and had ${count}`);
    if (plans !== manifest.plans || newestEdits !== manifest.newestEdits)
      throw new Error('plans have other newest edits than they had');
    await client.end();
    await migrate();
    const replayed = await replayAll();
    if (replayed !== manifest.plans) throw new Error(`${replayed} of ${manifest.plans} plans were replayed`);
    process.stdout.write(
      `restored from ${manifest.at}: ${manifest.plans} plans with ${manifest.rows.edits ?? 0} edits, ${replayed} of them replayed\n`,
    );
  } finally {
    await client.end().catch(() => undefined);
    await closeServer();
    rmSync(folder, { recursive: true });
  }
}

/** Loads every plan out of its log, in its workspace, and reads it as a file would be read. */
async function replayAll(): Promise<number> {
  const plans = await asServer(() =>
    query<{ id: string; workspace: string; seq: number }>(
      'select id, workspace_id as workspace, seq from plans order by id',
    ),
  );
  for (const { id, workspace, seq } of plans) {
    const head = await asServer(() => loadPlan(database, id), workspace);
    if (!head) throw new Error(`plan ${id} has no beginning`);
    if (head.seq !== seq) throw new Error(`plan ${id} has edits up to ${head.seq}, and should have ${seq}`);
    const read = parsePlan(id, printPlan(head.plan));
    if (!read.ok)
      throw new Error(`plan ${id} cannot be read: ${read.problems[0]?.place}: ${read.problems[0]?.message}`);
  }
  return plans.length;
}

restore(resolve(process.argv[2] ?? '')).catch((error: Error & { stderr?: Buffer }) => {
  process.stderr.write(`mavrek: nothing was restored: ${error.stderr?.toString().trim() || error.message}\n`);
  process.exitCode = 1;
});
