import { execFileSync } from 'node:child_process';
import { mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import pg from 'pg';
import { databaseUrl } from '../db';
import { BACKUP_FORMAT, contentsOf, type Manifest, sha256Of } from './manifest';

/**
 * `backup.ts FILE`: everything in the database as one file, also while people go on working: dump and counts are of one snapshot. The
 * file is there whole or not at all. `PG_BIN` is where PostgreSQL's programs are.
 */
async function backup(file: string): Promise<void> {
  const folder = mkdtempSync(join(dirname(file), '.mavrek-backup-'));
  const client = new pg.Client({ connectionString: databaseUrl() });
  try {
    await client.connect();
    await client.query('begin isolation level repeatable read read only');
    const { rows } = await client.query<{ snapshot: string }>('select pg_export_snapshot() as snapshot');
    const dump = join(folder, 'dump');
    execFileSync(
      join(process.env.PG_BIN ?? '', 'pg_dump'),
      [
        '--format=custom',
        '--no-owner',
        '--no-privileges',
        `--snapshot=${rows[0]?.snapshot}`,
        `--file=${dump}`,
        databaseUrl(),
      ],
      { stdio: ['ignore', 'ignore', 'pipe'] },
    );
    const manifest: Manifest = {
      format: BACKUP_FORMAT,
      at: new Date().toISOString(),
      sha256: await sha256Of(dump),
      ...(await contentsOf(client)),
    };
    await client.query('rollback');
    writeFileSync(join(folder, 'manifest.json'), `${JSON.stringify(manifest, null, 2)}\n`);
    const whole = join(folder, 'whole.tar');
    execFileSync('tar', ['-cf', whole, '-C', folder, 'manifest.json', 'dump']);
    renameSync(whole, file);
    process.stdout.write(`${manifest.plans} plans with ${manifest.rows.edits ?? 0} edits are in ${file}\n`);
  } finally {
    await client.end();
    rmSync(folder, { recursive: true });
  }
}

backup(resolve(process.argv[2] ?? '')).catch((error: Error & { stderr?: Buffer }) => {
  process.stderr.write(`mavrek: no backup was made: ${error.stderr?.toString().trim() || error.message}\n`);
  process.exitCode = 1;
});
