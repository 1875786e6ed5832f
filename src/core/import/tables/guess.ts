import { largest } from '../../base/lists';
import {
  codeCell,
  isEmptyCell,
  isPin,
  kindFrom,
  kindFromName,
  listCell,
  PAD_NAME,
  padCell,
  portBitOf,
} from './cells';
import { columnsOf, type Grid, type GridRow, headingsOf, isBlankRow } from './grid';
import type { ColumnRole, Mapping, TableKind } from './mapping';
import { looksLikeSignal, looksLikeSignals } from './signals';

export interface GuessOptions {
  /** Packages whose columns carry their ids as headings. */
  packages?: readonly string[];
  /** What an unknown column is: numbers for the recipe (checked when read), or left out. */
  unknown: 'number' | 'ignore';
}

const HEADINGS: Record<TableKind, [ColumnRole, RegExp][]> = {
  pinout: [
    [
      'pad',
      /^(pad|pads|pad name|pin names?|port pin|port|names?|signal name|ball name|terminal name|i\/o name)$/,
    ],
    ['kind', /^(kind|type|pin type|i\/o|class of pin|pad type|i\/o type)$/],
    ['bit', /^(bit|bit number|bit no)$/],
    ['supply', /^(supply|power domain|power|domain|i\/o supply|supply domain|power supply)$/],
    ['class', /^(class|electrical class|structure|buffer|i\/o structure|buffer type|pad structure)$/],
    ['alias', /^(alias|aliases|also|other names?|alternate name)$/],
    ['boot', /^boot$/],
    ['boot note', /^boot note$/],
    ['boot signals', /^boot signals$/],
    ['notes', /^(notes?|footnotes?|remarks?|comments?)$/],
    ['page', /^page$/],
  ],
  functions: [
    ['pad', /^(pad|pads|pad name|pins?|pin names?|port pin|port|names?|ball|i\/o name)$/],
    [
      'signal',
      /^(signals?|functions?|signal names?|(alternate|multiplexed|peripheral|digital) (functions?|signals?))$/,
    ],
    ['code', /^(mux|code|mux code|select|selection|value|function code|alternate|codes)$/],
    ['analog', /^(an|analog|analogue|additional|additional functions?|analog functions?)$/],
    ['bit', /^(bit|bit number|bit no)$/],
    ['notes', /^(notes?|footnotes?|remarks?|comments?)$/],
    ['page', /^page$/],
  ],
};

const plainHeading = (cell: string): string =>
  cell
    .toLowerCase()
    .replace(/\([^()]*\)|\[[^[\]]*\]|[⁰¹²³⁴⁵⁶⁷⁸⁹*†‡§]/g, ' ')
    .replace(/[.:]+(?=\s|$)/g, '')
    .replace(/\s+/g, ' ')
    .trim();
const roleOf = (kind: TableKind, heading: string): ColumnRole | undefined =>
  HEADINGS[kind].find(([, pattern]) => pattern.test(plainHeading(heading)))?.[0];
const MUX_HEADING = /^(?:[a-z]{0,5}|mux|code|function|alternate(?: function)?)[ _-]?(\d{1,3})$/;
const PACKAGE_HEADING = /(\d{1,3})|quad|flat|ball|grid|dual|row|package|terminal|pin/i;

/** Which rows hold the headings, and what each column is. A proposal: the user sees it on the data and corrects it. */
export function guessMapping(kind: TableKind, grid: Grid, options: GuessOptions): Mapping {
  if (grid.known) return grid.known;
  const width = columnsOf(grid);
  const head = findHeadings(kind, grid, options);
  const headings = headingsOf(grid, { ...head, roles: [] }, width);
  const last = Array.from({ length: width }, (_, i) => (grid.rows[head.headerRow]?.cells[i] ?? '').trim());
  const columns = Array.from({ length: width }, (_, i) => sample(grid, head.headerRow, i));
  const roles: (ColumnRole | undefined)[] = headings.map((heading, i) => {
    if (kind === 'pinout' && options.packages?.includes(last[i] ?? '')) return `pin:${last[i]}`;
    return roleOf(kind, heading) ?? roleOf(kind, last[i] ?? '');
  });
  const view: View = { kind, roles, headings, last, columns, options };
  // What the document hides is not read, unless the user says so.
  for (const column of grid.hiddenColumns ?? []) if (column < width) roles[column] = 'ignore';
  if (kind === 'pinout') guessPinout(view);
  else guessFunctions(view);
  return {
    ...head,
    roles: roles.map((role, i) => role ?? unknownRole(headings[i] ?? '', columns[i] ?? [], options)),
  };
}

interface View {
  kind: TableKind;
  roles: (ColumnRole | undefined)[];
  /** Texts of all rows of the headings, and of the last of them. */
  headings: readonly string[];
  last: readonly string[];
  /** Filled cells of each column. */
  columns: readonly string[][];
  options: GuessOptions;
}

function unknownRole(heading: string, cells: readonly string[], options: GuessOptions): ColumnRole {
  if (options.unknown === 'number' && heading !== '') return `number:${heading}`;
  const numeric = cells.length > 0 && cells.every((cell) => /^-?(0x[0-9A-Fa-f]+|\d+)$/.test(cell));
  return numeric && /^[A-Za-z_]\w*$/.test(heading) ? `number:${heading}` : 'ignore';
}

/** Non-empty cells of a column below the headings, without titles and repeated headings. */
const sample = (grid: Grid, headerRow: number, column: number): string[] => {
  const heading = (grid.rows[headerRow]?.cells[column] ?? '').trim();
  return grid.rows
    .slice(headerRow + 1, headerRow + 900)
    .filter((row) => !row.out && filledCells(row) > 1)
    .map((row) => (row.above?.includes(column) ? '' : (row.cells[column] ?? '').trim()))
    .filter((cell) => !isEmptyCell(cell) && cell !== heading);
};

const filledCells = (row: GridRow): number =>
  row.cells.reduce((sum, cell) => (cell.trim() === '' ? sum : sum + 1), 0);

/** Rows that headings are looked for in. */
const MOST_ABOVE = 30;

/** The rows of the headings: those whose words are known, or that stand above the first row with data; with those that belong to them. */
function findHeadings(
  kind: TableKind,
  grid: Grid,
  options: GuessOptions,
): Pick<Mapping, 'headerRow' | 'headerRows'> {
  let best = -1;
  let bestScore = 0;
  grid.rows.slice(0, MOST_ABOVE).forEach((row, index) => {
    if (row.out) return;
    const known = row.cells.filter((cell) => roleOf(kind, cell) !== undefined).length;
    const score = row.cells.filter((cell) => {
      const heading = plainHeading(cell);
      if (options.packages?.includes(cell.trim())) return true;
      if (roleOf(kind, cell) !== undefined) return true;
      return (
        kind === 'functions' && /^(?:[a-z]{1,5}[ _-]?)\d{1,2}$/.test(heading) && !heading.startsWith('p')
      );
    }).length;
    // A pin number does not stand among headings; a lone word such as "I/O" may stand among data.
    if (kind === 'pinout' && known < 2 && score < 2 && row.cells.some((cell) => /^\d+$/.test(cell.trim())))
      return;
    if (isDataRow(kind, row) && known < 2) return;
    if (filledCells(row) < 2 || score <= bestScore) return;
    best = index;
    bestScore = score;
  });
  if (best < 0) best = wordsAboveNumbers(grid);
  if (best < 0) return { headerRow: -1 };
  let last = best;
  // Rows below that have nothing in the column of the pads, above the first that has: a second row of headings.
  const pad = grid.rows[best]?.cells.findIndex((cell) => roleOf(kind, cell) === 'pad') ?? -1;
  for (let next = last + 1; pad >= 0 && next <= best + 2; next++) {
    const row = grid.rows[next];
    if (!row || row.out || isBlankRow(row) || isDataRow(kind, row)) break;
    const free = (row.cells[pad] ?? '').trim() === '' || row.above?.includes(pad);
    if (!free || !belongsToHeadings(row)) break;
    last = next;
  }
  let first = best;
  for (let before = first - 1; before >= Math.max(0, best - 2); before--) {
    const row = grid.rows[before];
    if (!row || row.out || isBlankRow(row) || isDataRow(kind, row) || !belongsToHeadings(row)) break;
    first = before;
  }
  const rows = last - first + 1;
  return { headerRow: last, ...(rows > 1 ? { headerRows: rows } : {}) };
}

/** A row of headings has several texts, or one that does not begin at the left: that would be a title. */
function belongsToHeadings(row: GridRow): boolean {
  const filled = row.cells.flatMap((cell, i) => (cell.trim() === '' || row.above?.includes(i) ? [] : [i]));
  return filled.length > 1 || (filled.length === 1 && filled[0] !== 0);
}

/** Whether a row has what only data has: a pad with a pin, or signals. */
function isDataRow(kind: TableKind, row: GridRow): boolean {
  const cells = row.cells.map((cell) => cell.trim()).filter((cell) => !isEmptyCell(cell));
  const pads = cells.filter(
    (cell) => portBitOf(padCell(cell).id) !== undefined && !/^[A-Z]{1,2}\d{2,3}$/.test(cell),
  );
  if (kind === 'functions') return pads.length > 0 && cells.some((cell) => looksLikeSignals([cell]));
  const named = cells.some((cell) => kindFromName(padCell(cell).id) !== undefined && /[A-Z]/.test(cell));
  return named && cells.some((cell) => listCell(cell).every((word) => /^\d{1,3}$/.test(word.text)));
}

/** Headings that no list knows: a row of words without digits above one with some. */
function wordsAboveNumbers(grid: Grid): number {
  return grid.rows.slice(0, 5).findIndex((row, index) => {
    const filled = row.cells.filter((cell) => cell.trim() !== '');
    const next = grid.rows[index + 1]?.cells ?? [];
    return (
      !row.out &&
      filled.length > 1 &&
      !filled.some((cell) => /\d/.test(cell)) &&
      next.some((cell) => /\d/.test(cell))
    );
  });
}

const share = (cells: readonly string[], test: (cell: string) => boolean): number =>
  cells.length === 0 ? 0 : cells.filter(test).length / cells.length;

const looksLikePad = (cell: string): boolean => {
  const { id } = padCell(cell);
  return PAD_NAME.test(id) && !/^\d+$/.test(id);
};

/** How much a column speaks for being that of the pads: names of ports and bits, of supplies, each of them once. */
function padScore(all: readonly string[], headed: boolean, once: boolean): number {
  const cells = all.filter((cell) => cell !== '*');
  if (cells.length === 0 && headed) return 1.1;
  if (cells.length === 0 || share(cells, looksLikePad) < 0.6) return 0;
  const ids = cells.map((cell) => padCell(cell).id);
  const distinct = new Set(ids).size / ids.length;
  const ported = share(ids, (id) => portBitOf(id) !== undefined);
  const named = share(ids, (id) => kindFromName(id) !== undefined);
  const signals = share(cells, looksLikeSignal);
  // Balls have the form of ports and bits; among pads there are supplies too.
  const words = wordsOf(cells);
  const pins = once && words.length > 0 && words.filter(isPin).length > 0.98 * words.length ? 1.5 : 0;
  // A pinout names each pad once; a function table may have a row for each of its signals.
  if (once && distinct < 0.3) return 0;
  return (headed ? 1 : 0) + 1.5 * named + ported + (once ? distinct : 0.5) - 2 * signals - pins;
}

/** Gives the role of the pads to the column that most speaks for it; others that were headed so lose it. */
function choosePad({ kind, roles, headings, columns, options }: View): void {
  // Tables of our own layout are headed as it says.
  const headed = options.unknown === 'number' ? roles.indexOf('pad') : -1;
  const most = Math.max(largest(columns.map((cells) => cells.length)), 1);
  // Where port and bit say which pad it is, balls beside them do not.
  const byPort =
    headings.some((heading) => plainHeading(heading) === 'port') &&
    (roles.includes('bit') || columns.some(isBits));
  const scores = columns.map((cells, i) => {
    const role = roles[i];
    if (byPort && role !== 'pad' && share(wordsOf(cells), isPin) > 0.98) return 0;
    if (role !== undefined && role !== 'pad' && role !== 'alias') return 0;
    // Where few rows have a name and many none, the names are not those of the rows.
    const filled = cells.length / most;
    const score = padScore(cells, role === 'pad', kind === 'pinout');
    return score * Math.min(1, filled + 0.2);
  });
  const best = largest(scores);
  const at = headed >= 0 ? headed : best > 1 ? scores.indexOf(best) : -1;
  roles.forEach((role, i) => {
    if (role === 'pad' && i !== at)
      roles[i] = plainHeading(headings[i] ?? '') === 'port' ? 'port' : undefined;
  });
  if (at >= 0) roles[at] = 'pad';
}

/** Numbers of bits beside the ports they are in: each occurs in several ports, and 0 is among them. */
function chooseBit({ roles, columns }: View): void {
  if (!roles.includes('port') || roles.includes('bit')) return;
  const at = columns.findIndex((cells, i) => roles[i] === undefined && isBits(cells));
  if (at >= 0) roles[at] = 'bit';
}

const isBits = (cells: readonly string[]): boolean =>
  cells.length > 3 &&
  cells.every((cell) => /^\d{1,2}$/.test(cell) && Number(cell) < 64) &&
  cells.includes('0') &&
  new Set(cells).size < cells.length;

function guessPinout(view: View): void {
  const { roles, headings, last, columns, options } = view;
  roles.forEach((role, i) => {
    // Ports may be numbers, and a column of pins may be headed "pin name" or "ball".
    if (role === 'pad' && isNumbers(columns[i] ?? []))
      roles[i] =
        plainHeading(headings[i] ?? '') === 'port' && isRepeated(columns[i] ?? []) ? 'port' : undefined;
    // A column headed "port" that names pads is theirs; one headed "type" that says nothing known is left for the user.
    if (role === 'kind' && share(columns[i] ?? [], (cell) => kindFrom(cell, '') !== undefined) < 0.3)
      roles[i] = undefined;
  });
  choosePad(view);
  chooseBit(view);
  const taken = new Set(roles.filter((role) => role?.startsWith('pin:')));
  columns.forEach((cells, i) => {
    if (roles[i] !== undefined || cells.length === 0) return;
    const heading = headings[i] ?? '';
    const pins = wordsOf(cells);
    const unique = new Set(pins).size / Math.max(1, pins.length);
    // Pins count from 1; what has a 0 counts something else.
    // Supplies are listed as ranges too.
    const isPins = (word: string): boolean => isPin(word) || /^\d{1,3}[-–]\d{1,3}$/.test(word);
    const like = share(pins, isPins) > 0.9 && unique > 0.9 && !pins.includes('0');
    const balls = share(pins, (pin) => /^[A-Z]{1,2}\d{1,2}$/.test(pin)) > 0.9 && heading !== '';
    const named = options.unknown === 'ignore' && (PACKAGE_HEADING.test(heading) || covers(pins) || balls);
    if (like && named && pins.length > 3) {
      const id = freeId(last[i] || heading, taken);
      taken.add(`pin:${id}`);
      roles[i] = `pin:${id}`;
    } else if (!roles.includes('kind') && share(cells, (cell) => kindFrom(cell, '') !== undefined) > 0.9) {
      roles[i] = 'kind';
    } else if (!roles.includes('supply') && isSupplies(cells)) roles[i] = 'supply';
  });
}

const isNumbers = (cells: readonly string[]): boolean =>
  share(wordsOf(cells), (word) => /^\d{1,3}$/.test(word)) > 0.9;
const isRepeated = (cells: readonly string[]): boolean => new Set(cells).size <= cells.length / 2;

/** An id for a package out of its heading. */
function freeId(heading: string, taken: ReadonlySet<string | undefined>): string {
  const stem =
    heading
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '')
      .slice(0, 60) || 'package';
  let id = stem;
  for (let count = 2; taken.has(`pin:${id}`); count++) id = `${stem}-${count}`;
  return id;
}

const wordsOf = (cells: readonly string[] | undefined): string[] =>
  (cells ?? []).flatMap((cell) => listCell(cell, /[\s;,/]+/).map((word) => word.text));

/** A few names of supplies, each of them often. */
const isSupplies = (cells: readonly string[]): boolean =>
  cells.length > 6 &&
  new Set(cells).size <= cells.length / 3 &&
  share(cells, (cell) => kindFromName(cell) === 'supply') > 0.9;

/** Numbers that run from 1 without many holes. */
function covers(pins: readonly string[]): boolean {
  const numbers = new Set(pins.map(Number).filter((one) => Number.isInteger(one)));
  return numbers.has(1) && numbers.size > 0.9 * largest(numbers);
}

function guessFunctions(view: View): void {
  const { roles, headings, last, columns } = view;
  roles.forEach((role, i) => {
    if (role === 'pad' && isNumbers(columns[i] ?? []))
      roles[i] =
        plainHeading(headings[i] ?? '') === 'port' && isRepeated(columns[i] ?? []) ? 'port' : undefined;
  });
  choosePad(view);
  chooseBit(view);
  const muxOf = (i: number): number | undefined => {
    const match =
      MUX_HEADING.exec(plainHeading(last[i] ?? '')) ?? MUX_HEADING.exec(plainHeading(headings[i] ?? ''));
    if (roles[i] !== undefined || !match) return undefined;
    // Pins of a package have headings of the same form.
    const words = wordsOf(columns[i]);
    return words.length > 0 && share(words, isPin) > 0.8 ? undefined : Number(match[1]);
  };
  const numbered = headings.map((_, i) => muxOf(i));
  if (numbered.filter((one) => one !== undefined).length > 1)
    numbered.forEach((code, i) => {
      if (code !== undefined && !roles.includes(`mux:${code}`)) roles[i] = `mux:${code}`;
    });
  if (!roles.some((role) => role?.startsWith('mux:') || role === 'signal')) {
    const at = columns.findIndex(
      (cells, i) => roles[i] === undefined && share(wordsOf(cells), looksLikeSignal) > 0.6,
    );
    if (at >= 0) roles[at] = 'signal';
  }
  if (roles.some((role) => role?.startsWith('mux:')))
    roles.forEach((role, i) => {
      // Beside columns of codes, one that only has signals without any is for what needs none.
      if (role === 'signal' || role === 'code') roles[i] = undefined;
    });
  if (roles.includes('signal') && !roles.includes('code')) {
    const at = columns.findIndex(
      (cells, i) =>
        roles[i] === undefined &&
        cells.length > 0 &&
        !isPinsOfPackage(cells) &&
        share(cells, (cell) => codeCell(cell) !== undefined) > 0.9,
    );
    if (at >= 0) roles[at] = 'code';
  }
}

/** Codes are few numbers that come often; pins are many, each of them once. */
const isPinsOfPackage = (cells: readonly string[]): boolean => {
  const words = wordsOf(cells);
  return words.length > 8 && new Set(words).size > 0.9 * words.length && share(words, isPin) > 0.9;
};
