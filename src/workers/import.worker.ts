import { unzipSync } from 'fflate';
import readXlsx from 'read-excel-file/web-worker';
import type { ImportAnswer, ImportTask } from '@/core/formats/import-task';
import { openSvd } from '@/core/formats/svd/read-svd';

/** Reads large files off the page: register descriptions piece by piece with progress, and spreadsheets. */
const say = (answer: ImportAnswer): void => self.postMessage(answer);

self.onmessage = (event: MessageEvent<ImportTask>) => {
  const task = event.data;
  if (task.kind === 'svd') readRegisters(task);
  else void readSheets(task);
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
  if (unpackedSize(bytes) > LARGEST_UNPACKED) {
    const message = `holds more than ${LARGEST_UNPACKED / 1_000_000} MB when unpacked`;
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

/** A spreadsheet is a zip; one that unpacks to far more than any table has was made to do harm. */
const LARGEST_UNPACKED = 200_000_000;

function unpackedSize(bytes: ArrayBuffer): number {
  let size = 0;
  try {
    unzipSync(new Uint8Array(bytes), {
      filter: (file) => {
        size += file.originalSize;
        return false;
      },
    });
  } catch {
    // Not a zip at all: the reader says so in a moment.
  }
  return size;
}

function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return cell.toISOString().slice(0, 10);
  return String(cell);
}
