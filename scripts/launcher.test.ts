import { type ChildProcess, execFileSync, spawn, spawnSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

/** `./mavrek start` as a user runs it, with a state folder of its own: a private PostgreSQL, the built application. */
const LAUNCHER = resolve('mavrek');
let state = '';
let port = 0;
let running: ChildProcess | undefined;

const freePort = (): Promise<number> =>
  new Promise((done) => {
    const server: Server = createServer().listen(0, '127.0.0.1', () => {
      const address = server.address();
      server.close(() => done(typeof address === 'object' && address ? address.port : 0));
    });
  });

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
  running = child;
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
  state = mkdtempSync(join(tmpdir(), 'mavrek-state-'));
  // PostgreSQL runs as another user when the tests run as root.
  chmodSync(state, 0o755);
  port = await freePort();
});
afterAll(async () => {
  if (running && running.exitCode === null && running.signalCode === null) {
    running.kill('SIGTERM');
    await ended(running);
  }
  rmSync(state, { recursive: true, force: true });
});

test('kill -9 of everything loses nothing, and the next start recovers', async () => {
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
  const third = spawnSync(LAUNCHER, ['start'], { env: environment(), encoding: 'utf8', timeout: 30_000 });
  expect(third).toMatchObject({
    status: 1,
    stderr: expect.stringMatching(/is being served already \(process \d+\)/),
  });
  expect((await fetch(url('/api/health'))).status).toBe(200);

  second.kill('SIGTERM');
  expect(await ended(second)).toBe(143);
  await expect(fetch(url('/api/health'))).rejects.toThrow();
  expect(spawnSync('pgrep', ['-f', state]).stdout.toString()).toBe('');
}, 120_000);

test('the server left behind by a killed launcher is ended, a server that dies is brought back', async () => {
  const first = await start();
  first.kill('SIGKILL');
  await ended(first);
  expect((await fetch(url('/api/health'))).status).toBe(200);
  const second = await start();
  process.kill(pidIn('server.pid'), 'SIGKILL');
  let back = false;
  for (let tries = 0; tries < 100 && !back; tries++) {
    await new Promise((done) => setTimeout(done, 200));
    back = await fetch(url('/api/health')).then(
      (answer) => answer.ok,
      () => false,
    );
  }
  expect(back).toBe(true);
  second.kill('SIGTERM');
  await ended(second);
}, 120_000);

test('a taken port gets a clear message', async () => {
  const server = createServer();
  await new Promise<void>((done) => server.listen(port, '127.0.0.1', done));
  const { status, stderr } = spawnSync(LAUNCHER, ['start'], {
    env: environment(),
    encoding: 'utf8',
    timeout: 30_000,
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
