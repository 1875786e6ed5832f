import { planAt } from './history';
import { findPlanPart, type StoredDescription } from './parts';
import { readPlan } from './plans';

/** A stored plan, as it is or as it was behind an edit; undefined when it is not there. */
export const planThen = (id: string, at: number | undefined) =>
  at === undefined ? readPlan(id) : planAt(id, at);

/** The moment that an address asks for: `?at=12`. NaN when it is none. */
export function momentIn(url: string): number | undefined {
  const at = new URL(url).searchParams.get('at');
  return at === null ? undefined : /^\d{1,15}$/.test(at) ? Number(at) : Number.NaN;
}

/** A stored plan and the description it stands on; undefined when the plan is not there, or its part is not. */
export async function planOnPart(id: string, at?: number) {
  if (Number.isNaN(at)) return undefined;
  const current = await planThen(id, at);
  const part: StoredDescription | undefined = current && (await findPlanPart(current.plan));
  return current && part ? { ...current, part } : undefined;
}
