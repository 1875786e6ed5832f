import { execFileSync, spawn, spawnSync } from 'node:child_process';
import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import pg from 'pg';
import { freePort } from '@/testing/free-port';

/** What systemd and the container run, in a place where nothing but the build is. */
const home = mkdtempSync(join(tmpdir(), 'mavrek-deploy-'));
const name = `mavrek_deploy_${process.pid}`;
const url = new URL(process.env.DATABASE_URL ?? '');
const admin = new pg.Client({ connectionString: url.href });
url.pathname = `/${name}`;

beforeAll(async () => {
  const build = readdirSync('.').find((one) => one === process.env.MAVREK_BUILD) ?? '';
  expect(build).toMatch(/^\.next-/);
  for (const one of [
    'src',
    'db',
    'devices',
    'examples',
    'docs',
    'node_modules',
    'next.config.ts',
    'package.json',
    'tsconfig.json',
    build,
  ])
    symlinkSync(resolve(one), join(home, one));
  symlinkSync(build, join(home, 'served'));
  mkdirSync(join(home, 'deploy'));
  copyFileSync('deploy/run', join(home, 'deploy/run'));
  await admin.connect();
  await admin.query(`create database ${name}`);
});
afterAll(async () => {
  await admin.query(`drop database if exists ${name} with (force)`);
  await admin.end();
  rmSync(home, { recursive: true });
});

const environment = (more: Record<string, string> = {}): NodeJS.ProcessEnv => {
  const { MAVREK_HOME: _home, MAVREK_BUILD: _build, ...rest } = process.env;
  return { ...rest, DATABASE_URL: url.href, LOG_LEVEL: 'error', ...more };
};
const run = (what: string[], more?: Record<string, string>) =>
  spawnSync(join(home, 'deploy/run'), what, { cwd: '/', env: environment(more), encoding: 'utf8' });

test('a database is prepared, a first person invited, and the server ready only then', async () => {
  const port = String(await freePort());
  const server = spawn(join(home, 'deploy/run'), ['serve'], {
    cwd: '/',
    env: environment({ PORT: port, HOST: '127.0.0.1', MAVREK_AUTH: 'on' }),
    stdio: 'ignore',
  });
  const ended = new Promise((done) => server.on('exit', done));
  try {
    const status = async (): Promise<number> =>
      fetch(`http://127.0.0.1:${port}/api/health`).then(
        (answer) => answer.status,
        () => 0,
      );
    const until = async (wanted: number): Promise<number> => {
      let now = await status();
      for (let tries = 0; tries < 300 && now !== wanted; tries++) {
        await new Promise((done) => setTimeout(done, 100));
        now = await status();
      }
      return now;
    };
    expect(await until(503)).toBe(503);
    const prepared = run(['prepare']);
    expect([prepared.stderr, prepared.status]).toEqual(['', 0]);
    expect(await until(200)).toBe(200);
    const invited = run(['invite', 'olga@orchard.example'], { MAVREK_URL: 'https://pins.example.org' });
    expect([invited.stderr.replace(/^this link makes .*\n/, ''), invited.status]).toEqual(['', 0]);
    expect(invited.stdout).toMatch(/^https:\/\/pins\.example\.org\/join\/[\w-]{40,}\n$/);
  } finally {
    server.kill('SIGTERM');
    await ended;
  }
}, 120_000);

test('something else is refused with a sentence', () => {
  const { status, stderr } = run(['sell']);
  expect([status, stderr]).toEqual([2, 'build, prepare, serve or invite, not sell\n']);
});

test('units and container run what is tested here', () => {
  const started = readdirSync('deploy/systemd').map((file) => {
    const text = readFileSync(join('deploy/systemd', file), 'utf8');
    return /^ExecStart=(.*)$/m.exec(text)?.[1];
  });
  expect(started.sort()).toEqual(['/opt/mavrek/deploy/run prepare', '/opt/mavrek/deploy/run serve']);
  expect(readFileSync('deploy/Containerfile', 'utf8')).toContain('ENTRYPOINT ["/opt/mavrek/deploy/run"]');
  expect(execFileSync('sh', ['-n', 'deploy/run'], { encoding: 'utf8' })).toBe('');
});
