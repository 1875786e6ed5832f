/** What came of laying a change over a text that somebody has edited by hand. */
export interface Merged {
  value: unknown;
  /** Where both had changed the same in different ways; the change was taken there. */
  replaced: string[];
}

/**
 * A change from one state to another, laid over a third that somebody made of the first by hand: what he changed stays, unless the
 * change is about the very same. Lists of things with names are matched by their names.
 */
export function mergeByHand(before: unknown, byHand: unknown, after: unknown): Merged {
  const replaced: string[] = [];
  return { value: merge(before, byHand, after, '', replaced), replaced };
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
type Names = Record<string, unknown>;
const isNames = (value: unknown): value is Names =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** The name by which items of a list are told apart: blocks, registers and stages by `id`, tables by `field`. */
function nameOf(item: unknown): string | undefined {
  if (!isNames(item)) return undefined;
  const name = item.id ?? item.field;
  return typeof name === 'string' ? name : undefined;
}

const named = (list: unknown): list is Names[] =>
  Array.isArray(list) &&
  list.every((item) => nameOf(item) !== undefined) &&
  new Set(list.map(nameOf)).size === list.length;

function merge(before: unknown, byHand: unknown, after: unknown, path: string, replaced: string[]): unknown {
  if (same(before, after)) return byHand;
  if (same(before, byHand) || same(byHand, after)) return after;
  if (isNames(byHand) && isNames(after)) {
    const old = isNames(before) ? before : {};
    const result: Names = {};
    for (const key of new Set([...Object.keys(after), ...Object.keys(byHand)])) {
      const value = merge(old[key], byHand[key], after[key], path === '' ? key : `${path}, ${key}`, replaced);
      if (value !== undefined) result[key] = value;
    }
    return result;
  }
  if (named(byHand) && named(after)) {
    const find = (list: unknown, name: string | undefined): unknown =>
      named(list) ? list.find((item) => nameOf(item) === name) : undefined;
    const order = [...after.map(nameOf), ...byHand.map(nameOf)];
    return [...new Set(order)].flatMap((name) => {
      const value = merge(
        find(before, name),
        find(byHand, name),
        find(after, name),
        `${path}, ${name}`,
        replaced,
      );
      return value === undefined ? [] : [value];
    });
  }
  replaced.push(path);
  return after;
}
