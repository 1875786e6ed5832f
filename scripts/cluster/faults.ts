import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { join } from 'node:path';
import pg from 'pg';

/**
 * `faults.ts FOLDER [COUNT] [SEED]`: people write on a cluster that runs, while parts of it are killed, and in the end everything that
 * was acknowledged must be there, once and in order. Ends with a line of JSON; its status is 1 when something was lost, doubled, or
 * people waited longer than they should.
 */
const [folder = '', countText = '60', seedText = '1'] = process.argv.slice(2);
const LONGEST_SECONDS = 15;
const WRITERS = 6;
const PLANS = 3;

interface Cluster {
  url: string;
  servers: number[];
  nodes: { name: string; rest: number; port: number }[];
  primary: string;
}
const cluster = JSON.parse(readFileSync(join(folder, 'cluster.json'), 'utf8')) as Cluster;
const agent = new Agent({ keepAlive: true, maxSockets: 50 });

let state = Number(seedText) >>> 0;
const random = (): number => {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return state / 2 ** 32;
};
const pick = <T>(items: readonly T[]): T => items[Math.floor(random() * items.length)] as T;
const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

function ask(
  method: string,
  path: string,
  body?: unknown,
): Promise<{ status: number; body: Record<string, unknown> }> {
  return new Promise((resolve, reject) => {
    const text = body === undefined ? undefined : JSON.stringify(body);
    const sent = request(
      `${cluster.url}${path}`,
      {
        method,
        agent,
        timeout: 8000,
        headers: text === undefined ? {} : { 'content-type': 'application/json' },
      },
      (answer) => {
        let got = '';
        answer.on('data', (piece) => {
          got += piece;
        });
        answer.on('end', () => {
          try {
            resolve({ status: answer.statusCode ?? 0, body: JSON.parse(got) as Record<string, unknown> });
          } catch {
            resolve({ status: answer.statusCode ?? 0, body: {} });
          }
        });
        answer.on('error', reject);
      },
    );
    sent.on('timeout', () => sent.destroy(new Error('no answer')));
    sent.on('error', reject);
    sent.end(text);
  });
}

/** Somebody who writes: each edit is sent again, the same, until it is acknowledged. */
class Writer {
  acknowledged: string[] = [];
  note = '';
  last = Date.now();
  seen = 0;
  refused: string[] = [];
  constructor(
    readonly plan: string,
    readonly net: string,
    readonly name: string,
  ) {}
  async write(until: () => boolean): Promise<void> {
    for (let turn = 0; !until(); turn++) {
      const editId = `${this.name}-${turn}`;
      const edit = {
        kind: 'net.set',
        id: this.net,
        field: 'note',
        from: this.note,
        to: `${this.name} ${turn}`,
      };
      for (;;) {
        const answer = await ask('POST', `/api/plans/${this.plan}/edits`, {
          editId,
          client: this.name,
          madeAgainst: this.seen,
          edit,
        }).catch(() => undefined);
        if (answer?.status === 200) {
          if (answer.body.status === 'saved') this.acknowledged.push(editId);
          else this.refused.push(`${editId}: ${JSON.stringify(answer.body.problems)}`);
          this.seen = Math.max(this.seen, Number(answer.body.seq ?? 0));
          break;
        }
        await pause(150);
      }
      this.note = edit.to;
      this.last = Date.now();
      await pause(40);
    }
  }
}

/** Somebody who watches: what is told must come without a gap, however often the stream breaks. */
class Watcher {
  seq = 0;
  wrong = 0;
  stopped = false;
  constructor(readonly plan: string) {}
  watch(): void {
    if (this.stopped) return;
    let over = false;
    const again = (): void => {
      if (over) return;
      over = true;
      setTimeout(() => this.watch(), 300);
    };
    const sent = request(
      `${cluster.url}/api/plans/${this.plan}/events?after=${this.seq}`,
      { timeout: 40_000 },
      (answer) => {
        if (answer.statusCode !== 200) {
          answer.resume();
          return again();
        }
        let rest = '';
        answer.on('data', (piece) => {
          rest += piece;
          const blocks = rest.split('\n\n');
          rest = blocks.pop() ?? '';
          for (const block of blocks) {
            const seq = Number(/^id: (\d+)$/m.exec(block)?.[1] ?? 0);
            if (seq === 0) continue;
            if (seq !== this.seq + 1) this.wrong++;
            this.seq = seq;
          }
        });
        answer.on('end', again);
        answer.on('error', again);
      },
    );
    sent.on('timeout', () => sent.destroy(new Error('silent')));
    sent.on('error', again);
    sent.end();
  }
}

const pidOf = (name: string): number => Number(readFileSync(join(folder, `${name}.pid`), 'utf8'));
const postmaster = (node: string): number =>
  Number(readFileSync(join(folder, node, 'data', 'postmaster.pid'), 'utf8').split('\n')[0]);
const kill = (pid: number, signal: NodeJS.Signals = 'SIGKILL'): void => {
  try {
    if (pid > 1) process.kill(pid, signal);
  } catch {
    // It is gone already.
  }
};
const is = async (rest: number, what: 'primary' | 'replica' | 'sync'): Promise<boolean> =>
  fetch(`http://127.0.0.1:${rest}/${what}`, { signal: AbortSignal.timeout(1500) })
    .then(({ ok }) => ok)
    .catch(() => false);
async function role(what: 'primary' | 'replica'): Promise<Cluster['nodes'][number] | undefined> {
  for (const node of cluster.nodes) if (await is(node.rest, what)) return node;
  return undefined;
}

/** A node that is not started again until people have gone on without it. */
let lost: string | undefined;

const FAULTS: Record<string, () => Promise<void>> = {
  'a server is killed': async () => kill(pidOf(`s${1 + Math.floor(random() * cluster.servers.length)}`)),
  'two servers are killed': async () => {
    kill(pidOf('s1'));
    kill(pidOf('s2'));
  },
  'a server stands still for four seconds': async () => {
    const pid = pidOf(`s${1 + Math.floor(random() * cluster.servers.length)}`);
    kill(pid, 'SIGSTOP');
    setTimeout(() => kill(pid, 'SIGCONT'), 4000);
  },
  'PgBouncer is killed': async () => kill(pidOf('pgbouncer')),
  'HAProxy is killed': async () => kill(pidOf('haproxy')),
  "the primary's PostgreSQL is killed": async () => {
    const node = await role('primary');
    if (node) kill(postmaster(node.name));
  },
  "the primary's machine is lost": async () => {
    const node = await role('primary');
    if (!node) return;
    lost = node.name;
    writeFileSync(join(folder, `${node.name}.hold`), '');
    kill(pidOf(node.name));
    kill(postmaster(node.name));
  },
  'the replica is killed': async () => {
    const node = await role('replica');
    if (node) kill(postmaster(node.name));
  },
  'the primary is changed on purpose': async () => {
    const [from, to] = [await role('primary'), await role('replica')];
    if (!from || !to) return;
    await fetch(`http://127.0.0.1:${from.rest}/switchover`, {
      method: 'POST',
      body: JSON.stringify({ leader: from.name, candidate: to.name }),
      signal: AbortSignal.timeout(20_000),
    }).catch(() => undefined);
  },
};

async function whole(): Promise<boolean> {
  const roles = await Promise.all(
    cluster.nodes.map(async ({ rest }) =>
      (await is(rest, 'primary')) ? 'primary' : (await is(rest, 'sync')) ? 'sync' : 'no',
    ),
  );
  if (roles.sort().join() !== 'primary,sync') return false;
  const ready = await Promise.all(
    cluster.servers.map((port) =>
      fetch(`http://127.0.0.1:${port}/api/health`, { signal: AbortSignal.timeout(3000) })
        .then(({ ok }) => ok)
        .catch(() => false),
    ),
  );
  return ready.every(Boolean);
}

async function main(): Promise<void> {
  const name = 'frost-guard.plan.json';
  const text = readFileSync(join(process.env.MAVREK_HOME ?? process.cwd(), 'examples', name), 'utf8');
  const plans: { id: string; nets: string[] }[] = [];
  for (let n = 0; n < PLANS; n++) {
    const { body } = await ask('POST', '/api/plans/import', { fileName: name, text });
    const id = String(body.id);
    const { body: read } = await ask('GET', `/api/plans/${id}`);
    const nets = (read.plan as { nets: { id: string; note?: string }[] }).nets.filter((net) => !net.note);
    plans.push({ id, nets: nets.map((net) => net.id) });
  }
  let done = false;
  const writers = Array.from({ length: WRITERS }, (_, n) => {
    const plan = plans[n % PLANS];
    return new Writer(plan?.id ?? '', plan?.nets[n] ?? '', `w${n}`);
  });
  const watchers = plans.map(({ id }) => new Watcher(id));
  for (const one of watchers) one.watch();
  const writing = writers.map((one) => one.write(() => done));
  await pause(2000);
  const waits: Record<string, number[]> = {};
  const kinds = Object.keys(FAULTS);
  for (let n = 0; n < Number(countText); n++) {
    const kind = n < kinds.length ? (kinds[n] as string) : pick(kinds);
    const began = Date.now();
    await FAULTS[kind]?.();
    // Long enough for a loss to be felt; then everybody must have gone on.
    await pause(1500);
    let last = 0;
    for (;;) {
      const on = writers.every((one) => one.last > began + 1000);
      last = Date.now();
      if (on || last - began > 90_000) break;
      await pause(50);
    }
    const waited = (last - began) / 1000;
    waits[kind] = [...(waits[kind] ?? []), waited];
    process.stderr.write(`${String(n + 1).padStart(3)} ${kind}: went on after ${waited.toFixed(1)} s\n`);
    if (lost !== undefined) rmSync(join(folder, `${lost}.hold`), { force: true });
    lost = undefined;
    const end = Date.now() + 90_000;
    while (Date.now() < end && !(await whole())) await pause(250);
    await pause(300);
  }
  done = true;
  await Promise.all(writing);
  await pause(3000);

  const client = new pg.Client({ connectionString: cluster.primary });
  await client.connect();
  const problems: string[] = [];
  let acknowledged = 0;
  for (const plan of plans) {
    const { rows } = await client.query<{ seq: number; edit_id: string }>(
      'select seq::int, edit_id from edits where plan_id = $1 order by seq',
      [plan.id],
    );
    const stored = new Map<string, number>();
    for (const [at, row] of rows.entries()) {
      if (row.seq !== at + 1) problems.push(`plan ${plan.id}: edit ${row.seq} stands where ${at + 1} should`);
      stored.set(row.edit_id, (stored.get(row.edit_id) ?? 0) + 1);
    }
    const { body } = await ask('GET', `/api/plans/${plan.id}`);
    const nets = (body.plan as { nets: { id: string; note?: string }[] }).nets;
    for (const writer of writers.filter((one) => one.plan === plan.id)) {
      acknowledged += writer.acknowledged.length;
      for (const id of writer.acknowledged)
        if (stored.get(id) !== 1)
          problems.push(`${id} was acknowledged and is there ${stored.get(id) ?? 0} times`);
      if (nets.find((net) => net.id === writer.net)?.note !== writer.note)
        problems.push(`${writer.name}: the plan does not say what was written last`);
      problems.push(...writer.refused.map((one) => `refused: ${one}`));
    }
    const watcher = watchers.find((one) => one.plan === plan.id);
    if (watcher?.wrong || watcher?.seq !== rows.length)
      problems.push(
        `who watched ${plan.id} was told ${watcher?.seq} of ${rows.length} edits, ${watcher?.wrong} out of order`,
      );
  }
  await client.end();
  for (const one of watchers) one.stopped = true;
  const all = Object.values(waits).flat();
  const longest = Math.max(...all);
  if (longest > LONGEST_SECONDS) problems.push(`people waited ${longest.toFixed(1)} s`);
  const table = Object.fromEntries(
    Object.entries(waits).map(([kind, values]) => [
      kind,
      { times: values.length, longest: Number(Math.max(...values).toFixed(1)) },
    ]),
  );
  process.stdout.write(
    `${JSON.stringify({ faults: all.length, acknowledged, longest: Number(longest.toFixed(1)), problems: problems.slice(0, 20), table })}\n`,
  );
  process.exit(problems.length === 0 ? 0 : 1);
}

main().catch((error: Error) => {
  process.stderr.write(`${error.stack}\n`);
  process.exit(1);
});
