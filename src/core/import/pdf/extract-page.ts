import { LIMITS, limitText } from '../../base/limits';
import type { Box, DocumentPage, PageRule, PageText } from './page';

type Matrix = readonly [number, number, number, number, number, number];

/** What is used of a page of pdf.js, which the core does not know. */
export interface PdfPage {
  pageNumber: number;
  getViewport(options: { scale: number }): { width: number; height: number; transform: number[] };
  getTextContent(): Promise<{ items: readonly unknown[] }>;
  getOperatorList(): Promise<{ fnArray: readonly number[]; argsArray: readonly unknown[] }>;
}

/** Numbers of drawing operators, by name, as pdf.js has them. */
export type PdfOperators = Readonly<Record<string, number>>;

const times = (m: Matrix, n: Matrix): Matrix => [
  m[0] * n[0] + m[2] * n[1],
  m[1] * n[0] + m[3] * n[1],
  m[0] * n[2] + m[2] * n[3],
  m[1] * n[2] + m[3] * n[3],
  m[0] * n[4] + m[2] * n[5] + m[4],
  m[1] * n[4] + m[3] * n[5] + m[5],
];

const at = (m: Matrix, x: number, y: number): [number, number] => [
  m[0] * x + m[2] * y + m[4],
  m[1] * x + m[3] * y + m[5],
];

/** A page's texts and drawn lines, in points from the upper left corner. */
export async function extractPage(page: PdfPage, operators: PdfOperators): Promise<DocumentPage> {
  const view = page.getViewport({ scale: 1 });
  const base = view.transform as unknown as Matrix;
  const { width, height } = view;
  const bare = { number: page.pageNumber, width, height, texts: [], rules: [] };
  if (!(Math.max(width, height) <= LIMITS.pagePoints))
    return { ...bare, tooMuch: `is larger than ${limitText('pagePoints')}` };
  const { items } = await page.getTextContent();
  const texts: PageText[] = [];
  for (const item of items)
    for (const text of textsOf(item as TextItem, base)) {
      if (!isOnPage(text, width, height)) continue;
      if (texts.length >= LIMITS.pageTexts)
        return { ...bare, tooMuch: `has more than ${limitText('pageTexts')}` };
      texts.push(text);
    }
  const { fnArray, argsArray } = await page.getOperatorList();
  const rules = rulesOf(fnArray, argsArray, operators, base).filter((rule) => isOnPage(rule, width, height));
  return { ...bare, texts, rules };
}

/**
 * Whether something has a place on the page, or near it: what is set far outside of it, or wider than it by far, is seen by nobody, and
 * its figures may be anything. All that follows counts on this.
 */
const isOnPage = (box: Box, width: number, height: number): boolean =>
  box.left >= -width &&
  box.right <= 2 * width &&
  box.top >= -height &&
  box.bottom <= 2 * height &&
  box.left <= box.right;

interface TextItem {
  str?: string;
  transform?: number[];
  width?: number;
}

/** Parts of the type's height above and below its line. */
const ABOVE = 0.76;
const BELOW = 0.24;

/** An item of text, cut where several blanks stand in it. */
function textsOf({ str = '', transform, width = 0 }: TextItem, base: Matrix): PageText[] {
  if (!transform || str.trim() === '') return [];
  const m = times(base, transform as unknown as Matrix);
  const size = Math.hypot(m[2], m[3]);
  const pieces = [...str.matchAll(/\S+(?: \S+)*/g)];
  const each = width / str.length;
  const turned = Math.abs(m[1]) > Math.abs(m[0]) ? (m[1] < 0 ? 'up' : 'down') : undefined;
  return pieces.map((piece): PageText => {
    const [from, to] = [piece.index * each, (piece.index + piece[0].length) * each];
    const [x, y] = [m[4], m[5]];
    if (turned === 'up')
      return {
        text: piece[0],
        left: x - ABOVE * size,
        right: x + BELOW * size,
        top: y - to,
        bottom: y - from,
        size,
        turned,
      };
    if (turned === 'down')
      return {
        text: piece[0],
        left: x - BELOW * size,
        right: x + ABOVE * size,
        top: y + from,
        bottom: y + to,
        size,
        turned,
      };
    return {
      text: piece[0],
      left: x + from,
      right: x + to,
      top: y - ABOVE * size,
      bottom: y + BELOW * size,
      size,
    };
  });
}

/** A filled rectangle thinner than this is a line, in points. */
const THIN = 2.2;
/** More lines than any page of tables has: drawings are no tables. */
const MOST_RULES = 20_000;

function rulesOf(
  codes: readonly number[],
  args: readonly unknown[],
  ops: PdfOperators,
  base: Matrix,
): PageRule[] {
  const rules: PageRule[] = [];
  const stack: Matrix[] = [];
  let matrix = base;
  let path = emptyPath();
  const add = (x1: number, y1: number, x2: number, y2: number): void => {
    const [left, right] = [Math.min(x1, x2), Math.max(x1, x2)];
    const [top, bottom] = [Math.min(y1, y2), Math.max(y1, y2)];
    if (rules.length >= MOST_RULES) return;
    if (bottom - top < 1 && right - left > 3)
      rules.push({ left, right, top: (top + bottom) / 2, bottom: (top + bottom) / 2 });
    else if (right - left < 1 && bottom - top > 3)
      rules.push({ left: (left + right) / 2, right: (left + right) / 2, top, bottom });
  };
  const paint = (stroke: boolean): void => {
    for (const [x1, y1, x2, y2] of path.segments) if (stroke) add(x1, y1, x2, y2);
    for (const [x1, y1, x2, y2] of path.rects) {
      const [w, h] = [Math.abs(x2 - x1), Math.abs(y2 - y1)];
      if (h < THIN && w > 3) add(x1, (y1 + y2) / 2, x2, (y1 + y2) / 2);
      else if (w < THIN && h > 3) add((x1 + x2) / 2, y1, (x1 + x2) / 2, y2);
      else if (stroke) {
        add(x1, y1, x2, y1);
        add(x1, y2, x2, y2);
        add(x1, y1, x1, y2);
        add(x2, y1, x2, y2);
      }
    }
    path = emptyPath();
  };
  const strokes = new Set([
    ops.stroke,
    ops.closeStroke,
    ops.fillStroke,
    ops.eoFillStroke,
    ops.closeFillStroke,
    ops.closeEOFillStroke,
  ]);
  const fills = new Set([ops.fill, ops.eoFill]);
  codes.forEach((code, index) => {
    const given = args[index] as unknown[];
    if (code === ops.save) stack.push(matrix);
    else if (code === ops.restore) matrix = stack.pop() ?? matrix;
    else if (code === ops.transform) matrix = times(matrix, given as unknown as Matrix);
    else if (code === ops.paintFormXObjectBegin) {
      stack.push(matrix);
      if (Array.isArray(given?.[0])) matrix = times(matrix, given[0] as unknown as Matrix);
    } else if (code === ops.paintFormXObjectEnd) matrix = stack.pop() ?? matrix;
    else if (code === ops.constructPath) readPath(given, ops, matrix, path);
    else if (code === ops.endPath) path = emptyPath();
    else if (strokes.has(code)) paint(true);
    else if (fills.has(code)) paint(false);
  });
  return rules;
}

type Point = [number, number];

/** A path while it is made: it may come in several pieces. */
interface Path {
  segments: [number, number, number, number][];
  rects: [number, number, number, number][];
  point: Point;
  start: Point;
  polygon: Point[];
}

const emptyPath = (): Path => ({ segments: [], rects: [], point: [0, 0], start: [0, 0], polygon: [] });

/** The lines and rectangles of a piece of a path; curves only move its point. */
function readPath(given: unknown[], ops: PdfOperators, matrix: Matrix, path: Path): void {
  const [codes, numbers] = given as [ArrayLike<number>, ArrayLike<number>];
  let i = 0;
  const next = (): number => numbers[i++] ?? 0;
  for (let c = 0; c < codes.length; c++) {
    const code = codes[c];
    if (code === ops.rectangle) {
      const [x, y, w, h] = [next(), next(), next(), next()];
      path.rects.push([...at(matrix, x, y), ...at(matrix, x + w, y + h)]);
    } else if (code === ops.moveTo) {
      path.point = at(matrix, next(), next());
      path.start = path.point;
      path.polygon = [path.point];
    } else if (code === ops.lineTo) {
      const to = at(matrix, next(), next());
      path.segments.push([...path.point, ...to]);
      path.point = to;
      path.polygon.push(to);
    } else if (code === ops.closePath) {
      path.segments.push([...path.point, ...path.start]);
      closePath(path);
      path.point = path.start;
    } else if (code === ops.curveTo || code === ops.curveTo2 || code === ops.curveTo3) {
      i += code === ops.curveTo ? 4 : 2;
      path.point = at(matrix, next(), next());
    }
  }
}

/** Four sides along the axes are a rectangle, however it was drawn. */
function closePath({ polygon, rects }: Path): void {
  const xs = new Set(polygon.map(([x]) => Math.round(x * 10)));
  const ys = new Set(polygon.map(([, y]) => Math.round(y * 10)));
  const [first, , third] = polygon;
  if (first && third && polygon.length >= 4 && xs.size === 2 && ys.size === 2)
    rects.push([...first, ...third]);
}
