/**
 * Helpers for lists. The first three stand for what must not be written with a spread argument: a call takes its arguments on the
 * stack, and a list out of a user's file may have more entries than fit there.
 */

/** Adds the items at the end of a list. */
export function append<T>(list: T[], items: Iterable<T>): void {
  for (const item of items) list.push(item);
}

/** The largest of the values; minus infinity of none. */
export function largest(values: Iterable<number>): number {
  let most = Number.NEGATIVE_INFINITY;
  for (const value of values) if (value > most || Number.isNaN(value)) most = value;
  return most;
}

/** The smallest of the values; infinity of none. */
export function smallest(values: Iterable<number>): number {
  let least = Number.POSITIVE_INFINITY;
  for (const value of values) if (value < least || Number.isNaN(value)) least = value;
  return least;
}

/** The items by a key, keys in the order of their first items. */
export function groupBy<Item, Key>(items: Iterable<Item>, keyOf: (item: Item) => Key): Map<Key, Item[]> {
  const groups = new Map<Key, Item[]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}
