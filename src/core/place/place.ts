import { append } from '../base/lists';
import { TERM_KEYS, type Term } from '../derive/candidates/terms';
import type { Package } from '../description/types';
import type { Device } from '../device/device';
import type { Plan } from '../plan/model/types';
import { type Compiled, compile, type Placements } from './compile/compile';
import { tooManyInterrupts } from './conflict/examine';
import { explain } from './conflict/explain';
import { type PlacingError, PlacingErrors } from './errors';
import type { Conflict, PlaceOptions, Placing } from './model/answer';
import { modelOf } from './model/build';
import type { Choice, Model, NetItem, Slot } from './model/model';
import type { Move } from './model/moves';
import type { SearchLimits } from './solver/problem';
import { solve } from './solver/solve';

export const DEFAULT_NODES = 4000;
/** For the first answer, which only says where circuits lie. */
const FIRST_NODES = 1;
/** What using the place of an earlier answer costs when another answer is wanted. */
const UNLIKE_COST = 40;

/** Rounds of placing and checking; each round forbids at least one combination of places that was found to be wrong. */
const MOST_ROUNDS = 80;

/**
 * Places all nets of a plan, or says which of its demands cannot hold together. Deterministic.
 *
 * What the search knows of rules is only what makes it quick. Each answer is derived and checked like any plan; where a rule finds an
 * error that the placing has brought about, the places that make it are forbidden together, and the search is asked again (lazy
 * constraints). So no answer has an error that another would not have, whatever the rule, and whatever the plan makes an error.
 */
export function placePlan(device: Device, pkg: Package, plan: Plan, options: PlaceOptions = {}): Placing {
  const model = modelOf(device, pkg, plan, options);
  const errors = new PlacingErrors(model);
  const never: Placements[] = [];
  let nodes = 0;
  let last: PlacingError[] = [];
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const placing = placeModel(model, options, never);
    nodes += placing.nodes;
    if (placing.status === 'infeasible' && never.length > 0)
      return { ...placing, nodes, ...(options.explain === false ? {} : { conflict: ruledOut(model, last) }) };
    if (placing.status === 'infeasible' || placing.status === 'stopped') return { ...placing, nodes };
    const broken = errors.of(placing);
    if (broken.length === 0) return { ...placing, nodes };
    last = broken;
    append(
      never,
      broken.map(({ places }) => places),
    );
  }
  return { status: 'stopped', placements: {}, moves: [], nodes };
}

/** What is said when every placement would break a rule. */
function ruledOut(model: Model, errors: readonly PlacingError[]): Conflict {
  const nets = new Set(errors.flatMap(({ places }) => [...places.keys()]));
  const requirements = model.requirements.filter(
    ({ kind, nets: own }) => kind === 'net' && own.some(({ id }) => nets.has(id)),
  );
  return {
    requirements,
    message: `Wherever they are put, a rule is broken. The last that was tried: ${errors[0]?.message ?? ''}`,
    suggestions: [],
    smallest: false,
    rough: true,
  };
}

export function placeModel(
  model: Model,
  options: PlaceOptions = {},
  never: readonly Placements[] = [],
): Placing {
  const short = tooManyInterrupts(model, undefined);
  if (short)
    return { status: 'infeasible', placements: {}, moves: [], nodes: 0, conflict: explain(model, options) };
  const limits: SearchLimits = {
    nodes: options.nodes ?? DEFAULT_NODES,
    ...(options.progress ? { progress: options.progress } : {}),
  };
  const first = compile(model, undefined, { never });
  const quick = solve(first.problem, { ...limits, nodes: FIRST_NODES, steps: 2 });
  const rough = quick.status === 'unknown' ? solve(first.problem, { ...limits, firstOnly: true }) : quick;
  if (rough.status === 'unknown')
    return { status: 'stopped', placements: {}, moves: [], nodes: rough.nodes, bound: rough.bound };
  if (rough.status === 'infeasible') {
    const stuck = rough.stuck?.map((at) => first.items[at] as NetItem);
    const bare = { status: 'infeasible' as const, placements: {}, moves: [], nodes: rough.nodes };
    return options.explain === false || never.length > 0
      ? bare
      : { ...bare, conflict: explain(model, options, stuck) };
  }
  // Where each circuit lies is settled first; then everything is drawn there.
  const centres = centresOf(model, readSolution(first, rough.solution.chosen).chosen);
  const unlike = options.unlike ?? [];
  const penalty = (item: NetItem, choice: Choice): number =>
    item.locked ? 0 : UNLIKE_COST * unlike.filter((one) => one[item.net.id] === choice.pad).length;
  const compiled = compile(model, undefined, {
    centres,
    never,
    ...(unlike.length > 0 ? { extraCost: penalty } : {}),
  });
  const outcome = solve(compiled.problem, { ...limits, start: rough.start });
  const nodes = rough.nodes + outcome.nodes;
  // Costs differ between the two, what must be does not: the second search has the first's solution from its start.
  if (!('solution' in outcome)) throw new Error('a search lost the solution it began with');
  const { terms, chosen } = readSolution(compiled, outcome.solution.chosen);
  const another = unlike.length > 0;
  const optimal = outcome.status === 'optimal' && !another;
  return {
    status: optimal ? 'optimal' : 'feasible',
    ...(optimal ? { optimalFor: centres.size > 0 && model.weights.near > 0 ? 'centres' : 'all' } : {}),
    objective: TERM_KEYS.reduce((sum, term) => sum + Math.round(terms[term] * model.weights[term]), 0),
    // A bound is of the problem it was found for.
    ...(another ? {} : { bound: outcome.bound }),
    terms,
    placements: Object.fromEntries(chosen.map(({ item, choice }) => [item.net.id, choice.pad])),
    moves: chosen.flatMap(({ item, choice }) => moveOf(item, choice)),
    nodes,
    problem: compiled.problem,
  };
}

type Chosen = { item: NetItem; choice: Choice };

/** The middle of each circuit: of its locked nets, else of its peripherals' lines, else of all. */
function centresOf(model: Model, chosen: readonly Chosen[]): Map<string, number> {
  const circuits = new Map<string, Chosen[]>();
  for (const one of chosen)
    circuits.set(one.item.net.circuit, [...(circuits.get(one.item.net.circuit) ?? []), one]);
  const centres = new Map<string, number>();
  for (const [circuit, all] of circuits) {
    const fixed = model.terms.centreOf(circuit);
    // A net that is alone has nothing to be near to but the lines that may join it.
    if (fixed === undefined && all.length === 1) continue;
    const lines = all.filter(({ choice }) => choice.instance !== undefined);
    const places = (lines.length > 0 ? lines : all).map(
      ({ choice }) => (model.slots[choice.slot] as Slot).place,
    );
    const centre = fixed ?? model.terms.mostCentral(places);
    if (centre !== undefined) centres.set(circuit, centre);
  }
  return centres;
}

function readSolution(
  compiled: Compiled,
  solution: readonly number[],
): { terms: Record<Term, number>; chosen: Chosen[] } {
  const terms = Object.fromEntries(TERM_KEYS.map((term) => [term, 0])) as Record<Term, number>;
  const chosen = solution.map((option, at) => {
    const meant = compiled.meant[at]?.[option];
    if (!meant) throw new Error('a solution names an option that is not there');
    for (const term of TERM_KEYS) terms[term] += meant.choice.terms[term] ?? 0;
    terms.near += meant.near;
    terms.order += meant.order;
    return { item: compiled.items[at] as NetItem, choice: meant.choice };
  });
  return { terms, chosen };
}

function moveOf({ net }: NetItem, choice: Choice): Move[] {
  const signal = net.role.kind === 'open-signal' ? choice.fn?.signal : undefined;
  const { placement } = net;
  if (placement?.pad === choice.pad && (signal === undefined || (placement.signal ?? signal) === signal))
    return [];
  return [{ net, to: { pad: choice.pad, locked: false, ...(signal ? { signal } : {}) } }];
}
