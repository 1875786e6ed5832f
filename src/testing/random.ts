/** A small seeded generator (mulberry32): equal seeds give equal numbers on every machine. */
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
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** How much work random tests do: the small amount in every run, `MAVREK_FUZZ` times as much when that is set. */
export const fuzzBudget = (runs: number): number => Math.round(runs * Number(process.env.MAVREK_FUZZ ?? 1));
