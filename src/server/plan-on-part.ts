import { findPlanPart, type StoredDescription } from './parts';
import { readPlan } from './plans';

/** A stored plan and the description it stands on; undefined when the plan is not there, or its part is not. */
export async function planOnPart(id: string) {
  const current = await readPlan(id);
  const part: StoredDescription | undefined = current && (await findPlanPart(current.plan));
  return current && part ? { ...current, part } : undefined;
}
