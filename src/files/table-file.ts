import { readFileSync, statSync } from 'node:fs';
import readXlsx from 'read-excel-file/node';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { fail, type Result } from '@/core/base/result';
import { readBsdl } from '@/core/import/bsdl/read-bsdl';
import { type Grid, gridOf, readGrid } from '@/core/import/tables/grid';
import { spreadsheetFault } from '@/core/import/tables/spreadsheet';

/** A table out of a file: CSV, TSV, XLSX (its first sheet, or the one named after `#`) or a boundary-scan description. */
export async function readTable(path: string): Promise<Result<Grid>> {
  const [, file = path, sheet] = /^(.*\.xlsx)(?:#(.+))?$/i.exec(path) ?? [];
  try {
    if (statSync(file).size > LIMITS.spreadsheetBytes)
      return fail({ place: file, message: tooLarge('spreadsheetBytes') });
    if (/\.xlsx$/i.test(file)) return await readSheet(file, sheet);
    const text = readFileSync(file, 'utf8');
    return /\.(bsd|bsdl)$/i.test(file) ? readBsdl(file, text) : readGrid(file, text);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    // Errors of the file system have names such as EACCES; all else comes from the spreadsheet's reader.
    const known = code !== undefined && /^E[A-Z]+$/.test(code);
    const message =
      code === 'ENOENT'
        ? 'there is no such file'
        : known
          ? `cannot be read (${code})`
          : 'cannot be read as a spreadsheet (.xlsx)';
    return fail({ place: file, message });
  }
}

async function readSheet(file: string, wanted: string | undefined): Promise<Result<Grid>> {
  const bytes = readFileSync(file);
  const fault = spreadsheetFault(bytes);
  if (fault !== undefined) return fail({ place: file, message: fault });
  const sheets = await readXlsx(bytes);
  const found = wanted === undefined ? sheets[0] : sheets.find((one) => one.sheet === wanted);
  if (!found)
    return fail({
      place: file,
      message: `has no sheet "${wanted}"; it has ${sheets.map((one) => one.sheet).join(', ')}`,
    });
  const text = (cell: unknown): string =>
    cell === null || cell === undefined
      ? ''
      : cell instanceof Date
        ? cell.toISOString().slice(0, 10)
        : String(cell);
  return gridOf(
    file,
    found.data.map((row, index) => ({ line: index + 1, cells: row.map(text) })),
  );
}
