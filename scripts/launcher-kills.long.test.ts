import { type ChildProcess, spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { freePort } from '@/testing/free-port';
import { randomFrom } from '@/testing/random';

/**
 * The server and PostgreSQL are killed in any state, singly and both, the next often before what the last one broke is whole, while
 * somebody edits and other programs keep the machine busy. It is back each time within seconds; nothing acknowledged is lost or doubled.
 */
const KILLS = Number(process.env.MAVREK_KILLS ?? 30);
const SEED = Number(process.env.MAVREK_SEED ?? 25);
/** Of quiet processors; the clock of a machine that is busy with the rest of the tests is allowed more. */
const BACK_MS = 15_000;
const BUSY = 3;

let state = '';
let port = 0;
let launcher: ChildProcess;
let output = '';
const load: ChildProcess[] = [];
const url = (path: string): string => `http://127.0.0.1:${port}${path}`;
const later = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds));

async function ask(method: string, path: string, body?: object): Promise<{ status: number; body: unknown }> {
  const answer = await fetch(url(path), {
    method,
    signal: AbortSignal.timeout(10_000),
    headers: { 'content-type': 'application/json' },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  return { status: answer.status, body: await answer.json() };
}
const healthy = (): Promise<boolean> =>
  ask('GET', '/api/health').then(
    ({ status }) => status === 200,
    () => false,
  );

beforeAll(async () => {
  state = mkdtempSync(join(tmpdir(), 'mavrek-kills-'));
  chmodSync(state, 0o755);
  port = await freePort();
  for (let busy = 0; busy < 2; busy++) load.push(spawn('node', ['-e', 'for (;;);'], { stdio: 'ignore' }));
  const { DATABASE_URL: _unset, ...env } = process.env;
  launcher = spawn(resolve('mavrek'), ['start'], {
    env: { ...env, MAVREK_STATE: state, PORT: String(port) },
    stdio: ['ignore', 'ignore', 'pipe'],
    detached: true,
  });
  launcher.stderr?.on('data', (text) => {
    output += text;
  });
});
afterAll(async () => {
  for (const child of load) child.kill('SIGKILL');
  if (launcher.exitCode === null) {
    const ended = new Promise((done) => launcher.on('exit', done));
    launcher.kill('SIGTERM');
    await ended;
  }
  rmSync(state, { recursive: true, force: true });
}, 60_000);

const VICTIMS = {
  server: ['server.pid'],
  database: ['pg/data/postmaster.pid'],
  both: ['server.pid', 'pg/data/postmaster.pid'],
};

/** Kills what is there of them at this moment; answers whether anything was. */
function kill(victim: keyof typeof VICTIMS): boolean {
  let killed = false;
  for (const file of VICTIMS[victim])
    try {
      process.kill(Number(readFileSync(join(state, file), 'utf8').split('\n')[0]), 'SIGKILL');
      killed = true;
    } catch {
      // It is on its way up or down.
    }
  return killed;
}

test(
  `${KILLS} kills, by seed ${SEED}`,
  async () => {
    const random = randomFrom(SEED);
    // The first come while the first start is still under way.
    for (let early = 0; early < 4; early++) {
      await later(random.int(2500));
      kill(random.pick(['server', 'database', 'both']));
    }
    while (!(await healthy())) {
      expect([output, launcher.exitCode]).toEqual([output, null]);
      await later(100);
    }
    const made = await ask('POST', '/api/plans', {
      name: 'Survivor',
      device: 'corvane-c40-80',
      package: 'q100',
    });
    const { id } = made.body as { id: string };

    let acknowledged = 0;
    let over = false;
    const editing = (async () => {
      while (!over) {
        const edit = {
          kind: 'plan.set',
          field: 'revision',
          from: acknowledged === 0 ? 'A' : `R${acknowledged}`,
          to: `R${acknowledged + 1}`,
        };
        const body = { editId: `e${acknowledged}`, client: 'c', madeAgainst: acknowledged, edit };
        // The same one again until it is acknowledged, as a page does.
        const answer = await ask('POST', `/api/plans/${id}/edits`, body).catch(() => undefined);
        if ((answer?.body as { status?: string })?.status === 'saved') acknowledged++;
        else await later(50);
      }
    })();

    const slow: [string, number][] = [];
    let longest = 0;
    for (let count = 0; count < KILLS; ) {
      const victim = random.pick(['server', 'database', 'both'] as const);
      if (kill(victim)) count++;
      if (random.int(3) === 0) {
        await later(random.int(3000));
        continue;
      }
      const from = Date.now();
      while (!(await healthy())) {
        expect([output, launcher.exitCode]).toEqual([output, null]);
        await later(50);
      }
      const took = Date.now() - from;
      longest = Math.max(longest, took);
      if (took > BACK_MS * BUSY) slow.push([victim, took]);
      await later(random.int(1500));
    }
    over = true;
    await editing;
    while (!(await healthy())) await later(50);
    const plan = (await ask('GET', `/api/plans/${id}`)).body as { seq: number; plan: { revision: string } };
    expect([plan.seq, plan.plan.revision]).toEqual([acknowledged, `R${acknowledged}`]);
    expect(slow).toEqual([]);
    expect(acknowledged).toBeGreaterThan(KILLS);
    // The demo plans are there, once each, however often the first start was interrupted.
    const { plans } = (await ask('GET', '/api/plans')).body as { plans: { id: string }[] };
    expect(
      plans
        .map((one) => one.id)
        .filter((one) => one.startsWith('frost-guard'))
        .sort(),
    ).toEqual(['frost-guard', 'frost-guard-faulty']);
    process.stderr.write(`${KILLS} kills: ${acknowledged} edits, back after ${longest} ms at most\n`);
  },
  120_000 + KILLS * 30_000,
);
