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

/** Puts the demo plans into an empty database. One that was ever used is left alone, deleted demos included. */
export async function seedDemo(): Promise<void> {
  const [row] = await query<{ used: boolean }>('select exists (select 1 from plans) as used');
  if (row?.used) return;
  for (const { id, file } of DEMOS) {
    const path = join(process.env.MAVREK_HOME ?? process.cwd(), 'examples', file);
    const plan = parsePlan(file, readFileSync(path, 'utf8'));
    const stored = plan.ok ? await storePlan(plan.value, id) : plan;
    if (!stored.ok) throw new Error(`demo plan: ${formatProblems(stored.problems)}`);
  }
}
