import type { Placements } from '../compile/compile';
import type { Model } from '../model/model';
import { examine } from './examine';

/** A question that takes longer to answer than this stays open. */
const TRIAL_NODES = 200;

/** What a question costs by itself, in choices. */
const QUESTION_WORK = 800;

/**
 * Asks what can be placed once something of a conflict is left out. Such questions differ only in the nets of the conflict: where
 * one has an answer, the others' answers lie near.
 */
export class Question {
  private placements: Placements | undefined;
  private readonly but: ReadonlySet<string>;
  private readonly known = new Map<number, boolean | undefined>();
  /** What was asked so far, in choices looked at: the time that answers take, without a clock. */
  work = 0;

  constructor(
    private readonly model: Model,
    conflict: readonly number[],
  ) {
    this.but = new Set(
      conflict.flatMap((index) => model.requirements[index]?.nets.map((net) => net.id) ?? []),
    );
  }

  /** Whether the requirements in force can hold together, of this model or of one that is nearly the same. */
  ask(
    active: ReadonlySet<number> | undefined,
    model: Model = this.model,
    nodes = TRIAL_NODES,
  ): boolean | undefined {
    const near = this.placements && { placements: this.placements, but: this.but };
    const { possible, placements, looked } = examine(model, active, {
      nodes,
      ...(near ? { near } : {}),
    });
    // What is near to most questions is the answer with the most nets in it.
    if (placements && placements.size >= (this.placements?.size ?? 0)) this.placements = placements;
    this.work += QUESTION_WORK + looked;
    return possible;
  }

  /** Whether everything can be placed but for one requirement and what hangs on it. */
  without(index: number): boolean | undefined {
    if (!this.known.has(index)) this.known.set(index, this.ask(allBut(this.model, [index])));
    return this.known.get(index);
  }
}

/** All requirements without some; what a net that is left out asks for goes with it. */
export function allBut(
  model: Model,
  some: readonly number[],
  all: Iterable<number> = model.requirements.keys(),
): Set<number> {
  const left = new Set(all);
  for (const index of some) {
    left.delete(index);
    const requirement = model.requirements[index];
    if (requirement?.kind !== 'net') continue;
    for (const other of left) {
      const own = model.requirements[other];
      if (own && own.kind !== 'constraint' && own.nets[0] === requirement.nets[0]) left.delete(other);
    }
  }
  return left;
}
