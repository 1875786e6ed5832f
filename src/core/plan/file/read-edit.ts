import type { ValidateFunction } from 'ajv';
import { ajv } from '../../base/json/validators';
import { LIMITS, overLimit } from '../../base/limits';
import type { Problem } from '../../base/problems';
import { fail, ok, type Result } from '../../base/result';
import { type Edit, STEP_KINDS, type Step } from '../edits/edits';
import type { Schema } from '../model/schema-parts';
import { planProblems } from './plan-problems';

type Schemas = {
  tell: 'field' | 'key' | 'table';
  each: Readonly<Record<string, Schema>>;
  other?: { pattern: string; schema: Schema };
};

/** Every shape that a step can have: its kind, what tells it apart within the kind, and the schema that it is held to. */
export function stepSchemas(): { name: string; schema: Schema }[] {
  return Object.entries(STEP_KINDS).flatMap(([kind, { schemas }]) => {
    if (!hasEach(schemas)) return [{ name: kind, schema: schemas as Schema }];
    const { tell, each, other } = schemas as Schemas;
    return [
      ...Object.entries(each).map(([told, schema]) => ({ name: `${kind}_${told}`, schema })),
      ...(other
        ? [
            {
              name: `${kind}_other`,
              schema: {
                allOf: [
                  other.schema,
                  { properties: { [tell]: { pattern: other.pattern, not: { enum: Object.keys(each) } } } },
                ],
              },
            },
          ]
        : []),
    ];
  });
}

const hasEach = (schemas: Schemas | Schema): schemas is Schemas => typeof schemas.tell === 'string';

/** The schema that a step is held to: its kind's, or the one for what it changes. */
function schemaFor(step: Record<string, unknown>): { name: string; schema: Schema } | undefined {
  const kind = String(step.kind);
  if (!Object.hasOwn(STEP_KINDS, kind)) return undefined;
  const schemas = STEP_KINDS[kind as Step['kind']].schemas as Schemas | Schema;
  if (!hasEach(schemas)) return { name: kind, schema: schemas };
  const told = String(step[schemas.tell]);
  const schema = Object.hasOwn(schemas.each, told) ? schemas.each[told] : undefined;
  if (schema) return { name: `${kind} ${told}`, schema };
  const { other } = schemas;
  return other && new RegExp(other.pattern).test(told)
    ? { name: `${kind} other`, schema: other.schema }
    : undefined;
}

const compiled = new Map<string, ValidateFunction>();

function validatorOf(step: Record<string, unknown>): ValidateFunction | undefined {
  const found = schemaFor(step);
  if (!found) return undefined;
  let validate = compiled.get(found.name);
  if (!validate) {
    // Makes sure that the plan's definitions are known.
    planProblems();
    validate = ajv.compile(found.schema);
    compiled.set(found.name, validate);
  }
  return validate;
}

/** Characters of a batch's label, at most. */
export const BATCH_LABEL = 2000;

/** Batches in batches have no use; one level is what undo of a batch needs, and some more for what is yet to come. */
const DEEPEST_BATCH = 4;

/**
 * Anything from outside → an edit, or what is wrong with it, with the place in it. Each step is looked at once, by the validator
 * of its own kind, and the first wrong one ends it: work is in proportion to the edit's size.
 */
export function readEdit(value: unknown): Result<Edit> {
  const counter = { steps: 0 };
  const wrong = faultOf(value, 'edit', 0, counter);
  return wrong ? fail(wrong) : ok(value as Edit);
}

function faultOf(
  value: unknown,
  place: string,
  depth: number,
  counter: { steps: number },
): Problem | undefined {
  // The batch around all of them is no step.
  if (++counter.steps > LIMITS.editSteps + 1)
    return { place: 'edit', message: overLimit('editSteps', counter.steps) };
  if (typeof value !== 'object' || value === null) return { place, message: 'is not a known edit' };
  const { kind, edits, label } = value as Record<string, unknown>;
  if (kind === 'batch') {
    if (depth >= DEEPEST_BATCH) return { place, message: 'batches are nested too deep' };
    if (
      !Array.isArray(edits) ||
      typeof label !== 'string' ||
      label.length > BATCH_LABEL ||
      Object.keys(value).length !== 3
    )
      return { place, message: 'a batch has a label and edits' };
    if (edits.length > LIMITS.editSteps) return { place, message: overLimit('editSteps', edits.length) };
    for (const [at, one] of edits.entries()) {
      const fault = faultOf(one, `${place}/edits/${at}`, depth + 1, counter);
      if (fault) return fault;
    }
    return undefined;
  }
  const validate = validatorOf(value as Record<string, unknown>);
  if (!validate) return { place, message: 'is not a known edit' };
  if (validate(value)) return undefined;
  const first = validate.errors?.find((error) => !['oneOf', 'anyOf', 'const'].includes(error.keyword));
  return { place: `${place}${first?.instancePath ?? ''}`, message: first?.message ?? 'is not a known edit' };
}
