import type { Result } from '../../base/result';
import type { Grid } from '../tables/grid';
import type { Mapping, TableKind } from '../tables/mapping';
import type { TableArea } from './page';
import type { DocumentTable } from './read-tables';

/** What the worker that holds a document is asked. */
export type DocumentTask =
  /** Tables are only looked for where some are wanted. */
  | { kind: 'open'; name: string; bytes: ArrayBuffer; wanted: TableKind | null }
  | { kind: 'picture'; page: number; width: number }
  | { kind: 'take'; areas: TableArea[]; wanted: TableKind }
  /** Borders of columns and rows in a rectangle that the user draws. */
  | { kind: 'outline'; page: number; box: TableArea['box'] };

/** A table as it is offered: how large it is, and how much it is like what is wanted. */
export interface OfferedTable extends DocumentTable {
  rows: number;
  columns: number;
  likeness: number;
}

export interface OpenedDocument {
  /** Hash of its content. */
  sha256: string;
  pages: { number: number; width: number; height: number }[];
  tables: OfferedTable[];
  /** Pages on which tables were not looked for, and why. */
  unread: { page: number; why: string }[];
}

export type DocumentAnswer =
  | { kind: 'progress'; done: number; pages: number }
  | { kind: 'opened'; result: Result<OpenedDocument> }
  | { kind: 'picture'; page: number; bitmap: ImageBitmap }
  | { kind: 'taken'; result: Result<{ grid: Grid; mapping: Mapping; matrix: boolean }> }
  | { kind: 'outlined'; area: TableArea | null };
