import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { join } from 'node:path';
import pg from 'pg';

/**
 * `faults.ts FOLDER [COUNT] [SEED] [WORDS]`: people write on a cluster that runs, while parts of it are killed or stand still, one
 * after the other and several at once. Each fault is judged by itself: what was acknowledged until the cluster is whole again must be
 * there, once and in order. Ends with a line of JSON; its status is 1 when something was lost, doubled, or people waited longer than
 * they should. With WORDS only faults whose names hold them.
 */
const [folder = '', countText = '60', seedText = '1', words = ''] = process.argv.slice(2);
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
async function role(what: 'primary' | 'replica' | 'sync'): Promise<Cluster['nodes'][number] | undefined> {
  for (const node of cluster.nodes) if (await is(node.rest, what)) return node;
  return undefined;
}

/** Whether all other nodes follow the primary's log as it is written. */
const followed = async (rest: number): Promise<boolean> =>
  fetch(`http://127.0.0.1:${rest}/patroni`, { signal: AbortSignal.timeout(1500) })
    .then(async (answer) => {
      const { replication = [] } = (await answer.json()) as { replication?: { state: string }[] };
      return replication.filter(({ state }) => state === 'streaming').length === cluster.nodes.length - 1;
    })
    .catch(() => false);

/** A node that is not started again until people have gone on without it. */
let lost: string | undefined;

/** A process and all that it has started. */
function family(pid: number): number[] {
  const children = new Map<number, number[]>();
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const parent = Number(/\) \S+ (\d+)/.exec(readFileSync(`/proc/${name}/stat`, 'utf8'))?.[1]);
      children.set(parent, [...(children.get(parent) ?? []), Number(name)]);
    } catch {
      // It has ended meanwhile.
    }
  }
  const all = [pid];
  for (const one of all) all.push(...(children.get(one) ?? []));
  return all;
}

/** Stops processes for a while. The answer ends when they run again. */
async function freeze(pids: readonly number[], milliseconds: number): Promise<void> {
  for (const pid of pids) kill(pid, 'SIGSTOP');
  await pause(milliseconds);
  for (const pid of pids) kill(pid, 'SIGCONT');
}

const anyServer = (): number => pidOf(`s${1 + Math.floor(random() * cluster.servers.length)}`);
const longFreeze = (): number => 20_000 + Math.floor(random() * 10_000);
/** Both who keeps a node's PostgreSQL and the PostgreSQL itself, as when its machine stops. */
const machineOf = (node: string): number[] => [pidOf(node), ...family(postmaster(node))];

interface Fault {
  /** What is done; what of it lasts is answered as a promise inside. */
  cause(): Promise<{ until?: Promise<void> } | undefined>;
}

const quick = (cause: () => unknown): Fault => ({
  async cause() {
    await cause();
    return undefined;
  },
});
const lasting = (cause: () => Promise<void>): Fault => ({
  // Not awaited: it lasts while people write.
  cause: async () => ({ until: cause() }),
});

const killPostgres = async (what: 'primary' | 'replica'): Promise<void> => {
  const node = await role(what);
  if (node) kill(postmaster(node.name));
};
const loseMachine = async (what: 'primary' | 'replica'): Promise<void> => {
  const node = await role(what);
  if (!node) return;
  lost = node.name;
  writeFileSync(join(folder, `${node.name}.hold`), '');
  const there = machineOf(node.name);
  for (const pid of there) kill(pid);
};
const freezePostgres = async (what: 'primary' | 'replica', milliseconds: number): Promise<void> => {
  const node = await role(what);
  if (node) await freeze(family(postmaster(node.name)), milliseconds);
};
const freezeMachine = async (what: 'primary' | 'replica', milliseconds: number): Promise<void> => {
  const node = await role(what);
  if (node) await freeze(machineOf(node.name), milliseconds);
};

const SINGLE: Record<string, Fault> = {
  'a server is killed': quick(() => kill(anyServer())),
  'two servers are killed': quick(() => {
    kill(pidOf('s1'));
    kill(pidOf('s2'));
  }),
  'all servers are killed at once': quick(() => {
    for (const at of cluster.servers.keys()) kill(pidOf(`s${at + 1}`));
  }),
  'a server stands still for four seconds': lasting(() => freeze([anyServer()], 4000)),
  'PgBouncer is killed': quick(() => kill(pidOf('pgbouncer'))),
  'HAProxy is killed': quick(() => kill(pidOf('haproxy'))),
  'etcd is killed': quick(() => kill(pidOf('etcd'))),
  "the primary's PostgreSQL is killed": quick(() => killPostgres('primary')),
  "the primary's PostgreSQL stands still, its Patroni does not": lasting(() =>
    freezePostgres('primary', longFreeze()),
  ),
  "the primary's machine is lost": quick(() => loseMachine('primary')),
  "the primary's machine stands still": lasting(() => freezeMachine('primary', longFreeze())),
  "a replica's PostgreSQL is killed": quick(() => killPostgres('replica')),
  "a replica's PostgreSQL stands still": lasting(() => freezePostgres('replica', longFreeze())),
  "a replica's machine stands still": lasting(() => freezeMachine('replica', longFreeze())),
  'the primary is changed on purpose': quick(async () => {
    const [from, to] = [await role('primary'), await role('sync')];
    if (!from || !to) return;
    await fetch(`http://127.0.0.1:${from.rest}/switchover`, {
      method: 'POST',
      body: JSON.stringify({ leader: from.name, candidate: to.name }),
      signal: AbortSignal.timeout(20_000),
    }).catch(() => undefined);
  }),
};

/** Two faults, the second while the first is still felt. */
const overlapping = (first: string, second: string, milliseconds: number): [string, Fault] => [
  `${first}; ${(milliseconds / 1000).toFixed(1)} s later ${second}`,
  {
    async cause() {
      const one = await SINGLE[first]?.cause();
      await pause(milliseconds);
      const two = await SINGLE[second]?.cause();
      return { until: Promise.all([one?.until, two?.until]).then(() => undefined) };
    },
  },
];
const FAULTS: Record<string, Fault> = {
  ...SINGLE,
  ...Object.fromEntries([
    overlapping(
      "the primary's PostgreSQL stands still, its Patroni does not",
      'all servers are killed at once',
      4000,
    ),
    overlapping("the primary's PostgreSQL is killed", 'two servers are killed', 500),
    overlapping('PgBouncer is killed', "the primary's PostgreSQL is killed", 200),
    overlapping('HAProxy is killed', "a replica's PostgreSQL is killed", 300),
    overlapping('the primary is changed on purpose', "the primary's PostgreSQL is killed", 1000),
  ]),
};

async function whole(): Promise<boolean> {
  const roles = await Promise.all(
    cluster.nodes.map(async ({ rest }) =>
      (await is(rest, 'primary')) ? 'primary' : (await is(rest, 'sync')) ? 'sync' : 'no',
    ),
  );
  // One primary, one that has everything acknowledged, and the others on their way behind.
  if (roles.filter((one) => one === 'primary').length !== 1 || !roles.includes('sync')) return false;
  const primary = cluster.nodes[roles.indexOf('primary')];
  if (!primary || !(await followed(primary.rest))) return false;
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
  const kinds = Object.keys(FAULTS).filter((kind) => kind.includes(words));
  const rows: Judged[] = [];
  const problems: string[] = [];
  for (let n = 0; n < Number(countText); n++) {
    const kind = n < kinds.length ? (kinds[n] as string) : pick(kinds);
    const began = Date.now();
    const caused = await FAULTS[kind]?.cause();
    // Long enough for a loss to be felt; then everybody must have gone on.
    await pause(1500);
    const since = Date.now() - 1500;
    while (!writers.every((one) => one.last > since + 1000) && Date.now() - began < 90_000) await pause(50);
    const waited = (Date.now() - began) / 1000;
    if (lost !== undefined) rmSync(join(folder, `${lost}.hold`), { force: true });
    lost = undefined;
    await caused?.until;
    const end = Date.now() + 120_000;
    while (Date.now() < end && !(await whole())) await pause(250);
    const wholeAfter = (Date.now() - began) / 1000;
    if (!(await whole())) problems.push(`${kind}: the cluster was not whole after 120 s`);
    // What has been acknowledged until now; the writers go on.
    const due = writers.map((one) => ({ plan: one.plan, ids: [...one.acknowledged] }));
    const judged = await judgeAtLast(
      plans.map(({ id }) => id),
      due,
    );
    rows.push({ kind, waited, whole: wholeAfter, ...judged });
    problems.push(...judged.problems.map((one) => `${kind}: ${one}`));
    if (waited > LONGEST_SECONDS) problems.push(`${kind}: people waited ${waited.toFixed(1)} s`);
    process.stderr.write(
      `${String(n + 1).padStart(3)} ${kind}: went on after ${waited.toFixed(1)} s, whole after ${wholeAfter.toFixed(0)} s, ${judged.lost} lost, ${judged.doubled} doubled\n`,
    );
    for (const writer of writers)
      writer.acknowledged = writer.acknowledged.filter((id) => !judged.missing.has(id));
    await pause(300);
  }
  done = true;
  await Promise.all(writing);
  await pause(3000);

  for (const plan of plans) {
    const { body } = await ask('GET', `/api/plans/${plan.id}`);
    const nets = (body.plan as { nets: { id: string; note?: string }[] }).nets;
    for (const writer of writers.filter((one) => one.plan === plan.id)) {
      if (nets.find((net) => net.id === writer.net)?.note !== writer.note)
        problems.push(`${writer.name}: the plan does not say what was written last`);
      problems.push(...writer.refused.map((one) => `refused: ${one}`));
    }
    const watcher = watchers.find((one) => one.plan === plan.id);
    if (watcher?.wrong || watcher?.seq !== body.seq)
      problems.push(
        `who watched ${plan.id} was told ${watcher?.seq} of ${body.seq} edits, ${watcher?.wrong} out of order`,
      );
  }
  for (const one of watchers) one.stopped = true;
  const acknowledged = writers.reduce((sum, one) => sum + one.acknowledged.length, 0);
  const table = Object.fromEntries(
    kinds.flatMap((kind) => {
      const of = rows.filter((row) => row.kind === kind);
      if (of.length === 0) return [];
      const most = (key: 'waited' | 'whole'): number =>
        Number(Math.max(...of.map((row) => row[key])).toFixed(1));
      const sum = (key: 'lost' | 'doubled'): number => of.reduce((total, row) => total + row[key], 0);
      return [
        [
          kind,
          {
            times: of.length,
            longest: most('waited'),
            whole: most('whole'),
            lost: sum('lost'),
            doubled: sum('doubled'),
          },
        ],
      ];
    }),
  );
  const longest = Math.max(...rows.map((row) => row.waited));
  process.stdout.write(
    `${JSON.stringify({ faults: rows.length, acknowledged, longest: Number(longest.toFixed(1)), problems: problems.slice(0, 20), table })}\n`,
  );
  process.exit(problems.length === 0 ? 0 : 1);
}

interface Judged {
  kind: string;
  waited: number;
  whole: number;
  lost: number;
  doubled: number;
}

/** The connection it is judged by may be cut by what is still going on: then once more. */
async function judgeAtLast(...given: Parameters<typeof judge>): ReturnType<typeof judge> {
  for (let tries = 0; ; tries++) {
    try {
      return await judge(...given);
    } catch (error) {
      if (tries === 20) throw error;
      await pause(1000);
    }
  }
}

/** What the primary has of what was acknowledged. */
async function judge(
  planIds: readonly string[],
  due: readonly { plan: string; ids: readonly string[] }[],
): Promise<{ lost: number; doubled: number; missing: Set<string>; problems: string[] }> {
  const client = new pg.Client({ connectionString: cluster.primary });
  // A query under way fails by itself.
  client.on('error', () => undefined);
  await client.connect();
  const problems: string[] = [];
  const missing = new Set<string>();
  let doubled = 0;
  for (const plan of planIds) {
    const { rows } = await client.query<{ seq: number; edit_id: string }>(
      'select seq::int, edit_id from edits where plan_id = $1 order by seq',
      [plan],
    );
    const stored = new Map<string, number>();
    for (const [at, row] of rows.entries()) {
      if (row.seq !== at + 1) problems.push(`plan ${plan}: edit ${row.seq} stands where ${at + 1} should`);
      stored.set(row.edit_id, (stored.get(row.edit_id) ?? 0) + 1);
    }
    doubled += [...stored.values()].filter((times) => times > 1).length;
    for (const id of due.filter((one) => one.plan === plan).flatMap(({ ids }) => ids))
      if (!stored.has(id)) missing.add(id);
  }
  await client.end();
  if (missing.size > 0) problems.push(`${missing.size} acknowledged edits are lost`);
  if (doubled > 0) problems.push(`${doubled} edits are there twice`);
  return { lost: missing.size, doubled, missing, problems };
}

main().catch((error: Error) => {
  process.stderr.write(`${error.stack}\n`);
  process.exit(1);
});
