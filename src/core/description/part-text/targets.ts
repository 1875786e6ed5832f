import { Mistake } from './cursor';
import { entriesOf, type Json, putEntry, type Target } from './forms';

/** Where lines keep what they say. */

/** The object at a path of properties, made where it is not there yet. */
function reach(parent: Json, path: readonly string[]): Json {
  let at = parent;
  for (const name of path) {
    at[name] ??= Object.create(null);
    at = at[name] as Json;
  }
  return at;
}

function look(parent: Json, path: readonly string[]): Json | undefined {
  let at: unknown = parent;
  for (const name of path) at = (at as Json | undefined)?.[name];
  return at as Json | undefined;
}

const split = (path: string): { holder: string[]; name: string } => {
  const holder = path.split('/');
  const name = holder.pop() as string;
  return { holder, name };
};

/** A list at `path`, its items held as lines say them. */
function listAt(path: string, item: (held: unknown) => Json, held: (item: Json) => unknown): Target {
  const { holder, name } = split(path);
  return {
    all: (parent) => ((look(parent, holder)?.[name] ?? []) as unknown[]).map(item),
    put(cursor, parent, line, at) {
      const place = reach(parent, holder);
      place[name] ??= [];
      const list = place[name] as unknown[];
      list.push(held(line));
      cursor.marks.note(list, list.length - 1, at);
    },
  };
}

/** Each line is an item of the list at `path`. */
export const itemsOf = (path: string): Target =>
  listAt(
    path,
    (held) => held as Json,
    (line) => line,
  );

/** Each line is a text of the list at `path`. */
export const textsOf = (path: string): Target =>
  listAt(
    path,
    ($value) => ({ $value }),
    ({ $value }) => $value,
  );

/** Each line is an entry of the map at `path`, its key being `$key`. */
export function entriesAt(path: string): Target {
  const { holder, name } = split(path);
  return {
    all: (parent) => entriesOf((look(parent, holder)?.[name] ?? {}) as Json),
    put(cursor, parent, item, at) {
      putEntry(cursor, reach(parent, [...holder, name]), item, at);
    },
  };
}

/** One line says these properties of the object at `path`. */
export function properties(path: string, names: readonly string[]): Target {
  const holder = path === '' ? [] : path.split('/');
  return {
    all(parent) {
      const place = look(parent, holder);
      if (!place || names.every((name) => isEmpty(place[name]))) return [];
      return [Object.fromEntries(names.map((name) => [name, place[name]]))];
    },
    put(cursor, parent, item, at) {
      const place = reach(parent, holder);
      for (const [name, held] of Object.entries(item)) {
        if (place[name] !== undefined) throw new Mistake('there are two such lines', at);
        place[name] = held;
        cursor.marks.note(place, name, cursor.marks.get(item, name) ?? at);
      }
    },
  };
}

/** A map without entries is there by itself. */
const isEmpty = (held: unknown): boolean =>
  held === undefined ||
  (held !== null && typeof held === 'object' && !Array.isArray(held) && Object.keys(held).length === 0);
