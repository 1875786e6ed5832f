import type { Assignment } from './assignment';
import type { ChoiceProblem } from './problem';

/** A problem in flat arrays: options of all items one after the other. */
export interface Layout {
  problem: ChoiceProblem;
  options: number;
  /** Options of item i: `start[i]` … `start[i + 1] − 1`. */
  start: Int32Array;
  item: Int32Array;
  slot: Int32Array;
  cost: Int32Array;
  /** Key of an option in the equal at a position of its item. */
  keyAt(option: number, position: number): number;
  /** Key of an option in its item's first equal, by which prices group; −1 where the item is in none. */
  key: Int32Array;
  /** The first equal of each item; −1 for none. */
  group: Int32Array;
  /** Equals that are the first of some item. */
  priced: readonly boolean[];
  /** Resources of an option: `resource[resourceStart[o]]` …. */
  resourceStart: Int32Array;
  resource: Int32Array;
  /** For each resource, the options that use it. */
  users: readonly Int32Array[];
  /** For each mode, the options that need it, each with its value. */
  modes: readonly { option: number; value: number }[][];
  /** Modes of an option. */
  modesOf(option: number): readonly { mode: number; value: number }[];
  /** For each equal, the `differs` it takes part in. */
  differsOf: readonly number[][];
}

export function layOut(problem: ChoiceProblem): Layout {
  const { items, equals } = problem;
  const options = items.reduce((sum, one) => sum + one.options.length, 0);
  const start = new Int32Array(items.length + 1);
  const item = new Int32Array(options);
  const slot = new Int32Array(options);
  const cost = new Int32Array(options);
  const key = new Int32Array(options).fill(-1);
  const group = new Int32Array(items.length).fill(-1);
  const resourceStart = new Int32Array(options + 1);
  const resources: number[] = [];
  const users: number[][] = Array.from({ length: problem.resources }, () => []);
  const allKeys: (readonly number[])[] = [];
  for (const [index, equal] of equals.entries())
    for (const [at, one] of equal.items.entries()) if (equal.positions[at] === 0) group[one] = index;
  const modes: { option: number; value: number }[][] = [];
  const modesOf: (readonly { mode: number; value: number }[])[] = [];
  let option = 0;
  for (const [index, one] of items.entries()) {
    start[index] = option;
    for (const choice of one.options) {
      item[option] = index;
      slot[option] = choice.slot;
      cost[option] = choice.cost;
      key[option] = choice.keys[0] ?? -1;
      allKeys.push(choice.keys);
      resourceStart[option] = resources.length;
      for (const resource of choice.resources) {
        resources.push(resource);
        users[resource]?.push(option);
      }
      if (choice.modes) {
        modesOf[option] = choice.modes;
        for (const { mode, value } of choice.modes) {
          modes[mode] ??= [];
          modes[mode].push({ option, value });
        }
      }
      option++;
    }
  }
  start[items.length] = option;
  resourceStart[options] = resources.length;
  const differsOf = equals.map((_, index) =>
    problem.differs.flatMap((members, at) => (members.includes(index) ? [at] : [])),
  );
  return {
    problem,
    options,
    start,
    item,
    slot,
    cost,
    keyAt: (at, position) => allKeys[at]?.[position] ?? -1,
    key,
    group,
    priced: equals.map((_, index) => group.includes(index)),
    resourceStart,
    resource: Int32Array.from(resources),
    users: users.map((one) => Int32Array.from(one)),
    modes,
    modesOf: (at) => modesOf[at] ?? NO_MODES,
    differsOf,
  };
}

/** What an assignment chooses: on each item's slot the cheapest allowed option that stands there. */
export function chosenOptions(layout: Layout, allowed: Uint8Array, assignment: Assignment): number[] {
  return Array.from(assignment.columnOf, (slot, item) => {
    let found = -1;
    for (let option = layout.start[item] as number; option < (layout.start[item + 1] as number); option++) {
      if (allowed[option] === 0 || layout.slot[option] !== slot) continue;
      if (found < 0 || (layout.cost[option] as number) < (layout.cost[found] as number)) found = option;
    }
    return found;
  });
}

const NO_MODES: readonly { mode: number; value: number }[] = [];
