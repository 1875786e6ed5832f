import { fail, type Result } from '@/core/base/result';
import type { ImportAnswer, ImportTask, SheetRows } from '@/core/import/compose/import-task';
import type { Netlist } from '@/core/import/netlist/read-netlist';
import type { RegisterFile } from '@/core/import/svd/types';
import type { Grid } from '@/core/import/tables/grid';

/** A file being read in a worker: what comes of it, and a way to stop. */
export interface Reading<Value> {
  result: Promise<Result<Value>>;
  cancel(): void;
}

function read<Value>(task: ImportTask, onProgress: (done: number) => void): Reading<Value> {
  const worker = new Worker(new URL('../../workers/import.worker.ts', import.meta.url), { type: 'module' });
  let settle: (result: Result<Value>) => void = () => undefined;
  const result = new Promise<Result<Value>>((done) => {
    settle = (value) => {
      worker.terminate();
      done(value);
    };
  });
  worker.onmessage = (event: MessageEvent<ImportAnswer>) => {
    const answer = event.data;
    if (answer.kind === 'progress') onProgress(answer.done);
    else settle(answer.result as Result<Value>);
  };
  worker.onerror = (event) => {
    event.preventDefault();
    settle(fail({ place: task.name, message: 'could not be read' }));
  };
  worker.postMessage(task, task.kind === 'xlsx' ? [task.bytes] : []);
  return { result, cancel: () => settle(fail({ place: task.name, message: 'reading was stopped' })) };
}

/** A register description (CMSIS-SVD). */
export const readRegisterFile = (
  name: string,
  text: string,
  onProgress: (done: number) => void,
): Reading<RegisterFile> => read({ kind: 'svd', name, text }, onProgress);

/** The sheets of a spreadsheet. */
export const readSpreadsheet = (name: string, bytes: ArrayBuffer): Reading<SheetRows[]> =>
  read({ kind: 'xlsx', name, bytes }, () => undefined);

/** CSV, TSV or pasted text, or the pin maps of a boundary-scan description. */
export const readTableText = (name: string, text: string, bsdl: boolean): Reading<Grid> =>
  read({ kind: 'table', name, text, bsdl }, () => undefined);

/** A netlist of a board. */
export const readNetlistText = (name: string, text: string): Reading<Netlist> =>
  read({ kind: 'netlist', name, text }, () => undefined);
