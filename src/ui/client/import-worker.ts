import { fail, type Result } from '@/core/base/result';
import type { PortPad } from '@/core/import/attach/open-registers';
import type { ImportAnswer, ImportTask, ReadFileAnswer } from '@/core/import/compose/import-task';
import type { Netlist } from '@/core/import/netlist/netlist';
import type { GridRow } from '@/core/import/tables/grid';
import type { TableKind } from '@/core/import/tables/mapping';
import type { TextLayout } from '@/core/import/tables/read-text';

/** A file being read in a worker: what comes of it, and a way to stop. */
export interface Reading<Value> {
  result: Promise<Result<Value>>;
  cancel(): void;
}

function read<Value>(
  task: ImportTask,
  onProgress: (done: number) => void,
  take: (value: Value, rows: readonly GridRow[][]) => Value = (value) => value,
): Reading<Value> {
  const worker = new Worker(new URL('../../workers/import.worker.ts', import.meta.url), { type: 'module' });
  const rows: GridRow[][] = [];
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
    else if (answer.kind === 'rows') {
      const list = rows[answer.table] ?? [];
      for (const row of answer.rows) list.push(row);
      rows[answer.table] = list;
    } else {
      const done = answer.result as Result<Value>;
      settle(done.ok ? { ok: true, value: take(done.value, rows) } : done);
    }
  };
  worker.onerror = (event) => {
    event.preventDefault();
    settle(fail({ place: task.name, message: 'could not be read' }));
  };
  worker.postMessage(task, task.kind === 'file' ? [task.bytes] : []);
  return { result, cancel: () => settle(fail({ place: task.name, message: 'reading was stopped' })) };
}

/** Puts the rows that came in pieces where they belong. */
const withRows = (answer: ReadFileAnswer, rows: readonly GridRow[][]): ReadFileAnswer =>
  answer.kind === 'tables'
    ? {
        ...answer,
        tables: answer.tables.map((table, i) => ({ ...table, grid: { ...table.grid, rows: rows[i] ?? [] } })),
      }
    : answer;

/** A file of any kind: tables, registers, a whole part, or a document with pages. */
export const readAnyFile = (
  name: string,
  bytes: ArrayBuffer,
  wanted: TableKind,
  onProgress: (done: number) => void = () => undefined,
  pads?: readonly PortPad[],
): Reading<ReadFileAnswer> =>
  read({ kind: 'file', name, bytes, wanted, ...(pads ? { pads } : {}) }, onProgress, withRows);

/** A pasted text, or one that is divided as the user says. */
export const readTableText = (
  name: string,
  text: string,
  wanted: TableKind,
  layout?: TextLayout,
): Reading<ReadFileAnswer> =>
  read({ kind: 'text', name, text, wanted, ...(layout ? { layout } : {}) }, () => undefined, withRows);

/** A netlist of a board. */
export const readNetlistText = (name: string, text: string): Reading<Netlist> =>
  read({ kind: 'netlist', name, text }, () => undefined);
