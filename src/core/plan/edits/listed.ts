import { canonicalJson } from '../../base/fingerprint';
import { LIMITS } from '../../base/limits';
import { ok, type Result } from '../../base/result';
import type { Attachment } from '../model/attachments';
import type { Constraint, Plan, Trial, Waiver } from '../model/types';
import { full, insertAt, refuse } from './kind';

/** Lists of a plan that it need not have. */
type Lists = { constraints: Constraint; waivers: Waiver; attachments: Attachment; trials: Trial };

export function addTo<Key extends keyof Lists>(
  plan: Plan,
  key: Key,
  item: Lists[Key],
  at: number,
  what: string,
): Result<Plan> {
  const list = (plan[key] ?? []) as Lists[Key][];
  if (list.some((one) => one.id === item.id)) return refuse(`${what} is there already`);
  if (list.length >= LIMITS[key]) return full(key);
  return ok({ ...plan, [key]: insertAt(list, item, at) });
}

export function takeFrom<Key extends keyof Lists>(
  plan: Plan,
  key: Key,
  item: Lists[Key],
  what: string,
): Result<Plan> {
  const list = (plan[key] ?? []) as Lists[Key][];
  const found = list.find((one) => one.id === item.id);
  if (!found) return refuse(`${what} is gone already`);
  if (canonicalJson(found) !== canonicalJson(item)) return refuse(`${what} was changed meanwhile; it stays`);
  const left = list.filter((one) => one !== found);
  const { [key]: _old, ...rest } = plan;
  return ok(left.length === 0 ? (rest as Plan) : { ...plan, [key]: left });
}
