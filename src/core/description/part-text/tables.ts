import type { Json, Target } from './forms';
import { entriesAt, itemsOf } from './targets';

/**
 * A field's table stands in the field's line, as `$table`. The exchange format keeps tables in a list of their own,
 * and fields in no order; where it has two of a field, or one of a field that is not there, all stand in lines of their own.
 */
const tablesOf = (parent: Json): Json[] => ((parent.recipe as Json | undefined)?.encode ?? []) as Json[];
const fieldNames = (parent: Json): string[] =>
  Object.keys(((parent.recipe as Json | undefined)?.fields ?? {}) as Json);

/** Whether each table is that of a field, and no field has two. */
function haveFields(parent: Json): boolean {
  const known = new Set(fieldNames(parent));
  return tablesOf(parent).every(({ field }) => known.delete(String(field)));
}

const fields = entriesAt('recipe/fields');
const tables = itemsOf('recipe/encode');

/** A field of one part is in one place. */
function inOnePlace(field: Json): Json {
  const { parts, ...rest } = field;
  return Array.isArray(parts) && parts.length === 1 ? { ...rest, ...parts[0] } : field;
}

export const fieldsWithTables: Target = {
  all(parent) {
    const all = fields.all(parent).map(inOnePlace);
    if (!haveFields(parent)) return all;
    // Among the fields, those with a table stand in the order of the tables.
    const waiting = tablesOf(parent).map(($table) => ({
      ...all.find(({ $key }) => $key === $table.field),
      $table,
    }));
    const tabled = new Set(waiting.map(({ $table }) => $table.field));
    return all.map((field) => (tabled.has(field.$key) ? (waiting.shift() as Json) : field));
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
  all: (parent) => (haveFields(parent) ? [] : tables.all(parent)),
  put: tables.put,
};
