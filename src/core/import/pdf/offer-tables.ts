import { isBallMatrix } from '../tables/ball-matrix';
import { likeness } from '../tables/choose-table';
import type { TableKind } from '../tables/mapping';
import type { OfferedTable } from './document-task';
import { findTables, outlineIn } from './find-tables';
import { runningTexts, withRaised } from './lines';
import type { DocumentPage, PageText, TableArea } from './page';
import { joinTables, readDocumentTable } from './read-tables';

/** A document's pages with what is known of all of them together. */
export interface ReadDocument {
  pages: DocumentPage[];
  running: ReadonlySet<PageText>;
}

/** Pages as extracted → with raised marks joined to their words, and running heads and feet known. */
export function readDocument(extracted: readonly DocumentPage[]): ReadDocument {
  const pages = extracted.map(withRaised);
  return { pages, running: runningTexts(pages) };
}

/** The tables of a document, those most like what is wanted first told by `likeness`; in the order of the pages. */
export function offerTables(name: string, document: ReadDocument, wanted: TableKind): OfferedTable[] {
  const { pages, running } = document;
  const areas = pages.flatMap((page) => findTables(page, running));
  return joinTables(areas, pages).map((table): OfferedTable => {
    const read = readDocumentTable(name, table, pages, running);
    const like = !read.ok
      ? 0
      : wanted === 'pinout' && isBallMatrix(read.value)
        ? 12
        : likeness(wanted, read.value);
    return {
      ...table,
      rows: read.ok ? read.value.rows.length : 0,
      columns: (table.areas[0]?.columns.length ?? 1) - 1,
      likeness: like,
    };
  });
}

/** The borders of columns and rows in a rectangle of a page, as they are found there; undefined where there are none. */
export function outline(
  document: ReadDocument,
  number: number,
  box: TableArea['box'],
): TableArea | undefined {
  const page = document.pages.find((one) => one.number === number);
  return page && outlineIn(page, box, document.running);
}
