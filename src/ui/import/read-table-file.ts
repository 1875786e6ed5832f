import { readBsdl } from '@/core/formats/bsdl/read-bsdl';
import { fail, ok, type Problem, type Result } from '@/core/result';
import { type Grid, gridOf, readGrid } from '@/core/tables/grid';
import { readSpreadsheet } from '../client/import-worker';

/** The tables that a file holds: one, or one a sheet. */
export interface FileTables {
  name: string;
  sheets: { title: string; grid: Grid }[];
}

const LARGEST_BYTES = 20_000_000;

/** CSV, TSV, text, XLSX or a boundary-scan description → tables. */
export async function readTableFile(file: File): Promise<Result<FileTables>> {
  if (file.size > LARGEST_BYTES)
    return fail({ place: file.name, message: `the file is larger than ${LARGEST_BYTES / 1_000_000} MB` });
  if (/\.xls$/i.test(file.name))
    return fail({ place: file.name, message: 'the old .xls format is not read; save it as .xlsx or CSV' });
  if (/\.xlsx$/i.test(file.name)) return readSheets(file);
  const text = await file.text();
  const grid = looksLikeBsdl(file.name, text) ? readBsdl(file.name, text) : readGrid(file.name, text);
  return grid.ok ? ok({ name: file.name, sheets: [{ title: file.name, grid: grid.value }] }) : grid;
}

const looksLikeBsdl = (name: string, text: string): boolean =>
  /\.(bsd|bsdl)$/i.test(name) || /\bPIN_MAP_STRING\b/i.test(text);

async function readSheets(file: File): Promise<Result<FileTables>> {
  const read = await readSpreadsheet(file.name, await file.arrayBuffer()).result;
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
  return sheets.length > 0 ? ok({ name: file.name, sheets }) : fail(...problems);
}
