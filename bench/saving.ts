import pg from 'pg';
import type { Edit } from '@/core/plan/edits/edits';
import { emptyPlan } from '@/core/plan/model/types';
import { closeServer } from '@/server/close';
import { database, query } from '@/server/db';
import { appendEdit } from '@/server/edit-log';
import { insertSnapshot } from '@/server/edit-store';
import { newId } from '@/server/ids';
import { migrate } from '@/server/migrate';
import { median } from './median';

/**
 * Saving, held against what the database can do at all: 8 writers, each waiting for one edit to be stored before it makes the
 * next. Raw is one prepared insert of such an edit a transaction, on a connection for each writer. Both in turns in one run.
 */
const WRITERS = 8;
const ROUND_MS = 1500;
const ROUNDS = 4;

async function freshPlan(): Promise<string> {
  const id = `bench-${newId()}`;
  const plan = { ...emptyPlan('Bench', 'none', 'none', ''), circuits: [{ id: 'c', name: 'C' }] };
  const nets = Array.from({ length: 50 }, (_, at) => ({
    id: `n${at}`,
    name: `N${at}`,
    circuit: 'c',
    role: { kind: 'input' as const },
    placement: null,
    settings: {},
  }));
  await query(
    `insert into plans (id, workspace_id, name, revision, device, package) values ($1, 'main', 'Bench', 'A', 'none', 'none')`,
    [id],
  );
  await insertSnapshot(database, id, 0, { ...plan, nets });
  return id;
}

const toggle = (writer: number, turn: number): Edit => ({
  kind: 'net.setting',
  id: `n${writer}`,
  key: 'pull',
  from: turn === 0 ? null : turn % 2 ? 'up' : 'down',
  to: turn % 2 ? 'down' : 'up',
});

/** Edits stored a second by writers that each do `once` again and again. */
async function rate(once: (writer: number, turn: number) => Promise<void>): Promise<number> {
  const start = performance.now();
  const counts = await Promise.all(
    Array.from({ length: WRITERS }, async (_, writer) => {
      let turn = 0;
      while (performance.now() - start < ROUND_MS) await once(writer, turn++);
      return turn;
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  return counts.reduce((a, b) => a + b, 0) / seconds;
}

export async function benchSaving(): Promise<void> {
  const url = process.env.DATABASE_URL;
  if (!url) return console.log('saving: no database (DATABASE_URL is not set)');
  await migrate();
  const clients = await Promise.all(
    Array.from({ length: WRITERS }, async () => {
      const client = new pg.Client({ connectionString: url });
      await client.connect();
      return client;
    }),
  );
  const figures: Record<'raw' | 'one plan' | 'eight plans', number[]> = {
    raw: [],
    'one plan': [],
    'eight plans': [],
  };
  for (let round = 0; round < ROUNDS; round++) {
    const bare = await freshPlan();
    let seq = 0;
    figures.raw.push(
      await rate(async (writer, turn) => {
        await clients[writer]?.query({
          name: 'raw',
          text: "insert into edits (plan_id, seq, edit_id, client, made_against, edit, workspace_id) values ($1, $2, $3, $4, $5, $6, 'main')",
          values: [bare, ++seq, `${writer}-${turn}`, String(writer), 0, JSON.stringify(toggle(writer, turn))],
        });
      }),
    );
    const one = await freshPlan();
    const many = await Promise.all(Array.from({ length: WRITERS }, freshPlan));
    const seen = new Map<string, number>();
    const append = (planOf: (writer: number) => string) => async (writer: number, turn: number) => {
      const id = planOf(writer);
      const key = `${id} ${writer}`;
      const result = await appendEdit(id, {
        editId: `${writer}-${turn}`,
        client: String(writer),
        madeAgainst: seen.get(key) ?? 0,
        edit: toggle(writer, turn),
      });
      if (result.status !== 'saved') throw new Error(JSON.stringify(result));
      seen.set(key, result.seq);
    };
    figures['one plan'].push(await rate(append(() => one)));
    figures['eight plans'].push(await rate(append((writer) => many[writer] ?? one)));
  }
  for (const client of clients) await client.end();
  await closeServer();
  const raw = median(figures.raw);
  console.table(
    Object.entries(figures).map(([what, values]) => ({
      [`saving, ${WRITERS} writers`]: what === 'raw' ? 'raw inserts' : `edits of ${what}`,
      'a second': median(values).toFixed(0),
      'of raw (aim 0.50)': (median(values) / raw).toFixed(2),
    })),
  );
}
