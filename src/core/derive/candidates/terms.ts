/**
 * What a choice of pad costs, in the list of pads as in the placer: whole numbers, counted in the units of `per`. The yardstick
 * is `scarce`: a signal's last free pad counts six, so that a half, a third and a sixth of one are whole.
 */
export const TERMS = {
  scarce: {
    weight: 1,
    title: 'pads that others need more',
    per: 'sixth of a pad that a signal loses',
    why: 'the yardstick: six for the last free pad of a signal, three where it has two, and so on',
  },
  complete: {
    weight: 30,
    title: 'instances that lack lines here',
    per: 'line that the instance needs and the package does not bring out',
    why: 'an instance with all its lines is preferred up to 15 pins farther away',
  },
  split: {
    weight: 80,
    title: 'lines on another instance',
    per: 'line that is not on the instance its circuit names',
    why: 'more than any distance (24 pins count 48) and a lacking line together: a peripheral does not work in two halves',
  },
  near: {
    weight: 2,
    title: 'distance within circuits',
    per: 'pin between a net and the middle of its circuit, 24 at most',
    why: 'three pins farther are worth the last pad of a signal',
  },
  order: {
    weight: 20,
    title: 'numbered nets out of order',
    per: 'net that is not on the bit its number asks for',
    why: 'one access a port reads them all; worth ten pins of distance a net',
  },
  special: {
    weight: 300,
    title: 'boot, strap and debug pads',
    per: 'pad with a duty at boot that the net is no part of',
    why: 'more than all else that one net can cost: a board that does not start is not made good by short tracks',
  },
  moves: {
    weight: 60,
    title: 'nets that must move',
    per: 'net that leaves the pad it has',
    why: 'a track may be drawn already: worth the last pads of ten signals, or 30 pins',
  },
} as const satisfies Record<string, TermSpec>;

interface TermSpec {
  weight: number;
  /** What it counts, for people. */
  title: string;
  /** One of what. */
  per: string;
  /** Why it weighs what it weighs. */
  why: string;
}

export type Term = keyof typeof TERMS;
/** How much who chooses minds what; whole numbers. */
export type Weights = Record<Term, number>;
export type Terms = Readonly<Partial<Record<Term, number>>>;

export const TERM_KEYS = Object.keys(TERMS) as Term[];
export const DEFAULT_WEIGHTS = Object.fromEntries(
  TERM_KEYS.map((key) => [key, TERMS[key].weight]),
) as Weights;

/** Weighted sum of terms. */
export function weigh(weights: Weights, terms: Terms): number {
  let sum = 0;
  for (const term of TERM_KEYS) sum += weights[term] * (terms[term] ?? 0);
  return Math.round(sum);
}

/**
 * What the placer never does, and the list of pads puts last: something that is asked for would not hold. Any of them costs more
 * than all terms of one net together; among themselves they are in the order of what it takes to mend them.
 */
export const FAULTS = {
  /** A setting the pad does not have: another value may do. */
  setting: 1030,
  /** Lines of one peripheral on two instances, or two circuits on one. */
  instance: 1080,
  /** A constraint, or an interrupt line that is taken. */
  constraint: 1110,
  /** What the net itself demands: rate, current, volts, side. */
  demand: 1120,
  /** Bits that another function decides otherwise. */
  shared: 1140,
  /** The pad goes along with a function in use, or the function takes a used pad along. */
  along: 1150,
  /** Another net is there. */
  taken: 1200,
} as const;
export type Fault = keyof typeof FAULTS;
