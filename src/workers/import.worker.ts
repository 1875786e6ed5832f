import readXlsx from 'read-excel-file/web-worker';
import { readBsdl } from '@/core/import/bsdl/read-bsdl';
import type { ImportAnswer, ImportTask } from '@/core/import/compose/import-task';
import { readNetlist } from '@/core/import/netlist/read-netlist';
import { openSvd } from '@/core/import/svd/read-svd';
import { readGrid } from '@/core/import/tables/grid';
import { spreadsheetFault } from '@/core/import/tables/spreadsheet';

/** Reads large files off the page: register descriptions piece by piece with progress, spreadsheets, tables, netlists. */
const say = (answer: ImportAnswer): void => self.postMessage(answer);

self.onmessage = (event: MessageEvent<ImportTask>) => {
  const task = event.data;
  switch (task.kind) {
    case 'svd':
      return readRegisters(task);
    case 'xlsx':
      return void readSheets(task);
    case 'table': {
      const read = task.bsdl ? readBsdl : readGrid;
      return say({ kind: 'done', result: read(task.name, task.text) });
    }
    case 'netlist':
      return say({ kind: 'done', result: readNetlist(task.name, task.text) });
  }
};

function readRegisters({ name, text }: Extract<ImportTask, { kind: 'svd' }>): void {
  const reading = openSvd(name, text);
  let told = 0;
  while (reading.step()) {
    const done = reading.done();
    if (done - told < 0.02) continue;
    told = done;
    say({ kind: 'progress', done: done * 0.9 });
  }
  say({ kind: 'done', result: reading.result() });
}

async function readSheets({ name, bytes }: Extract<ImportTask, { kind: 'xlsx' }>): Promise<void> {
  const message = spreadsheetFault(new Uint8Array(bytes));
  if (message !== undefined) {
    say({ kind: 'done', result: { ok: false, problems: [{ place: name, message }] } });
    return;
  }
  try {
    const sheets = await readXlsx(new Blob([bytes]));
    const grids = sheets.map(({ sheet, data }) => ({
      sheet,
      rows: data.map((row) => row.map((cell) => cellText(cell))),
    }));
    say({ kind: 'done', result: { ok: true, value: grids } });
  } catch {
    const message = 'cannot be read as a spreadsheet (.xlsx)';
    say({ kind: 'done', result: { ok: false, problems: [{ place: name, message }] } });
  }
}

function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return cell.toISOString().slice(0, 10);
  return String(cell);
}
