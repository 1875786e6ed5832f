import { codeCell, isEmptyCell, isPin, kindFrom, listCell, PAD_NAME, padCell, signalFrom } from './cells';
import { columnsOf, type Grid } from './grid';
import type { ColumnRole, Mapping, TableKind } from './mapping';

export interface GuessOptions {
  /** Packages whose columns carry their ids as headings. */
  packages?: readonly string[];
  /** What an unknown column is: numbers for the recipe (checked when read), or left out. */
  unknown: 'number' | 'ignore';
}

const HEADINGS: Record<TableKind, [ColumnRole, RegExp][]> = {
  pinout: [
    ['pad', /^(pad|pad name|pin name|port pin|port|name|signal name|ball name|terminal name)$/],
    ['kind', /^(kind|type|pin type|i\/o|class of pin)$/],
    ['bit', /^bit$/],
    ['supply', /^(supply|power domain|domain|i\/o supply)$/],
    ['class', /^(class|electrical class|structure|buffer)$/],
    ['alias', /^(alias|aliases|also|other names?|alternate name)$/],
    ['boot', /^boot$/],
    ['boot note', /^boot note$/],
    ['boot signals', /^boot signals$/],
    ['notes', /^(notes?|footnotes?|remarks?|comments?)$/],
    ['page', /^page$/],
  ],
  functions: [
    ['pad', /^(pad|pad name|pin|pin name|port pin|port|name|ball)$/],
    ['signal', /^(signal|function|signal name|alternate function|peripheral signal)$/],
    ['code', /^(mux|code|mux code|select|selection|value|function code|alternate)$/],
    ['analog', /^(an|analog|analogue|additional|additional functions?)$/],
    ['notes', /^(notes?|footnotes?|remarks?|comments?)$/],
    ['page', /^page$/],
  ],
};

const plainHeading = (cell: string): string => cell.trim().toLowerCase().replace(/\s+/g, ' ');
const MUX_HEADING = /^(?:[a-z]{0,5}|mux|code|function)[ _-]?(\d{1,2})$/;
const PACKAGE_HEADING = /(\d{1,3})|quad|flat|ball|grid|dual|row|package|terminal|pin/i;

/** Which row holds the headings, and what each column is. A proposal: the user sees it on the data and corrects it. */
export function guessMapping(kind: TableKind, grid: Grid, options: GuessOptions): Mapping {
  const width = columnsOf(grid);
  const headerRow = findHeader(kind, grid, options);
  const headings = Array.from({ length: width }, (_, i) =>
    plainHeading(grid.rows[headerRow]?.cells[i] ?? ''),
  );
  const raw = Array.from({ length: width }, (_, i) => (grid.rows[headerRow]?.cells[i] ?? '').trim());
  const columns = Array.from({ length: width }, (_, i) => sample(grid, headerRow, i));
  const roles: (ColumnRole | undefined)[] = headings.map((heading, i) => {
    if (kind === 'pinout' && options.packages?.includes(raw[i] ?? '')) return `pin:${raw[i]}`;
    const known = HEADINGS[kind].find(([, pattern]) => pattern.test(heading))?.[0];
    return known;
  });
  if (kind === 'pinout') guessPinout(roles, raw, columns, options);
  else guessFunctions(roles, headings, columns);
  return {
    headerRow,
    roles: roles.map((role, i) => role ?? unknownRole(raw[i] ?? '', columns[i] ?? [], options)),
  };
}

function unknownRole(heading: string, cells: readonly string[], options: GuessOptions): ColumnRole {
  if (options.unknown === 'number' && heading !== '') return `number:${heading}`;
  const numeric = cells.length > 0 && cells.every((cell) => /^-?(0x[0-9A-Fa-f]+|\d+)$/.test(cell));
  return numeric && /^[A-Za-z_]\w*$/.test(heading) ? `number:${heading}` : 'ignore';
}

/** Non-empty cells of a column below the headings. */
const sample = (grid: Grid, headerRow: number, column: number): string[] =>
  grid.rows
    .slice(headerRow + 1, headerRow + 600)
    .map((row) => (row.cells[column] ?? '').trim())
    .filter((cell) => !isEmptyCell(cell));

function findHeader(kind: TableKind, grid: Grid, options: GuessOptions): number {
  let best = -1;
  let bestScore = 0;
  grid.rows.slice(0, 15).forEach((row, index) => {
    const score = row.cells.filter((cell) => {
      const heading = plainHeading(cell);
      if (options.packages?.includes(cell.trim())) return true;
      if (HEADINGS[kind].some(([, pattern]) => pattern.test(heading))) return true;
      return (
        kind === 'functions' && /^(?:[a-z]{1,5}[ _-]?)\d{1,2}$/.test(heading) && !heading.startsWith('p')
      );
    }).length;
    // A pin number does not stand among headings; a lone word such as "I/O" may stand among data.
    if (kind === 'pinout' && score < 2 && row.cells.some((cell) => /^\d+$/.test(cell.trim()))) return;
    if (score > bestScore) {
      best = index;
      bestScore = score;
    }
  });
  return best >= 0 ? best : wordsAboveNumbers(grid);
}

/** Headings that no list knows: a row of words without digits above one with some. */
function wordsAboveNumbers(grid: Grid): number {
  return grid.rows.slice(0, 5).findIndex((row, index) => {
    const filled = row.cells.filter((cell) => cell.trim() !== '');
    const next = grid.rows[index + 1]?.cells ?? [];
    return (
      filled.length > 1 && !filled.some((cell) => /\d/.test(cell)) && next.some((cell) => /\d/.test(cell))
    );
  });
}

const share = (cells: readonly string[], test: (cell: string) => boolean): number =>
  cells.length === 0 ? 0 : cells.filter(test).length / cells.length;

const looksLikePad = (cell: string): boolean => {
  const { id } = padCell(cell);
  return PAD_NAME.test(id) && !/^\d+$/.test(id);
};

function guessPinout(
  roles: (ColumnRole | undefined)[],
  headings: readonly string[],
  columns: readonly string[][],
  options: GuessOptions,
): void {
  // A column headed "port" is the pad's name unless another column is: then it is the port.
  const padAt = roles.indexOf('pad');
  roles.forEach((role, i) => {
    if (role !== 'pad' || i === padAt) return;
    roles[i] = plainHeading(headings[i] ?? '') === 'port' ? 'port' : undefined;
  });
  if (padAt < 0) {
    const at = columns.findIndex((cells, i) => roles[i] === undefined && share(cells, looksLikePad) > 0.7);
    if (at >= 0) roles[at] = 'pad';
  }
  const taken = new Set(roles.filter((role) => role?.startsWith('pin:')));
  columns.forEach((cells, i) => {
    if (roles[i] !== undefined || cells.length === 0) return;
    const heading = headings[i] ?? '';
    const pins = cells.flatMap((cell) => listCell(cell).map((word) => word.text));
    const unique = new Set(pins).size / Math.max(1, pins.length);
    // Pins count from 1; what has a 0 counts something else.
    const like = share(pins, isPin) > 0.9 && unique > 0.9 && !pins.includes('0');
    const named = options.unknown === 'ignore' && (PACKAGE_HEADING.test(heading) || covers(pins));
    if (like && named && pins.length > 3) {
      let id = heading.toLowerCase().replace(/[^a-z0-9]+/g, '') || 'package';
      while (taken.has(`pin:${id}`)) id = `${id}-2`;
      taken.add(`pin:${id}`);
      roles[i] = `pin:${id}`;
    } else if (!roles.includes('kind') && share(cells, (cell) => kindFrom(cell, '') !== undefined) > 0.9) {
      roles[i] = 'kind';
    }
  });
}

/** Numbers that run from 1 without many holes. */
function covers(pins: readonly string[]): boolean {
  const numbers = new Set(pins.map(Number).filter((one) => Number.isInteger(one)));
  return numbers.has(1) && numbers.size > 0.9 * Math.max(...numbers);
}

const looksLikeSignal = (word: string): boolean => /[._]/.test(word) && signalFrom(word) !== undefined;

function guessFunctions(
  roles: (ColumnRole | undefined)[],
  headings: readonly string[],
  columns: readonly string[][],
): void {
  const padAt = roles.indexOf('pad');
  roles.forEach((role, i) => {
    if (role === 'pad' && i !== padAt) roles[i] = undefined;
  });
  const numbered = headings.filter((heading, i) => roles[i] === undefined && MUX_HEADING.test(heading));
  headings.forEach((heading, i) => {
    const match = MUX_HEADING.exec(heading);
    if (roles[i] !== undefined || !match || numbered.length < 2) return;
    const code = Number(match[1]);
    if (!roles.includes(`mux:${code}`)) roles[i] = `mux:${code}`;
  });
  if (padAt < 0) {
    const at = columns.findIndex((cells, i) => roles[i] === undefined && share(cells, looksLikePad) > 0.7);
    if (at >= 0) roles[at] = 'pad';
  }
  if (!roles.some((role) => role?.startsWith('mux:') || role === 'signal')) {
    const words = (cells: readonly string[]) =>
      cells.flatMap((cell) => listCell(cell).map((one) => one.text));
    const at = columns.findIndex(
      (cells, i) => roles[i] === undefined && share(words(cells), looksLikeSignal) > 0.6,
    );
    if (at >= 0) roles[at] = 'signal';
  }
  if (roles.includes('signal') && !roles.includes('code')) {
    const at = columns.findIndex(
      (cells, i) =>
        roles[i] === undefined &&
        cells.length > 0 &&
        share(cells, (cell) => codeCell(cell) !== undefined) > 0.9,
    );
    if (at >= 0) roles[at] = 'code';
  }
}
