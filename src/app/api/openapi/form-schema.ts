import type { AnyObjectSchema } from 'yup';
import type { Schema } from '@/core/plan/model/schema-parts';

/** What Yup says of a field. */
interface Described {
  type: string;
  optional: boolean;
  nullable: boolean;
  oneOf: unknown[];
  tests: { name?: string; params?: Record<string, unknown> }[];
  fields?: Record<string, Described>;
  innerType?: Described;
}

/** A form as JSON Schema (2020-12): what the description of the interface says is what requests are held to. */
export const formSchema = (form: AnyObjectSchema): Schema =>
  schemaOf(form.describe() as unknown as Described);

const schemaOf = (given: Described): Schema =>
  given.nullable ? { anyOf: [plainSchema(given), { type: 'null' }] } : plainSchema(given);

function plainSchema({ type, oneOf, tests, fields = {}, innerType }: Described): Schema {
  const has = (name: string): boolean => tests.some((one) => one.name === name);
  const figure = (keyword: string, test: 'min' | 'max'): Schema => {
    const value = tests.find((one) => one.name === test)?.params?.[test];
    return typeof value === 'number' ? { [keyword]: value } : {};
  };
  switch (type) {
    case 'object': {
      const required = Object.entries(fields).flatMap(([key, one]) => (one.optional ? [] : [key]));
      return {
        type: 'object',
        additionalProperties: false,
        ...(required.length > 0 ? { required } : {}),
        properties: Object.fromEntries(Object.entries(fields).map(([key, one]) => [key, schemaOf(one)])),
      };
    }
    case 'array':
      return {
        type: 'array',
        ...figure('minItems', 'min'),
        ...figure('maxItems', 'max'),
        items: innerType ? schemaOf(innerType) : {},
      };
    case 'number':
      return {
        type: has('integer') ? 'integer' : 'number',
        ...figure('minimum', 'min'),
        ...figure('maximum', 'max'),
      };
    case 'boolean':
      return { type: 'boolean' };
    default: {
      const regex = tests.find((one) => one.name === 'matches')?.params?.regex;
      return {
        type: 'string',
        ...(oneOf.length > 0 ? { enum: oneOf } : {}),
        // A text that is asked for must not be empty.
        ...(has('required') ? { minLength: 1 } : {}),
        ...figure('minLength', 'min'),
        ...figure('maxLength', 'max'),
        ...(regex instanceof RegExp ? { pattern: regex.source } : {}),
      };
    }
  }
}
