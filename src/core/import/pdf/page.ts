/** A word or run of words of a page: where it stands in points from the upper left corner, and how it is set. */
export interface PageText {
  text: string;
  left: number;
  top: number;
  right: number;
  bottom: number;
  /** Height of the type, in points. */
  size: number;
  /** Written upwards, or downwards. */
  turned?: 'up' | 'down';
}

/** A line that is drawn: horizontal (top = bottom) or vertical (left = right), in points. */
export interface PageRule {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** What a page of a document holds, as far as tables are made of it. */
export interface DocumentPage {
  /** 1-based. */
  number: number;
  width: number;
  height: number;
  texts: PageText[];
  rules: PageRule[];
  /** Why tables are not looked for on it; it has no texts and lines then. */
  tooMuch?: string;
}

/** A rectangle on a page, in points. */
export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** A table found on a page: its borders. Columns and rows are the places between two borders that follow each other. */
export interface TableArea {
  page: number;
  box: Box;
  /** Borders of columns, from the left edge to the right. */
  columns: number[];
  /** Borders of rows, from the upper edge to the lower. */
  rows: number[];
  /** Text above it that names it. */
  title?: string;
  /** Its columns are divided by drawn lines. */
  drawn: boolean;
  /** Lines between rows and columns are drawn: cells without one between them are one. */
  ruled: boolean;
}

/** Mean of top and bottom. */
export const middleOf = (box: Pick<Box, 'top' | 'bottom'>): number => (box.top + box.bottom) / 2;
export const centreOf = (box: Pick<Box, 'left' | 'right'>): number => (box.left + box.right) / 2;
export const inside = (box: Box, x: number, y: number): boolean =>
  x >= box.left && x <= box.right && y >= box.top && y <= box.bottom;
