import type { Result } from '../result';

/** What the import worker is asked, and what it says. */
export type ImportTask =
  | { kind: 'svd'; name: string; text: string }
  | { kind: 'xlsx'; name: string; bytes: ArrayBuffer };

export interface SheetRows {
  sheet: string;
  rows: string[][];
}

export type ImportAnswer = { kind: 'progress'; done: number } | { kind: 'done'; result: Result<unknown> };
