import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { renameNet } from '@/core/plan/edits/make-edits';
import { frostGuard, netOf } from '@/testing/frost-guard';

/** Against the real PostgreSQL that the test launcher starts and names in DATABASE_URL, in databases of the test's own. */
const folder = mkdtempSync(join(tmpdir(), 'mavrek-backup-'));
const server = new URL(process.env.DATABASE_URL ?? '');
const names: string[] = [];
const urlOf = (name: string): string => {
  const url = new URL(server);
  url.pathname = `/${name}`;
  return url.href;
};
async function on<T>(url: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}
async function fresh(): Promise<string> {
  const name = `mavrek_backup_${process.pid}_${names.length}`;
  await on(server.href, (client) => client.query(`create database ${name}`));
  names.push(name);
  return urlOf(name);
}
/** Up to the newest schema, or by so many steps. */
function migrations(url: string, count?: number): void {
  const { status, stderr } = spawnSync(
    'node_modules/.bin/node-pg-migrate',
    ['up', ...(count === undefined ? [] : [String(count)]), '-m', 'db/migrations', '-t', 'migrations'],
    { encoding: 'utf8', env: { ...process.env, DATABASE_URL: url } },
  );
  if (status !== 0) throw new Error(stderr);
}
const BIN = `/usr/lib/postgresql/${readdirSync('/usr/lib/postgresql').sort().at(-1)}/bin`;
function run(script: 'backup' | 'restore', url: string, file: string) {
  const { status, stdout, stderr } = spawnSync(
    'node',
    ['node_modules/tsx/dist/cli.mjs', `src/server/backup/${script}.ts`, file],
    { encoding: 'utf8', env: { ...process.env, DATABASE_URL: url, PG_BIN: BIN } },
  );
  return { status, stdout, stderr };
}
const hasWorkspaces = async (client: pg.Client): Promise<boolean> =>
  (await client.query("select 1 from pg_tables where schemaname = 'public' and tablename = 'workspaces'"))
    .rowCount === 1;
const edits = async (client: pg.Client): Promise<boolean> =>
  (await client.query("select 1 from pg_tables where schemaname = 'public' and tablename = 'folded_edits'"))
    .rowCount === 1;
/** The demo with one edit, as its tables hold it. */
async function fill(url: string): Promise<void> {
  const demo = frostGuard();
  await on(url, async (client) => {
    const [columns, values] = (await hasWorkspaces(client)) ? ['workspace_id, ', "'main', "] : ['', ''];
    await client.query(
      `insert into plans (${columns}id, name, revision, device, package, seq, nets, placed)
       values (${values}'guard', 'Frost guard', 'C', $1, $2, 1, 50, 50)`,
      [demo.device, demo.package],
    );
    await client.query("insert into snapshots (plan_id, seq, plan) values ('guard', 0, $1)", [
      JSON.stringify(demo),
    ]);
    await client.query(
      `insert into edits (${(await edits(client)) ? 'workspace_id, ' : ''}plan_id, seq, edit_id, client, made_against, format, edit)
       values (${(await edits(client)) ? "'main', " : ''}'guard', 1, 'e', 'test', 0, 2, $1)`,
      [JSON.stringify(renameNet(netOf(demo, 'FAN_1'), 'FAN_A'))],
    );
  });
}

afterAll(async () => {
  for (const name of names)
    await on(server.href, (client) => client.query(`drop database if exists ${name} with (force)`));
  rmSync(folder, { recursive: true });
});

test('a backup comes back whole, and every plan of it replays; nothing else is written over', async () => {
  const [from, to] = [await fresh(), await fresh()];
  migrations(from);
  await fill(from);
  const file = join(folder, 'all.mavrek');
  expect(run('backup', from, file)).toMatchObject({
    status: 0,
    stdout: `1 plans with 1 edits are in ${file}\n`,
  });
  const back = run('restore', to, file);
  expect(back).toMatchObject({ status: 0, stderr: '' });
  expect(back.stdout).toMatch(/1 plans with 1 edits, 1 of them replayed/);
  const rows = (url: string) =>
    on(url, async (client) => (await client.query('select * from edits order by seq')).rows);
  expect(await rows(to)).toEqual(await rows(from));
  // Once more into the same: it is not empty any more.
  expect(run('restore', to, file)).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('is not empty'),
  });
  // People have the rights in it that they had, and no others.
  await on(to, async (client) => {
    await client.query("begin; set local role mavrek_people; set local mavrek.who = 'p:nobody'");
    expect((await client.query('select id from plans')).rows).toEqual([]);
    await expect(client.query('select password from people')).rejects.toThrow('permission denied');
    await client.query('rollback');
  });
  // A revision that is kept stays one that never changes.
  await on(to, (client) =>
    expect(client.query("select tgname from pg_trigger where tgname like '%\\_stay'")).resolves.toMatchObject(
      { rowCount: 2 },
    ),
  );
});

test('of a damaged file, or one of something else, nothing is taken', async () => {
  const from = await fresh();
  migrations(from);
  await fill(from);
  const file = join(folder, 'damaged.mavrek');
  run('backup', from, file);
  const bytes = readFileSync(file);
  const at = bytes.indexOf('PGDMP') + 400;
  bytes[at] = (bytes[at] ?? 0) ^ 255;
  writeFileSync(file, bytes);
  const to = await fresh();
  expect(run('restore', to, file)).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('is damaged'),
  });
  writeFileSync(join(folder, 'other'), 'nothing');
  expect(run('restore', to, join(folder, 'other'))).toMatchObject({ status: 1, stdout: '' });
  await on(to, async (client) => {
    const { rows } = await client.query(
      "select count(*)::int as count from pg_tables where schemaname = 'public'",
    );
    expect(rows).toEqual([{ count: 0 }]);
  });
  expect(run('backup', urlOf('nowhere'), join(folder, 'none'))).toMatchObject({ status: 1, stdout: '' });
  expect(readdirSync(folder).filter((name) => name.startsWith('.mavrek') || name === 'none')).toEqual([]);
});

test('what the version before wrote is brought to today’s schema with its data', async () => {
  const [old, to] = [await fresh(), await fresh()];
  // As it was before history, review and variants.
  migrations(old, 8);
  await fill(old);
  migrations(old);
  await on(old, async (client) => {
    expect((await client.query('select author from edits')).rows).toEqual([{ author: '' }]);
    expect((await client.query('select seq, workspace_id from plans')).rows).toEqual([
      { seq: '1', workspace_id: 'main' },
    ]);
  });
  const before = await fresh();
  migrations(before, 8);
  await fill(before);
  const file = join(folder, 'old.mavrek');
  expect(run('backup', before, file).status).toBe(0);
  expect(run('restore', to, file)).toMatchObject({ status: 0, stderr: '' });
  await on(to, async (client) =>
    expect((await client.query('select count(*)::int as count from revisions')).rows).toEqual([{ count: 0 }]),
  );
});
