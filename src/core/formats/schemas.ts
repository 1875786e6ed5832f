import Ajv from 'ajv';
import deviceSchema from '../../../docs/schema/mavrek-device-1.schema.json';
import planSchema from '../../../docs/schema/mavrek-plan-1.schema.json';
import recipeSchema from '../../../docs/schema/mavrek-recipe-1.schema.json';
import { collectProblems } from '../problems';
import type { Problem } from '../result';
import { type ReadJson, schemaProblems } from './read-json';

/** The published schemas are the validators: there is no second description of the formats. */
export const ajv = new Ajv({ allErrors: true, strict: true, strictRequired: false, strictTypes: false });
ajv.addSchema(deviceSchema).addSchema(planSchema).addSchema(recipeSchema);

/** Compiled when first asked for: a command that reads a plan does not pay for the edits' schema. */
function once<T>(make: () => T): () => T {
  let made: T | undefined;
  return () => {
    made ??= make();
    return made;
  };
}

type Schema = { $id: string; properties: Record<string, object> };

/**
 * A document's validator that takes its long lists item by item: it stops when enough is wrong, so that a list of a hundred
 * thousand wrong items costs no more than one of fifty. Everything else is validated as one.
 */
function inPieces(schema: Schema, lists: readonly string[]) {
  return once(() => {
    const properties = { ...schema.properties };
    for (const key of lists) {
      const { items: _apart, ...list } = properties[key] as { items: object };
      properties[key] = list;
    }
    const whole = ajv.compile({ ...schema, $id: `${schema.$id}:shell`, properties });
    const items = lists.map((key) => ({
      key,
      validate: ajv.compile({ $ref: `${schema.$id}#/properties/${key}/items` }),
    }));
    return (json: ReadJson): Problem[] => {
      const problems = collectProblems();
      if (!whole(json.value)) schemaProblems(whole, json, problems);
      for (const { key, validate } of items) {
        const list: unknown = (json.value as Record<string, unknown> | null)?.[key];
        if (!Array.isArray(list)) continue;
        // A list that is too long is refused as such.
        const most = (schema.properties[key] as { maxItems?: number }).maxItems ?? list.length;
        for (let at = 0; at < Math.min(list.length, most) && !problems.full; at++)
          if (!validate(list[at])) schemaProblems(validate, json, problems, [key, at]);
      }
      return problems.list();
    };
  });
}

/** What is wrong with a file by its published schema, with places. */
export const planProblems = inPieces(planSchema, ['circuits', 'nets', 'ties', 'waivers']);
export const deviceProblems = inPieces(deviceSchema, ['packages', 'pads', 'functions']);
export const recipeProblems = inPieces(recipeSchema, []);
