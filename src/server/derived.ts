import { type Derived, derive } from '@/core/derive';
import { planDevice } from './parts';
import { readPlan } from './plans';

/** A stored plan with all that follows from it; undefined when it is not there, or its part or package is not. */
export async function derivedPlan(id: string): Promise<Derived | undefined> {
  const current = await readPlan(id);
  const device = current && (await planDevice(current.plan));
  if (!current || !device) return undefined;
  const derived = derive(device, current.plan);
  return derived.ok ? derived.value : undefined;
}
