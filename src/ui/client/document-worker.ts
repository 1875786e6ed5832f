import { fail, type Result } from '@/core/base/result';
import type { DocumentAnswer, DocumentTask, OpenedDocument } from '@/core/import/pdf/document-task';
import type { Box, TableArea } from '@/core/import/pdf/page';
import type { Grid } from '@/core/import/tables/grid';
import type { Mapping, TableKind } from '@/core/import/tables/mapping';

/** A document with pages that a worker holds. */
export interface OpenDocument extends OpenedDocument {
  name: string;
  /** The page as a picture, as wide as asked; undefined when the document was closed meanwhile. */
  picture(page: number, width: number): Promise<ImageBitmap | undefined>;
  take(areas: TableArea[]): Promise<Result<{ grid: Grid; mapping: Mapping; matrix: boolean }>>;
  outline(page: number, box: Box): Promise<TableArea | null>;
  close(): void;
}

export interface OpeningDocument {
  result: Promise<Result<OpenDocument>>;
  cancel(): void;
}

/** Opens a PDF document in a worker that keeps it until it is closed. */
export function openDocument(
  name: string,
  bytes: ArrayBuffer,
  wanted: TableKind | null,
  onProgress: (done: number) => void,
): OpeningDocument {
  const worker = new Worker(new URL('../../workers/document.worker.ts', import.meta.url), { type: 'module' });
  const waiting: {
    kind: DocumentAnswer['kind'];
    page?: number;
    take(answer: DocumentAnswer | undefined): void;
  }[] = [];
  const ask = (task: DocumentTask, kind: DocumentAnswer['kind'], page?: number) =>
    new Promise<DocumentAnswer | undefined>((take) => {
      waiting.push({ kind, ...(page === undefined ? {} : { page }), take });
      worker.postMessage(task, task.kind === 'open' ? [task.bytes] : []);
    });
  const close = (): void => {
    worker.terminate();
    for (const one of waiting.splice(0)) one.take(undefined);
  };
  worker.onmessage = ({ data }: MessageEvent<DocumentAnswer>) => {
    if (data.kind === 'progress') {
      onProgress(data.done / data.pages);
      return;
    }
    const at = waiting.findIndex(
      (one) =>
        one.kind === data.kind &&
        (one.page === undefined || data.kind !== 'picture' || one.page === data.page),
    );
    waiting.splice(at, at < 0 ? 0 : 1)[0]?.take(data);
  };
  worker.onerror = (event) => {
    event.preventDefault();
    close();
  };
  const stopped = fail({ place: name, message: 'the document could not be read' });
  const result = ask({ kind: 'open', name, bytes, wanted }, 'opened').then((answer): Result<OpenDocument> => {
    if (answer?.kind !== 'opened') return stopped;
    if (!answer.result.ok) {
      close();
      return answer.result;
    }
    return {
      ok: true,
      value: {
        ...answer.result.value,
        name,
        close,
        async picture(page, width) {
          const drawn = await ask({ kind: 'picture', page, width }, 'picture', page);
          return drawn?.kind === 'picture' ? drawn.bitmap : undefined;
        },
        async take(areas) {
          const taken = await ask({ kind: 'take', areas, wanted: wanted ?? 'pinout' }, 'taken');
          return taken?.kind === 'taken' ? taken.result : stopped;
        },
        async outline(page, box) {
          const outlined = await ask({ kind: 'outline', page, box }, 'outlined');
          return outlined?.kind === 'outlined' ? outlined.area : null;
        },
      },
    };
  });
  return { result, cancel: close };
}
