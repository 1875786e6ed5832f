import { closest } from '../../base/text/near';
import { codeCell, isEmptyCell, listCell, padCell, portBitOf, signalFrom } from './cells';
import { checkLeftOut } from './check-pads';
import { type Grid, type GridRow, headingsOf } from './grid';
import type { Mapping } from './mapping';
import {
  type Answers,
  ask,
  type FunctionRecord,
  note,
  type PadRecord,
  type TableProblem,
  type TableReading,
} from './records';
import { numbersOf, padFromPort, pageOf, portName, type TableRow, walkRows } from './rows';
import { looksLikeSignals } from './signals';

/** How signals without codes are selected, as answered. */
type Codes = 'none' | 'analog' | 'from 0' | 'from 1';

export interface FunctionOptions {
  /** Answers to questions that were asked about this table. */
  answers?: Answers;
  /** Ask about columns that are not read. */
  checks?: boolean;
}

interface Reader {
  mapping: Mapping;
  problems: TableProblem[];
  answers: Answers;
  codes: Codes | undefined;
  /** How much lower codes are than the numbers in the headings. */
  lower: number;
  /** Rows that have a signal and an empty cell for its code. */
  uncoded: TableRow[];
  /** How many signals of a pad were read so far, where their order is their code. */
  counts: Map<string, number>;
  /** Words for the plain port that stand where signals do. */
  plain: Map<string, { line: number; column: number; count: number }>;
}

/** A function table, wide (a column for each mux code) or long (a row for each signal) → functions of known pads. */
export function readFunctions(
  grid: Grid,
  mapping: Mapping,
  pads: readonly PadRecord[],
  options: FunctionOptions = {},
): TableReading<FunctionRecord> {
  const { answers = {} } = options;
  const problems: TableProblem[] = [];
  const records: FunctionRecord[] = [];
  const known = padFinder(pads);
  const named = rowNames(grid, mapping);
  const seen = new Set<string>();
  /** Pads that the table has rows of. */
  const told = new Set<string>();
  const reader: Reader = {
    mapping,
    problems,
    answers,
    codes: askAboutCodes(mapping, problems, answers),
    lower: options.checks ? askAboutHeadings(grid, mapping, problems, answers) : 0,
    uncoded: [],
    counts: new Map(),
    plain: new Map(),
  };
  let port = '';
  const { fates, notes } = walkRows(
    { grid, mapping, problems, answers, ownRow: (row, above) => hasOwnSignal(row, above, mapping) },
    (row) => {
      const portCell = row.text('port');
      if (!isEmptyCell(portCell)) port = portName(portCell);
      const cell = row.column('pad') === undefined ? padFromPort(row, mapping, port) : row.text('pad');
      const { id } = cell.trim() === '*' ? { id: '*' } : padCell(cell);
      const pad = id === '*' ? undefined : known(id);
      const signals = id === '*' || pad?.kind === 'io' ? undefined : anySignal(row);
      if (id !== '*' && pad?.kind !== 'io') {
        // A table for all pads says of supplies only that they have no functions.
        if (pad && !signals) return 'used';
        const message = pad ? `${id} is no I/O pad` : `the pinout has no pad ${id || '(empty)'}`;
        // A name that has rows of its own would be given those of another pad.
        const free = pads.filter((one) => one.kind === 'io' && !named.has(one.id)).map((one) => one.id);
        row.problem(row.column('pad') ?? row.column('bit'), message, () => closest(id, free, 3));
        return 'refused';
      }
      told.add(pad?.id ?? '*');
      const before = problems.length;
      for (const record of readRow(row, pad?.id ?? '*', reader)) {
        const key = `${record.pad} ${record.signal} ${record.mux}`;
        if (seen.has(key)) row.warn(record.at.column, `${record.signal} on ${record.pad} stands here twice`);
        else records.push(record);
        seen.add(key);
      }
      return problems.slice(before).some((one) => one.severity === 'error') ? 'refused' : 'used';
    },
  );
  askAboutUncoded(reader);
  if (options.checks) {
    checkLeftOut('functions', grid, mapping, problems, answers);
    askAboutPads(pads, told, problems, answers);
  }
  for (const [word, { line, column, count }] of reader.plain)
    note(problems, () => ({
      line,
      column,
      severity: 'warning',
      message: `"${word}" is the plain port, no function: left out${count > 1 ? ` in ${count} cells` : ''}`,
    }));
  return { records, problems, fates, notes: { ...grid.notes, ...notes } };
}

/** Pads by their names, by their second names, and by what port and bit a name speaks of (`PA0` is `A0`). */
function padFinder(pads: readonly PadRecord[]): (id: string) => PadRecord | undefined {
  const ids = new Map(pads.map((pad) => [pad.id, pad]));
  const others = new Map<string, PadRecord>();
  for (const pad of pads) for (const alias of pad.aliases) others.set(alias, pad);
  const places = new Map(
    pads.flatMap((pad) => (pad.port === undefined ? [] : [[`${pad.port} ${pad.bit}`, pad] as const])),
  );
  return (id) => {
    const place = portBitOf(id);
    return ids.get(id) ?? others.get(id) ?? (place && places.get(`${place.port} ${place.bit}`));
  };
}

/** Names of pads that the table has rows of. */
function rowNames(grid: Grid, mapping: Mapping): Set<string> {
  const column = mapping.roles.indexOf('pad');
  return new Set(grid.rows.slice(mapping.headerRow + 1).map((row) => padCell(row.cells[column] ?? '').id));
}

/**
 * A row without a pad's name that has a signal and its code is of the pad above. One without a code continues the cell above where
 * that is a list that goes on, or its word is no signal by itself; a whole signal is one of its own, whose code is asked for.
 */
function hasOwnSignal(row: GridRow, above: readonly string[], mapping: Mapping): boolean {
  const signal = mapping.roles.indexOf('signal');
  const code = mapping.roles.indexOf('code');
  if (signal < 0) return false;
  const cell = row.cells[signal] ?? '';
  const filled = (column: number): boolean =>
    (row.cells[column] ?? '').trim() !== '' && !row.above?.includes(column);
  if (!filled(signal)) return false;
  if (code < 0) return !isRest(cell);
  return filled(code) || (looksLikeSignals([cell]) && !/[,;/._-]$/.test((above[signal] ?? '').trim()));
}

/** The rest of a word that began in the row above. */
const isRest = (cell: string): boolean =>
  /^[-_./)]/.test(cell.trim()) || signalFrom(cell.trim())?.assumedLine === true;

const anySignal = (row: TableRow): boolean =>
  [...row.named('mux'), ...row.named('analog'), ...row.named('signal')].some(
    ({ cell }) => !isEmptyCell(cell),
  );

/** Signals without any codes are no analog functions: how they are selected has to be said. */
function askAboutCodes(mapping: Mapping, problems: TableProblem[], answers: Answers): Codes | undefined {
  const has = (base: string): boolean => mapping.roles.some((role) => role.split(':')[0] === base);
  if (!has('signal') || has('code')) return undefined;
  return ask(problems, answers, {
    key: 'codes',
    column: mapping.roles.indexOf('signal'),
    message:
      'The signals here have no mux codes. Say in which column the codes are, bring in the table that has them instead, or say how a signal is selected.',
    answers: [
      { id: 'from 0', title: 'by their order in the cell: 0, 1, 2 …' },
      { id: 'from 1', title: 'by their order in the cell: 1, 2, 3 …' },
      { id: 'none', title: 'there are no codes: the peripheral takes the pad by itself' },
      { id: 'analog', title: 'all of them are analog' },
    ],
  }) as Codes | undefined;
}

/** "Function 1" may be code 1, or the first of them, whose code is 0: a number behind that word is a count as often as a code. */
function askAboutHeadings(grid: Grid, mapping: Mapping, problems: TableProblem[], answers: Answers): number {
  const headings = headingsOf(grid, mapping);
  const counted = mapping.roles.flatMap((role, column) =>
    role.startsWith('mux:') && /(^|\s)functions?[ _-]?\d+$/i.test(headings[column] ?? '') ? [column] : [],
  );
  const [first] = counted;
  if (first === undefined || mapping.roles.includes('mux:0')) return 0;
  const answer = ask(problems, answers, {
    key: 'codes in headings',
    column: first,
    message: `Is the number in "${headings[first]}" the mux code?`,
    answers: [
      { id: 'same', title: 'yes, it is the code' },
      { id: 'lower', title: 'no, it counts from 1: codes are one lower' },
    ],
  });
  return answer === 'lower' ? 1 : 0;
}

function askAboutUncoded({ uncoded, problems, answers }: Reader): void {
  const [first] = uncoded;
  if (!first) return;
  ask(problems, answers, {
    key: 'empty codes',
    line: first.line,
    column: first.column('code'),
    message: `${uncoded.length} signals have an empty cell for their code (rows ${uncoded
      .slice(0, 5)
      .map((row) => row.line)
      .join(', ')}${uncoded.length > 5 ? ' …' : ''})`,
    answers: EMPTY_CODES,
  });
}

/** I/O pads that the table does not speak of: it may have been cut off, or has more pages. */
function askAboutPads(
  pads: readonly PadRecord[],
  told: ReadonlySet<string>,
  problems: TableProblem[],
  answers: Answers,
): void {
  const silent = pads.filter((pad) => pad.kind === 'io' && !told.has(pad.id)).map((pad) => pad.id);
  if (silent.length === 0 || told.has('*') || told.size === 0) return;
  ask(problems, answers, {
    key: `no rows ${silent.length}`,
    message: `${silent.length} I/O pads have no row here: ${silent.slice(0, 8).join(', ')}${silent.length > 8 ? ' …' : ''}. Is the table whole?`,
    answers: [{ id: 'yes', title: 'yes, they have no functions' }],
  });
}

const EMPTY_CODES = [
  { id: 'analog', title: 'they are analog' },
  { id: 'none', title: 'the peripheral takes the pad by itself' },
] as const;

const PLAIN = /^(gpio|pio|port|plain|i\/o|io|gpio[._]?[a-z]?\d+)$/i;

function readRow(row: TableRow, pad: string, reader: Reader): FunctionRecord[] {
  const notes = listCell(row.text('notes')).map(({ text, marks }) => text || (marks[0] ?? ''));
  const columns = numbersOf(row);
  const page = pageOf(row);
  const found: FunctionRecord[] = [];
  const take = (column: number, cell: string, select: () => Pick<FunctionRecord, 'mux' | 'itself'>): void => {
    for (const { text, marks } of listCell(cell, /[\s;,/]+/)) {
      const line = row.lineOf(column, text);
      // The plain port is often listed as the first function, by the pad's own name.
      if (PLAIN.test(text) || text === pad || (portBitOf(text) && samePlace(text, pad))) {
        const known = reader.plain.get(text) ?? { line, column, count: 0 };
        reader.plain.set(text, { ...known, count: known.count + 1 });
        select();
        continue;
      }
      const read = signalFrom(text);
      if (!read) {
        row.problem(column, `"${text}" is no signal; write it like UART2.TX`, () => [], text);
        continue;
      }
      if (read.assumedLine) row.warn(column, `"${text}" names no line; it is read as ${read.signal}`);
      found.push({
        pad,
        signal: read.signal,
        ...select(),
        notes: [...new Set([...notes, ...marks])],
        columns,
        at: { line, column },
        text,
        page,
        ...(row.place ? { place: row.place } : {}),
      });
    }
  };
  for (const { name, column, cell } of row.named('mux'))
    take(column, cell, () => ({ mux: Math.max(0, Number(name) - reader.lower) }));
  for (const { column, cell } of row.named('analog')) take(column, cell, () => ({ mux: null }));
  const signalColumn = row.column('signal');
  if (signalColumn === undefined || isEmptyCell(row.text('signal'))) return found;
  if (row.column('code') === undefined) take(signalColumn, row.text('signal'), withoutCode(pad, reader));
  else if (row.text('code') === '') {
    reader.uncoded.push(row);
    const itself = reader.answers['empty codes'] === 'none';
    take(signalColumn, row.text('signal'), () => ({ mux: null, ...(itself ? { itself } : {}) }));
  } else if (/^itself$/i.test(row.text('code'))) {
    take(signalColumn, row.text('signal'), () => ({ mux: null, itself: true }));
  } else {
    const codes = codesIn(row.text('code'));
    const signals = listCell(row.text('signal'), /[\s;,/]+/);
    if (codes === undefined) row.problem(row.column('code'), `"${row.text('code')}" is no mux code`);
    else if (codes.length > 1 && codes.length !== signals.length)
      row.problem(row.column('code'), `${codes.length} codes stand beside ${signals.length} signals`);
    else {
      let at = 0;
      take(signalColumn, row.text('signal'), () => ({
        mux: (codes.length > 1 ? codes[at++] : codes[0]) ?? null,
      }));
    }
  }
  return found;
}

/** `3`, `AF3`, `-`, or a list of as many as there are signals. */
function codesIn(cell: string): (number | null)[] | undefined {
  const one = codeCell(cell);
  if (one !== undefined) return [one];
  const codes = cell.split(/[\s;,/]+/).map(codeCell);
  return codes.every((code) => code !== undefined) ? (codes as (number | null)[]) : undefined;
}

const samePlace = (a: string, b: string): boolean => {
  const [one, other] = [portBitOf(a), portBitOf(b)];
  return one !== undefined && one.port === other?.port && one.bit === other.bit;
};

function withoutCode(pad: string, { codes, counts }: Reader): () => Pick<FunctionRecord, 'mux' | 'itself'> {
  return () => {
    if (codes === 'from 0' || codes === 'from 1') {
      const count = counts.get(pad) ?? 0;
      counts.set(pad, count + 1);
      return { mux: codes === 'from 0' ? count : count + 1 };
    }
    return { mux: null, ...(codes === 'none' ? { itself: true } : {}) };
  };
}
