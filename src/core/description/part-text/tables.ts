import type { Json, Target } from './forms';
import { entriesAt, itemsOf } from './targets';

/**
 * A field's table stands in the field's line, as `$table`. The exchange format keeps tables in a list of their own: where that has them
 * in another order than the fields, or two of one field, they stand in lines of their own.
 */
const tablesOf = (parent: Json): Json[] =>
  ((parent.recipe as Json | undefined)?.encode ?? []) as Json[];
const fieldNames = (parent: Json): string[] =>
  Object.keys(((parent.recipe as Json | undefined)?.fields ?? {}) as Json);

function inOrder(parent: Json): boolean {
  const names = fieldNames(parent);
  let last = -1;
  for (const { field } of tablesOf(parent)) {
    const at = names.indexOf(String(field));
    if (at <= last) return false;
    last = at;
  }
  return true;
}

const fields = entriesAt('recipe/fields');
const tables = itemsOf('recipe/encode');

export const fieldsWithTables: Target = {
  all(parent) {
    const together = inOrder(parent);
    return fields.all(parent).map((field) => {
      const table = together ? tablesOf(parent).find((each) => each.field === field.$key) : undefined;
      return table ? { ...field, $table: table } : field;
    });
  },
  put(cursor, parent, item, at) {
    const { $table, ...field } = item;
    cursor.marks.copy(item, field);
    fields.put(cursor, parent, field, at);
    if (!$table) return;
    const table = { field: field.$key, ...($table as Json) };
    cursor.marks.copy($table, table);
    tables.put(cursor, parent, table, cursor.marks.get(item, '$table') ?? at);
  },
};

export const tablesApart: Target = {
  all: (parent) => (inOrder(parent) ? [] : tables.all(parent)),
  put: tables.put,
};
