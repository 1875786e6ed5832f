import { closest } from '../../base/text/near';
import { PAD_KINDS, type PadKind } from '../../description/types';
import {
  bootFromName,
  isDirection,
  isEmptyCell,
  isPin,
  kindFrom,
  kindFromName,
  listCell,
  PAD_NAME,
  padCell,
  portBitOf,
  takeMarks,
} from './cells';
import { checkPads } from './check-pads';
import type { Grid } from './grid';
import type { Mapping } from './mapping';
import { type Answers, ask, type PadRecord, type TableProblem, type TableReading } from './records';
import { numbersOf, padFromPort, pageOf, portName, type TableRow, walkRows } from './rows';

export interface PinoutOptions {
  /**
   * The table is a document's, not one that Mavrek printed: names say what no column gives (port and bit of `PB7`, the boot duty
   * of `C8-XI`), and what cannot be right is asked.
   */
  fromDocument: boolean;
  /** Answers to questions that were asked about this table. */
  answers?: Answers;
}

interface Reader extends PinoutOptions {
  mapping: Mapping;
  problems: TableProblem[];
  answers: Answers;
  byId: Map<string, PadRecord>;
  /** Pad by package and pin. */
  bonded: Map<string, string>;
  /** Port of the row above, for cells that are merged over several rows. */
  port: string;
  /** Ports that several names of pads speak of: `X1` is a pad of port X there, and else a crystal's. */
  ports: ReadonlySet<string>;
  /** Rows whose port was taken from above. */
  filled: number[];
}

/** A pinout table, its columns known → pads. Problems carry line and column; every row has a fate. */
export function readPinout(grid: Grid, mapping: Mapping, options: PinoutOptions): TableReading<PadRecord> {
  const problems: TableProblem[] = [];
  const records: PadRecord[] = [];
  const answers = options.answers ?? {};
  const reader: Reader = {
    ...options,
    mapping,
    problems,
    answers,
    byId: new Map(),
    bonded: new Map(),
    port: '',
    ports: portsIn(grid, mapping),
    filled: [],
  };
  const { fates, notes } = walkRows({ grid, mapping, problems, answers }, (row) => {
    const record = readPad(row, reader);
    if (!record) return 'refused';
    if (reader.byId.get(record.id) !== record) {
      records.push(record);
      reader.byId.set(record.id, record);
    }
    readPins(row, record, reader.bonded);
    return 'used';
  });
  askAboutPorts(reader);
  placeExposed(records);
  if (options.fromDocument) checkPads(grid, mapping, records, problems, answers);
  return { records, problems, fates, notes: { ...grid.notes, ...notes } };
}

/** Fewest names that make a port. */
const FEWEST = 4;

function portsIn(grid: Grid, mapping: Mapping): Set<string> {
  const column = mapping.roles.indexOf('pad');
  const bits = new Map<string, Set<number>>();
  for (const row of grid.rows.slice(mapping.headerRow + 1)) {
    const place = portBitOf(padCell(row.cells[column] ?? '').id);
    if (place) bits.set(place.port, (bits.get(place.port) ?? new Set()).add(place.bit));
  }
  return new Set([...bits].flatMap(([port, has]) => (has.size >= FEWEST ? [port] : [])));
}

const BOOT_KINDS = ['debug', 'strap', 'clock', 'reset'] as const;

function readPad(row: TableRow, reader: Reader): PadRecord | undefined {
  const portCell = row.text('port');
  if (!isEmptyCell(portCell)) reader.port = portName(portCell);
  const named = row.column('pad') !== undefined;
  const at = row.column('pad') ?? row.column('bit');
  const cell = named ? row.text('pad') : padFromPort(row, reader.mapping, reader.port);
  const { id, aliases, marks, otherPads } = padCell(cell);
  if (!PAD_NAME.test(id)) {
    const cleaned = id.replace(/[^A-Za-z0-9._+-]+/g, '_').replace(/^_+|_+$/g, '');
    const joined = id.replace(/\s+/g, '');
    const better = [...new Set([joined, cleaned])].filter(
      (one) => PAD_NAME.test(one) && !reader.byId.has(one),
    );
    row.problem(at, `"${id}" cannot be a pad's name`, () => better);
    return undefined;
  }
  const before = reader.byId.get(id);
  if (before) {
    // Supplies are often listed a row for each pin; anything else twice is a mistake.
    const same = kindOf(row, id, reader, false)?.kind;
    if (same === before.kind && same !== 'io') return before;
    row.problem(at, `${id} stands in row ${before.line} already`);
    return undefined;
  }
  const found = kindOf(row, id, reader, true);
  if (!found) return undefined;
  const { kind } = found;
  const record: PadRecord = {
    id,
    kind,
    aliases: [
      ...new Set([
        ...aliases,
        ...row.named('alias').flatMap(({ cell }) => listCell(cell, /[\s;,/]+/).map((word) => word.text)),
      ]),
    ].filter((one) => one !== id),
    bootNote: row.text('boot note'),
    bootSignals: listCell(row.text('boot signals')).map((word) => word.text),
    notes: [
      ...new Set([
        ...marks,
        ...listCell(row.text('notes')).map(({ text, marks: own }) => text || (own[0] ?? '')),
      ]),
    ],
    columns: numbersOf(row),
    pins: [],
    line: row.line,
    page: pageOf(row),
    ...(row.place ? { place: row.place } : {}),
  };
  readPort(row, record, reader);
  if (!isEmptyCell(row.text('supply'))) record.supply = takeMarks(row.text('supply')).text;
  if (!isEmptyCell(row.text('class'))) record.class = takeMarks(row.text('class')).text;
  const boot = row.text('boot');
  if (!isEmptyCell(boot)) {
    const known = BOOT_KINDS.find((one) => one === boot);
    if (known) record.boot = known;
    else
      row.problem(row.column('boot'), `"${boot}" is none of ${BOOT_KINDS.join(', ')}`, () => [...BOOT_KINDS]);
  } else if (kind === 'io' && reader.fromDocument) bootFromAliases(record);
  for (const other of otherPads)
    ask(reader.problems, reader.answers, {
      key: `two pads ${id} ${other}`,
      line: row.line,
      column: at,
      message: `"${cell}" has two names of pads in it`,
      answers: [{ id: 'alias', title: `${other} is another name of ${id}` }],
    });
  return record;
}

/** A pad that is also called XI or STRAP1 has something to do at boot. */
function bootFromAliases(record: PadRecord): void {
  for (const alias of record.aliases) {
    const duty = bootFromName(alias);
    if (!duty) continue;
    record.boot = duty;
    if (record.bootNote === '') record.bootNote = `also called ${alias}`;
    return;
  }
}

function kindOf(row: TableRow, id: string, { ports }: Reader, tell: boolean): { kind: PadKind } | undefined {
  const at = row.column('kind');
  const cell = takeMarks(row.text('kind')).text;
  const place = portBitOf(id);
  const byName = place && ports.has(place.port) ? 'io' : kindFromName(id);
  if (!isEmptyCell(cell)) {
    const kind = PAD_KINDS.find((one) => one === cell) ?? kindFrom(cell, id);
    // A reset or boot pin goes in and out too; that makes it no pad of a port.
    if (kind === 'io' && byName !== undefined && byName !== 'io' && cell !== 'io') {
      if (tell && !isDirection(cell))
        row.warn(
          at,
          `"${cell}" is said of ${id}, which by its name is ${KIND_TITLES[byName]}: taken as that`,
        );
      return { kind: byName };
    }
    if (kind) return { kind };
    if (tell)
      row.problem(
        at,
        `"${cell}" is none of ${PAD_KINDS.join(', ')}`,
        () => closest(cell, PAD_KINDS, 3),
        cell,
      );
    return undefined;
  }
  if (byName) return { kind: byName };
  if (tell)
    row.problem(at ?? row.column('pad'), `what kind of pad ${id} is cannot be told from its name`, () =>
      at === undefined ? [] : [...PAD_KINDS],
    );
  return undefined;
}

const KIND_TITLES: Record<PadKind, string> = {
  io: 'an I/O pad',
  supply: 'a supply',
  ground: 'a ground',
  reset: 'a reset pin',
  clock: 'a clock pin',
  strap: 'a boot strap',
  'debug-only': 'a debug pin',
  'analog-only': 'an analog pin',
  usb: 'a USB line',
  flash: 'a flash memory line',
  reference: 'a reference',
  'no-bond': 'not bonded',
  'no-connect': 'not connected',
};

function readPort(row: TableRow, record: PadRecord, reader: Reader): void {
  const cell = row.text('port');
  const bit = row.text('bit');
  const named = portBitOf(record.id);
  const hasPort = row.column('port') !== undefined;
  if (!isEmptyCell(cell) || (hasPort && !isEmptyCell(bit) && reader.port !== '')) {
    const port = isEmptyCell(cell) ? reader.port : portName(cell);
    if (isEmptyCell(cell) && record.kind === 'io') reader.filled.push(row.line);
    if (/^\d{1,2}$/.test(bit)) Object.assign(record, { port, bit: Number(bit) });
    else if (row.column('bit') === undefined && named) {
      Object.assign(record, { port, bit: named.bit });
      if (named.port !== port && record.kind === 'io')
        row.problem(row.column('port'), `${record.id} by its name is in port ${named.port}, not ${port}`);
    } else row.problem(row.column('bit') ?? row.column('port'), `"${bit}" is no bit number`);
    return;
  }
  if (record.kind === 'io' && reader.fromDocument) Object.assign(record, named);
}

/** Ports that were taken from the row above without the document showing that the cell is merged. */
function askAboutPorts(reader: Reader): void {
  const [line] = reader.filled;
  if (line === undefined) return;
  ask(reader.problems, reader.answers, {
    key: 'ports from above',
    line,
    column: reader.mapping.roles.indexOf('port'),
    message: `${reader.filled.length} rows have no port of their own: they are read as of the port in a row above`,
    answers: [{ id: 'yes', title: 'yes, the cell stands for all rows below it' }],
  });
}

const EXPOSED = /^(EP|EPAD|E-?PAD|exposed(\s*pad)?|thermal(\s*pad)?|die\s*pad)$/i;

function readPins(row: TableRow, record: PadRecord, bonded: Map<string, string>): void {
  for (const { name, column, cell } of row.named('pin')) {
    const words = EXPOSED.test(cell) ? [{ text: 'EP', marks: [] }] : listCell(cell, /[\s;,/]+/);
    for (const { text, marks } of words.flatMap(rangeOf)) {
      const pin = EXPOSED.test(text) ? 'EP' : text;
      const key = `${name} ${pin}`;
      const other = bonded.get(key);
      if (!isPin(pin) && pin !== 'EP') row.problem(column, `"${text}" is no pin number`, undefined, text);
      else if (other !== undefined)
        row.problem(column, `pin ${pin} is bonded to ${other} already`, undefined, text);
      else {
        bonded.set(key, record.id);
        record.pins.push({ package: name, pin, at: { line: row.lineOf(column, text), column } });
        for (const mark of marks) if (!record.notes.includes(mark)) record.notes.push(mark);
      }
    }
  }
}

/** `13-16` → 13, 14, 15, 16: supplies are listed so. */
function rangeOf(word: { text: string; marks: string[] }): { text: string; marks: string[] }[] {
  const match = /^(\d{1,3})(?:-|–|\.\.|…)(\d{1,3})$/.exec(word.text);
  const [from, to] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || to <= from || to - from > 200) return [word];
  return Array.from({ length: to - from + 1 }, (_, i) => ({ text: String(from + i), marks: word.marks }));
}

/** The pad below the package counts as the pin after the last. */
function placeExposed(records: readonly PadRecord[]): void {
  const highest = new Map<string, number>();
  for (const { pins } of records)
    for (const one of pins)
      if (one.pin !== 'EP')
        highest.set(one.package, Math.max(highest.get(one.package) ?? 0, Number(one.pin) || 0));
  for (const { pins } of records)
    for (const one of pins) if (one.pin === 'EP') one.pin = String((highest.get(one.package) ?? 0) + 1);
}
