import { parse } from 'csv-parse/sync';
import type { Table } from '../device/compose';
import { fail, ok, type Result } from '../result';

/** Reads CSV text (RFC 4180) into a table. Short and long rows are refused with their line. */
export function readCsv(name: string, text: string): Result<Table> {
  try {
    const records = parse(text, { bom: true, info: true, skip_empty_lines: true }) as unknown as {
      record: string[];
      info: { lines: number };
    }[];
    const [header, ...rows] = records;
    if (!header) return fail({ place: name, message: 'the table is empty' });
    return ok({
      name,
      header: header.record.map((cell) => cell.trim()),
      rows: rows.map(({ record, info }) => ({ line: info.lines, cells: record })),
    });
  } catch (error) {
    // csv-parse throws for malformed input; its message carries the line.
    return fail({ place: name, message: error instanceof Error ? error.message : 'not readable as CSV' });
  }
}
