import { type ChildProcess, execFileSync, spawn, spawnSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { freePort } from '@/testing/free-port';
import { ALL } from '@/testing/random';

/**
 * `./mavrek start` as a user runs it, with a state folder of its own: a private PostgreSQL, the built application. The folder's name has
 * blanks, quotes, dollars and backticks, and works like any other.
 */
const LAUNCHER = resolve('mavrek');
let folder = '';
let state = '';
let port = 0;
/** All that a test has started; it ends with the test, however that ends. */
const started: ChildProcess[] = [];

const environment = () => {
  const { DATABASE_URL: _unset, ...rest } = process.env;
  return { ...rest, MAVREK_STATE: state, PORT: String(port) };
};

/** Starts and waits for the printed address. */
async function start(): Promise<ChildProcess> {
  const child = spawn(LAUNCHER, ['start'], {
    env: environment(),
    stdio: ['ignore', 'ignore', 'pipe'],
    detached: true,
  });
  started.push(child);
  let said = '';
  await new Promise<void>((done, failed) => {
    child.stderr?.on('data', (data) => {
      said += data;
      if (said.includes('open http')) done();
    });
    child.on('exit', (code) => failed(new Error(`ended with ${code}: ${said}`)));
  });
  return child;
}

const ended = (child: ChildProcess): Promise<number | null> =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve(child.exitCode)
    : new Promise((done) => child.on('exit', done));

const url = (path: string): string => `http://127.0.0.1:${port}${path}`;
const post = async (path: string, body: unknown) =>
  (
    await fetch(url(path), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
  ).json();
const pidIn = (file: string): number => Number(readFileSync(join(state, file), 'utf8').split('\n')[0]);

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'mavrek-state-'));
  // PostgreSQL runs as another user when the tests run as root.
  chmodSync(folder, 0o755);
  state = join(folder, 'a "b\' $HOME `id` c');
  port = await freePort();
});
afterEach(async () => {
  for (const child of started.splice(0)) {
    if (child.exitCode !== null || child.signalCode !== null) continue;
    child.kill('SIGTERM');
    await ended(child);
  }
  // What a launcher that was killed has left behind would answer to the next test.
  for (const file of ['server.pid', 'pg/data/postmaster.pid'])
    try {
      const [pid, program] = [pidIn(file), file === 'server.pid' ? 'server.cjs' : 'postgres'];
      // The number may be another program's by now.
      if (readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(program)) process.kill(pid, 'SIGKILL');
    } catch {
      // It has ended.
    }
}, 120_000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const answers = (): Promise<boolean> =>
  fetch(url('/api/health')).then(
    (answer) => answer.ok,
    () => false,
  );

/** Runs a start to its end, if it ends; what it says is kept. */
function run(env: NodeJS.ProcessEnv = environment()) {
  const child = spawn(LAUNCHER, ['start'], { env, stdio: ['ignore', 'ignore', 'pipe'], detached: true });
  started.push(child);
  const seen = { said: '', child };
  child.stderr?.on('data', (data) => {
    seen.said += data;
  });
  return seen;
}
const until = async (what: () => boolean | Promise<boolean>, tries = 5000): Promise<boolean> => {
  for (let turn = 0; turn < tries; turn++) {
    if (await what()) return true;
    await new Promise((done) => setTimeout(done, 100));
  }
  return false;
};

test.each(ALL ? ['a fresh cluster', 'a cluster that is there'] : ['a fresh cluster'])(
  'of several starts at once, on %s, one serves and the others say so',
  async (which) => {
    if (which === 'a fresh cluster') spawnSync('rm', ['-rf', join(state, 'pg'), join(state, 'start.lock')]);
    const all = [run(), run(), run()];
    expect(await until(() => all.some((one) => one.said.includes('open http')))).toBe(true);
    const [serving, ...none] = all.filter((one) => one.said.includes('open http'));
    expect(none).toEqual([]);
    const losers = all.filter((one) => one !== serving);
    expect(await until(() => losers.every((one) => one.child.exitCode !== null))).toBe(true);
    for (const { said, child } of losers) {
      expect(child.exitCode).toBe(1);
      expect(said).toMatch(
        /^mavrek: this checkout is being served already \(process \d+\); stop it with Ctrl-C there first\n$/,
      );
      expect(said).toContain(`process ${serving?.child.pid}`);
    }
    expect(await answers()).toBe(true);
    expect(pidIn('pg/data/postmaster.pid')).toBeGreaterThan(0);
    serving?.child.kill('SIGTERM');
    if (serving) await ended(serving.child);
  },
  600_000,
);

test('kill -9 of everything, or of the launcher, loses nothing, and the next start recovers', async () => {
  const first = await start();
  const { id } = await post('/api/plans', { name: 'Survivor', device: 'corvane-c40-80', package: 'q100' });
  const edit = { kind: 'plan.set', field: 'revision', from: 'A', to: 'B' };
  expect(
    await post(`/api/plans/${id}/edits`, { editId: 'e', client: 'c', madeAgainst: 0, edit }),
  ).toMatchObject({ status: 'saved', seq: 1 });

  for (const pid of [first.pid, pidIn('server.pid'), pidIn('pg/data/postmaster.pid')])
    process.kill(pid ?? 0, 'SIGKILL');
  await ended(first);

  const second = await start();
  const survivor = await (await fetch(url(`/api/plans/${id}`))).json();
  expect(survivor).toMatchObject({ seq: 1, plan: { name: 'Survivor', revision: 'B' } });

  // A second start of the same checkout is told so, and disturbs nothing.
  const third = spawnSync(LAUNCHER, ['start'], { env: environment(), encoding: 'utf8', timeout: 300_000 });
  expect(third).toMatchObject({
    status: 1,
    stderr: expect.stringMatching(/is being served already \(process \d+\)/),
  });
  expect((await fetch(url('/api/health'))).status).toBe(200);

  // A launcher that is killed leaves its server behind; the next start ends that, and brings back one that dies.
  second.kill('SIGKILL');
  await ended(second);
  expect(await answers()).toBe(true);
  const fourth = await start();
  process.kill(pidIn('server.pid'), 'SIGKILL');
  expect(await until(answers)).toBe(true);

  fourth.kill('SIGTERM');
  expect(await ended(fourth)).toBe(143);
  await expect(fetch(url('/api/health'))).rejects.toThrow();
  expect(spawnSync('pgrep', ['-f', folder]).stdout.toString()).toBe('');
}, 600_000);

test('PostgreSQL stopped from outside comes back, edits are stored again, and the log holds no exception', async () => {
  const launcher = await start();
  const { id } = await post('/api/plans', { name: 'Back', device: 'corvane-c40-80', package: 'q100' });
  const before = pidIn('pg/data/postmaster.pid');
  process.kill(before, 'SIGINT');
  expect(
    await until(() => {
      try {
        return pidIn('pg/data/postmaster.pid') !== before;
      } catch {
        return false;
      }
    }),
  ).toBe(true);
  expect(await until(answers)).toBe(true);
  const edit = { kind: 'plan.set', field: 'revision', from: 'A', to: 'B' };
  expect(
    await post(`/api/plans/${id}/edits`, { editId: 'e', client: 'c', madeAgainst: 0, edit }),
  ).toMatchObject({ status: 'saved' });
  expect(readFileSync(join(state, 'log/server.log'), 'utf8')).not.toMatch(/uncaught|unhandled/i);
  launcher.kill('SIGTERM');
  await ended(launcher);
}, 600_000);

test.each([
  ['99999', "PORT is '99999'; it must be a number from 1 to 65535"],
  ['0', "PORT is '0'; it must be a number from 1 to 65535"],
  ['4600x', "PORT is '4600x'; it must be a number from 1 to 65535"],
])('PORT=%s gets a sentence', (wanted, message) => {
  const { status, stderr } = spawnSync(LAUNCHER, ['start'], {
    env: { ...environment(), PORT: wanted },
    encoding: 'utf8',
  });
  expect([status, stderr]).toEqual([1, `mavrek: ${message}\n`]);
});

test('an address that the machine does not have gets a sentence', () => {
  const { status, stderr } = spawnSync(LAUNCHER, ['start'], {
    env: { ...environment(), HOST: '192.0.2.1' },
    encoding: 'utf8',
  });
  expect([status, stderr]).toEqual([1, "mavrek: HOST is '192.0.2.1', which is no address of this machine\n"]);
});

test('a taken port gets a clear message', async () => {
  const server = createServer();
  await new Promise<void>((done) => server.listen(port, '127.0.0.1', done));
  const { status, stderr } = spawnSync(LAUNCHER, ['start'], {
    env: environment(),
    encoding: 'utf8',
    timeout: 300_000,
  });
  server.close();
  expect(status).toBe(1);
  expect(stderr).toBe(
    `mavrek: port ${port} on 127.0.0.1 is taken by another program; choose another one, e.g.: PORT=${port + 1} ./mavrek start\n`,
  );
});

test('help names the commands', () => {
  expect(execFileSync(LAUNCHER, ['help'], { encoding: 'utf8' })).toMatch(
    /\.\/mavrek start[\s\S]*\.\/mavrek test[\s\S]*\.\/mavrek check/,
  );
});
