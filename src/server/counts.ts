import type { Plan } from '@/core/plan/model/types';
import { database, query } from './db';
import { loadPlan } from './edit-store';
import { log } from './log';
import { findPlanPart, workOnPart } from './parts';
import { asServer } from './people/who';

/**
 * Errors and warnings in the list of plans. They follow after an edit is stored: worked out in a worker thread, some time later,
 * once for all edits in between. A head says for which number its counts are (`counted_seq`); what a server did not come to
 * before it ended is caught up when the list is asked for.
 */
const PAUSE_MS = 300;

const waiting = new Map<string, NodeJS.Timeout>();
const running = new Map<string, Promise<void>>();

let ended = false;

export function countLater(id: string): void {
  if (ended || waiting.has(id)) return;
  const timer = setTimeout(() => {
    waiting.delete(id);
    void countNow(id);
  }, PAUSE_MS);
  timer.unref();
  waiting.set(id, timer);
}

/** Counts a plan now; one that is being counted is waited for first. */
export async function countNow(id: string): Promise<void> {
  if (ended) return;
  await running.get(id);
  // Counting changes nothing that anybody said: it is the server's, whoever made the edit.
  const run = asServer(() => count(id))
    .catch((error: Error) => log.warn({ plan: id, err: error.message }, 'a plan was not counted'))
    .finally(() => running.delete(id));
  running.set(id, run);
  await run;
}

async function count(id: string): Promise<void> {
  const current = await loadPlan(database, id);
  if (!current) return;
  const counts = await countsOf(current.plan);
  await query(
    `update plans set errors = $3, warnings = $4, counted_seq = $2
     where id = $1 and (counted_seq is null or counted_seq <= $2)`,
    [id, current.seq, counts.errors, counts.warnings],
  );
}

async function countsOf(plan: Plan): Promise<{ errors: number; warnings: number }> {
  const part = await findPlanPart(plan);
  return part ? workOnPart('counts', part, { plan }) : { errors: 0, warnings: 0 };
}

/** Counts what was left uncounted, a few at a time. */
export function catchUp(ids: readonly string[]): void {
  for (const id of ids.slice(0, 20)) countLater(id);
}

/** Lets what is being counted come to its end, and counts no more. */
export async function endCounting(): Promise<void> {
  ended = true;
  for (const timer of waiting.values()) clearTimeout(timer);
  waiting.clear();
  await Promise.all(running.values());
}
