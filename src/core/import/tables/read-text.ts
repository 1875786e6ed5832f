import { parse } from 'csv-parse/sync';
import { LIMITS, tooLarge, tooLong } from '../../base/limits';
import { fail, type Result } from '../../base/result';
import { cellFromCsv } from '../../base/text/csv';
import { cleanText } from './clean-text';
import { type Grid, type GridRow, gridOf } from './grid';

/** What divides the cells of a text: a character, runs of blanks, or the columns of characters they stand in. */
export type Divider = '\t' | ',' | ';' | '|' | ' ' | 'positions';
export const DIVIDERS: readonly { id: Divider; title: string }[] = [
  { id: '\t', title: 'tabs' },
  { id: ',', title: 'commas' },
  { id: ';', title: 'semicolons' },
  { id: '|', title: 'bars' },
  { id: 'positions', title: 'positions' },
  { id: ' ', title: 'blanks' },
];

/** How a text is divided, where it is not to be found out: borders are columns of characters in front of which a cell begins. */
export interface TextLayout {
  divider: Divider;
  borders?: readonly number[];
}

const CHARACTERS = ['\t', ';', '|', ','] as const;
/** Part of the lines that a divider must cut into equally many cells to be believed at once. */
const CLEAR = 0.9;

/**
 * How the cells of a text are divided. A tab is never part of a cell's text; commas, semicolons and bars are believed where they
 * cut nearly all lines into equally many cells; else cells that stand below each other with blanks between (out of a PDF, or a
 * listing) are cut where those blanks are.
 */
export function layoutOf(text: string): TextLayout {
  const lines = text.split(/\r?\n/, 400).filter((line) => line.trim() !== '' && !isRule(line));
  let best: { divider: Divider; share: number } = { divider: ',', share: 0 };
  for (const divider of CHARACTERS) {
    const counts = lines.map((line) => line.replace(/"[^"]*"/g, '').split(divider).length);
    const divided = counts.filter((count) => count > 1);
    const most = mostCommon(divided);
    if (most === undefined) continue;
    const share = divided.filter((count) => count === most).length / lines.length;
    if (divider === '\t' && divided.length > lines.length / 3) return { divider };
    if (share > best.share) best = { divider, share };
  }
  if (best.share >= CLEAR) return { divider: best.divider };
  const borders = bordersOf(text.split(/\r?\n/));
  const spaced = lines.filter((line) => /\S {2,}\S/.test(line)).length / Math.max(1, lines.length);
  if (borders.length > 0 && spaced > 0.3 && best.share < 0.6) return { divider: 'positions', borders };
  if (best.share > 0) return { divider: best.divider };
  return borders.length > 0 ? { divider: 'positions', borders } : { divider: wordsAlike(lines) ? ' ' : ',' };
}

function mostCommon(values: readonly number[]): number | undefined {
  const counts = new Map<number, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0];
}

/** Words divided by single blanks, as PDF viewers copy them: in most lines equally many. */
function wordsAlike(lines: readonly string[]): boolean {
  const counts = lines.map((line) => line.trim().split(/\s+/).length);
  const most = mostCommon(counts);
  return (
    most !== undefined &&
    most > 1 &&
    lines.length > 2 &&
    counts.filter((count) => count === most).length > lines.length / 2
  );
}

/** A line drawn in characters: `+----+----+`, `|---|:-:|`, `──┼──`. */
const isRule = (line: string): boolean =>
  /[-=─━═]{2}/.test(line) && /^[\s\-=+|:─━│┃┼├┤┬┴┌┐└┘═╪╡╞]+$/.test(line);

/** The number of the first line that is longer than any row of a table; undefined when none is. */
function longLine(text: string): number | undefined {
  let line = 1;
  for (let from = 0; from < text.length; line++) {
    const end = text.indexOf('\n', from);
    const to = end < 0 ? text.length : end;
    if (to - from > LIMITS.lineCharacters) return line;
    from = to + 1;
  }
  return undefined;
}

/** CSV, TSV or pasted text → grid. Rows may be ragged; what that means is for the reader of the table to say. */
export function readText(name: string, given: string, layout?: TextLayout): Result<Grid> {
  if (given.length > LIMITS.tableCharacters)
    return fail({ place: name, message: `the table ${tooLarge('tableCharacters')}` });
  const long = longLine(given);
  if (long !== undefined)
    return fail({ place: `${name}, line ${long}`, message: `the line ${tooLong('lineCharacters')}` });
  const text = cleanText(given.replace(/^\ufeff/, '')).replace(/[│┃]/g, '|');
  const { divider, borders } = layout ?? layoutOf(text);
  if (divider === 'positions') {
    const lines = text.split(/\r?\n/);
    // More borders than a table may have columns are none that are worth the work.
    const cuts = (borders ?? bordersOf(lines)).slice(0, LIMITS.tableColumns + 1);
    return gridOf(name, cutLines(lines, cuts));
  }
  if (divider === ' ')
    return gridOf(
      name,
      linesOf(text, (line) => line.trim().split(/\s+/)),
    );
  if (divider === '|') {
    const barred = text.split(/\r?\n/).filter((line) => line.includes('|'));
    const framed = barred.filter((line) => /^\s*\|/.test(line)).length > barred.length * 0.9;
    return gridOf(
      name,
      linesOf(text, (line) => barCells(line, framed)),
    );
  }
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

/** `| A0 | I/O |`: bars may stand around all rows too. */
function barCells(line: string, framed: boolean): string[] {
  const cells = line.trim().split('|');
  if (framed && /^\s*\|/.test(line)) cells.shift();
  if (framed && /\|\s*$/.test(line)) cells.pop();
  return cells.map((cell) => cellFromCsv(cell.trim()));
}

const linesOf = (text: string, split: (line: string) => string[]): GridRow[] =>
  text.split(/\r?\n/).map((line, index) => ({
    line: index + 1,
    cells: line.trim() === '' || isRule(line) ? [''] : split(line),
  }));

/** Tabs of a listing stand for blanks up to the next eighth column. */
const untab = (line: string): string =>
  line.includes('\t')
    ? line.replace(/([^\t]*)\t/g, (_, before: string) => before + ' '.repeat(8 - (before.length % 8)))
    : line;

interface Piece {
  from: number;
  to: number;
  text: string;
}

/** The texts of a line that two blanks or more divide. */
function piecesOf(line: string): Piece[] {
  const pieces: Piece[] = [];
  for (const match of line.matchAll(/\S+(?: \S+)*/g))
    pieces.push({ from: match.index, to: match.index + match[0].length, text: match[0] });
  return pieces;
}

/** Part of the rows that may run over a border. */
const MOST_OVER = 0.02;

/**
 * In front of which characters the cells of a listing begin: where (nearly) all lines of several pieces are blank, and where
 * cells divided by one blank only stand below each other. Titles and running text do not count.
 */
export function bordersOf(given: readonly string[]): number[] {
  const strict = bordersWith(given, 0);
  const counts = given.slice(0, 3000).map((line) => piecesOf(untab(line)).length);
  const usual = mostCommon(counts.filter((count) => count > 1)) ?? 0;
  // Only where texts run over borders, a few lines do not count.
  return strict.length + 1 >= usual ? strict : bordersWith(given, MOST_OVER);
}

function bordersWith(given: readonly string[], over: number): number[] {
  const lines = given
    .slice(0, 3000)
    .map(untab)
    .filter((line) => line.trim() !== '' && !isRule(line));
  const rows = lines.filter((line) => piecesOf(line).length > 1);
  if (rows.length < 2) return [];
  const width = rows.reduce((most, line) => Math.max(most, line.length), 0);
  const marks = new Array<number>(width + 1).fill(0);
  for (const line of rows) {
    for (let at = 0; at < line.length; at++) if (line[at] !== ' ') marks[at] = (marks[at] ?? 0) + 1;
  }
  const allowed = Math.floor(rows.length * over);
  const borders: number[] = [];
  let gap = 0;
  let seen = false;
  for (let at = 0; at <= width; at++) {
    const blank = (marks[at] ?? 0) <= allowed;
    if (blank) gap++;
    else {
      // One blank column is a border only where no line at all has a character, and enough of them could have.
      if (seen && (gap > 1 || (gap === 1 && marks[at - 1] === 0 && rows.length > 7 && bothSides(rows, at))))
        borders.push(at);
      gap = 0;
      seen = true;
    }
  }
  return borders;
}

/** Whether most lines have characters at both sides of the blank in front of a place. */
const bothSides = (rows: readonly string[], at: number): boolean =>
  rows.filter((line) => (line[at - 2] ?? ' ') !== ' ' && (line[at] ?? ' ') !== ' ').length >
  rows.length * 0.6;

/** Lines of a listing cut at borders: each piece stands in the column that it overlaps most; a piece alone in its line stays whole. */
export function cutLines(lines: readonly string[], borders: readonly number[]): GridRow[] {
  const edges = [0, ...[...borders].sort((a, b) => a - b), Number.POSITIVE_INFINITY];
  return lines.map((raw, index): GridRow => {
    const line = untab(raw);
    const cells = new Array<string>(edges.length - 1).fill('');
    if (line.trim() === '' || isRule(line)) return { line: index + 1, cells: [''] };
    const put = (column: number, text: string): void => {
      cells[column] = cells[column] ? `${cells[column]} ${text}` : text;
    };
    const columnAt = (place: number): number =>
      Math.max(
        0,
        edges.findIndex((edge, i) => place >= edge && place < (edges[i + 1] ?? edge)),
      );
    const pieces = piecesOf(line);
    for (const piece of pieces) {
      const first = columnAt(piece.from);
      const last = columnAt(piece.to - 1);
      // A title over the whole table is no row of cells.
      if (pieces.length === 1 && last !== first) put(first, piece.text);
      else if (first === last) put(first, piece.text);
      else
        for (const word of piece.text.matchAll(/\S+/g)) {
          const from = piece.from + word.index;
          put(mostOverlap(edges, from, from + word[0].length), word[0]);
        }
    }
    return { line: index + 1, cells };
  });
}

/** The column that a word overlaps most. */
function mostOverlap(edges: readonly number[], from: number, to: number): number {
  let best = 0;
  let most = -1;
  for (let column = 0; column + 1 < edges.length; column++) {
    const overlap = Math.min(to, edges[column + 1] ?? to) - Math.max(from, edges[column] ?? 0);
    if (overlap > most) {
      most = overlap;
      best = column;
    }
  }
  return best;
}
