import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import pg from 'pg';
import { freePort } from '@/testing/free-port';

/** `./mavrek cluster` as a user runs it, with a state folder of its own; people write while parts of it are killed. */
const state = mkdtempSync(join(tmpdir(), 'mavrek-cluster-'));
let cluster: ChildProcess | undefined;
let said = '';

/** Where PostgreSQL's own user can reach it, as the launcher decides. */
function folder(): string {
  const own = join(state, 'cluster');
  if (existsSync(join(own, 'cluster.json'))) return own;
  const others = existsSync('/var/lib/mavrek')
    ? readdirSync('/var/lib/mavrek').map((name) => join('/var/lib/mavrek', name))
    : [];
  const found = others.find((one) => existsSync(join(one, 'cluster.json')));
  if (!found) throw new Error(`no cluster runs: ${said}`);
  return found;
}

beforeAll(async () => {
  const { DATABASE_URL: _unset, ...rest } = process.env;
  const child = spawn(resolve('mavrek'), ['cluster'], {
    env: { ...rest, MAVREK_STATE: state, PORT: String(await freePort()) },
    stdio: ['ignore', 'ignore', 'pipe'],
    detached: true,
  });
  cluster = child;
  await new Promise<void>((done, failed) => {
    child.stderr?.on('data', (data) => {
      said += data;
      if (said.includes('open http')) done();
    });
    child.on('exit', (code) => failed(new Error(`ended with ${code}: ${said}`)));
  });
}, 400_000);

afterAll(async () => {
  const own = cluster && said.includes('open http') ? folder() : undefined;
  const child = cluster;
  if (child && child.exitCode === null && child.signalCode === null) {
    const ended = new Promise((done) => child.on('exit', done));
    child.kill('SIGTERM');
    await ended;
  }
  for (const one of [state, own]) if (one) rmSync(one, { recursive: true, force: true });
}, 60_000);

test('whatever part is killed while people write: no acknowledged edit is lost or doubled, and they go on within 15 seconds', () => {
  // One of each kind, and some more by chance.
  const count = 22;
  const { status, stdout, stderr } = spawnSync(
    'node',
    ['node_modules/tsx/dist/cli.mjs', 'scripts/cluster/faults.ts', folder(), String(count), '3'],
    { encoding: 'utf8', timeout: 3_000_000 },
  );
  const told = JSON.parse(stdout.trim().split('\n').at(-1) ?? '{}') as {
    faults: number;
    acknowledged: number;
    problems: string[];
  };
  expect([told.problems, stderr.includes('Error')]).toEqual([[], false]);
  expect(told.faults).toBe(count);
  expect(told.acknowledged).toBeGreaterThan(300);
  expect(status).toBe(0);
}, 3_100_000);

test('an edit through one server is told at another, by the pooler’s other way', async () => {
  const { servers } = JSON.parse(readFileSync(join(folder(), 'cluster.json'), 'utf8')) as {
    servers: number[];
  };
  const [one, other] = servers;
  const json = { 'content-type': 'application/json' };
  const made = await fetch(`http://127.0.0.1:${one}/api/plans`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ name: 'Told', device: 'corvane-c40-80', package: 'q64' }),
  });
  const { id } = (await made.json()) as { id: string };
  const stream = await fetch(`http://127.0.0.1:${other}/api/plans/${id}/events?after=0`);
  const reader = stream.body?.getReader();
  const began = performance.now();
  await fetch(`http://127.0.0.1:${one}/api/plans/${id}/edits`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({
      editId: 'a',
      client: 'x',
      madeAgainst: 0,
      edit: { kind: 'plan.set', field: 'name', from: 'Told', to: 'Told twice' },
    }),
  });
  let text = '';
  while (!text.includes('Told twice')) text += new TextDecoder().decode((await reader?.read())?.value);
  // Not at the next beat, which comes every 15 seconds.
  expect(performance.now() - began).toBeLessThan(8000);
  await reader?.cancel();
});

test('after all that, nothing that was started is left out of the replica', async () => {
  const { primary } = JSON.parse(readFileSync(join(folder(), 'cluster.json'), 'utf8')) as { primary: string };
  const client = new pg.Client({ connectionString: primary });
  await client.connect();
  const { rows } = await client.query('select sync_state, state from pg_stat_replication');
  await client.end();
  expect(rows).toEqual([{ sync_state: 'sync', state: 'streaming' }]);
});
