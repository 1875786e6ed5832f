import { LIMITS, overLimit } from '../../base/limits';
import { fail, ok, type Result } from '../../base/result';
import { cleanText } from './clean-text';
import type { Mapping } from './mapping';

/** A table as the user has it: cells as text, rows with the line (or sheet row) they stand in. */
export interface Grid {
  name: string;
  rows: GridRow[];
  /** What its columns are, where the file's own format says so. */
  known?: Mapping;
  /** Columns that are hidden in the document. */
  hiddenColumns?: readonly number[];
  /** Texts of footnotes that stand below the table in the document, by mark. */
  notes?: Record<string, string>;
}

export interface GridRow {
  /** 1-based, as an editor or a spreadsheet counts. A line's number stays its row's, whatever becomes of other rows. */
  line: number;
  cells: string[];
  /** Columns whose cell belongs to a merged cell that begins in a row above; its text is repeated here. */
  above?: number[];
  /** Columns that a merged cell covers that begins at their left; they are empty. */
  covered?: number[];
  /** Why the row is not read: hidden in the document, or left out by the user. */
  out?: 'hidden' | 'left out';
  place?: RowPlace;
}

/** Where a row stands in a document with pages. */
export interface RowPlace {
  /** 1-based. */
  page: number;
  /** Left, top, right and bottom, as parts of the page's width and height. */
  box?: readonly [number, number, number, number];
}

/** Cleans the cells of a grid, checks its size, and drops the empty rows at its end. */
export function gridOf(name: string, rows: GridRow[], more: Omit<Grid, 'name' | 'rows'> = {}): Result<Grid> {
  let end = rows.length;
  while (end > 0 && rows[end - 1]?.cells.every((cell) => cell.trim() === '')) end--;
  const used = rows.slice(0, end);
  if (used.length === 0) return fail({ place: name, message: 'the table is empty' });
  if (used.length > LIMITS.tableRows)
    return fail({ place: name, message: `the table ${overLimit('tableRows', used.length)}` });
  const wide = used.find((row) => row.cells.length > LIMITS.tableColumns);
  if (wide)
    return fail({
      place: `${name}, row ${wide.line}`,
      message: overLimit('tableColumns', wide.cells.length),
    });
  for (const row of used) {
    const at = row.cells.findIndex((cell) => cell.length > LIMITS.cellCharacters);
    const long = row.cells[at]?.length;
    if (long !== undefined)
      return fail({
        place: `${name}, row ${row.line}, column ${at + 1}`,
        message: overLimit('cellCharacters', long),
      });
    row.cells = row.cells.map((cell) => cleanText(cell).trim());
  }
  return ok({ name, rows: used, ...more });
}

export const columnsOf = (grid: Grid): number =>
  grid.rows.reduce((most, row) => Math.max(most, row.cells.length), 0);

export const isBlankRow = (row: GridRow): boolean => row.cells.every((cell) => cell.trim() === '');

/** Index of the first row of the headings; −1 where there are none. */
export const firstHeading = ({ headerRow, headerRows = 1 }: Mapping): number =>
  headerRow < 0 ? -1 : Math.max(0, headerRow - headerRows + 1);

/** The heading of each column: the texts of all rows of the headings, a merged one above each of its columns. */
export function headingsOf(grid: Grid, mapping: Mapping, width = columnsOf(grid)): string[] {
  if (mapping.headerRow < 0) return Array.from({ length: width }, () => '');
  const rows = grid.rows.slice(firstHeading(mapping), mapping.headerRow + 1);
  const last = rows.length - 1;
  const texts = rows.map((row, index) => {
    let left = '';
    return Array.from({ length: width }, (_, column) => {
      const own = (row.cells[column] ?? '').trim();
      if (row.above?.includes(column)) return '';
      if (own !== '') {
        left = own;
        return own;
      }
      if (index === last) return '';
      // Where the document shows which cells are merged, only those; else the text to the left is that of the columns beside it.
      if (row.covered !== undefined) return row.covered.includes(column) ? left : '';
      return below(rows, index, column) ? left : '';
    });
  });
  return Array.from({ length: width }, (_, column) =>
    texts
      .map((row) => row[column] ?? '')
      .filter((text, i, all) => text !== '' && all.indexOf(text) === i)
      .join(' '),
  );
}

/** Whether a column has a heading of its own in a row below. */
const below = (rows: readonly GridRow[], index: number, column: number): boolean =>
  rows.slice(index + 1).some((row) => (row.cells[column] ?? '').trim() !== '');
