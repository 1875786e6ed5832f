import type { NetId } from '../../plan/model/types';
import { type Active, compile, type Placements, type Wishes } from '../compile/compile';
import type { Model, NetItem } from '../model/model';
import { solve } from '../solver/solve';

/** How a question of feasibility is asked. */
export interface Question {
  /** Nodes of the search before it gives up. */
  nodes?: number;
  /** An answer to nearly the same question, and the nets that shall not keep to it: tried first, as it is much the quicker. */
  near?: { placements: Placements; but: ReadonlySet<NetId> };
}

export interface Answer {
  /** `undefined` when the search gave up. */
  possible: boolean | undefined;
  placements?: Placements;
  /** Nets that cannot all have a slot. */
  stuck?: NetItem[];
  /** Choices looked at: the time that the answer took, without a clock. */
  looked: number;
}

const QUESTION_NODES = 600;
const NEAR_NODES = 30;

/** Whether the requirements in force can hold together; how, when they can. */
export function examine(
  model: Model,
  active: Active,
  { nodes = QUESTION_NODES, near }: Question = {},
): Answer {
  if (tooManyInterrupts(model, active)) return { possible: false, looked: 0 };
  let looked = 0;
  if (near) {
    const fixed = new Map([...near.placements].filter(([net]) => !near.but.has(net)));
    const answer = ask(model, active, { fixed }, NEAR_NODES);
    if (answer.possible) return answer;
    ({ looked } = answer);
  }
  const answer = ask(model, active, {}, nodes);
  return { ...answer, looked: looked + answer.looked };
}

function ask(model: Model, active: Active, wishes: Wishes, nodes: number): Answer {
  const compiled = compile(model, active, { ...wishes, free: true });
  const outcome = solve(compiled.problem, { nodes, firstOnly: true });
  const options = compiled.problem.items.reduce((sum, one) => sum + one.options.length, 0);
  // Each node of the search looks at them anew.
  const looked = options * (1 + outcome.nodes);
  if (outcome.status === 'unknown') return { possible: undefined, looked };
  if (outcome.status === 'infeasible') {
    const stuck = outcome.stuck?.map((at) => compiled.items[at] as NetItem);
    return { possible: false, looked, ...(stuck ? { stuck } : {}) };
  }
  return { possible: true, looked, placements: compiled.placementsOf(outcome.solution.chosen) };
}

/** More nets want an interrupt line than there are. */
export function tooManyInterrupts({ interrupts: { items, lines } }: Model, active: Active): boolean {
  if (items.length <= lines) return false;
  return items.filter((one) => active === undefined || active.has(one.requirement)).length > lines;
}
