import { unzipSync } from 'fflate';
import { LIMITS, limitText, overLimit, tooLarge } from '../../base/limits';
import { fail, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import { raiseDigits } from '../../base/text/superscript';
import { type Grid, type GridRow, gridOf } from '../tables/grid';

/** A sheet of a spreadsheet as a table; hidden rows are marked, hidden columns listed. */
export interface Sheet {
  title: string;
  hidden: boolean;
  grid: Grid;
}

/** Merged cells: the first and the last row and column, all 0-based. */
export interface Merge {
  top: number;
  left: number;
  bottom: number;
  right: number;
}

/** A sheet while it is read: rows by their index, with what is hidden and merged. */
export class SheetBuilder {
  readonly rows = new Map<number, string[]>();
  readonly hiddenRows = new Set<number>();
  readonly hiddenColumns = new Set<number>();
  readonly merges: Merge[] = [];
  private cells = 0;

  constructor(
    readonly title: string,
    readonly hidden: boolean,
  ) {}

  /** Puts a text into a cell; false when the sheet is larger than any table. */
  put(row: number, column: number, text: string): boolean {
    if (text === '') return true;
    if (row >= LIMITS.tableRows * 4 || column >= LIMITS.tableColumns * 100) return false;
    if (++this.cells > LIMITS.tableRows * 40) return false;
    const cells = this.rows.get(row) ?? [];
    cells[column] = text;
    this.rows.set(row, cells);
    return true;
  }

  result(file: string, alone: boolean): Result<Sheet> {
    const name = alone ? file : `${file}, ${this.title}`;
    const last = [...this.rows.keys()].reduce((most, row) => Math.max(most, row), -1);
    if (last >= LIMITS.tableRows)
      return fail({ place: name, message: `the table ${overLimit('tableRows', last + 1)}` });
    const rows = Array.from(
      { length: last + 1 },
      (_, index): GridRow => ({
        line: index + 1,
        cells: Array.from(this.rows.get(index) ?? [], (cell) => cell ?? ''),
        ...(this.hiddenRows.has(index) ? { out: 'hidden' as const } : {}),
      }),
    );
    let merged = 0;
    for (const merge of this.merges) {
      merged += spread(rows, merge);
      if (merged > MOST_MERGED)
        return fail({ place: name, message: 'its merged cells cover more than any table has' });
    }
    const hidden = [...this.hiddenColumns]
      .filter((column) => column < LIMITS.tableColumns)
      .sort((a, b) => a - b);
    const grid = gridOf(name, rows, hidden.length > 0 ? { hiddenColumns: hidden } : {});
    return grid.ok ? ok({ title: this.title, hidden: this.hidden, grid: grid.value }) : grid;
  }
}

/** Cells that merged ones may cover, all together. */
const MOST_MERGED = 1_000_000;

/** A merged cell's text stands in each of its rows; the columns that it covers stay empty. Answers how many cells that are. */
function spread(rows: GridRow[], { top, left, bottom, right }: Merge): number {
  const text = rows[top]?.cells[left] ?? '';
  const end = Math.min(right, LIMITS.tableColumns - 1);
  const last = Math.min(bottom, rows.length - 1);
  const covered = Array.from({ length: Math.max(0, end - left) }, (_, i) => left + 1 + i);
  const cells = Math.max(0, last - top + 1) * (covered.length + 1);
  if (cells > MOST_MERGED) return cells;
  for (let at = top; at <= last; at++) {
    const row = rows[at];
    if (!row) continue;
    while (row.cells.length <= end) row.cells.push('');
    if (at > top) {
      row.cells[left] = text;
      row.above = [...(row.above ?? []), left];
    }
    if (covered.length > 0) row.covered = [...(row.covered ?? []), ...covered];
  }
  return cells;
}

/** Raised digits become characters that are: `A0` with a raised 1 is not A01. A list of them is a mark in brackets. */
export function raised(text: string): string {
  const bare = text.trim().replace(/^[([]|[)\]]$/g, '');
  if (/^\d{1,2}$/.test(bare)) return raiseDigits(bare);
  return /^\d{1,2}(\s*,\s*\d{1,2})+$/.test(bare) ? `(${bare})` : text;
}

/** The files of a zip that a reader asks for, unpacked; refused when they are larger than any spreadsheet. */
export function unpack(
  name: string,
  bytes: Uint8Array,
  wanted: (path: string) => boolean,
  meter: Meter = { steps: 0 },
): Result<Map<string, Uint8Array>> {
  if (bytes.length > LIMITS.spreadsheetBytes)
    return fail({ place: name, message: `the file ${tooLarge('spreadsheetBytes')}` });
  let unpacked = 0;
  try {
    const files = unzipSync(bytes, {
      filter: ({ name: path, originalSize }) => {
        if (!wanted(path)) return false;
        unpacked += originalSize;
        meter.steps += originalSize;
        return unpacked <= LIMITS.unpackedBytes;
      },
    });
    if (unpacked > LIMITS.unpackedBytes)
      return fail({ place: name, message: `holds more than ${limitText('unpackedBytes')} when unpacked` });
    return ok(new Map(Object.entries(files)));
  } catch {
    return fail({ place: name, message: 'is damaged: it cannot be unpacked' });
  }
}
