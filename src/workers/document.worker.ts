import { sha256 as hash } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { LIMITS, overLimit } from '@/core/base/limits';
import { fail, ok } from '@/core/base/result';
import type { DocumentAnswer, DocumentTask, OpenedDocument } from '@/core/import/pdf/document-task';
import { extractPage, type PdfPage } from '@/core/import/pdf/extract-page';
import { offerTables, outline, type ReadDocument, readDocument } from '@/core/import/pdf/offer-tables';
import type { DocumentPage } from '@/core/import/pdf/page';
import { readDocumentTable } from '@/core/import/pdf/read-tables';
import { startTable } from '@/core/import/tables/choose-table';

type Pdf = Awaited<ReturnType<typeof openPdf>>;

/** Holds a document with pages: finds its tables, draws its pages, and gives the tables that are chosen. */
const say = (answer: DocumentAnswer, transfer: Transferable[] = []): void =>
  self.postMessage(answer, { transfer });

let pdf: Pdf | undefined;
let name = '';
let document: ReadDocument = { pages: [], running: new Set() };

self.onmessage = (event: MessageEvent<DocumentTask>) => {
  const task = event.data;
  switch (task.kind) {
    case 'open':
      return void open(task);
    case 'picture':
      return void draw(task.page, task.width);
    case 'take': {
      const read = readDocumentTable(name, { areas: task.areas }, document.pages, document.running);
      return say({ kind: 'taken', result: read.ok ? ok(startTable(task.wanted, read.value)) : read });
    }
    case 'outline':
      return say({ kind: 'outlined', area: outline(document, task.page, task.box) ?? null });
  }
};

/** Pages are drawn off the page too, on canvases that belong to no document. */
class Canvases {
  create(width: number, height: number) {
    const canvas = new OffscreenCanvas(Math.max(1, width), Math.max(1, height));
    return { canvas, context: canvas.getContext('2d') };
  }
  reset(made: { canvas: OffscreenCanvas }, width: number, height: number) {
    made.canvas.width = width;
    made.canvas.height = height;
  }
  destroy(made: { canvas: OffscreenCanvas }) {
    made.canvas.width = 0;
    made.canvas.height = 0;
  }
}

/** Filters would need a document; tables are drawn without. */
class NoFilters {
  addFilter = () => 'none';
  addHCMFilter = () => 'none';
  addAlphaFilter = () => 'none';
  addLuminosityFilter = () => 'none';
  addHighlightHCMFilter = () => 'none';
  destroy() {}
}

/** Fonts and character maps that the document does not carry, from our own server. */
const fetched = async (path: string): Promise<Uint8Array> => {
  const answer = await fetch(`${self.location.origin}/pdf/${path}`);
  if (!answer.ok) throw new Error(`${path} is not there`);
  return new Uint8Array(await answer.arrayBuffer());
};
class Fonts {
  fetch = ({ filename }: { filename: string }) => fetched(`standard_fonts/${filename}`);
}
class CharacterMaps {
  fetch = async ({ name: map }: { name: string }) => ({
    cMapData: await fetched(`cmaps/${map}.bcmap`),
    isCompressed: true,
  });
}

async function openPdf(bytes: ArrayBuffer) {
  const [library, worker] = await Promise.all([
    import('pdfjs-dist'),
    // @ts-expect-error The library's own worker has no types; it is run here, as this is a worker already.
    import('pdfjs-dist/build/pdf.worker.mjs'),
  ]);
  Object.assign(globalThis, { pdfjsWorker: worker });
  const task = library.getDocument({
    data: new Uint8Array(bytes),
    disableFontFace: true,
    useSystemFonts: false,
    useWorkerFetch: false,
    isEvalSupported: false,
    StandardFontDataFactory: Fonts,
    CMapReaderFactory: CharacterMaps,
    verbosity: 0,
    CanvasFactory: Canvases,
    FilterFactory: NoFilters,
  } as unknown as Parameters<typeof library.getDocument>[0]);
  return { library, document: await task.promise };
}

async function open(task: Extract<DocumentTask, { kind: 'open' }>): Promise<void> {
  name = task.name;
  const refuse = (message: string): void => say({ kind: 'opened', result: fail({ place: name, message }) });
  const sha256 = bytesToHex(hash(new Uint8Array(task.bytes)));
  try {
    pdf = await openPdf(task.bytes);
  } catch (error) {
    const kind = (error as Error).name;
    return refuse(
      kind === 'PasswordException'
        ? 'the PDF document asks for a password: save it without one'
        : 'the PDF document is damaged: it cannot be opened',
    );
  }
  const count = pdf.document.numPages;
  if (count > LIMITS.documentPages) return refuse(overLimit('documentPages', count));
  if (task.wanted === null) return say({ kind: 'opened', result: ok(await sizesOf(pdf, sha256)) });
  const pages: DocumentPage[] = [];
  for (let number = 1; number <= count; number++) {
    try {
      const page = await pdf.document.getPage(number);
      pages.push(await extractPage(page as unknown as PdfPage, pdf.library.OPS));
      page.cleanup();
    } catch {
      // A page that cannot be read has no tables; its picture may still be drawn.
      pages.push({ number, width: 595, height: 842, texts: [], rules: [], tooMuch: 'cannot be read' });
    }
    say({ kind: 'progress', done: number, pages: count });
  }
  const unread = pages.flatMap(({ number, tooMuch }) => (tooMuch ? [{ page: number, why: tooMuch }] : []));
  if (unread.length === pages.length && unread[0])
    return refuse(
      `no page of the PDF document can be looked at for tables: page ${unread[0].page} ${unread[0].why}`,
    );
  if (pages.every((page) => page.texts.length === 0))
    return refuse(
      'the PDF document holds pictures of pages and no text: make the text readable (OCR), or type the table',
    );
  document = readDocument(pages);
  say({
    kind: 'opened',
    result: ok({
      sha256,
      pages: pages.map(({ number, width, height }) => ({ number, width, height })),
      tables: offerTables(name, document, task.wanted),
      unread,
    }),
  });
}

/** A document that is only looked at: the sizes of its pages, and no tables. */
async function sizesOf({ document: opened }: Pdf, sha256: string): Promise<OpenedDocument> {
  const pages = [];
  for (let number = 1; number <= opened.numPages; number++) {
    const { width, height } = (await opened.getPage(number)).getViewport({ scale: 1 });
    pages.push({ number, width, height });
  }
  return { sha256, pages, tables: [], unread: [] };
}

async function draw(number: number, width: number): Promise<void> {
  if (!pdf) return;
  const page = await pdf.document.getPage(number);
  const plain = page.getViewport({ scale: 1 });
  const viewport = page.getViewport({ scale: Math.min(4, width / plain.width) });
  const canvas = new OffscreenCanvas(Math.ceil(viewport.width), Math.ceil(viewport.height));
  const context = canvas.getContext('2d');
  if (!context) return;
  try {
    await page.render({ canvasContext: context as unknown as CanvasRenderingContext2D, viewport }).promise;
  } catch {
    // What could be drawn is shown.
  }
  const bitmap = canvas.transferToImageBitmap();
  say({ kind: 'picture', page: number, bitmap }, [bitmap]);
}
