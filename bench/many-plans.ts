import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import pg from 'pg';
import { parsePlan } from '@/core/plan/file/plan-file';
import { closeServer } from '@/server/close';
import { query } from '@/server/db';
import { foldOld } from '@/server/fold';
import { planHistory } from '@/server/history';
import { migrate } from '@/server/migrate';
import { listPlans, readPlan } from '@/server/plans';
import { median } from './median';

/**
 * `npm run bench many`: opening a plan among 10 plans and among 10,000 with 10 million edits, in turns, in databases of their own. The
 * data are generated: the demo plan, a thousand edits of it over a year. `MAVREK_MANY` makes it fewer plans.
 */
const EDITS = 1000;
const [step = '', countText = ''] = process.argv.slice(2);
const MANY = Number(process.env.MAVREK_MANY ?? 10_000);

const urlOf = (name: string): string => {
  const url = new URL(process.env.DATABASE_URL ?? '');
  url.pathname = `/${name}`;
  return url.href;
};

async function fill(count: number): Promise<void> {
  await migrate();
  const read = parsePlan('demo', readFileSync('examples/frost-guard.plan.json', 'utf8'));
  if (!read.ok) throw new Error('the demo plan cannot be read');
  const net = read.value.nets[0];
  const plan = { ...read.value, nets: read.value.nets.map((one) => ({ ...one, note: '' })) };
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await client.connect();
  await client.query("select mavrek_partitions((now() - interval '13 months')::date, 15)");
  // What refers to what is right by how it is made.
  await client.query(
    "set session_replication_role = replica; set synchronous_commit = off; set work_mem = '256MB'",
  );
  await client.query(
    `insert into plans (id, workspace_id, name, revision, device, package, seq, nets, placed, updated_at, counted_seq)
     select 'p' || n, 'main', 'Plan ' || n, 'A', $2, $3, ${EDITS}, 50, 50, now() - make_interval(mins => n), ${EDITS}
     from generate_series(1, $1::int) n`,
    [count, plan.device, plan.package],
  );
  await client.query(
    `insert into snapshots (plan_id, seq, plan)
     select 'p' || n, s, jsonb_set($2::jsonb, '{nets,0,note}', to_jsonb(case s when 0 then '' else 'note ' || s end))
     from generate_series(1, $1::int) n, unnest(array[0, 500, ${EDITS - 25}]) s`,
    [count, JSON.stringify(plan)],
  );
  for (let from = 1; from <= count; from += 250)
    await client.query(
      `insert into edits (workspace_id, plan_id, seq, edit_id, client, author, made_against, format, edit, at)
       select 'main', 'p' || n, s, 'e' || s, 'bench', 'Ada', s - 1, 2,
         jsonb_build_object('kind', 'net.set', 'id', $3::text, 'field', 'note',
           'from', case s when 1 then '' else 'note ' || (s - 1) end, 'to', 'note ' || s),
         now() - interval '1 year' * ((${EDITS} - s) / ${EDITS}.0)
       from generate_series($1::int, least($1::int + 249, $2::int)) n, generate_series(1, ${EDITS}) s`,
      [from, count, net?.id],
    );
  await client.query('reset session_replication_role');
  await client.query('vacuum analyze');
  await client.end();
}

/** Milliseconds at the median to open plans by chance, to read a page of their history, and to list plans. */
async function open(count: number): Promise<Record<'open' | 'history' | 'list', number>> {
  const ids = Array.from({ length: 300 }, () => `p${1 + Math.floor(Math.random() * count)}`);
  const times = async (all: readonly string[], work: (id: string) => Promise<unknown>): Promise<number> => {
    const each: number[] = [];
    for (const id of all) {
      const began = performance.now();
      await work(id);
      each.push(performance.now() - began);
    }
    return median(each.slice(Math.floor(all.length / 4)));
  };
  return {
    open: await times(ids, readPlan),
    history: await times(ids.slice(0, 40), (id) => planHistory(id)),
    list: await times(ids.slice(0, 20), listPlans),
  };
}

async function main(): Promise<void> {
  if (step === 'fill') {
    await fill(Number(countText));
    await closeServer();
    return;
  }
  if (step === 'fold') {
    for (let more = await foldOld(90, 1000); more > 0; more = await foldOld(90, 1000))
      process.stderr.write('.');
    await query('vacuum analyze edits');
    await closeServer();
    return;
  }
  if (step === 'open') {
    console.log(JSON.stringify(await open(Number(countText))));
    await closeServer();
    return;
  }
  // Each step in a process of its own: what one remembers is no help to another.
  const run = (name: string, ...args: string[]): string =>
    execFileSync(process.execPath, [process.argv[1] ?? '', ...args], {
      encoding: 'utf8',
      env: { ...process.env, DATABASE_URL: urlOf(name) },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
  const server = new pg.Client({ connectionString: urlOf('postgres') });
  await server.connect();
  for (const [name, count] of [
    ['bench_few', 10],
    ['bench_many', MANY],
  ] as const) {
    await server.query(`drop database if exists ${name} with (force)`);
    await server.query(`create database ${name}`);
    run(name, 'fill', String(count));
  }
  const compare = (what: string): void => {
    const figures = { few: [] as Record<string, number>[], many: [] as Record<string, number>[] };
    for (let round = 0; round < 5; round++) {
      figures.few.push(JSON.parse(run('bench_few', 'open', '10')) as Record<string, number>);
      figures.many.push(JSON.parse(run('bench_many', 'open', String(MANY))) as Record<string, number>);
    }
    console.table(
      ['open', 'history', 'list'].map((key) => {
        const few = median(figures.few.map((one) => one[key] ?? 0));
        const many = median(figures.many.map((one) => one[key] ?? 0));
        return {
          [what]: { open: 'opening a plan', history: 'a page of its history', list: 'the list of plans' }[
            key
          ],
          'among 10, ms': few.toFixed(2),
          [`among ${MANY}, ms`]: many.toFixed(2),
          'ratio (aim 1.5)': (many / few).toFixed(2),
        };
      }),
    );
  };
  compare(`${MANY * EDITS} edits, nothing folded`);
  run('bench_many', 'fold');
  run('bench_few', 'fold');
  compare(`${MANY * EDITS} edits, older than 90 days folded`);
  const { rows } = await server.query("select pg_size_pretty(pg_database_size('bench_many')) as size");
  console.log(`the database of ${MANY} plans has ${rows[0]?.size}`);
  for (const name of ['bench_few', 'bench_many']) await server.query(`drop database ${name} with (force)`);
  await server.end();
}

main().catch((error: Error) => {
  console.error(error);
  process.exit(1);
});
