import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { formatProblems } from '@/core/base/result';
import { parsePlan } from '@/core/plan/file/plan-file';
import { query } from './db';
import { storePlan } from './plans';

/** The demo plans, under fixed ids so that links to them work on every machine. */
const DEMOS = [
  { id: 'frost-guard-faulty', file: 'frost-guard-faulty.plan.json' },
  { id: 'frost-guard', file: 'frost-guard.plan.json' },
];

/**
 * Puts the demo plans into an empty database. One that was ever used for more is left alone, deleted demos included; where putting
 * them in was interrupted, those that are missing follow.
 */
export async function seedDemo(): Promise<void> {
  const ids = DEMOS.map(({ id }) => id);
  const there = await query<{ id: string }>('select id from plans order by id = any ($1), id limit 3', [ids]);
  if (there.some(({ id }) => !ids.includes(id))) return;
  for (const { id, file } of DEMOS) {
    if (there.some((plan) => plan.id === id)) continue;
    const path = join(process.env.MAVREK_HOME ?? process.cwd(), 'examples', file);
    const plan = parsePlan(file, readFileSync(path, 'utf8'));
    const stored = plan.ok ? await storePlan(plan.value, id) : plan;
    if (!stored.ok) throw new Error(`demo plan: ${formatProblems(stored.problems)}`);
  }
}
