import { bare } from '../../base/bare';
import { isEmptyCell } from './cells';
import type { Grid, GridRow } from './grid';
import { type ColumnRole, type Mapping, splitRole } from './mapping';
import { type Fate, note, type TableProblem } from './records';

/** Reads one row by the roles of its columns, and notes what is wrong at the cell it is wrong in. */
export interface RowReader {
  line: number;
  text(role: ColumnRole): string;
  /** Index of the column that has a role; undefined when none has. */
  column(role: ColumnRole): number | undefined;
  /** Columns of a role with a name behind the colon. */
  named(base: string): { name: string; column: number; cell: string }[];
  /** `suggest` is only asked where the problem will be listed. */
  problem(column: number | undefined, message: string, suggest?: () => string[], word?: string): void;
  warn(column: number | undefined, message: string): void;
}

/**
 * Walks the rows below the headings: skips empty rows, section titles and repeated headings, and gives rows whose pad cell is
 * empty to the pad above (merged cells). Answers what became of each row.
 */
export function walkRows(
  grid: Grid,
  mapping: Mapping,
  problems: TableProblem[],
  read: (row: RowReader, above: boolean) => 'used' | 'refused',
): Map<number, Fate> {
  const fates = new Map<number, Fate>();
  const headings = grid.rows[mapping.headerRow]?.cells.map((cell) => cell.trim()) ?? [];
  const padColumn = mapping.roles.indexOf('pad');
  let above = false;
  grid.rows.forEach((row, index) => {
    if (index <= mapping.headerRow) {
      const fate: Fate = index === mapping.headerRow ? 'headings' : isBlank(row) ? 'empty' : 'section title';
      fates.set(row.line, fate);
      return;
    }
    if (isBlank(row)) fates.set(row.line, 'empty');
    else if (mapping.headerRow >= 0 && isSame(row, headings)) fates.set(row.line, 'headings again');
    else if (isTitle(row, mapping)) fates.set(row.line, 'section title');
    else {
      const joined = isEmptyCell(row.cells[padColumn] ?? '');
      if (joined && !above) {
        note(problems, () => ({
          line: row.line,
          column: padColumn,
          severity: 'error',
          message: 'a pad needs a name',
        }));
        fates.set(row.line, 'refused');
        return;
      }
      const outcome = read(readerOf(row, mapping, problems), joined);
      fates.set(row.line, outcome === 'used' && joined ? 'joined to the row above' : outcome);
      if (!joined) above = outcome === 'used';
    }
  });
  return fates;
}

const isBlank = (row: GridRow): boolean => row.cells.every((cell) => cell.trim() === '');

const isSame = (row: GridRow, headings: readonly string[]): boolean =>
  headings.length > 1 && headings.every((heading, i) => (row.cells[i] ?? '').trim() === heading);

/** One text alone in a row of several columns, with a space in it: "Port B (continued)". */
function isTitle(row: GridRow, mapping: Mapping): boolean {
  const filled = row.cells.filter((cell) => cell.trim() !== '');
  return mapping.roles.length > 2 && filled.length === 1 && /\s/.test((filled[0] ?? '').trim());
}

function readerOf(row: GridRow, mapping: Mapping, problems: TableProblem[]): RowReader {
  const cellAt = (column: number): string => (row.cells[column] ?? '').trim();
  const column = (role: ColumnRole): number | undefined => {
    const at = mapping.roles.indexOf(role);
    return at < 0 ? undefined : at;
  };
  return {
    line: row.line,
    column,
    text: (role) => {
      const at = column(role);
      return at === undefined ? '' : cellAt(at);
    },
    named: (base) =>
      mapping.roles.flatMap((role, at) => {
        const [kind, name] = splitRole(role);
        return kind === base ? [{ name, column: at, cell: cellAt(at) }] : [];
      }),
    problem: (at, message, suggest, word) => {
      note(problems, () => ({
        line: row.line,
        column: at,
        severity: 'error',
        message,
        suggestions: suggest?.(),
        ...(word === undefined ? {} : { word }),
      }));
    },
    warn: (at, message) => {
      note(problems, () => ({ line: row.line, column: at, severity: 'warning', message }));
    },
  };
}

/** Whole numbers of the columns that the recipe may use. */
export function numbersOf(row: RowReader): Record<string, number> {
  const columns = bare<number>();
  for (const { name, column, cell } of row.named('number')) {
    if (isEmptyCell(cell)) continue;
    if (!/^-?(0x[0-9A-Fa-f]+|\d+)$/.test(cell)) row.problem(column, `"${cell}" is not a whole number`);
    else columns[name] = Number(cell);
  }
  return columns;
}

export function pageOf(row: RowReader): number | undefined {
  const cell = row.text('page');
  if (isEmptyCell(cell)) return undefined;
  if (/^\d{1,5}$/.test(cell)) return Number(cell);
  row.problem(row.column('page'), `"${cell}" is no page number`);
  return undefined;
}
