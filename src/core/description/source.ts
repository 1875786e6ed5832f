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
}
