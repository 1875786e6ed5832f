import { createHash, randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import pg from 'pg';
import { newId } from '@/core/base/text/new-id';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { printPlan } from '@/core/plan/file/print-plan';
import type { Plan } from '@/core/plan/model/types';

/**
 * `npm run bench together`: 50 people on one plan, each with its stream of events, each making 10 edits a second. Edits are told late
 * as they were due, not as they could be sent, so that waiting counts; five seconds of warm-up do not. `MAVREK_ORIGINS` are the servers, taken in turns.
 */
const CLIENTS = 50;
const A_SECOND = 10;
const SECONDS = 10;
/** The same load before that: a server that has just begun compiles what it runs, which is not what people wait for. */
const WARM_UP = 5;
const origins = (process.env.MAVREK_ORIGINS ?? process.env.MAVREK_ORIGIN ?? '').split(',');
const agent = new Agent({ keepAlive: true, maxSockets: 200 });

interface Answer {
  status: number;
  text: string;
}

function ask(method: string, url: string, headers: Record<string, string>, body?: unknown): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const text = body === undefined ? undefined : JSON.stringify(body);
    const sent = request(
      url,
      {
        method,
        agent,
        headers: { ...headers, ...(text === undefined ? {} : { 'content-type': 'application/json' }) },
      },
      (answer) => {
        let got = '';
        answer.setEncoding('utf8');
        answer.on('data', (piece: string) => {
          got += piece;
        });
        answer.on('end', () => resolve({ status: answer.statusCode ?? 0, text: got }));
        answer.on('error', reject);
      },
    );
    sent.on('error', reject);
    sent.end(text);
  });
}

/** People with accounts, where the server has accounts: editors of the first workspace. */
async function people(): Promise<Record<string, string>[]> {
  if (process.env.MAVREK_AUTH !== 'on') return Array.from({ length: CLIENTS }, () => ({}));
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await client.connect();
  const all: Record<string, string>[] = [];
  for (let n = 0; n < CLIENTS; n++) {
    const [id, secret] = [newId(), randomBytes(32).toString('base64url')];
    await client.query('insert into people (id, name, email) values ($1, $1, $2)', [
      id,
      `${id}@guard.example`,
    ]);
    await client.query("insert into members (workspace_id, person_id, role) values ('main', $1, 'editor')", [
      id,
    ]);
    await client.query(
      "insert into sessions (digest, id, person_id, workspace_id, agent, expires_at) values ($1, $2, $3, 'main', 'bench', now() + interval '1 hour')",
      [createHash('sha256').update(secret).digest('hex'), newId(), id],
    );
    all.push({ cookie: `mavrek-session=${secret}` });
  }
  await client.end();
  return all;
}

interface Told {
  seq: number;
  editId: string;
  edit: Edit;
}

/** One person's window: the plan as they see it, by the events alone. */
class Window {
  seq = 0;
  readonly delays: number[] = [];
  constructor(
    public plan: Plan,
    private readonly due: ReadonlyMap<string, number>,
  ) {}
  open(url: string, headers: Record<string, string>): Promise<void> {
    return new Promise((resolve, reject) => {
      request(url, { headers }, (answer) => {
        resolve();
        let rest = '';
        answer.setEncoding('utf8');
        answer.on('data', (piece: string) => {
          rest += piece;
          const blocks = rest.split('\n\n');
          rest = blocks.pop() ?? '';
          for (const block of blocks) this.hear(block);
        });
        answer.on('error', () => undefined);
      })
        .on('error', reject)
        .end();
    });
  }
  private hear(block: string): void {
    const data = /^data: (.*)$/m.exec(block)?.[1];
    if (data === undefined || /^event:/m.test(block)) return;
    const told = JSON.parse(data) as Told;
    if (told.seq !== this.seq + 1) throw new Error(`edit ${told.seq} came behind ${this.seq}`);
    const next = applyEdit(this.plan, told.edit);
    if (!next.ok) throw new Error(`edit ${told.seq} does not apply`);
    this.plan = next.value;
    this.seq = told.seq;
    const due = this.due.get(told.editId);
    if (due !== undefined) this.delays.push(performance.now() - due);
  }
}

const at = (values: number[], share: number): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length * share)] ?? 0;

async function main(): Promise<void> {
  const who = await people();
  const [first = ''] = origins;
  const name = 'frost-guard.plan.json';
  const made = await ask('POST', `${first}/api/plans/import`, who[0] ?? {}, {
    fileName: name,
    text: readFileSync(`examples/${name}`, 'utf8'),
  });
  const { id } = JSON.parse(made.text) as { id: string };
  const { plan } = JSON.parse((await ask('GET', `${first}/api/plans/${id}`, who[0] ?? {})).text) as {
    plan: Plan;
  };
  const due = new Map<string, number>();
  const windows = who.map(() => new Window(plan, due));
  const own = (n: number): string => origins[n % origins.length] ?? first;
  await Promise.all(
    windows.map((one, n) => one.open(`${own(n)}/api/plans/${id}/events?after=0`, who[n] ?? {})),
  );
  const acknowledged: number[] = [];
  let lost = 0;
  let saved = 0;
  await Promise.all(
    windows.map(async (window, n) => {
      const net = plan.nets[n % plan.nets.length];
      if (!net) return;
      const start = performance.now() + (n / CLIENTS) * (1000 / A_SECOND);
      let note = net.note ?? '';
      const sent: Promise<void>[] = [];
      for (let turn = 0; turn < (WARM_UP + SECONDS) * A_SECOND; turn++) {
        const when = start + (turn * 1000) / A_SECOND;
        await new Promise((resolve) => setTimeout(resolve, Math.max(0, when - performance.now())));
        const editId = `${n}-${turn}`;
        if (turn >= WARM_UP * A_SECOND) due.set(editId, when);
        const to = `note ${turn}`;
        const edit = { kind: 'net.set', id: net.id, field: 'note', from: note, to };
        note = to;
        // One after the other, as a window sends them; the next waits for the answer, and that counts.
        await Promise.all(sent.splice(0));
        sent.push(
          ask('POST', `${own(n)}/api/plans/${id}/edits`, who[n] ?? {}, {
            editId,
            client: `c${n}`,
            madeAgainst: window.seq,
            edit,
          }).then(({ status, text }) => {
            if (turn >= WARM_UP * A_SECOND) acknowledged.push(performance.now() - when);
            if (status === 200 && (JSON.parse(text) as { status: string }).status === 'saved') saved++;
            else lost++;
          }),
        );
      }
      await Promise.all(sent);
    }),
  );
  await new Promise((resolve) => setTimeout(resolve, 1000));
  const stored = JSON.parse((await ask('GET', `${first}/api/plans/${id}`, who[0] ?? {})).text) as {
    plan: Plan;
    seq: number;
  };
  const text = printPlan(stored.plan);
  const equal = windows.filter((one) => printPlan(one.plan) === text).length;
  const delays = windows.flatMap((one) => one.delays);
  console.table([
    {
      [`${CLIENTS} people on one plan, ${A_SECOND} edits a second each${process.env.MAVREK_AUTH === 'on' ? ', with accounts' : ''}`]: `${saved} saved, ${lost} lost`,
      'acknowledged, p50 ms': at(acknowledged, 0.5).toFixed(0),
      'p95 ms (aim 150)': at(acknowledged, 0.95).toFixed(0),
      'seen by others, p95 ms (aim 200)': at(delays, 0.95).toFixed(0),
      'windows that end equal': `${equal} of ${CLIENTS}`,
    },
  ]);
  const whole = stored.seq === saved && lost === 0 && equal === CLIENTS;
  if (!whole) console.log(`NOT WHOLE: the plan is at ${stored.seq}`);
  process.exit(whole ? 0 : 1);
}

main().catch((error: Error) => {
  console.error(error.message);
  process.exit(1);
});
