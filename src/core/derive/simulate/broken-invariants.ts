import { conditionHolds } from '../../description/language/condition';
import type { Scope } from '../../description/language/expression';
import type { Invariant } from '../../device/fields/invariants';
import type { Bits } from '../machine/state';

/** What the fields of a pad hold at one moment. */
export type FieldStates = ReadonlyMap<string, Bits>;

/**
 * Whether an invariant is broken after an operation, in some state that kept to it before the first one. `start`, `before` and
 * `now` are the pad's fields at the start, before the operation and after it.
 */
export function isBroken(
  invariant: Invariant,
  start: FieldStates,
  before: FieldStates,
  now: FieldStates,
  widths: ReadonlyMap<string, number>,
  outer: Scope,
): boolean {
  const { fields } = invariant;
  if (fields.some((id) => !now.has(id))) return false;
  // Each bit that is not known at one of the moments is tried as 0 and as 1.
  const free: { field: string; bit: number }[] = [];
  for (const id of fields) {
    for (let bit = 0; bit < (widths.get(id) ?? 0); bit++) {
      const known = [start, before, now].every(
        (states) => (((states.get(id)?.known ?? 0) >>> bit) & 1) === 1,
      );
      if (!known) free.push({ field: id, bit });
    }
  }
  for (let round = 0; round < 2 ** free.length; round++) {
    const chosen = new Map<string, number>();
    free.forEach(({ field, bit }, position) => {
      if ((round >>> position) & 1) chosen.set(field, (chosen.get(field) ?? 0) | (1 << bit));
    });
    const at = (states: FieldStates, id: string): number => {
      const { known = 0, value = 0 } = states.get(id) ?? {};
      // A bit that is as it was may be its opposite.
      const guess = (chosen.get(id) ?? 0) ^ (value & ~known);
      return ((value & known) | (guess & ~known)) >>> 0;
    };
    const scope =
      (states: FieldStates): Scope =>
      (name) =>
        fields.includes(name) ? at(states, name) : outer(name);
    if (breaks(invariant, scope(start), scope(start))) continue;
    if (breaks(invariant, scope(before), scope(now))) return true;
  }
  return false;
}

function breaks(invariant: Invariant, before: Scope, now: Scope): boolean {
  if (invariant.never) return conditionHolds(invariant.never, now);
  const during = invariant.while;
  if (during && !(conditionHolds(during, before) && conditionHolds(during, now))) return false;
  return invariant.steady.some((id) => before(id) !== now(id));
}
