import type { Problems } from '../../base/problems';
import { attempt } from '../../description/language/attempt';
import { type Condition, parseCondition, variablesIn } from '../../description/language/condition';
import { ExpressionError } from '../../description/language/expression';
import type { InvariantSource, RecipeSource } from '../../description/recipe';

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
  return (recipe.invariants ?? []).flatMap((source, position): Invariant[] => {
    const place = `recipe, invariant ${position + 1}`;
    const found = attempt(() => compileInvariant(source, recipe, knowsVariable), place, problems);
    return found ? [found] : [];
  });
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
  // Of a width that differs the greatest has to be reckoned with.
  const width = (bits: number | string | undefined): number => (typeof bits === 'string' ? 8 : (bits ?? 1));
  return field?.parts ? field.parts.reduce((sum, part) => sum + width(part.bits), 0) : width(field?.bits);
};
/** The most bits that an invariant may look at: each of them is tried as 0 and as 1. */
const MOST_BITS = 12;
