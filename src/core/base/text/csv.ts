import { stringify } from 'csv-stringify/sync';

/**
 * Rows as CSV for a spreadsheet. A cell that a spreadsheet would run as a formula is written as text, with an apostrophe in
 * front: those that begin with one of `= + - @` and their wide forms, behind any blanks, line breaks or invisible characters.
 * Numbers stay numbers.
 */
export const printCsv = (rows: readonly (readonly string[])[]): string =>
  stringify(rows.map((row) => row.map(asText)));

const FORMULA = /^[\s\p{C}\p{Z}"'|]*[=+\-@\uff1d\uff0b\uff0d\uff20\u2212\ufe62\ufe63\ufe66\ufe6b]/u;
const LEADING_BREAK = /^'*[\t\r\n\v\f\u0085\u2028\u2029]/;
const PLAIN_NUMBER = /^[+-]?\d+(\.\d+)?$/;

/** A dash alone is the usual way to say "nothing" in such tables, and no formula. */
const asText = (cell: string): string =>
  cell !== '-' && !PLAIN_NUMBER.test(cell) && (FORMULA.test(cell) || LEADING_BREAK.test(cell))
    ? `'${cell}`
    : cell;

/** A cell as it was before {@link printCsv} made it text. */
export const cellFromCsv = (cell: string): string =>
  cell.startsWith("'") && asText(cell.slice(1)) === cell ? cell.slice(1) : cell;
