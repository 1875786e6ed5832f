import { readFileSync, statSync } from 'node:fs';
import { basename } from 'node:path';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { fail, ok, type Result } from '@/core/base/result';
import { readFile } from '@/core/import/files/read-file';
import { chooseTable, startTable } from '@/core/import/tables/choose-table';
import type { Grid } from '@/core/import/tables/grid';
import type { TableKind } from '@/core/import/tables/mapping';

/**
 * A table out of a file: CSV, TSV or text in any usual encoding, XLSX, ODS (the sheet most like such a table, or the one named after
 * `#`), a boundary-scan description or an IBIS model.
 */
export function readTable(path: string, kind: TableKind): Result<Grid> {
  const [, file = path, sheet] = /^(.*\.(?:xlsx|ods|ibs))(?:#(.+))?$/i.exec(path) ?? [];
  let bytes: Uint8Array;
  try {
    if (statSync(file).size > LIMITS.spreadsheetBytes)
      return fail({ place: file, message: tooLarge('spreadsheetBytes') });
    bytes = readFileSync(file);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? 'unknown';
    return fail({
      place: file,
      message: code === 'ENOENT' ? 'there is no such file' : `cannot be read (${code})`,
    });
  }
  const read = readFile(basename(file), bytes);
  if (!read.ok)
    return fail(
      ...read.problems.map((one) => ({ ...one, place: one.place.replace(basename(file), () => file) })),
    );
  if (read.value.kind !== 'tables')
    return fail({
      place: file,
      message: `holds no table: ${read.value.kind === 'pdf' ? 'tables of PDF documents are chosen in the import view' : `it is a ${read.value.kind}`}`,
    });
  const { tables } = read.value;
  const found = sheet === undefined ? chooseTable(kind, tables) : tables.find((one) => one.title === sheet);
  if (!found)
    return fail({
      place: file,
      message: `has no sheet "${sheet}"; it has ${tables.map((one) => one.title).join(', ')}`,
    });
  return ok({ ...startTable(kind, found.grid).grid, name: file });
}
