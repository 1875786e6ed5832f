import { BATCH_LABEL, stepSchemas } from '@/core/plan/file/read-edit';
import { PLAN_SCHEMA } from '@/core/plan/model/schema';
import type { Schema } from '@/core/plan/model/schema-parts';
import { list, record, ref, text } from './answers';

/** Plans and edits as components of the description: the very schemas that they are held to. */

/** References into a document of its own lead into this one. */
function relinked(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(relinked);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, one]) => {
      const name =
        key === '$ref' && typeof one === 'string' ? /#\/definitions\/(.+)$/.exec(one)?.[1] : undefined;
      return [key, name === undefined ? relinked(one) : `#/components/schemas/Plan_${name}`];
    }),
  );
}

function planComponents(): Record<string, Schema> {
  const {
    definitions,
    $schema: _schema,
    $id: _id,
    ...plan
  } = PLAN_SCHEMA as unknown as Record<string, Schema> & { definitions: Record<string, Schema> };
  return {
    Plan: relinked(plan) as Schema,
    ...Object.fromEntries(
      Object.entries(definitions).map(([name, schema]) => [`Plan_${name}`, relinked(schema) as Schema]),
    ),
  };
}

function editComponents(): Record<string, Schema> {
  const steps = stepSchemas().map(
    ({ name, schema }) => [`Edit_${name}`, relinked(schema) as Schema] as const,
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

export const PLAN_COMPONENTS: Readonly<Record<string, Schema>> = { ...planComponents(), ...editComponents() };
