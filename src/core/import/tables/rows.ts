import { bare } from '../../base/bare';
import { lowerDigits } from '../../base/text/superscript';
import { isEmptyCell } from './cells';
import { firstHeading, type Grid, type GridRow, headingsOf, isBlankRow, type RowPlace } from './grid';
import { type ColumnRole, type Mapping, splitRole } from './mapping';
import { type Answers, ask, type Fate, note, type TableProblem } from './records';

/** A row with those that continue it: cells by the roles of their columns, and problems at the cell they are in. */
export interface TableRow {
  line: number;
  place: RowPlace | undefined;
  text(role: ColumnRole): string;
  /** Index of the column that has a role; undefined when none has. */
  column(role: ColumnRole): number | undefined;
  /** Columns of a role with a name behind the colon. */
  named(base: string): { name: string; column: number; cell: string }[];
  /** Where a word of a column stands: in the row itself or in one that continues it. */
  lineOf(column: number, word: string): number;
  /** `suggest` is only asked where the problem will be listed. */
  problem(column: number | undefined, message: string, suggest?: () => string[], word?: string): void;
  warn(column: number | undefined, message: string): void;
}

export interface Walk {
  grid: Grid;
  mapping: Mapping;
  problems: TableProblem[];
  answers: Answers;
  /** A row whose pad cell is empty is a row of its own, of the pad above. */
  ownRow?: (row: GridRow, above: readonly string[]) => boolean;
}

interface Logical {
  first: GridRow;
  /** Cells with those of the rows that continue it. */
  cells: string[];
  rows: GridRow[];
}

export interface Walked {
  fates: Map<number, Fate>;
  notes: Record<string, string>;
}

/**
 * Walks the rows below the headings. Empty rows, repeated headings, titles and texts of footnotes are told apart from rows that
 * continue the one above; what could be either is asked. Every row has a fate.
 */
export function walkRows(walk: Walk, read: (row: TableRow) => 'used' | 'refused'): Walked {
  const { grid, mapping, problems, answers } = walk;
  const fates = new Map<number, Fate>();
  const notes = bare<string>();
  const isHeading = headingTest(grid, mapping);
  const padColumn = mapping.roles.indexOf('pad');
  const logical: Logical[] = [];
  const asked: GridRow[] = [];
  const start = firstHeading(mapping);
  let lastPad = '';
  for (const [index, row] of grid.rows.entries()) {
    const fate = (one: Fate): void => {
      fates.set(row.line, one);
    };
    if (row.out) {
      fate(row.out);
      continue;
    }
    if (isBlankRow(row)) {
      fate('empty');
      continue;
    }
    if (index <= mapping.headerRow) {
      fate(index >= start ? 'headings' : 'section title');
      continue;
    }
    if (isHeading(row)) {
      fate('headings again');
      continue;
    }
    const alone = aloneIn(row, mapping);
    if (alone) {
      const noted = noteText(alone.text);
      if (noted && alone.text.length > 8) {
        // A footnote that is told on every page is one.
        notes[noted.mark] ??= noted.text;
        fate('note text');
        continue;
      }
      const title = titleFate(row, alone, walk, logical.at(-1));
      if (title === 'title') {
        fate('section title');
        continue;
      }
      if (title === 'asked') {
        asked.push(row);
        fate('asked about');
        continue;
      }
      if (title === 'joined') {
        join(logical, row, mapping, problems, fate);
        continue;
      }
    }
    const owner = logical.at(-1);
    const empty = padColumn >= 0 && isEmptyCell(row.cells[padColumn] ?? '');
    const merged = padColumn >= 0 && row.above?.includes(padColumn);
    const unnamed = padColumn < 0 && !hasOwnPad(row, mapping);
    if (empty || merged || unnamed) {
      if (!owner) {
        note(problems, () => ({
          line: row.line,
          column: Math.max(0, padColumn),
          severity: 'error',
          message: 'a pad needs a name',
        }));
        fate('refused');
        continue;
      }
      if (!walk.ownRow?.(row, owner.cells)) {
        join(logical, row, mapping, problems, fate);
        continue;
      }
      const cells = [...row.cells];
      if (padColumn >= 0) cells[padColumn] = lastPad;
      logical.push({ first: row, cells, rows: [row] });
      continue;
    }
    if (padColumn >= 0) lastPad = row.cells[padColumn] ?? '';
    logical.push({ first: row, cells: [...row.cells], rows: [row] });
  }
  for (const one of logical) {
    const outcome = read(rowOf(one, mapping, problems));
    one.rows.forEach((row, i) => {
      fates.set(row.line, outcome === 'refused' ? 'refused' : i === 0 ? 'used' : 'joined to the row above');
    });
  }
  checkShares(fates, walk, problems, answers);
  // In the order of the rows, whenever it was known what became of each.
  const inOrder = new Map(grid.rows.map((row) => [row.line, fates.get(row.line) ?? 'refused'] as const));
  return { fates: inOrder, notes };
}

/** Whether a row repeats the headings, or one row of them. */
function headingTest(grid: Grid, mapping: Mapping): (row: GridRow) => boolean {
  if (mapping.headerRow < 0) return () => false;
  const keyOf = (cells: readonly string[]): string =>
    cells
      .map((cell) => cell.trim().toLowerCase().replace(/\s+/g, ' '))
      .join('\t')
      .replace(/\t+$/, '');
  // In one place the document may show which cells are merged, and in another not.
  const key = (row: GridRow): string =>
    keyOf(row.cells.map((cell, column) => (row.above?.includes(column) ? '' : cell)));
  const rows = grid.rows.slice(firstHeading(mapping), mapping.headerRow + 1);
  const known = new Set(
    rows.filter((row) => row.cells.filter((cell) => cell.trim() !== '').length > 1).map(key),
  );
  known.add(keyOf(headingsOf(grid, mapping)));
  return (row) => known.has(key(row));
}

interface Alone {
  text: string;
  column: number;
  /** A merged cell over most of the table. */
  wide: boolean;
}

/** The text of a row that has one only. */
function aloneIn(row: GridRow, mapping: Mapping): Alone | undefined {
  if (mapping.roles.length < 3) return undefined;
  const filled = row.cells.flatMap((cell, column) =>
    cell.trim() !== '' && !row.above?.includes(column) ? [column] : [],
  );
  const [column] = filled;
  if (column === undefined) return undefined;
  const text = (row.cells[column] ?? '').trim();
  // A title that is merged over all columns may be repeated in each of them.
  const same = filled.every((one) => (row.cells[one] ?? '').trim() === text);
  if (filled.length > 1 && !(same && filled.length >= mapping.roles.length - 1)) return undefined;
  const wide = filled.length > 1 || (row.covered?.length ?? 0) >= (mapping.roles.length - 1) / 2;
  return { text, column, wide };
}

/** `(1) Only in the package with 100 pins.` `2. …`, `* …` */
function noteText(text: string): { mark: string; text: string } | undefined {
  const match =
    /^(?:note\s*)?(?:[([](\d{1,2})[)\]]|(\d{1,2})[.):]|([*†‡§])|([⁰¹²³⁴⁵⁶⁷⁸⁹]{1,2}))[.:)]?\s+(\S.*)$/is.exec(
      text,
    ) ?? /^note\s+(\d{1,2})\s*[.:-]\s*()()()(\S.*)$/is.exec(text);
  if (!match) return undefined;
  const mark = match[1] || match[2] || match[3] || lowerDigits(match[4] ?? '');
  const said = (match[5] ?? '').replace(/\s+/g, ' ');
  // A sentence, not a list of signals behind a number.
  return /[a-z]{2,} [a-z]/i.test(said) ? { mark, text: said } : undefined;
}

const TITLE_WORDS =
  /\b(tables?|ports?|banks?|groups?|sections?|chapters?|figures?|continued|cont\.?|page|rev(ision)?|data ?sheet|pins?|pads?|pinout|package|power|supply|supplies|ground|system|clocks?|reset|signals?|functions?|of \d+|confidential|copyright|www)\b/i;
const SIGNAL_LIKE = /[A-Za-z]+\d*[._][A-Za-z]/;

/** What a text alone in its row is: a title, part of the row above, a row of its own, or a question. */
function titleFate(
  row: GridRow,
  { text, column, wide }: Alone,
  { mapping, problems, answers }: Walk,
  owner: Logical | undefined,
): 'title' | 'joined' | 'row' | 'asked' {
  const [base] = splitRole(mapping.roles[column] ?? 'ignore');
  const first = row.cells.findIndex((_, i) => mapping.roles[i] !== undefined);
  // In the middle of the table a text alone is the rest of the cell above.
  if (!wide && column !== first && base !== 'pad' && owner) return 'row';
  if (wide && !SIGNAL_LIKE.test(text)) return 'title';
  const words = text.split(/\s+/);
  if (!SIGNAL_LIKE.test(text) && words.length > 1 && TITLE_WORDS.test(text)) return 'title';
  if (/^\d{1,4}(\s*\/\s*\d{1,4})?$/.test(text) && base !== 'pad') return base === 'ignore' ? 'title' : 'row';
  if (base === 'pad' && owner) {
    const above = owner.cells[column] ?? '';
    // A name that is broken behind or in front of what divides it.
    if (/[-_/.(,]$/.test(above) || /^[-_/.),(]/.test(text)) return 'joined';
  }
  const answer = ask(problems, answers, {
    key: `alone ${row.line} ${text.slice(0, 60)}`,
    line: row.line,
    column,
    message: `"${text.length > 60 ? `${text.slice(0, 60)}…` : text}" stands alone in its row; is it a title?`,
    answers: [
      { id: 'title', title: 'a title: leave it out' },
      ...(owner ? [{ id: 'joined', title: 'it continues the row above' }] : []),
      ...(base === 'pad' && words.length === 1 ? [{ id: 'row', title: 'a pad of its own' }] : []),
    ],
  });
  return answer === 'title' || answer === 'joined' || answer === 'row' ? answer : 'asked';
}

/** Whether a row without a column of pads says its own port or bit. */
function hasOwnPad(row: GridRow, mapping: Mapping): boolean {
  const bit = mapping.roles.indexOf('bit');
  return bit < 0 || (!isEmptyCell(row.cells[bit] ?? '') && !row.above?.includes(bit));
}

/** Columns of which a continued row cannot have two different texts. */
const SINGLE = new Set(['port', 'bit', 'page', 'number', 'code', 'boot']);

function join(
  logical: Logical[],
  row: GridRow,
  mapping: Mapping,
  problems: TableProblem[],
  fate: (one: Fate) => void,
): void {
  const owner = logical.at(-1);
  if (!owner) {
    fate('refused');
    return;
  }
  row.cells.forEach((cell, column) => {
    if (isEmptyCell(cell) || row.above?.includes(column)) return;
    const [base] = splitRole(mapping.roles[column] ?? 'ignore');
    const before = owner.cells[column] ?? '';
    if (SINGLE.has(base) && !isEmptyCell(before)) {
      if (before.trim() !== cell.trim())
        note(problems, () => ({
          line: row.line,
          column,
          severity: 'error',
          message: `this row continues row ${owner.first.line}, which has "${before}" here: a name is missing, or the row is another's`,
        }));
      return;
    }
    while (owner.cells.length <= column) owner.cells.push('');
    owner.cells[column] = joinTexts(before, cell);
  });
  owner.rows.push(row);
}

/** Two lines of one cell: a word that is broken at a hyphen, dot, line or slash is one word. */
export function joinTexts(before: string, next: string): string {
  const [first, second] = [before.trim(), next.trim()];
  if (isEmptyCell(first)) return second;
  if (isEmptyCell(second)) return first;
  return /[-_./(]$/.test(first) || /^[-_./)]/.test(second) ? first + second : `${first} ${second}`;
}

function rowOf(one: Logical, mapping: Mapping, problems: TableProblem[]): TableRow {
  const { line, place } = one.first;
  const cellAt = (column: number): string => (one.cells[column] ?? '').trim();
  const column = (role: ColumnRole): number | undefined => {
    const at = mapping.roles.indexOf(role);
    return at < 0 ? undefined : at;
  };
  const lineOf = (at: number, word: string): number =>
    one.rows.find((row) => (row.cells[at] ?? '').includes(word))?.line ?? line;
  return {
    line,
    place,
    column,
    lineOf,
    text: (role) => {
      const at = column(role);
      return at === undefined ? '' : cellAt(at);
    },
    named: (base) =>
      mapping.roles.flatMap((role, at) => {
        const [kind, name] = splitRole(role);
        return kind === base ? [{ name, column: at, cell: cellAt(at) }] : [];
      }),
    problem: (at, message, suggest, word) => {
      note(problems, () => ({
        line: at === undefined || word === undefined ? line : lineOf(at, word),
        column: at,
        severity: 'error',
        message,
        // A table of which hundreds of rows are wrong is misread as a whole; its cells are not mended one by one.
        suggestions: problems.length < MOST_SUGGESTED ? suggest?.() : undefined,
        ...(word === undefined ? {} : { word }),
      }));
    },
    warn: (at, message) => {
      note(problems, () => ({ line, column: at, severity: 'warning', message }));
    },
  };
}

/** Problems for which the nearest right words are looked up. */
const MOST_SUGGESTED = 200;

/** A table of which most rows are no rows of their own has been misunderstood. */
function checkShares(
  fates: ReadonlyMap<number, Fate>,
  { mapping }: Walk,
  problems: TableProblem[],
  answers: Answers,
): void {
  const lines = (wanted: readonly Fate[]): number[] =>
    [...fates].filter(([, fate]) => wanted.includes(fate)).map(([line]) => line);
  const used = lines(['used']);
  const joined = lines(['joined to the row above']);
  const dropped = lines(['section title']);
  const padColumn = Math.max(0, mapping.roles.indexOf('pad'));
  if (joined.length > 8 && joined.length > 1.5 * used.length)
    ask(problems, answers, {
      key: 'most joined',
      line: joined[0],
      column: padColumn,
      message: `${joined.length} rows continue one above, and only ${used.length} begin a pad: is this the column of the pads?`,
      answers: [{ id: 'yes', title: 'yes, the rows do continue' }],
    });
  if (dropped.length > 8 && dropped.length > used.length / 2)
    ask(problems, answers, {
      key: 'most titles',
      line: dropped.at(-1),
      message: `${dropped.length} rows are taken as titles and left out, only ${used.length} are used`,
      answers: [{ id: 'yes', title: 'yes, they are titles' }],
    });
}

/** Whole numbers of the columns that the recipe may use. */
export function numbersOf(row: TableRow): Record<string, number> {
  const columns = bare<number>();
  for (const { name, column, cell } of row.named('number')) {
    if (isEmptyCell(cell)) continue;
    if (!/^-?(0x[0-9A-Fa-f]+|\d+)$/.test(cell)) row.problem(column, `"${cell}" is not a whole number`);
    else columns[name] = Number(cell);
  }
  return columns;
}

export function pageOf(row: TableRow): number | undefined {
  const cell = row.text('page');
  if (isEmptyCell(cell)) return row.place?.page;
  if (/^\d{1,5}$/.test(cell)) return Number(cell);
  row.problem(row.column('page'), `"${cell}" is no page number`);
  return undefined;
}

/** The pad that a row is about by its port and bit, where no column names it. */
export function padFromPort(row: TableRow, mapping: Mapping, port: string): string {
  const bit = row.text('bit');
  return (mapping.padName ?? '{port}{bit}').replace('{port}', portName(port)).replace('{bit}', bit);
}

/** `Port A`, `PORTA`, `A` → `A`. */
export const portName = (cell: string): string => {
  const text = cell.trim();
  const match = /^port[\s_]*([A-Z0-9]{1,3})$/i.exec(text) ?? /^P([A-Z])$/.exec(text);
  return match?.[1] ?? text;
};
