import { nextState, partOf } from '@/core/base/random';

/** Numbers by chance: equal seeds give equal numbers on every machine. */
export interface Random {
  /** An integer from 0 up to, not including, `below`. */
  int(below: number): number;
  pick<T>(list: readonly T[]): T;
}

export function randomFrom(seed: number): Random {
  const next = randomOf(seed);
  const int = (below: number): number => Math.floor(next() * below);
  return { int, pick: (list) => list[int(list.length)] as never };
}

/** The same as numbers between 0 and 1. */
export function randomOf(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = nextState(state);
    return partOf(state);
  };
}

/** `./mavrek test --all` sets it. */
export const ALL = process.env.MAVREK_ALL === '1';

/** A part of the work in every run; `--all` sets MAVREK_FUZZ to 3. */
const FACTOR = Number(process.env.MAVREK_FUZZ ?? 0.15);

/** How much work random tests do, at least 1: a part of `runs` in every run, MAVREK_FUZZ times `runs` where that is set. */
export const fuzzBudget = (runs: number): number => Math.max(1, Math.round(runs * FACTOR));

/**
 * Rounds of a random test, numbered from 0: at least `least`, then as many as fit into `seconds` of this process's processor time,
 * so that a busy machine decides nothing. Both are scaled as by {@link fuzzBudget}. How many there were is printed, and where it ended early.
 */
export function* rounds(
  title: string,
  { seconds, least = 1 }: { seconds: number; least?: number },
): Generator<number> {
  const microseconds = fuzzBudget(seconds * 1e6);
  const begun = process.cpuUsage();
  const used = (): number => {
    const { user, system } = process.cpuUsage(begun);
    return user + system;
  };
  let round = 0;
  let whole = false;
  try {
    for (; round < fuzzBudget(least) || used() < microseconds; round++) yield round;
    whole = true;
  } finally {
    const taken = (used() / 1e6).toFixed(1);
    process.stderr.write(
      whole ? `${title}: ${round} rounds in ${taken} s\n` : `${title}: ended in round ${round}\n`,
    );
  }
}

/** A number of rounds: the small one in every run, the large one in `./mavrek test --all`, which sets MAVREK_ALL. */
export const budget = (rounds: { quick: number; all: number }): number => (ALL ? rounds.all : rounds.quick);

/** All of a list with `--all`; in a quick run every `step`th one, from a place that the seed decides. */
export const share = <T>(list: readonly T[], step: number, seed: number): T[] =>
  ALL ? [...list] : list.filter((_, at) => (at + seed) % step === 0);
