import { BATCH_LABEL, stepSchemas } from '@/core/plan/file/read-edit';
import { PLAN_SCHEMA } from '@/core/plan/model/schema';
import type { Schema } from '@/core/plan/model/schema-parts';
import deviceSchema from '../../../../docs/schema/mavrek-device-3.schema.json';
import recipeSchema from '../../../../docs/schema/mavrek-recipe-3.schema.json';
import { list, record, ref, text } from './answers';

/** Plans, edits and parts as components of the description: the very schemas that they are held to. */

/** Published schemas, by what they are components as. */
const OWNERS: Readonly<Record<string, string>> = {
  'urn:mavrek:plan:2': 'Plan',
  'urn:mavrek:device:3': 'Part',
  'urn:mavrek:recipe:3': 'Recipe',
};

/** A schema whose references lead into documents of their own, as part of this one. */
function relinked(value: unknown, owner: string): unknown {
  if (Array.isArray(value)) return value.map((one) => relinked(one, owner));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, one]) => {
      if (key !== '$ref' || typeof one !== 'string') return [key, relinked(one, owner)];
      const [, document = '', name] = /^([^#]*)#\/definitions\/(.+)$/.exec(one) ?? [];
      return [key, name === undefined ? one : `#/components/schemas/${OWNERS[document] ?? owner}_${name}`];
    }),
  );
}

/** A published schema, and each of its definitions as a component named after it. */
function componentsOf(owner: string, published: object): Record<string, Schema> {
  const {
    definitions = {},
    $schema: _schema,
    $id: _id,
    ...whole
  } = published as Record<string, Schema> & { definitions?: Record<string, Schema> };
  return {
    [owner]: relinked(whole, owner) as Schema,
    ...Object.fromEntries(
      Object.entries(definitions).map(([name, schema]) => [
        `${owner}_${name}`,
        relinked(schema, owner) as Schema,
      ]),
    ),
  };
}

function editComponents(): Record<string, Schema> {
  const steps = stepSchemas().map(
    ({ name, schema }) => [`Edit_${name}`, relinked(schema, 'Plan') as Schema] as const,
  );
  const batch: Schema = {
    ...record({
      kind: { const: 'batch' },
      label: { ...text, maxLength: BATCH_LABEL },
      edits: list(ref('Edit')),
    }),
    additionalProperties: false,
  };
  return {
    Edit: {
      description:
        'A change of a plan: a step, which says what it found and what it makes, or several steps as one. See docs/plan-format.md.',
      anyOf: [...steps.map(([name]) => ref(name)), ref('Edit_batch')],
    },
    Edit_batch: batch,
    ...Object.fromEntries(steps),
  };
}

export const SCHEMA_COMPONENTS: Readonly<Record<string, Schema>> = {
  ...componentsOf('Plan', PLAN_SCHEMA),
  // Exports keep the options of their code.
  Plan_code: relinked((PLAN_SCHEMA.properties as Record<string, Schema>).code, 'Plan') as Schema,
  ...componentsOf('Part', deviceSchema),
  ...componentsOf('Recipe', recipeSchema),
  ...editComponents(),
};
