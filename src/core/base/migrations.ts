/** Stored documents as they once were. Steps must take whatever JSON there is: they come before any check. */
export type Json = unknown;

/** From one format of a document to the next, and nothing else. */
export interface Migration {
  from: string;
  to: string;
  step(document: Readonly<Record<string, Json>>): Record<string, Json>;
}

export const isRecord = (value: Json): value is Readonly<Record<string, Json>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** A document brought to the newest format, step by step in order; unknown formats stay as they are, for a check to refuse. */
export function migrate(value: Json, migrations: readonly Migration[]): Json {
  let now = value;
  for (const { from, to, step } of migrations)
    if (isRecord(now) && now.format === from) now = { ...step(now), format: to };
  return now;
}

/** A list with each item changed; anything else as it is. */
export const eachItem = (value: Json, change: (item: Json) => Json): Json =>
  Array.isArray(value) ? value.map(change) : value;

/** A record with each value changed; anything else as it is. */
export const eachValue = (value: Json, change: (item: Json) => Json): Json =>
  isRecord(value)
    ? Object.fromEntries(Object.entries(value).map(([key, item]) => [key, change(item)]))
    : value;

/** A record with some of its values changed, where they are there; anything else as it is. */
export function within(value: Json, changes: Readonly<Record<string, (item: Json) => Json>>): Json {
  if (!isRecord(value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, item]) => [
      key,
      Object.hasOwn(changes, key) ? changes[key]?.(item) : item,
    ]),
  );
}

export type Names = Readonly<Record<string, string>>;

/** One name for another; what is not in the list stays. */
export const renamed = (value: Json, names: Names): Json =>
  typeof value === 'string' && Object.hasOwn(names, value) ? names[value] : value;

/** A record with keys renamed in their places; one that has the new name too is left for a check to refuse. */
export function withKeys(value: Json, names: Names): Json {
  if (!isRecord(value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, item]) => {
      const next = renamed(key, names) as string;
      return [Object.hasOwn(value, next) ? key : next, item];
    }),
  );
}

/** The other way about. */
export const reversed = (names: Names): Names =>
  Object.fromEntries(Object.entries(names).map(([from, to]) => [to, from]));
