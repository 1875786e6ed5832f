/** "manual.pdf, revision 3, page 41, row 7". */
export function sourceText({ document, revision, page, row }: Source): string {
  const parts = [document];
  if (revision) parts.push(`revision ${revision}`);
  if (page !== undefined) parts.push(`page ${page}`);
  if (row !== undefined) parts.push(`row ${row}`);
  return parts.join(', ');
}

/** Where a datum was read: document, revision, page, table row. */
export interface Source {
  document: string;
  revision?: string;
  page?: number;
  row?: number;
  /** SHA-256 of the document, where it is kept. */
  file?: string;
  /** The row on its page: left, top, right and bottom, as parts of its width and height. */
  box?: [number, number, number, number];
}
