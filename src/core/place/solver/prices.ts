import { largest } from '../../base/lists';
import { assignAll, FAR, newAssignment, newWorkspace, total } from './assignment';
import type { Layout } from './layout';

/**
 * Prices on slots and resources (Lagrange multipliers): whoever wants a contended slot pays for it, and then groups can be
 * looked at one by one. For any prices ≥ 0 the sum of the groups' cheapest choices less all prices is a lower bound of the
 * whole (A. Geoffrion, Mathematical Programming Study 2, 1974); better prices are found by subgradient steps.
 */
export interface Prices {
  slot: Float64Array;
  resource: Float64Array;
  /** What the prices led to when they were last looked at. */
  evaluation?: Evaluation;
}

export interface PriceBound {
  value: number;
  /** The key that the prices favour, for each group; −1 where a group is not priced. */
  keys: Int32Array;
  /** Strikes options that no solution cheaper than `limit` has; whether any was struck. */
  strike(allowed: Uint8Array, changed: Set<number>, limit: number): boolean;
}

/** Costs are multiplied by this before groups are assigned to keys in whole numbers; rounded down, so it stays a bound. */
const SCALE = 64;

interface Evaluation {
  value: number;
  keys: Int32Array;
  /** For each equal and key, what the group costs more than in the bound when it has the key. */
  extra: Float64Array[];
  /** Sum of the members' cheapest options, for each equal and key. */
  sums: Float64Array[];
  /** Cheapest priced option of each item at each key of its group, from `first[item]` on; −1 for none. */
  best: Int32Array;
  /** What these cost. */
  cheapest: Float64Array;
  chosen: Int32Array;
}

/** What stays the same while prices change: which options are left, and where results go. */
interface Ground {
  layout: Layout;
  /** Allowed options, item by item. */
  left: Int32Array;
  leftStart: Int32Array;
  first: Int32Array;
  keysOf: Int32Array;
}

function groundOf(layout: Layout, allowed: Uint8Array): Ground {
  const { problem, start, group } = layout;
  const items = problem.items.length;
  const left = new Int32Array(layout.options);
  const leftStart = new Int32Array(items + 1);
  const first = new Int32Array(items + 1);
  const keysOf = new Int32Array(items);
  let count = 0;
  for (let item = 0; item < items; item++) {
    leftStart[item] = count;
    for (let option = start[item] as number; option < (start[item + 1] as number); option++)
      if (allowed[option] === 1) left[count++] = option;
    const own = group[item] as number;
    keysOf[item] = own < 0 ? 1 : (problem.equals[own]?.keys ?? 1);
    first[item + 1] = (first[item] as number) + (keysOf[item] as number);
  }
  leftStart[items] = count;
  return { layout, left, leftStart, first, keysOf };
}

function newEvaluation({ layout, first }: Ground): Evaluation {
  const { items, equals } = layout.problem;
  const size = first[items.length] as number;
  return {
    value: Number.NEGATIVE_INFINITY,
    keys: new Int32Array(equals.length),
    extra: equals.map(({ keys }) => new Float64Array(keys)),
    sums: equals.map(({ keys }) => new Float64Array(keys)),
    best: new Int32Array(size),
    cheapest: new Float64Array(size),
    chosen: new Int32Array(items.length),
  };
}

export const newPrices = (layout: Layout): Prices => ({
  slot: new Float64Array(layout.problem.slots),
  resource: new Float64Array(layout.problem.resources),
});

export const copyPrices = ({ slot, resource }: Prices): Prices => ({
  slot: slot.slice(),
  resource: resource.slice(),
});

/** How much worse the second-best key of a group is; large where the group's choice is telling. */
export function regret({ evaluation }: Prices, equal: number): number {
  const extra = evaluation?.extra[equal];
  if (!extra || extra.length < 2) return 0;
  const [first = 0, second = 0] = [...extra].sort((a, b) => a - b);
  return second === Number.POSITIVE_INFINITY ? FAR : second - first;
}

/** Lower bound of all solutions in which a group has a key. */
export function boundWith({ evaluation }: Prices, equal: number, key: number): number {
  const extra = evaluation?.extra[equal]?.[key];
  return evaluation && extra !== undefined ? roundUp(evaluation.value + extra) : Number.NEGATIVE_INFINITY;
}

const roundUp = (value: number): number =>
  value === Number.POSITIVE_INFINITY ? value : Math.ceil(value - 1e-6);

/** The bound that given prices lead to. */
export function boundAt(
  layout: Layout,
  allowed: Uint8Array,
  slot: Float64Array,
  resource: Float64Array,
): number {
  const ground = groundOf(layout, allowed);
  return evaluate(ground, slot, resource, newEvaluation(ground)).value;
}

/** Steps shorter than this part of the gap lead nowhere any more. */
const SLOWEST = 1 / 16;

/** Improves the prices by some steps and gives the best bound met. Leaves the best prices in place. */
export function priceBound(
  layout: Layout,
  allowed: Uint8Array,
  prices: Prices,
  steps: number,
  limit: number,
): PriceBound {
  const { slot, resource } = prices;
  const ground = groundOf(layout, allowed);
  // Results go into three places in turn: the best, the one steps start from, and the next.
  const spare = [newEvaluation(ground), newEvaluation(ground)];
  let best = evaluate(ground, slot, resource, newEvaluation(ground));
  let bestSlot = slot.slice();
  let bestResource = resource.slice();
  let from = best;
  let pace = 1;
  let idle = 0;
  for (let step = 0; step < steps && pace >= SLOWEST && roundUp(best.value) < limit; step++) {
    if (!descend(layout, from, slot, resource, pace, limit)) break;
    const place = spare.find((one) => one !== from && one !== best) ?? newEvaluation(ground);
    from = evaluate(ground, slot, resource, place);
    if (from.value > best.value + 1e-9) {
      if (!spare.includes(best)) spare.push(best);
      best = from;
      bestSlot = slot.slice();
      bestResource = resource.slice();
      idle = 0;
    } else if (++idle >= 4) {
      pace /= 2;
      idle = 0;
      slot.set(bestSlot);
      resource.set(bestResource);
      from = best;
    }
  }
  slot.set(bestSlot);
  resource.set(bestResource);
  prices.evaluation = best;
  return {
    value: roundUp(best.value),
    keys: best.keys,
    strike: (now, changed, ceiling) => strike(ground, now, changed, ceiling, best, slot, resource),
  };
}

/** What is wanted more than once becomes dearer, what is not wanted cheaper. Returns false when nothing is contended. */
function descend(
  layout: Layout,
  { chosen, value }: Evaluation,
  slot: Float64Array,
  resource: Float64Array,
  pace: number,
  limit: number,
): boolean {
  const usedSlot = new Int16Array(slot.length);
  const usedResource = new Int16Array(resource.length);
  for (const option of chosen) {
    if (option < 0) continue;
    const at = layout.slot[option] as number;
    usedSlot[at] = (usedSlot[at] as number) + 1;
    for (
      let r = layout.resourceStart[option] as number;
      r < (layout.resourceStart[option + 1] as number);
      r++
    ) {
      const one = layout.resource[r] as number;
      usedResource[one] = (usedResource[one] as number) + 1;
    }
  }
  let square = 0;
  const weigh = (used: Int16Array, price: Float64Array): void => {
    for (let at = 0; at < used.length; at++) {
      const pull = (used[at] as number) - 1;
      if (pull > 0 || (price[at] as number) > 0) square += pull * pull;
    }
  };
  weigh(usedSlot, slot);
  weigh(usedResource, resource);
  if (square === 0) return false;
  const gap = limit >= FAR ? Math.max(8, value * 0.05) : Math.max(1, limit - value);
  const length = (pace * gap) / square;
  const move = (used: Int16Array, price: Float64Array): void => {
    for (let at = 0; at < used.length; at++) {
      const pull = (used[at] as number) - 1;
      if (pull > 0 || (price[at] as number) > 0)
        price[at] = Math.max(0, (price[at] as number) + length * pull);
    }
  };
  move(usedSlot, slot);
  move(usedResource, resource);
  return true;
}

function pricedCost(layout: Layout, option: number, slot: Float64Array, resource: Float64Array): number {
  let sum = (layout.cost[option] as number) + (slot[layout.slot[option] as number] as number);
  for (let r = layout.resourceStart[option] as number; r < (layout.resourceStart[option + 1] as number); r++)
    sum += resource[layout.resource[r] as number] as number;
  return sum;
}

function evaluate(
  { layout, left, leftStart, first, keysOf }: Ground,
  slotPrice: Float64Array,
  resourcePrice: Float64Array,
  into: Evaluation,
): Evaluation {
  const { problem, group, cost: costs, slot: slots, key: keyOf, resourceStart, resource } = layout;
  const { items, equals } = problem;
  const { best, cheapest, sums, chosen, keys, extra } = into;
  cheapest.fill(Number.POSITIVE_INFINITY);
  best.fill(-1);
  chosen.fill(-1);
  keys.fill(-1);
  for (const sum of sums) sum.fill(0);
  let value = 0;
  for (let item = 0; item < items.length; item++) {
    const own = group[item] as number;
    const base = first[item] as number;
    const end = leftStart[item + 1] as number;
    for (let at = leftStart[item] as number; at < end; at++) {
      const option = left[at] as number;
      let cost = (costs[option] as number) + (slotPrice[slots[option] as number] as number);
      const last = resourceStart[option + 1] as number;
      for (let r = resourceStart[option] as number; r < last; r++)
        cost += resourcePrice[resource[r] as number] as number;
      const place = own < 0 ? base : base + (keyOf[option] as number);
      if (cost < (cheapest[place] as number)) {
        cheapest[place] = cost;
        best[place] = option;
      }
    }
    if (own < 0) {
      value += cheapest[base] as number;
      chosen[item] = best[base] as number;
      continue;
    }
    const sum = sums[own] as Float64Array;
    for (let key = 0; key < (keysOf[item] as number); key++)
      sum[key] = (sum[key] as number) + (cheapest[base + key] as number);
  }
  const done = new Uint8Array(equals.length);
  for (const members of problem.differs) {
    const rows = members.filter((one) => done[one] === 0 && isGroup(layout, one));
    if (rows.length < 2) continue;
    value += assignKeys(rows, sums, keys, extra);
    for (const one of rows) done[one] = 1;
  }
  for (let equal = 0; equal < equals.length; equal++) {
    if (done[equal] === 1 || !isGroup(layout, equal)) continue;
    const sum = sums[equal] as Float64Array;
    let least = 0;
    for (let key = 1; key < sum.length; key++) if ((sum[key] as number) < (sum[least] as number)) least = key;
    keys[equal] = least;
    value += sum[least] as number;
    for (let key = 0; key < sum.length; key++)
      (extra[equal] as Float64Array)[key] = (sum[key] as number) - (sum[least] as number);
  }
  for (let item = 0; item < items.length; item++) {
    const own = group[item] as number;
    if (own >= 0) chosen[item] = best[(first[item] as number) + (keys[own] as number)] ?? -1;
  }
  for (const price of slotPrice) value -= price;
  for (const price of resourcePrice) value -= price;
  into.value = Number.isNaN(value) ? Number.POSITIVE_INFINITY : value;
  return into;
}

/** An equal that is the first of some item: prices group by it. */
const isGroup = (layout: Layout, equal: number): boolean => layout.priced[equal] === true;

/** Groups that must have different keys: the cheapest way to give them some. Adds keys and extra costs; returns the sum. */
function assignKeys(
  rows: readonly number[],
  sums: readonly Float64Array[],
  keys: Int32Array,
  extra: readonly Float64Array[],
): number {
  const columns = largest(rows.map((row) => sums[row]?.length ?? 0));
  if (rows.length > columns) return Number.POSITIVE_INFINITY;
  const state = newAssignment(rows.length, columns);
  for (const [at, row] of rows.entries()) {
    const sum = sums[row] as Float64Array;
    for (let key = 0; key < sum.length; key++) {
      const cost = sum[key] as number;
      if (cost < FAR / SCALE / 2) state.costs[at * columns + key] = Math.floor(cost * SCALE);
    }
  }
  if (assignAll(state, newWorkspace(columns))) return Number.POSITIVE_INFINITY;
  for (const [at, row] of rows.entries()) {
    keys[row] = state.columnOf[at] as number;
    const own = extra[row] as Float64Array;
    for (let key = 0; key < own.length; key++) {
      const cost = state.costs[at * columns + key] as number;
      own[key] =
        cost >= FAR
          ? Number.POSITIVE_INFINITY
          : (cost - (state.rowPrice[at] as number) - (state.columnPrice[key] as number)) / SCALE;
    }
  }
  return total(state) / SCALE;
}

function strike(
  { layout, first }: Ground,
  allowed: Uint8Array,
  changed: Set<number>,
  limit: number,
  { value, extra, best, cheapest }: Evaluation,
  slot: Float64Array,
  resource: Float64Array,
): boolean {
  let struck = false;
  for (let option = 0; option < layout.options; option++) {
    if (allowed[option] === 0) continue;
    const item = layout.item[option] as number;
    const own = layout.group[item] as number;
    // Without a limit only keys that no solution has are struck, and those are keys of groups.
    if (own < 0 && limit >= FAR) continue;
    const key = own < 0 ? 0 : (layout.key[option] as number);
    const place = (first[item] as number) + key;
    if ((best[place] as number) < 0) continue;
    const more =
      pricedCost(layout, option, slot, resource) -
      (cheapest[place] as number) +
      (own < 0 ? 0 : (extra[own]?.[key] ?? 0));
    if (roundUp(value + more) < limit) continue;
    allowed[option] = 0;
    changed.add(item);
    struck = true;
  }
  return struck;
}
