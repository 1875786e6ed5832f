/** What can be wrong on the bench. */
export const BENCH_FINDINGS = {
  contention: 'two outputs drive against each other',
  'over-current': 'more current than the pad is made for',
  'over-voltage': 'more voltage than the pad tolerates',
  floating: 'an input that nothing holds',
  between: 'an input between its thresholds',
  'guard-broken': 'a net that must keep its level before initialisation',
  lost: 'an operation that the hardware does not take',
} as const;
export type BenchFindingKind = keyof typeof BENCH_FINDINGS;
export const FINDING_KINDS = Object.keys(BENCH_FINDINGS) as BenchFindingKind[];

/** How many places there are for what lasts: one for each pad and kind. */
export const lastingPlaces = (pads: number): number => pads * FINDING_KINDS.length;

/** Something wrong on the bench, from when until when. */
export interface BenchFinding {
  kind: BenchFindingKind;
  /** Index of the pad; -1 of an operation. */
  pad: number;
  message: string;
  from: number;
  /** Undefined while it lasts. */
  until: number | undefined;
  /** Entry of the log that began it. */
  cause: number;
}
