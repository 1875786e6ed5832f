/** A small seeded generator (mulberry32): equal seeds give equal numbers on every machine. */

/** The state behind a state. */
export const nextState = (state: number): number => (state + 0x6d2b79f5) >>> 0;

/** The 32 bits of a state. */
export function bitsOf(state: number): number {
  let mixed = Math.imul(state ^ (state >>> 15), state | 1);
  mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
  return (mixed ^ (mixed >>> 14)) >>> 0;
}

/** A number from 0 up to, not including, 1. */
export const partOf = (state: number): number => bitsOf(state) / 2 ** 32;
