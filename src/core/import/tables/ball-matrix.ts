import { isEmptyCell } from './cells';
import type { Grid, GridRow } from './grid';
import type { Mapping } from './mapping';

const ROW_NAME = /^[A-Z]{1,2}$/;

interface Head {
  /** Number of the ball in each column; undefined where the column has none. */
  numbers: (number | undefined)[];
}

/** A row of ball numbers: most of its cells are whole numbers that differ by one from cell to cell. */
function headOf(row: GridRow): Head | undefined {
  if (row.out) return undefined;
  const filled = row.cells.flatMap((cell, column) =>
    cell.trim() === '' ? [] : [{ column, cell: cell.trim() }],
  );
  const numbers = filled.filter(({ cell }) => /^\d{1,2}$/.test(cell));
  if (numbers.length < 3 || numbers.length < filled.length - 2) return undefined;
  const values = numbers.map(({ cell }) => Number(cell));
  const step = (values[1] ?? 0) - (values[0] ?? 0);
  if (Math.abs(step) !== 1 || values.some((value, i) => i > 0 && value - (values[i - 1] ?? 0) !== step))
    return undefined;
  const result: (number | undefined)[] = [];
  for (const { column, cell } of numbers) result[column] = Number(cell);
  return { numbers: result };
}

/** The letter of a row of balls, at its left or right edge. */
const letterOf = (row: GridRow): string | undefined => {
  const cells = row.cells.map((cell) => cell.trim());
  const first = cells.find((cell) => cell !== '');
  const last = cells.findLast((cell) => cell !== '');
  return [first, last].find((cell) => cell !== undefined && ROW_NAME.test(cell));
};

/** Whether a table shows a ball grid as it lies on the board: numbers above, letters beside, names of pads in the cells. */
export function isBallMatrix(grid: Grid): boolean {
  const at = grid.rows.findIndex((row) => headOf(row) !== undefined);
  if (at < 0) return false;
  const rows = grid.rows
    .slice(at + 1)
    .filter((row) => !row.out && row.cells.some((cell) => cell.trim() !== ''));
  const lettered = rows.filter((row) => letterOf(row) !== undefined && leftLetter(row));
  return lettered.length > 2 && lettered.length > rows.length * 0.6;
}

/** The letter stands at the edge; a pad's name in the first cell would be no single letter. */
const leftLetter = (row: GridRow): boolean => row.cells.some((cell) => ROW_NAME.test(cell.trim()));

/**
 * A ball grid as a list: a row for each ball with the pad's name, the ball, and the line it stands in. A grid that is printed in
 * several pieces has its numbers again above each.
 */
export function listOfBalls(grid: Grid, packageId = 'balls'): Grid {
  let head: Head | undefined;
  const rows: GridRow[] = [{ line: 1, cells: ['pad', 'ball', 'row of the table'] }];
  for (const row of grid.rows) {
    const next = headOf(row);
    if (next) {
      head = next;
      continue;
    }
    const letter = letterOf(row);
    if (!head || row.out || letter === undefined) continue;
    row.cells.forEach((cell, column) => {
      const number = head?.numbers[column];
      if (number === undefined || isEmptyCell(cell) || row.covered?.includes(column)) return;
      rows.push({
        line: rows.length + 1,
        cells: [cell, `${letter}${number}`, String(row.line)],
        ...(row.place ? { place: row.place } : {}),
      });
    });
  }
  const known: Mapping = { headerRow: 0, roles: ['pad', `pin:${packageId}`, 'ignore'] };
  return { ...grid, rows, known };
}
