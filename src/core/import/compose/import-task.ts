import type { Result } from '../../base/result';
import type { OpenRegisters, PortPad } from '../attach/open-registers';
import type { FileContent } from '../files/read-file';
import type { Grid, GridRow } from '../tables/grid';
import type { Mapping, TableKind } from '../tables/mapping';
import type { TextLayout } from '../tables/read-text';

/** What the import worker is asked, and what it says. */
export type ImportTask =
  /** A file of any kind; among several tables the one most like `wanted` is chosen. */
  | { kind: 'file'; name: string; bytes: ArrayBuffer; wanted: TableKind; pads?: readonly PortPad[] }
  /** Pasted text, or one that is to be divided otherwise. */
  | { kind: 'text'; name: string; text: string; wanted: TableKind; layout?: TextLayout }
  | { kind: 'netlist'; name: string; text: string };

/** A table with what its columns are guessed to be. */
export interface StartedTable {
  title: string;
  hidden?: true;
  grid: Grid;
  mapping: Mapping;
  /** It was a ball grid as it lies on the board, and was made a list. */
  matrix: boolean;
}

/** What is in a file, as the import view needs it. */
export type ReadFileAnswer =
  | {
      kind: 'tables';
      name: string;
      what: string;
      tables: StartedTable[];
      /** Index of the table that is meant. */
      chosen: number;
      /** The text that they were read from, and how it was divided. */
      text?: string;
      layout?: TextLayout;
    }
  /** Proposals for the pads that were given; a large description itself stays in the worker. */
  | { kind: 'registers'; name: string; open?: OpenRegisters }
  | Exclude<FileContent, { kind: 'tables' | 'registers' }>;

export type ImportAnswer =
  | { kind: 'progress'; done: number }
  /** Rows of one of the tables, in order; they come before what they belong to. */
  | { kind: 'rows'; table: number; rows: GridRow[] }
  | { kind: 'done'; result: Result<unknown> };
