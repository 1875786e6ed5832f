import { parse } from 'csv-parse/sync';
import { LIMITS, overLimit, tooLarge } from '../../base/limits';
import { fail, ok, type Result } from '../../base/result';
import { cellFromCsv } from '../../base/text/csv';

/** A table as the user has it: cells as text, rows with the line (or sheet row) they stand in. */
export interface Grid {
  name: string;
  rows: GridRow[];
}

export interface GridRow {
  /** 1-based, as an editor or a spreadsheet counts. */
  line: number;
  cells: string[];
}

const DIVIDERS = ['\t', ',', ';', '|'] as const;

/**
 * Which character divides the cells: the one that gives the same number of cells in most of the first lines. A paste from a
 * spreadsheet has tabs, one from a PDF may only have runs of spaces, which are answered as two spaces.
 */
export function dividerOf(text: string): string {
  const lines = text.split(/\r?\n/, 60).filter((line) => line.trim() !== '');
  let best = ',';
  let bestScore = 0;
  for (const divider of DIVIDERS) {
    const counts = lines.map((line) => line.replace(/"[^"]*"/g, '').split(divider).length);
    const most = mostCommon(counts.filter((count) => count > 1));
    if (most === undefined) continue;
    // A tab is never part of a cell's text; commas and semicolons may be.
    const score = counts.filter((count) => count === most).length * (divider === '\t' ? 3 : 1);
    if (score > bestScore) {
      best = divider;
      bestScore = score;
    }
  }
  if (bestScore === 0 && lines.some((line) => /\S {2,}\S/.test(line))) return '  ';
  return best;
}

function mostCommon(values: readonly number[]): number | undefined {
  const counts = new Map<number, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0];
}

/** CSV, TSV or pasted text → grid. Rows may be ragged; what that means is for the reader of the table to say. */
export function readGrid(name: string, text: string): Result<Grid> {
  if (text.length > LIMITS.tableCharacters)
    return fail({ place: name, message: `the table ${tooLarge('tableCharacters')}` });
  const divider = dividerOf(text);
  if (divider === '  ')
    return gridOf(
      name,
      linesOf(text, (line) => line.trim().split(/ {2,}|\t/)),
    );
  try {
    const records = parse(text, {
      bom: true,
      info: true,
      delimiter: divider,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: false,
      trim: true,
    }) as unknown as { record: string[]; info: { lines: number } }[];
    return gridOf(
      name,
      records.map(({ record, info }) => ({ line: info.lines, cells: record.map(cellFromCsv) })),
    );
  } catch (error) {
    // csv-parse throws for malformed input; its message carries the line.
    return fail({ place: name, message: error instanceof Error ? error.message : 'not readable as a table' });
  }
}

const linesOf = (text: string, split: (line: string) => string[]): GridRow[] =>
  text
    .split(/\r?\n/)
    .map((line, index) => ({ line: index + 1, cells: line.trim() === '' ? [''] : split(line) }));

/** Checks the size of a grid, and drops the empty rows at its end. */
export function gridOf(name: string, rows: GridRow[]): Result<Grid> {
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
  }
  return ok({ name, rows: used });
}

export const columnsOf = (grid: Grid): number =>
  grid.rows.reduce((most, row) => Math.max(most, row.cells.length), 0);
