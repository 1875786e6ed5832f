import { closest } from '../../base/text/near';
import { codeCell, isEmptyCell, listCell, padCell, signalFrom } from './cells';
import type { Grid } from './grid';
import type { Mapping } from './mapping';
import type { FunctionRecord, PadRecord, TableProblem, TableReading } from './records';
import { numbersOf, pageOf, type RowReader, walkRows } from './row-reader';

/** A function table, wide (a column for each mux code) or long (a row for each signal) → functions of known pads. */
export function readFunctions(
  grid: Grid,
  mapping: Mapping,
  pads: readonly PadRecord[],
): TableReading<FunctionRecord> {
  const problems: TableProblem[] = [];
  const records: FunctionRecord[] = [];
  const kinds = new Map(pads.map((pad) => [pad.id, pad.kind]));
  const seen = new Set<string>();
  let current = '';
  const fates = walkRows(grid, mapping, problems, (row, joined) => {
    if (!joined) {
      const cell = row.text('pad');
      const { id } = cell.trim() === '*' ? { id: '*' } : padCell(cell);
      if (id !== '*' && kinds.get(id) !== 'io') {
        const known = kinds.get(id);
        const message = known ? `${id} is no I/O pad` : `the pinout has no pad ${id || '(empty)'}`;
        const io = pads.filter((pad) => pad.kind === 'io').map((pad) => pad.id);
        row.problem(row.column('pad'), message, () => closest(id, io, 3));
        return 'refused';
      }
      current = id;
    }
    const before = problems.length;
    for (const record of readRow(row, current)) {
      const key = `${record.pad} ${record.signal} ${record.mux}`;
      if (seen.has(key)) row.warn(record.at.column, `${record.signal} on ${record.pad} stands here twice`);
      else records.push(record);
      seen.add(key);
    }
    return problems.slice(before).some((one) => one.severity === 'error') ? 'refused' : 'used';
  });
  return { records, problems, fates };
}

function readRow(row: RowReader, pad: string): FunctionRecord[] {
  const notes = listCell(row.text('notes')).map(({ text, marks }) => text || (marks[0] ?? ''));
  const columns = numbersOf(row);
  const page = pageOf(row);
  const found: FunctionRecord[] = [];
  const take = (column: number, cell: string, mux: number | null): void => {
    for (const { text, marks } of listCell(cell, /[\s;,/]+/)) {
      const read = signalFrom(text);
      if (!read) {
        row.problem(column, `"${text}" is no signal; write it like UART2.TX`, () => [], text);
        continue;
      }
      if (read.assumedLine) row.warn(column, `"${text}" names no line; it is read as ${read.signal}`);
      const at = { line: row.line, column };
      found.push({
        pad,
        signal: read.signal,
        mux,
        notes: [...new Set([...notes, ...marks])],
        columns,
        at,
        text,
        page,
      });
    }
  };
  for (const { name, column, cell } of row.named('mux')) take(column, cell, Number(name));
  for (const { column, cell } of row.named('analog')) take(column, cell, null);
  const signalColumn = row.column('signal');
  if (signalColumn !== undefined && !isEmptyCell(row.text('signal'))) {
    const code = row.column('code') === undefined ? null : codeCell(row.text('code'));
    if (code === undefined) row.problem(row.column('code'), `"${row.text('code')}" is no mux code`);
    else take(signalColumn, row.text('signal'), code);
  }
  return found;
}
