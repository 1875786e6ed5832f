import { LIMITS, tooLarge } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import { fail, failWith, ok, type Result } from '@/core/base/result';
import { type Grid, gridOf } from '@/core/import/tables/grid';
import { readSpreadsheet, readTableText } from '../client/import-worker';
import type { Watch } from '../parts/reading';

/** The tables that a file holds: one, or one a sheet. */
export interface FileTables {
  name: string;
  sheets: { title: string; grid: Grid }[];
}

/** CSV, TSV, text, XLSX or a boundary-scan description → tables. */
export async function readTableFile(file: File, watch: Watch): Promise<Result<FileTables>> {
  if (file.size > LIMITS.spreadsheetBytes)
    return fail({ place: file.name, message: `the file ${tooLarge('spreadsheetBytes')}` });
  if (/\.xls$/i.test(file.name))
    return fail({ place: file.name, message: 'the old .xls format is not read; save it as .xlsx or CSV' });
  if (/\.xlsx$/i.test(file.name)) return readSheets(file, watch);
  const text = await file.text();
  const grid = await watch(file.name, readTableText(file.name, text, looksLikeBsdl(file.name, text)));
  return grid.ok ? ok({ name: file.name, sheets: [{ title: file.name, grid: grid.value }] }) : grid;
}

const looksLikeBsdl = (name: string, text: string): boolean =>
  /\.(bsd|bsdl)$/i.test(name) || /\bPIN_MAP_STRING\b/i.test(text);

async function readSheets(file: File, watch: Watch): Promise<Result<FileTables>> {
  const read = await watch(file.name, readSpreadsheet(file.name, await file.arrayBuffer()));
  if (!read.ok) return read;
  const problems: Problem[] = [];
  const sheets = read.value.flatMap(({ sheet, rows }) => {
    const name = read.value.length > 1 ? `${file.name}, ${sheet}` : file.name;
    const grid = gridOf(
      name,
      rows.map((cells, index) => ({ line: index + 1, cells })),
    );
    if (grid.ok) return [{ title: sheet, grid: grid.value }];
    problems.push(...grid.problems);
    return [];
  });
  return sheets.length > 0 ? ok({ name: file.name, sheets }) : failWith(problems);
}
