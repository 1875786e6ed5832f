import type { Layout } from './layout';

/**
 * Strikes options that can no longer be chosen: keys that not all items of a group have, keys that another group is bound to
 * have, resources that an item uses whatever it chooses. Returns false when an item is left with nothing. Marks items that lost options.
 */
export function narrow(layout: Layout, allowed: Uint8Array, changed: Set<number>): boolean {
  const { equals, items } = layout.problem;
  const settled = new Set<number>();
  const bound = new Map<number, number>();
  for (let again = true; again; ) {
    again = false;
    for (let equal = 0; equal < equals.length; equal++) {
      const result = narrowEqual(layout, allowed, changed, equal);
      if (result === 'nothing') return false;
      if (result === 'fewer') again = true;
    }
    for (let item = 0; item < items.length; item++) {
      if (settled.has(item)) continue;
      const only = onlyOption(layout, allowed, item);
      if (only === -1) return false;
      if (only >= 0) {
        settled.add(item);
        if (strikeModes(layout, allowed, changed, only)) again = true;
      }
      for (const resource of certainResources(layout, allowed, item)) {
        if (only < 0 && bound.get(resource) === item) continue;
        bound.set(resource, item);
        for (const user of layout.users[resource] ?? []) {
          const other = layout.item[user] as number;
          if (other === item || allowed[user] === 0) continue;
          allowed[user] = 0;
          changed.add(other);
          again = true;
        }
      }
    }
  }
  return true;
}

/** Resources that an item uses whatever it chooses: nobody else can. */
function certainResources(
  { start, resourceStart, resource }: Layout,
  allowed: Uint8Array,
  item: number,
): readonly number[] {
  let certain: number[] | undefined;
  for (let option = start[item] as number; option < (start[item + 1] as number); option++) {
    if (allowed[option] === 0) continue;
    const first = resourceStart[option] as number;
    const last = resourceStart[option + 1] as number;
    if (first === last) return NONE;
    if (certain === undefined) certain = [...resource.subarray(first, last)];
    else certain = certain.filter((one) => resource.subarray(first, last).includes(one));
    if (certain.length === 0) return NONE;
  }
  return certain ?? NONE;
}
const NONE: readonly number[] = [];

/** Strikes options that need another value of a mode than a settled option does. */
function strikeModes(layout: Layout, allowed: Uint8Array, changed: Set<number>, only: number): boolean {
  let struck = false;
  for (const { mode, value } of layout.modesOf(only)) {
    for (const other of layout.modes[mode] ?? []) {
      if (other.value === value || allowed[other.option] === 0) continue;
      allowed[other.option] = 0;
      changed.add(layout.item[other.option] as number);
      struck = true;
    }
  }
  return struck;
}

/** The one option an item has left; −1 for none, −2 for several. */
function onlyOption({ start }: Layout, allowed: Uint8Array, item: number): number {
  let found = -1;
  for (let option = start[item] as number; option < (start[item + 1] as number); option++) {
    if (allowed[option] === 0) continue;
    if (found >= 0) return -2;
    found = option;
  }
  return found;
}

const seenKeys = new Int32Array(8192);

function narrowEqual(
  layout: Layout,
  allowed: Uint8Array,
  changed: Set<number>,
  index: number,
): 'same' | 'fewer' | 'nothing' {
  const equal = layout.problem.equals[index];
  if (!equal) return 'same';
  const { items, positions, keys } = equal;
  const seen = keys <= seenKeys.length ? seenKeys : new Int32Array(keys);
  seen.fill(0, 0, keys);
  for (const [at, item] of items.entries()) {
    const position = positions[at] as number;
    for (let option = layout.start[item] as number; option < (layout.start[item + 1] as number); option++) {
      if (allowed[option] === 0) continue;
      const key = layout.keyAt(option, position);
      if (seen[key] === at) seen[key] = at + 1;
    }
  }
  let common = 0;
  let last = -1;
  for (let key = 0; key < keys; key++) {
    if (seen[key] !== items.length) continue;
    common++;
    last = key;
  }
  if (common === 0) return 'nothing';
  let fewer = false;
  for (const [at, item] of items.entries()) {
    const position = positions[at] as number;
    for (let option = layout.start[item] as number; option < (layout.start[item + 1] as number); option++) {
      if (allowed[option] === 0 || seen[layout.keyAt(option, position)] === items.length) continue;
      allowed[option] = 0;
      changed.add(item);
      fewer = true;
    }
  }
  // A key that this group is bound to have is gone for the groups that must differ from it.
  if (common === 1) {
    for (const differ of layout.differsOf[index] ?? []) {
      for (const other of layout.problem.differs[differ] ?? []) {
        if (other !== index && strikeKey(layout, allowed, changed, other, last)) fewer = true;
      }
    }
  }
  return fewer ? 'fewer' : 'same';
}

/** Strikes all options of a group that have a key. */
export function strikeKey(
  layout: Layout,
  allowed: Uint8Array,
  changed: Set<number>,
  equal: number,
  key: number,
): boolean {
  let struck = false;
  const group = layout.problem.equals[equal];
  for (const [at, item] of (group?.items ?? []).entries()) {
    const position = group?.positions[at] as number;
    for (let option = layout.start[item] as number; option < (layout.start[item + 1] as number); option++) {
      if (allowed[option] === 0 || layout.keyAt(option, position) !== key) continue;
      allowed[option] = 0;
      changed.add(item);
      struck = true;
    }
  }
  return struck;
}
