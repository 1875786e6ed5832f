/** How much the placer minds what; whole numbers. */
export interface Weights {
  /** Giving up pads that few other pads can stand in for. */
  scarce: number;
  /** Peripheral instances that lack lines in this package. */
  complete: number;
  /** Distance of a net from the rest of its circuit, in terminals. */
  near: number;
  /** Numbered nets that are not on consecutive bits. */
  order: number;
  /** Pads with a duty at boot: straps, debug, clock. */
  special: number;
  /** Moving a net that has a pad. */
  moves: number;
}
export const DEFAULT_WEIGHTS: Weights = {
  scarce: 1,
  complete: 30,
  near: 2,
  order: 20,
  special: 300,
  moves: 60,
};
export type Term = keyof Weights;
export const TERMS = Object.keys(DEFAULT_WEIGHTS) as Term[];

/** Weighted sum of terms. */
export function weigh(weights: Weights, terms: Partial<Record<Term, number>>): number {
  let sum = 0;
  for (const term of TERMS) sum += weights[term] * (terms[term] ?? 0);
  return Math.round(sum);
}
