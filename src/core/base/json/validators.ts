import Ajv from 'ajv';
import { collectProblems, type Problem } from '../problems';
import { type ReadJson, schemaProblems } from './read-json';

/** The published schemas are the validators: there is no second description of the formats. Each is added where it is used. */
// Each process compiles once and validates little: optimizing the code costs more than it saves.
export const ajv = new Ajv({
  allErrors: true,
  strict: true,
  strictRequired: false,
  strictTypes: false,
  // A function for each definition, not a copy of it at every place: a quarter less to compile.
  inlineRefs: false,
  // That they are schemas is for the tests: it takes a tenth of a second of every command.
  validateSchema: false,
  meta: false,
  code: { optimize: false },
});

/** Compiled when first asked for: a command that reads a plan does not pay for the edits' schema. */
function once<T>(make: () => T): () => T {
  let made: T | undefined;
  return () => {
    made ??= make();
    return made;
  };
}

interface Schema {
  readonly $id: string;
  readonly properties: Readonly<Record<string, object>>;
}

/**
 * A document's validator that takes its long lists item by item: it stops when enough is wrong, so that a list of a hundred
 * thousand wrong items costs no more than one of fifty. Everything else is validated as one.
 */
export function inPieces(schema: Schema, lists: readonly string[]) {
  return once(() => {
    if (!ajv.getSchema(schema.$id)) ajv.addSchema(schema);
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
