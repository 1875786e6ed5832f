import { distanceBetween } from '../device/geometry';
import type { Package, PadId } from '../device/types';
import type { NetId, Plan } from '../plan/types';
import type { Device } from '../recipe/device';
import { type Compiled, compile, mostCentral } from './compile';
import { tooManyInterrupts } from './examine';
import { type Conflict, explain } from './explain';
import { type Choice, type Item, type Model, modelOf } from './model';
import type { Move } from './moves';
import type { Limits, Problem } from './solver/problem';
import { solve } from './solver/solve';
import { TERMS, type Term, type Weights } from './weights';

export interface PlaceOptions {
  weights?: Partial<Weights>;
  /** Nets that have a pad stay there, held or not. */
  keep?: boolean;
  /** Nodes of the search before it gives up on proof. */
  nodes?: number;
  /** Answers already given; the next shall be another one. */
  unlike?: readonly Record<NetId, PadId>[];
  progress?: Limits['progress'];
  /** Whether to look for the reason when it cannot be done; it is, unless told otherwise. */
  explain?: boolean;
  /** Packages to try when it cannot be done: the part's others, unless given. */
  packages?: readonly Package[];
}

export interface Placing {
  status: 'optimal' | 'feasible' | 'infeasible' | 'stopped';
  /** Sum of the weighted terms, and what no answer can be below. */
  objective?: number;
  bound?: number;
  /**
   * Of an optimal answer: no placement costs less at all, or none that gathers each circuit around the centre that was chosen
   * for it by a quick search. Other centres are not tried.
   */
  optimalFor?: 'all' | 'centres';
  terms?: Record<Term, number>;
  placements: Record<NetId, PadId>;
  moves: Move[];
  conflict?: Conflict;
  nodes: number;
  /** What the answer is an answer to, for a second opinion. */
  problem?: Problem;
}

export const DEFAULT_NODES = 4000;
/** For the first answer, which only says where circuits lie. */
const FIRST_NODES = 3;
/** What using the place of an earlier answer costs when another answer is wanted. */
const UNLIKE_COST = 40;

/** Places all nets of a plan, or says which of its demands cannot hold together. Deterministic. */
export function placePlan(device: Device, pkg: Package, plan: Plan, options: PlaceOptions = {}): Placing {
  const model = modelOf(device, pkg, plan, options);
  return placeModel(model, options);
}

export function placeModel(model: Model, options: PlaceOptions = {}): Placing {
  const short = tooManyInterrupts(model, undefined);
  if (short)
    return { status: 'infeasible', placements: {}, moves: [], nodes: 0, conflict: explain(model, options) };
  const limits: Limits = {
    nodes: options.nodes ?? DEFAULT_NODES,
    ...(options.progress ? { progress: options.progress } : {}),
  };
  const first = compile(model, undefined);
  const quick = solve(first.problem, { ...limits, nodes: FIRST_NODES, steps: 16 });
  const rough = quick.status === 'unknown' ? solve(first.problem, { ...limits, firstOnly: true }) : quick;
  if (rough.status === 'unknown')
    return { status: 'stopped', placements: {}, moves: [], nodes: rough.nodes, bound: rough.bound };
  if (rough.status === 'infeasible') {
    const stuck = rough.stuck?.map((at) => first.items[at] as number);
    const bare = { status: 'infeasible' as const, placements: {}, moves: [], nodes: rough.nodes };
    return options.explain === false ? bare : { ...bare, conflict: explain(model, options, stuck) };
  }
  // Where each circuit lies is settled first; then everything is drawn there.
  const centres = centresOf(model, readSolution(model, first, rough.solution.chosen).chosen);
  const unlike = options.unlike ?? [];
  const penalty = (item: Item, choice: Choice): number =>
    item.held ? 0 : UNLIKE_COST * unlike.filter((one) => one[item.net.id] === choice.pad).length;
  const compiled = compile(model, undefined, {
    centres,
    ...(unlike.length > 0 ? { extraCost: penalty } : {}),
  });
  const outcome = solve(compiled.problem, limits);
  const nodes = rough.nodes + outcome.nodes;
  // Costs differ between the two, what must be does not: the first answer stands where the second search found none.
  const [source, solution] =
    outcome.status === 'unknown' || outcome.status === 'infeasible'
      ? [first, rough.solution]
      : [compiled, outcome.solution];
  const { terms, chosen } = readSolution(model, source, solution.chosen);
  const another = unlike.length > 0;
  const optimal = outcome.status === 'optimal' && !another;
  return {
    status: optimal ? 'optimal' : 'feasible',
    ...(optimal ? { optimalFor: centres.size > 0 && model.weights.near > 0 ? 'centres' : 'all' } : {}),
    objective: TERMS.reduce((sum, term) => sum + Math.round(terms[term] * model.weights[term]), 0),
    // A bound is of the problem it was found for.
    ...(another || source === first || !('bound' in outcome) ? {} : { bound: outcome.bound }),
    terms,
    placements: Object.fromEntries(chosen.map(({ item, choice }) => [item.net.id, choice.pad])),
    moves: chosen.flatMap(({ item, choice }) => moveOf(item, choice)),
    nodes,
    problem: source.problem,
  };
}

type Chosen = { item: Item; choice: Choice };

/** The middle of each circuit: of its held nets, else of its peripherals' lines, else of all. */
function centresOf(model: Model, chosen: readonly Chosen[]): Map<string, number> {
  const circuits = new Map<string, Chosen[]>();
  for (const one of chosen)
    circuits.set(one.item.net.circuit, [...(circuits.get(one.item.net.circuit) ?? []), one]);
  const centres = new Map<string, number>();
  for (const [circuit, all] of circuits) {
    const held = all.filter(({ item }) => item.held);
    const lines = all.filter(({ choice }) => choice.instance !== undefined);
    const telling = held.length > 0 ? held : lines.length > 0 ? lines : all;
    const places = telling.map(({ choice }) => model.position[choice.slot] as number);
    const centre = mostCentral(places, (one) =>
      places.reduce((sum, other) => sum + distanceBetween(model.pkg, one, other), 0),
    );
    if (centre !== undefined) centres.set(circuit, centre);
  }
  return centres;
}

function readSolution(
  model: Model,
  compiled: Compiled,
  solution: readonly number[],
): { terms: Record<Term, number>; chosen: Chosen[] } {
  const terms = Object.fromEntries(TERMS.map((term) => [term, 0])) as Record<Term, number>;
  const chosen = solution.map((option, at) => {
    const meant = compiled.meant[at]?.[option];
    if (!meant) throw new Error('a solution names an option that is not there');
    for (const term of TERMS) terms[term] += meant.choice.terms[term] ?? 0;
    terms.near += meant.near;
    terms.order += meant.order;
    return { item: model.items[compiled.items[at] as number] as Item, choice: meant.choice };
  });
  return { terms, chosen };
}

function moveOf({ net }: Item, choice: Choice): Move[] {
  const signal = net.role.kind === 'open-signal' ? choice.fn?.signal : undefined;
  const { placement } = net;
  if (placement?.pad === choice.pad && (signal === undefined || (placement.signal ?? signal) === signal))
    return [];
  return [{ net, to: { pad: choice.pad, held: false, ...(signal ? { signal } : {}) } }];
}
