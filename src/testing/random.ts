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

/** How much work random tests do: the small amount in every run, `MAVREK_FUZZ` times as much when that is set (`--all` sets 3). */
export const fuzzBudget = (runs: number): number => Math.round(runs * Number(process.env.MAVREK_FUZZ ?? 1));

/** A number of rounds: the small one in every run, the large one in `./mavrek test --all`, which sets MAVREK_ALL. */
export const budget = (rounds: { quick: number; all: number }): number =>
  process.env.MAVREK_ALL === '1' ? rounds.all : rounds.quick;
