import { append } from '../../base/lists';
import type { Model } from '../model/model';
import { Question } from './question';
import { orders, shrink } from './shrink';

/** Choices that may be looked at, over all questions, before it is left open whether there is a smaller conflict. */
const MOST_WORK = 250_000;
/** Cases in the search for the least that hits all sets. */
const MOST_CASES = 20_000;

export interface Smallest {
  requirements: number[];
  /** No smaller set of requirements is a conflict. */
  proven: boolean;
  /** Knows answers about these requirements. */
  trial: Question;
}

/**
 * A smallest conflict, given one of which nothing can be left out. Every conflict has an requirement in each set whose removal makes the
 * plan possible; so the least that has one in each known such set is either a conflict, and then no smaller one exists, or it can be
 * placed, and what must be left out beside it is another such set. (Implicit hitting sets, as for smallest unsatisfiable subsets.)
 */
export function smallest(
  model: Model,
  conflict: readonly number[],
  trial: Question,
  gaveUp: () => void,
): Smallest {
  let found = [...conflict];
  let own = trial;
  for (let round = 0; ; round++) {
    const step = settle(model, found, own, round < MOST_ROUNDS ? gaveUp : undefined);
    if (!('smaller' in step)) return step;
    found = step.smaller;
    own = new Question(model, found);
  }
}

/** Another conflict that is in the way is looked at this many times; beyond that, only whether there is a smaller one. */
const MOST_ROUNDS = 4;

/** Shows that a conflict is smallest, or finds a smaller one: the smallest, or one to be looked at in its place. */
function settle(
  model: Model,
  found: readonly number[],
  trial: Question,
  gaveUp: (() => void) | undefined,
): Smallest | { smaller: number[] } {
  const answer = (requirements: readonly number[], proven: boolean): Smallest => ({
    requirements: [...requirements],
    proven,
    trial,
  });
  // What alone makes it possible is in every conflict.
  const sets = found.filter((index) => trial.without(index)).map((index) => [index]);
  const limit = trial.work + MOST_WORK;
  const core = new Set(found);
  const rest = [...model.requirements.keys()].filter((index) => !core.has(index));
  // Where no part of it is to blame for all, there is another conflict beside it.
  if (gaveUp && sets.length === 0 && trial.ask(new Set(rest)) === false) {
    const smaller = shrink(model, rest, orders(model, rest)[0] ?? rest, gaveUp);
    if (smaller.length < found.length) return { smaller };
  }
  const groups = inGroups(model, found, rest);
  for (;;) {
    const least = leastThatHits(sets);
    if (!least) return answer(found, false);
    if (least.length >= found.length) return answer(found, true);
    const possible = trial.ask(new Set(least));
    if (possible === false) {
      const requirements = [...least].sort((a, b) => a - b);
      return { requirements, proven: true, trial: new Question(model, requirements) };
    }
    const left = possible ? leftOut(found, groups, least, trial, limit) : undefined;
    if (!left) return answer(found, false);
    sets.push(left);
  }
}

/** Requirements that have nothing to do with a conflict's circuits, then those of each of its circuits: these go in or out together. */
function inGroups(model: Model, conflict: readonly number[], rest: readonly number[]): number[][] {
  const circuitOf = (index: number): string => model.requirements[index]?.nets[0]?.circuit ?? '';
  const own = new Map(conflict.map((index): [string, number[]] => [circuitOf(index), []]));
  const others: number[] = [];
  for (const index of rest) (own.get(circuitOf(index)) ?? others).push(index);
  return [others, ...own.values()];
}

/** What must be left out so that the rest, with all of `kept` in it, can be placed; nothing of it superfluous. */
function leftOut(
  conflict: readonly number[],
  groups: readonly (readonly number[])[],
  kept: readonly number[],
  trial: Question,
  limit: number,
): number[] | undefined {
  const chosen = new Set(kept);
  const out: number[] = [];
  let over = false;
  const add = (some: readonly number[]): void => {
    if (some.length === 0 || over) return;
    if (trial.work > limit) {
      over = true;
      return;
    }
    const possible = trial.ask(new Set([...chosen, ...some]));
    if (possible) for (const index of some) chosen.add(index);
    else if (some.length === 1) {
      // An requirement that might be possible must not be taken for one that is not.
      if (possible === undefined) over = true;
      append(out, some);
    } else {
      const half = some.length >> 1;
      add(some.slice(0, half));
      add(some.slice(half));
    }
  };
  // What the known conflict is not made of can mostly stay, all at once.
  for (const group of groups) add(group.filter((index) => !chosen.has(index)));
  for (const index of conflict) if (!chosen.has(index)) add([index]);
  return over ? undefined : out;
}

/** The fewest numbers of which one is in each set; undefined when that takes too long to find. */
export function leastThatHits(sets: readonly (readonly number[])[]): number[] | undefined {
  let best: number[] | undefined;
  let cases = 0;
  const chosen: number[] = [];
  const look = (open: readonly (readonly number[])[]): void => {
    if (++cases > MOST_CASES) return;
    if (best && chosen.length + apart(open) >= best.length) return;
    const next = open.reduce<readonly number[] | undefined>(
      (least, one) => (!least || one.length < least.length ? one : least),
      undefined,
    );
    if (!next) {
      best = [...chosen];
      return;
    }
    for (const number of next) {
      chosen.push(number);
      look(open.filter((one) => !one.includes(number)));
      chosen.pop();
    }
  };
  look(sets);
  return cases > MOST_CASES ? undefined : best;
}

/** How many of the sets, taken in their order, share nothing with those before: as many numbers are needed at least. */
function apart(sets: readonly (readonly number[])[]): number {
  const seen = new Set<number>();
  let count = 0;
  for (const one of sets) {
    if (one.some((number) => seen.has(number))) continue;
    for (const number of one) seen.add(number);
    count++;
  }
  return count;
}
