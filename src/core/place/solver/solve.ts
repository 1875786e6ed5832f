import {
  type Assignment,
  assignAll,
  copyAssignment,
  FAR,
  loosen,
  newAssignment,
  newWorkspace,
  total,
  type Workspace,
} from './assignment';
import { type Breach, findBreach } from './breach';
import { chosenOptions, type Layout, layOut } from './layout';
import { narrow } from './narrow';
import { boundAt, copyPrices, newPrices, type Prices, priceBound } from './prices';
import type { ChoiceProblem, Outcome, SearchLimits, Solution, Start } from './problem';

/**
 * Branch and bound. Two bounds a node: the cheapest assignment of items to slots without regard to groups, and, with prices on
 * slots and resources, the cheapest choice of keys group by group without regard to slots. Where the assignment keeps to
 * everything, it is the best of its node; where not, the breach is split into cases that leave it out.
 */
interface Node {
  allowed: Uint8Array;
  assignment: Assignment;
  /** Items whose options became fewer since the assignment was made. */
  changed: Set<number>;
  prices: Prices;
  bound: number;
}

interface Search {
  layout: Layout;
  limits: SearchLimits;
  work: Workspace;
  best: Solution | undefined;
  nodes: number;
  stopped: boolean;
  /** Least bound of what was left unlooked at. */
  open: number;
}

/** Finds the cheapest solution, or shows that there is none. */
export function solve(problem: ChoiceProblem, limits: SearchLimits): Outcome {
  const layout = layOut(problem);
  const search: Search = {
    layout,
    limits,
    work: newWorkspace(problem.slots),
    best: undefined,
    nodes: 0,
    stopped: false,
    open: Number.POSITIVE_INFINITY,
  };
  const root: Node = {
    allowed: new Uint8Array(layout.options).fill(1),
    assignment: newAssignment(problem.items.length, problem.slots),
    changed: new Set(problem.items.keys()),
    prices: newPrices(layout),
    bound: Number.NEGATIVE_INFINITY,
  };
  if (limits.start) startFrom(search, root, limits.start);
  const stuck = look(search, root, 0);
  const { best, nodes } = search;
  if (!best) {
    if (search.stopped) return { status: 'unknown', bound: search.open, nodes };
    return { status: 'infeasible', nodes, ...(stuck ? { stuck } : {}) };
  }
  const bound = Math.min(best.cost, search.open);
  const { slot, resource } = root.prices;
  const start = { chosen: best.chosen, slot, resource };
  return { status: bound >= best.cost ? 'optimal' : 'feasible', solution: best, bound, nodes, start };
}

/** Takes over a solution, whose cost is another here, and prices. */
function startFrom(search: Search, { prices }: Node, { chosen, slot, resource }: Start): void {
  const { layout } = search;
  const cost = chosen.reduce(
    (sum, option, item) => sum + (layout.cost[(layout.start[item] as number) + option] as number),
    0,
  );
  search.best = { chosen: [...chosen], cost };
  prices.slot.set(slot);
  prices.resource.set(resource);
}

const limitOf = ({ best }: Search): number => (best ? best.cost : FAR);

/** Looks at a node and at what it is split into. Returns items that cannot all have a slot, when that is why it fails. */
function look(search: Search, node: Node, depth: number): number[] | undefined {
  if (search.stopped) {
    search.open = Math.min(search.open, node.bound);
    return undefined;
  }
  search.nodes++;
  if (search.nodes > search.limits.nodes || (search.limits.firstOnly && search.best)) stop(search);
  if (search.limits.progress && search.nodes % 16 === 0) {
    const { nodes, best } = search;
    if (!search.limits.progress({ nodes, best: best?.cost, bound: node.bound })) stop(search);
  }
  const { layout } = search;
  if (!narrow(layout, node.allowed, node.changed)) return undefined;
  const stuck = settle(search, node);
  if (stuck) return stuck;
  node.bound = Math.max(node.bound, total(node.assignment));
  if (node.bound >= limitOf(search)) return undefined;

  const first = findBreach(layout, node.allowed, node.assignment);
  if (!first) {
    keep(search, node);
    return undefined;
  }
  if (!search.limits.firstOnly) startFromAssignment(layout, node);
  // Where any solution will do, prices are only asked whether groups can have keys that differ.
  const steps = search.limits.firstOnly ? 0 : depth === 0 ? (search.limits.steps ?? 120) : 12;
  // A first solution tells how long the steps must be, and may be the best already.
  const hint =
    depth === 0 && steps > 0 && !search.best
      ? priceBound(layout, node.allowed, node.prices, 8, limitOf(search))
      : undefined;
  if (hint) tryKeys(search, node, hint.keys);
  const bound = priceBound(layout, node.allowed, node.prices, steps, limitOf(search));
  node.bound = Math.max(node.bound, bound.value);
  if (node.bound >= limitOf(search)) return undefined;
  if (depth < 2 || search.nodes % 8 === 0) tryKeys(search, node, bound.keys);
  if (node.bound >= limitOf(search)) return undefined;
  const fewer = bound.strike(node.allowed, node.changed, limitOf(search));
  if (fewer) {
    if (!narrow(layout, node.allowed, node.changed) || settle(search, node)) return undefined;
    node.bound = Math.max(node.bound, total(node.assignment));
    if (node.bound >= limitOf(search)) return undefined;
  }
  const breach = findBreach(layout, node.allowed, node.assignment, node.prices);
  if (!breach) {
    keep(search, node);
    return undefined;
  }
  for (const branch of breach.cases) {
    if (Math.max(node.bound, branch.bound) >= limitOf(search)) continue;
    look(search, childOf(node, branch), depth + 1);
  }
  return undefined;
}

/** The assignment's prices are a good start where they bound better than those inherited: they know all slots at once. */
function startFromAssignment(layout: Layout, { assignment, allowed, prices }: Node): void {
  const slot = Float64Array.from(assignment.columnPrice, (price) => -price);
  const resource = new Float64Array(layout.problem.resources);
  if (boundAt(layout, allowed, slot, resource) <= boundAt(layout, allowed, prices.slot, prices.resource))
    return;
  prices.slot.set(slot);
  prices.resource.set(resource);
}

function stop(search: Search): void {
  search.stopped = true;
}

function childOf(node: Node, branch: Breach['cases'][number]): Node {
  const allowed = node.allowed.slice();
  const changed = new Set<number>();
  branch.apply(allowed, changed);
  return {
    allowed,
    assignment: copyAssignment(node.assignment),
    changed,
    prices: copyPrices(node.prices),
    bound: Math.max(node.bound, branch.bound),
  };
}

/** Brings the assignment up to what is allowed now. */
function settle({ layout, work }: Search, node: Node): number[] | undefined {
  const { assignment, allowed } = node;
  const { columns, costs } = assignment;
  for (const item of node.changed) {
    costs.fill(FAR, item * columns, (item + 1) * columns);
    for (let option = layout.start[item] as number; option < (layout.start[item + 1] as number); option++) {
      if (allowed[option] === 0) continue;
      const at = item * columns + (layout.slot[option] as number);
      if ((layout.cost[option] as number) < (costs[at] as number)) costs[at] = layout.cost[option] as number;
    }
    loosen(assignment, item);
  }
  node.changed.clear();
  return assignAll(assignment, work);
}

/** The assignment as a solution: on each slot the cheapest allowed option that stands there. */
function keep(search: Search, node: Node): void {
  const chosen = chosenOptions(search.layout, node.allowed, node.assignment);
  const cost = chosen.reduce((sum, option) => sum + (search.layout.cost[option] as number), 0);
  if (search.best && search.best.cost <= cost) return;
  search.best = {
    chosen: chosen.map((option, item) => option - (search.layout.start[item] as number)),
    cost,
  };
}

/** Fixes the keys that the prices favour and sees whether the rest falls into place; a good solution early cuts most of the tree. */
function tryKeys(search: Search, node: Node, keys: Int32Array): void {
  const { layout } = search;
  const allowed = node.allowed.slice();
  const changed = new Set<number>();
  for (const [equal, { items, positions }] of layout.problem.equals.entries()) {
    const key = keys[equal] as number;
    if (key < 0) continue;
    for (const [at, item] of items.entries()) {
      for (let option = layout.start[item] as number; option < (layout.start[item + 1] as number); option++) {
        if (allowed[option] === 1 && layout.keyAt(option, positions[at] as number) !== key) {
          allowed[option] = 0;
          changed.add(item);
        }
      }
    }
  }
  if (!narrow(layout, allowed, changed)) return;
  const trial: Node = { ...node, allowed, assignment: copyAssignment(node.assignment), changed };
  // What is left is repaired greedily: the breach's first case, a few times over.
  for (let round = 0; round < 40; round++) {
    if (settle(search, trial) || total(trial.assignment) >= limitOf(search)) return;
    const breach = findBreach(layout, trial.allowed, trial.assignment, node.prices);
    if (!breach) {
      keep(search, trial);
      return;
    }
    breach.cases[0]?.apply(trial.allowed, trial.changed);
    if (!narrow(layout, trial.allowed, trial.changed)) return;
  }
}
