import type { Problems } from '../problems';
import { SETTING_KEYS } from '../settings';
import { attempt } from './attempt';
import { type Condition, conditionHolds, parseCondition, variablesIn } from './condition';
import { ExpressionError, type Scope } from './expression';
import type { Bits } from './machine';
import type { InvariantSource, RecipeSource } from './types';

/** What must be so after every operation, for every pad that has the fields it speaks of. */
export interface Invariant {
  text: string;
  why?: string;
  never?: Condition;
  steady: string[];
  while?: Condition;
  /** Every field it looks at. */
  fields: string[];
}

/** Reads the invariants of a recipe; what cannot be read is a problem with its place. */
export function compileInvariants(
  recipe: RecipeSource,
  knowsVariable: (name: string) => boolean,
  problems: Problems,
): Invariant[] {
  checkBetween(recipe, problems);
  return (recipe.invariants ?? []).flatMap((source, position): Invariant[] => {
    const place = `recipe, invariant ${position + 1}`;
    const found = attempt(() => compileInvariant(source, recipe, knowsVariable), place, problems);
    return found ? [found] : [];
  });
}

function checkBetween(recipe: RecipeSource, problems: Problems): void {
  for (const key of SETTING_KEYS) {
    for (const value of recipe.between?.[key] ?? []) {
      if (value !== '*' && !recipe.settings[key]?.includes(value))
        problems.push({ place: `recipe, between, ${key}`, message: `"${value}" is no value of ${key}` });
    }
  }
}

function compileInvariant(
  source: InvariantSource,
  recipe: RecipeSource,
  knowsVariable: (name: string) => boolean,
): Invariant {
  const { never, steady = [], while: during, why } = source;
  if ((never === undefined) === (steady.length === 0))
    throw new ExpressionError('say either what must "never" be, or which fields are "steady"', 1);
  if (never !== undefined && during !== undefined)
    throw new ExpressionError('"while" belongs to "steady"; put it into the condition of "never"', 1);
  const isField = (name: string): boolean => Object.hasOwn(recipe.fields, name);
  const conditions = [never, during].map((text) => (text === undefined ? undefined : parseCondition(text)));
  const named = conditions.flatMap((one) => (one ? [...variablesIn(one)] : []));
  for (const name of [...named.filter((one) => !knowsVariable(one)), ...steady]) {
    if (!isField(name)) throw new ExpressionError(`there is no field ${name}`, 1);
  }
  const fields = [...new Set([...named.filter(isField), ...steady])];
  if (fields.length === 0) throw new ExpressionError('it looks at no field', 1);
  const bits = fields.reduce((sum, id) => sum + widthOf(recipe, id), 0);
  if (bits > MOST_BITS)
    throw new ExpressionError(`it looks at ${bits} bits; at most ${MOST_BITS} can be tried in all ways`, 1);
  const [forbidden, condition] = conditions;
  const text =
    never !== undefined
      ? `never ${never}`
      : `${steady.join(', ')} steady${during === undefined ? '' : ` while ${during}`}`;
  return {
    text,
    ...(why === undefined ? {} : { why }),
    ...(forbidden ? { never: forbidden } : {}),
    steady,
    ...(condition ? { while: condition } : {}),
    fields,
  };
}

const widthOf = (recipe: RecipeSource, id: string): number => {
  const field = recipe.fields[id];
  return field?.parts ? field.parts.reduce((sum, part) => sum + part.bits, 0) : (field?.bits ?? 1);
};

/** What the fields of a pad hold at one moment. */
export type FieldStates = ReadonlyMap<string, Bits>;

/** The most bits that an invariant may look at: each of them is tried as 0 and as 1. */
const MOST_BITS = 12;

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
