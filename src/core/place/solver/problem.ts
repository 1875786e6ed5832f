/**
 * Finding a place for each net, without a word about nets or pads. *Items* choose one *option* each; an option costs something and
 * stands in one *slot*, which takes one item. Beside that:
 *
 * - *equals*: the options that a group of items choose have the same key (lines of one peripheral instance);
 * - *differs*: groups among these that must not have the same key (an instance serves one circuit);
 * - *resources*: things that only one chosen option may use (a signal, an interrupt line);
 * - *modes*: things that chosen options may use together when they put them to the same value (a field several pads share);
 * - *pairs*: two items whose options must suit each other (neighbours, or just not);
 * - *never*: options of several items that must not all be chosen at once (a combination that was tried and is wrong).
 *
 * All costs are whole numbers, so that bounds can be rounded up.
 */
export interface ChoiceProblem {
  slots: number;
  resources: number;
  items: readonly Chooser[];
  equals: readonly Equal[];
  differs: readonly (readonly number[])[];
  pairs: readonly Pair[];
  never?: readonly Never[];
}

/** Of each item one of the options that are listed, all of them together: what must not be. */
export interface Never {
  parts: readonly { item: number; options: readonly number[] }[];
}

export interface Chooser {
  options: readonly Option[];
}

export interface Option {
  slot: number;
  cost: number;
  resources: readonly number[];
  /** Values the option needs modes to have; `modes` as pairs of mode and value. */
  modes?: readonly { mode: number; value: number }[] | undefined;
  /** Key in each equal that the item belongs to; aligned with `equalsOf`. */
  keys: readonly number[];
}

export interface Equal {
  items: readonly number[];
  /** Keys are 0 … keys − 1; groups of one `differs` number their keys alike. */
  keys: number;
  /** Position of this equal in the `keys` of each item's options, aligned with `items`. */
  positions: readonly number[];
}

export interface Pair {
  a: number;
  b: number;
  /** Asked with the items' options, as indices into their lists. */
  suits(optionOfA: number, optionOfB: number): boolean;
}

export interface Solution {
  /** Chosen option of each item, as an index into its options. */
  chosen: number[];
  cost: number;
}

/** What a search knew in the end: a start for the search of a problem that differs in costs only. */
export interface Start {
  chosen: readonly number[];
  /** Prices on slots and resources at the root. */
  slot: Float64Array;
  resource: Float64Array;
}

export type Outcome =
  | { status: 'optimal' | 'feasible'; solution: Solution; bound: number; nodes: number; start: Start }
  | { status: 'infeasible'; nodes: number; stuck?: number[] }
  | { status: 'unknown'; bound: number; nodes: number };

export interface SearchLimits {
  /** Nodes to look at before giving up on proof; the same limit gives the same answer on every machine. */
  nodes: number;
  /** Steps towards better prices at the root; more give a better bound. */
  steps?: number;
  /** What a search of the same options with other costs came to. */
  start?: Start;
  /** Any solution will do. */
  firstOnly?: true;
  /** Told now and then; a `false` answer stops the search. */
  progress?(state: { nodes: number; best?: number; bound: number }): boolean;
}
