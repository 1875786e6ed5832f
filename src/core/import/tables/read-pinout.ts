import { closest } from '../../base/text/near';
import { PAD_KINDS, type PadKind } from '../../description/types';
import {
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
import type { Grid } from './grid';
import type { Mapping } from './mapping';
import type { PadRecord, TableProblem, TableReading } from './records';
import { numbersOf, pageOf, type RowReader, walkRows } from './row-reader';

export interface PinoutOptions {
  /** Take port and bit from the pad's name (`B7`, `PB7`) where no column gives them. */
  portsFromNames: boolean;
}

/** A pinout table, its columns known → pads. Problems carry line and column; every row has a fate. */
export function readPinout(grid: Grid, mapping: Mapping, options: PinoutOptions): TableReading<PadRecord> {
  const problems: TableProblem[] = [];
  const records: PadRecord[] = [];
  const byId = new Map<string, PadRecord>();
  const bonded = new Map<string, string>();
  const fates = walkRows(grid, mapping, problems, (row, joined) => {
    const record = joined ? records.at(-1) : readPad(row, options, byId);
    if (!record) return 'refused';
    if (!joined && byId.get(record.id) !== record) {
      records.push(record);
      byId.set(record.id, record);
    }
    readPins(row, record, bonded);
    return 'used';
  });
  return { records, problems, fates };
}

const BOOT_KINDS = ['debug', 'strap', 'clock', 'reset'] as const;

function readPad(
  row: RowReader,
  options: PinoutOptions,
  byId: ReadonlyMap<string, PadRecord>,
): PadRecord | undefined {
  const at = row.column('pad');
  const { id, aliases, marks } = padCell(row.text('pad'));
  if (!PAD_NAME.test(id)) {
    const cleaned = id.replace(/[^A-Za-z0-9._+-]+/g, '_').replace(/^_+|_+$/g, '');
    const joined = id.replace(/\s+/g, '');
    const better = [...new Set([joined, cleaned])].filter((one) => PAD_NAME.test(one));
    row.problem(at, `"${id}" cannot be a pad's name`, () => better);
    return undefined;
  }
  const before = byId.get(id);
  if (before) {
    // Supplies are often listed a row for each pin; anything else twice is a mistake.
    const same = kindOf(row, id)?.kind;
    if (same === before.kind && same !== 'io') return before;
    row.problem(at, `${id} stands in row ${before.line} already`);
    return undefined;
  }
  const found = kindOf(row, id);
  if (!found) return undefined;
  const { kind } = found;
  const record: PadRecord = {
    id,
    kind,
    aliases: [
      ...aliases,
      ...row.named('alias').flatMap(({ cell }) => listCell(cell).map((word) => word.text)),
    ],
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
  };
  readPort(row, record, options);
  if (!isEmptyCell(row.text('supply'))) record.supply = takeMarks(row.text('supply')).text;
  if (!isEmptyCell(row.text('class'))) record.class = takeMarks(row.text('class')).text;
  const boot = row.text('boot');
  if (!isEmptyCell(boot)) {
    const known = BOOT_KINDS.find((one) => one === boot);
    if (known) record.boot = known;
    else
      row.problem(row.column('boot'), `"${boot}" is none of ${BOOT_KINDS.join(', ')}`, () => [...BOOT_KINDS]);
  }
  return record;
}

function kindOf(row: RowReader, id: string): { kind: PadKind } | undefined {
  const at = row.column('kind');
  const cell = takeMarks(row.text('kind')).text;
  if (!isEmptyCell(cell)) {
    const kind = PAD_KINDS.find((one) => one === cell) ?? kindFrom(cell, id);
    if (kind) return { kind };
    row.problem(at, `"${cell}" is none of ${PAD_KINDS.join(', ')}`, () => closest(cell, PAD_KINDS, 3));
    return undefined;
  }
  const kind = kindFromName(id);
  if (kind) return { kind };
  row.problem(at ?? row.column('pad'), `what kind of pad ${id} is cannot be told from its name`, () =>
    at === undefined ? [] : [...PAD_KINDS],
  );
  return undefined;
}

function readPort(row: RowReader, record: PadRecord, options: PinoutOptions): void {
  const port = row.text('port');
  const bit = row.text('bit');
  if (!isEmptyCell(port)) {
    const named = portBitOf(record.id);
    if (/^\d{1,2}$/.test(bit)) Object.assign(record, { port, bit: Number(bit) });
    else if (row.column('bit') === undefined && named) Object.assign(record, { port, bit: named.bit });
    else row.problem(row.column('bit') ?? row.column('port'), `"${bit}" is no bit number`);
    return;
  }
  if (record.kind === 'io' && options.portsFromNames) Object.assign(record, portBitOf(record.id));
}

function readPins(row: RowReader, record: PadRecord, bonded: Map<string, string>): void {
  for (const { name, column, cell } of row.named('pin')) {
    for (const { text: pin, marks } of listCell(cell)) {
      const key = `${name} ${pin}`;
      const other = bonded.get(key);
      if (!isPin(pin)) row.problem(column, `"${pin}" is no pin number`);
      else if (other !== undefined) row.problem(column, `pin ${pin} is bonded to ${other} already`);
      else {
        bonded.set(key, record.id);
        record.pins.push({ package: name, pin, at: { line: row.line, column } });
        for (const mark of marks) if (!record.notes.includes(mark)) record.notes.push(mark);
      }
    }
  }
}
