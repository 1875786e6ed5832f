import { columnsOf, type Grid, type GridRow } from './grid';
import type { Mapping, TableKind } from './mapping';
import { joinTexts } from './rows';

/** Lines of rows that are changed together. */
export type Lines = ReadonlySet<number>;

const change = (grid: Grid, rows: GridRow[]): Grid => ({ ...grid, rows });

/** Rows are kept and not read. */
export const leaveOut = (grid: Grid, lines: Lines): Grid =>
  change(
    grid,
    grid.rows.map((row) => (lines.has(row.line) ? { ...row, out: 'left out' } : row)),
  );

/** Rows that were left out or hidden are read. */
export const takeIn = (grid: Grid, lines: Lines): Grid =>
  change(
    grid,
    grid.rows.map((row) => {
      if (!lines.has(row.line) || !row.out) return row;
      const { out: _, ...rest } = row;
      return rest;
    }),
  );

export const deleteRows = (grid: Grid, lines: Lines): Grid =>
  change(
    grid,
    grid.rows.filter((row) => !lines.has(row.line)),
  );

/** Joins rows to the row above the first of them, cell by cell. The first row of a table has none above. */
export function joinToAbove(grid: Grid, lines: Lines): Grid {
  const rows: GridRow[] = [];
  for (const row of grid.rows) {
    const above = rows.at(-1);
    if (!lines.has(row.line) || !above) {
      rows.push(row);
      continue;
    }
    const width = Math.max(above.cells.length, row.cells.length);
    const cells = Array.from({ length: width }, (_, column) =>
      row.above?.includes(column)
        ? (above.cells[column] ?? '')
        : joinTexts(above.cells[column] ?? '', row.cells[column] ?? ''),
    );
    rows[rows.length - 1] = { ...above, cells };
  }
  return change(grid, rows);
}

/** Lines between others: row 12 split in three gives 12, 12.1 and 12.2. */
function lineBetween(line: number, step: number, before: ReadonlySet<number>): number {
  for (let at = step; ; at++) {
    const next = Number((line + at / 1000).toFixed(3));
    if (!before.has(next)) return next;
  }
}

/**
 * Splits each row at the lines of its cells, or where no cell has several lines at its words: one row for each. A cell with one
 * text only stands in all of them.
 */
export function splitRows(grid: Grid, lines: Lines): Grid {
  const taken = new Set(grid.rows.map((row) => row.line));
  return change(
    grid,
    grid.rows.flatMap((row): GridRow[] => {
      if (!lines.has(row.line)) return [row];
      const byLine = row.cells.map((cell) => cell.split('\n').map((one) => one.trim()));
      const pieces = byLine.some((one) => one.length > 1)
        ? byLine
        : row.cells.map((cell) => cell.split(/[\s;,]+/).filter((one) => one !== ''));
      const count = pieces.reduce((most, one) => Math.max(most, one.length), 1);
      if (count === 1) return [row];
      return Array.from({ length: count }, (_, index): GridRow => {
        const line = index === 0 ? row.line : lineBetween(row.line, index, taken);
        taken.add(line);
        return {
          ...row,
          line,
          cells: pieces.map((one) => (one.length > 1 ? (one[index] ?? '') : (one[0] ?? ''))),
        };
      });
    }),
  );
}

/** A table to be filled by hand, with the columns that most parts need. */
export function emptyTable(kind: TableKind): { grid: Grid; mapping: Mapping } {
  const roles =
    kind === 'pinout'
      ? ['pad', 'kind', 'port', 'bit', 'pin:package', 'supply', 'class', 'alias', 'notes']
      : ['pad', 'signal', 'code', 'notes'];
  const blank = roles.map(() => '');
  const rows = Array.from({ length: 60 }, (_, index) => ({ line: index + 2, cells: blank }));
  const head = { line: 1, cells: roles.map((role) => role.replace(/^pin:/, '')) };
  return { grid: { name: 'table by hand', rows: [head, ...rows] }, mapping: { headerRow: 0, roles } };
}

/** An empty column at the right: another package, or what the table did not say. */
export function addColumn(grid: Grid, mapping: Mapping): { grid: Grid; mapping: Mapping } {
  const width = columnsOf(grid);
  const rows = grid.rows.map((row, index) => {
    const cells = Array.from({ length: width + 1 }, (_, i) => row.cells[i] ?? '');
    if (index === mapping.headerRow) cells[width] = 'new';
    return { ...row, cells };
  });
  const roles = Array.from({ length: width + 1 }, (_, i) => mapping.roles[i] ?? 'ignore');
  return { grid: { ...grid, rows }, mapping: { ...mapping, roles } };
}

/** An empty row below another. */
export function addRow(grid: Grid, line: number): Grid {
  const taken = new Set(grid.rows.map((row) => row.line));
  return change(
    grid,
    grid.rows.flatMap((row) =>
      row.line === line
        ? [
            row,
            { line: lineBetween(line, 1, taken), cells: Array.from({ length: columnsOf(grid) }, () => '') },
          ]
        : [row],
    ),
  );
}
