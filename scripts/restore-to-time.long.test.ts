import { execFileSync, spawnSync } from 'node:child_process';
import { chmodSync, copyFileSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import pg from 'pg';
import { renameNet } from '@/core/plan/edits/make-edits';
import { freePort } from '@/testing/free-port';
import { frostGuard, netOf } from '@/testing/frost-guard';

/** Point-in-time recovery as docs/deploy.md explains it, with PostgreSQL's own programs and a server of the test's own. */
const BIN = `/usr/lib/postgresql/${readdirSync('/usr/lib/postgresql').sort().at(-1)}/bin`;
const folder = mkdtempSync(join(tmpdir(), 'mavrek-pitr-'));
chmodSync(folder, 0o777);

/** PostgreSQL refuses to run as root. */
const owner = ((): { uid?: number; gid?: number } => {
  if (process.getuid?.() !== 0) return {};
  const id = (what: string): number => Number(execFileSync('id', [what, 'postgres'], { encoding: 'utf8' }));
  return { uid: id('-u'), gid: id('-g') };
})();
const run = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { cwd: folder, encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], ...owner });

const up: string[] = [];
async function start(data: string, settings: string): Promise<string> {
  const port = await freePort();
  const options = `-p ${port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' ${settings}`;
  // Its output goes to a file: what waits for the program's own would wait for the server.
  spawnSync(
    join(BIN, 'pg_ctl'),
    ['-D', data, '-w', '-t', '60', '-l', `${data}.log`, '-o', options, 'start'],
    {
      stdio: 'ignore',
      ...owner,
    },
  );
  up.push(data);
  return `postgres://mavrek@127.0.0.1:${port}`;
}

async function on<T>(url: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

afterAll(() => {
  for (const data of up)
    spawnSync(join(BIN, 'pg_ctl'), ['-D', data, '-m', 'immediate', 'stop'], { stdio: 'ignore', ...owner });
  rmSync(folder, { recursive: true, force: true });
});

test('everything comes back as it was a moment before an accident, to the last edit', async () => {
  const [data, archive, base, target] = ['data', 'archive', 'base', 'target'].map((name) =>
    join(folder, name),
  ) as [string, string, string, string];
  run('mkdir', archive);
  run(join(BIN, 'initdb'), '-D', data, '-U', 'mavrek', '-A', 'trust', '-E', 'UTF8', '--locale', 'C.UTF-8');
  const server = await start(
    data,
    `-c archive_mode=on -c "archive_command=test ! -f ${archive}/%f && cp %p ${archive}/%f"`,
  );
  await on(`${server}/postgres`, (client) => client.query('create database mavrek'));
  const url = `${server}/mavrek`;
  execFileSync('node', ['node_modules/tsx/dist/cli.mjs', 'src/server/prepare.ts'], {
    env: { ...process.env, DATABASE_URL: url },
    stdio: 'ignore',
  });
  const demo = frostGuard();
  const edit = (client: pg.Client, seq: number, name: string) =>
    client.query(
      `with head as (update plans set seq = $1 where id = 'frost-guard' returning workspace_id)
       insert into edits (workspace_id, plan_id, seq, edit_id, client, made_against, format, edit)
       select workspace_id, 'frost-guard', $1, 'e' || $1::text, 'test', 0, 2, $2 from head`,
      [seq, JSON.stringify(renameNet(netOf(demo, name), `${name}_${seq}`))],
    );
  await on(url, (client) => edit(client, 1, 'FAN_1'));
  run(join(BIN, 'pg_basebackup'), '-d', server, '-D', base, '--checkpoint=fast');
  // What comes after the base backup is in the log only.
  const moment = await on(url, async (client) => {
    await edit(client, 2, 'FAN_2');
    await edit(client, 3, 'FAN_3');
    const { rows } = await client.query<{ at: string }>(
      "select (clock_timestamp() + interval '20 ms')::text as at",
    );
    await client.query('select pg_sleep(0.1)');
    return rows[0]?.at ?? '';
  });
  await on(url, async (client) => {
    await client.query('delete from edits');
    await client.query('update plans set deleted_at = now()');
    await client.query('select pg_switch_wal()');
  });
  // The log is archived a moment later.
  const archived = () => readdirSync(archive).length;
  for (let before = -1, tries = 0; tries < 50 && before !== archived(); tries++) {
    before = archived();
    await new Promise((done) => setTimeout(done, 400));
  }

  // Where PostgreSQL's own user can reach it.
  const script = join(folder, 'restore-to-time');
  copyFileSync(resolve('deploy/restore-to-time'), script);
  chmodSync(script, 0o755);
  run(script, base, archive, target, moment);
  const back = await start(target, '');
  await on(`${back}/mavrek`, async (client) => {
    // It takes writes again once the moment is reached.
    for (let tries = 0; tries < 100; tries++) {
      const { rows } = await client.query<{ waits: boolean }>('select pg_is_in_recovery() as waits');
      if (!rows[0]?.waits) break;
      await new Promise((done) => setTimeout(done, 100));
    }
    const { rows } = await client.query(
      "select seq::int from edits where plan_id = 'frost-guard' order by seq",
    );
    expect(rows).toEqual([{ seq: 1 }, { seq: 2 }, { seq: 3 }]);
    const { rows: plans } = await client.query(
      'select count(*)::int as there from plans where deleted_at is null',
    );
    expect(plans).toEqual([{ there: 2 }]);
    await edit(client, 4, 'LAMP_RED');
  });
  // The server with the accident is as it was; what is there is never written over.
  expect((await on(url, (client) => client.query('select 1 from edits'))).rowCount).toBe(0);
  const again = spawnSync(script, [base, archive, target, moment], { encoding: 'utf8', ...owner });
  expect([again.status, again.stderr]).toEqual([1, `${target} is there already\n`]);
  expect(
    spawnSync(script, [archive, archive, join(folder, 'x'), moment], { encoding: 'utf8', ...owner }).status,
  ).toBe(1);
  expect(existsSync(join(folder, 'x'))).toBe(false);
});
