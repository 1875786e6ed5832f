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
  /** Cheapest priced option of each item at each key of its group; −1 for none. */
  best: Int32Array[];
  chosen: Int32Array;
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
export const boundAt = (
  layout: Layout,
  allowed: Uint8Array,
  slot: Float64Array,
  resource: Float64Array,
): number => evaluate(layout, allowed, slot, resource).value;

/** Improves the prices by some steps and gives the best bound met. Leaves the best prices in place. */
export function priceBound(
  layout: Layout,
  allowed: Uint8Array,
  prices: Prices,
  steps: number,
  limit: number,
): PriceBound {
  const { slot, resource } = prices;
  let best = evaluate(layout, allowed, slot, resource);
  let bestSlot = slot.slice();
  let bestResource = resource.slice();
  let from = best;
  let pace = 1;
  let idle = 0;
  for (let step = 0; step < steps && roundUp(best.value) < limit; step++) {
    if (!descend(layout, from, slot, resource, pace, limit)) break;
    from = evaluate(layout, allowed, slot, resource);
    if (from.value > best.value + 1e-9) {
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
    strike: (now, changed, ceiling) => strike(layout, now, changed, ceiling, best, slot, resource),
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
  layout: Layout,
  allowed: Uint8Array,
  slot: Float64Array,
  resource: Float64Array,
): Evaluation {
  const { problem, start, group } = layout;
  const { items, equals } = problem;
  const sums = equals.map(({ keys }) => new Float64Array(keys));
  const best: Int32Array[] = [];
  const chosen = new Int32Array(items.length).fill(-1);
  let value = 0;
  for (let item = 0; item < items.length; item++) {
    const own = group[item] as number;
    const keys = own < 0 ? 1 : (equals[own]?.keys ?? 1);
    const cheapest = new Float64Array(keys).fill(Number.POSITIVE_INFINITY);
    const which = new Int32Array(keys).fill(-1);
    for (let option = start[item] as number; option < (start[item + 1] as number); option++) {
      if (allowed[option] === 0) continue;
      const key = own < 0 ? 0 : (layout.key[option] as number);
      const cost = pricedCost(layout, option, slot, resource);
      if (cost < (cheapest[key] as number)) {
        cheapest[key] = cost;
        which[key] = option;
      }
    }
    best.push(which);
    if (own < 0) {
      value += cheapest[0] as number;
      chosen[item] = which[0] as number;
      continue;
    }
    const sum = sums[own] as Float64Array;
    for (let key = 0; key < keys; key++) sum[key] = (sum[key] as number) + (cheapest[key] as number);
  }
  const keys = new Int32Array(equals.length).fill(-1);
  const extra = sums.map((sum) => new Float64Array(sum.length));
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
    if (own >= 0) chosen[item] = best[item]?.[keys[own] as number] ?? -1;
  }
  for (const price of slot) value -= price;
  for (const price of resource) value -= price;
  return { value: Number.isNaN(value) ? Number.POSITIVE_INFINITY : value, keys, extra, best, chosen };
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
  const columns = Math.max(...rows.map((row) => sums[row]?.length ?? 0));
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
  layout: Layout,
  allowed: Uint8Array,
  changed: Set<number>,
  limit: number,
  { value, extra, best }: Evaluation,
  slot: Float64Array,
  resource: Float64Array,
): boolean {
  let struck = false;
  for (let option = 0; option < layout.options; option++) {
    if (allowed[option] === 0) continue;
    const item = layout.item[option] as number;
    const own = layout.group[item] as number;
    const key = own < 0 ? 0 : (layout.key[option] as number);
    const cheapest = best[item]?.[key] ?? -1;
    if (cheapest < 0) continue;
    const more =
      pricedCost(layout, option, slot, resource) -
      pricedCost(layout, cheapest, slot, resource) +
      (own < 0 ? 0 : (extra[own]?.[key] ?? 0));
    if (roundUp(value + more) < limit) continue;
    allowed[option] = 0;
    changed.add(item);
    struck = true;
  }
  return struck;
}
