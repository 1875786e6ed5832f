import { fail, type Result } from '@/core/base/result';
import type { DeviceDescription } from '@/core/description/types';
import type { DraftReading, PartDraft } from '@/core/import/compose/draft';
import type { DraftAnswer, DraftTask, LightDraft, LightTable } from '@/core/import/compose/draft-task';
import type { GridRow } from '@/core/import/tables/grid';
import type { TableKind } from '@/core/import/tables/mapping';

const TABLES: readonly TableKind[] = ['pinout', 'functions'];
/** Rows in one message: what the page hands over without being held up. */
const PIECE = 1_500;

/** Reads drafts in a worker. Only rows that have changed go over. */
export interface DraftReader {
  read(draft: PartDraft, whole: boolean): Promise<DraftReading | undefined>;
  /** The description as it is stored, or why it does not hold together. */
  print(draft: PartDraft): Promise<Result<string>>;
  close(): void;
}

export function startDraftReader(): DraftReader {
  const worker = new Worker(new URL('../../workers/draft.worker.ts', import.meta.url), { type: 'module' });
  const waiting = new Map<number, (answer: DraftAnswer | undefined) => void>();
  const sent: Record<TableKind, { rows: readonly GridRow[]; kept: DeviceDescription | undefined }> = {
    pinout: { rows: [], kept: undefined },
    functions: { rows: [], kept: undefined },
  };
  let count = 0;
  let queue: Promise<unknown> = Promise.resolve();
  const post = (task: DraftTask): void => worker.postMessage(task);
  worker.onmessage = ({ data }: MessageEvent<DraftAnswer>) => {
    waiting.get(data.id)?.(data);
    waiting.delete(data.id);
  };
  const close = (): void => {
    worker.terminate();
    for (const done of waiting.values()) done(undefined);
    waiting.clear();
  };
  worker.onerror = (event) => {
    event.preventDefault();
    close();
  };
  const pause = (): Promise<void> => new Promise((done) => setTimeout(done, 0));

  async function sendRows(table: TableKind, rows: readonly GridRow[]): Promise<void> {
    const before = sent[table].rows;
    if (before === rows) return;
    const changed =
      before.length === rows.length ? rows.flatMap((row, i) => (row === before[i] ? [] : [i])) : null;
    sent[table].rows = rows;
    if (changed && changed.length < PIECE) {
      const list = changed.map((i): [number, GridRow] => [i, rows[i] as GridRow]);
      post({ kind: 'changed', table, rows: list });
      return;
    }
    for (let at = 0; at === 0 || at < rows.length; at += PIECE) {
      post({ kind: 'rows', table, rows: rows.slice(at, at + PIECE), first: at === 0 });
      await pause();
    }
  }

  async function light(draft: PartDraft): Promise<LightDraft> {
    const tables: Partial<Record<TableKind, LightTable | null>> = {};
    for (const table of TABLES) {
      const own = draft[table];
      tables[table] = null;
      if (!own) continue;
      const { grid, kept, ...rest } = own;
      await sendRows(table, grid.rows);
      if (sent[table].kept !== kept) post({ kind: 'kept', table, kept });
      sent[table].kept = kept;
      const { rows: _, ...about } = grid;
      tables[table] = { ...rest, grid: about };
    }
    return { ...draft, pinout: tables.pinout ?? null, functions: tables.functions ?? null };
  }

  /** One after the other: rows of one draft must not come between those of another. */
  const ask = (draft: PartDraft, make: (id: number, draft: LightDraft) => DraftTask) => {
    const next = queue.then(async () => {
      const id = ++count;
      const task = make(id, await light(draft));
      return new Promise<DraftAnswer | undefined>((done) => {
        waiting.set(id, done);
        post(task);
      });
    });
    queue = next.catch(() => undefined);
    return next;
  };
  return {
    close,
    async read(draft, whole) {
      const answer = await ask(draft, (id, own) => ({ kind: 'read', id, draft: own, whole }));
      return answer?.kind === 'reading' ? answer.reading : undefined;
    },
    async print(draft) {
      const answer = await ask(draft, (id, own) => ({ kind: 'print', id, draft: own }));
      return answer?.kind === 'printed'
        ? answer.result
        : fail({ place: 'part', message: 'could not be read' });
    },
  };
}
