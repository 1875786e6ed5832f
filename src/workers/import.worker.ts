import { ok, type Result } from '@/core/base/result';
import { openRegisters } from '@/core/import/attach/open-registers';
import type {
  ImportAnswer,
  ImportTask,
  ReadFileAnswer,
  StartedTable,
} from '@/core/import/compose/import-task';
import { type FileContent, readFile } from '@/core/import/files/read-file';
import { readNetlist } from '@/core/import/netlist/read-netlist';
import { chooseTable, startTable } from '@/core/import/tables/choose-table';
import type { GridRow } from '@/core/import/tables/grid';
import { layoutOf, readText } from '@/core/import/tables/read-text';

/** Reads files off the page, whatever they are: large register descriptions with progress, spreadsheets, tables, netlists. */
const say = (answer: ImportAnswer): void => self.postMessage(answer);

self.onmessage = (event: MessageEvent<ImportTask>) => {
  const task = event.data;
  switch (task.kind) {
    case 'file': {
      let told = 0;
      const read = readFile(task.name, new Uint8Array(task.bytes), {
        onProgress(done) {
          if (done - told < 0.02) return;
          told = done;
          say({ kind: 'progress', done: done * 0.9 });
        },
      });
      return answer(read.ok ? ok(started(read.value, task)) : read);
    }
    case 'text': {
      const layout = task.layout ?? layoutOf(task.text);
      const grid = readText(task.name, task.text, layout);
      if (!grid.ok) return answer(grid);
      const table: StartedTable = { title: task.name, ...startTable(task.wanted, grid.value) };
      return answer(
        ok({
          kind: 'tables',
          name: task.name,
          what: 'a text',
          tables: [table],
          chosen: 0,
          text: task.text,
          layout,
        }),
      );
    }
    case 'netlist':
      return say({ kind: 'done', result: readNetlist(task.name, task.text) });
  }
};

function started(
  content: FileContent,
  { wanted, pads }: Extract<ImportTask, { kind: 'file' }>,
): ReadFileAnswer {
  if (content.kind === 'registers')
    return {
      kind: 'registers',
      name: content.name,
      ...(pads ? { open: openRegisters(content.registers, pads) } : {}),
    };
  if (content.kind !== 'tables') return content;
  const { name, what, tables, text } = content;
  const best = chooseTable(wanted, tables);
  return {
    kind: 'tables',
    name,
    what,
    tables: tables.map(({ grid, ...table }) => ({ ...table, ...startTable(wanted, grid) })),
    chosen: Math.max(0, best ? tables.indexOf(best) : 0),
    ...(text === undefined ? {} : { text, layout: layoutOf(text) }),
  };
}

/** Rows in one message: what a page takes up without being felt. */
const PIECE = 1_500;

/** A long table goes over in pieces, so that taking it up never holds the page for long. */
function answer(result: Result<ReadFileAnswer>): void {
  if (!result.ok || result.value.kind !== 'tables') {
    say({ kind: 'done', result });
    return;
  }
  const rows: GridRow[][] = result.value.tables.map((table) => table.grid.rows);
  rows.forEach((list, table) => {
    for (let at = 0; at < list.length; at += PIECE)
      say({ kind: 'rows', table, rows: list.slice(at, at + PIECE) });
  });
  const tables = result.value.tables.map((table) => ({ ...table, grid: { ...table.grid, rows: [] } }));
  say({ kind: 'done', result: ok({ ...result.value, tables }) });
}
