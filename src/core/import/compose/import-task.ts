import type { Result } from '../../base/result';

/** What the import worker is asked, and what it says. */
export type ImportTask =
  | { kind: 'svd'; name: string; text: string }
  | { kind: 'xlsx'; name: string; bytes: ArrayBuffer }
  /** CSV, TSV, pasted text, or a boundary-scan description. */
  | { kind: 'table'; name: string; text: string; bsdl: boolean }
  | { kind: 'netlist'; name: string; text: string };

export interface SheetRows {
  sheet: string;
  rows: string[][];
}

export type ImportAnswer = { kind: 'progress'; done: number } | { kind: 'done'; result: Result<unknown> };
