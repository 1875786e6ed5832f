import { largest, smallest } from '../../base/lists';
import { linesOf, lineText, type TextLine } from './lines';
import {
  type Box,
  centreOf,
  type DocumentPage,
  inside,
  middleOf,
  type PageRule,
  type PageText,
  type TableArea,
} from './page';

/** Tables on a page: those that are drawn with lines, and those that only stand in columns. `running` texts belong to none. */
export function findTables(page: DocumentPage, running: ReadonlySet<PageText> = new Set()): TableArea[] {
  const texts = page.texts.filter((text) => !running.has(text) && text.text.trim() !== '');
  const ruled = ruledAreas(page, texts);
  const free = texts.filter(
    (text) => !ruled.some((area) => inside(area.box, centreOf(text), middleOf(text))),
  );
  const loose = looseAreas(page, free);
  return [...ruled, ...loose]
    .sort((a, b) => a.box.top - b.box.top)
    .map((area) => withTitle(area, linesOf(texts)));
}

/** Lines closer than this are one, in points. */
const NEAR = 2.5;

/** Values that are nearly the same, as one: their mean. */
function merged(values: readonly number[], near = NEAR): number[] {
  const sorted = [...values].sort((a, b) => a - b);
  const groups: number[][] = [];
  for (const value of sorted) {
    const group = groups.at(-1);
    if (group && value - (group.at(-1) ?? value) <= near) group.push(value);
    else groups.push([value]);
  }
  return groups.map((group) => group.reduce((sum, one) => sum + one, 0) / group.length);
}

const isHorizontal = (rule: PageRule): boolean => rule.bottom - rule.top < rule.right - rule.left;

/** Areas of lines that touch each other, with enough of them to make cells. */
function ruledAreas(page: DocumentPage, texts: readonly PageText[]): TableArea[] {
  const rules = page.rules.filter(
    (rule) =>
      Math.max(rule.right - rule.left, rule.bottom - rule.top) > 6 &&
      rule.right - rule.left < page.width * 0.99,
  );
  const areas: TableArea[] = [];
  for (const group of touching(rules)) {
    const box = boxOf(group);
    const within = texts.filter((text) => inside(box, centreOf(text), middleOf(text)));
    const across = group.filter(isHorizontal);
    const down = group.filter((rule) => !isHorizontal(rule));
    if (across.length < 2 || within.length < 6 || box.bottom - box.top < 24) continue;
    const area = areaOf(page, box, across, down, within);
    if (area) areas.push(area);
  }
  return joinStripes(page, rules, areas, texts);
}

function areaOf(
  page: DocumentPage,
  box: Box,
  across: readonly PageRule[],
  down: readonly PageRule[],
  within: readonly PageText[],
): TableArea | undefined {
  const height = box.bottom - box.top;
  const width = box.right - box.left;
  const length = (rules: readonly PageRule[], at: number, along: 'x' | 'y'): number =>
    rules
      .filter((rule) => Math.abs((along === 'x' ? rule.top : rule.left) - at) <= NEAR)
      .reduce((sum, rule) => sum + (along === 'x' ? rule.right - rule.left : rule.bottom - rule.top), 0);
  const verticals = merged(down.map((rule) => rule.left)).filter((x) => length(down, x, 'y') > 0.2 * height);
  const horizontals = merged(across.map((rule) => rule.top)).filter(
    (y) => length(across, y, 'x') > 0.25 * width,
  );
  const columns =
    verticals.length > 2 ? edged(verticals, box.left, box.right) : gapsOf(within, box, linesOf(within));
  if (columns.length < 3) return undefined;
  const lines = linesOf(within);
  const full = horizontals.length - 1 >= 0.4 * lines.length;
  const rows = full ? edged(horizontals, box.top, box.bottom) : rowsOf(lines, horizontals, box);
  const drawn = verticals.length > 2;
  return { page: page.number, box, columns, rows, drawn, ruled: drawn && full };
}

/** Borders with the edges of the area among them. */
const edged = (borders: readonly number[], first: number, last: number): number[] =>
  merged([first, ...borders, last]);

/** Groups of rules that touch or cross each other. */
function touching(rules: readonly PageRule[]): PageRule[][] {
  const parent = rules.map((_, i) => i);
  const root = (i: number): number => {
    let at = i;
    while (parent[at] !== at) at = parent[at] as number;
    parent[i] = at;
    return at;
  };
  const order = rules.map((_, i) => i).sort((a, b) => (rules[a]?.top ?? 0) - (rules[b]?.top ?? 0));
  order.forEach((i, position) => {
    const one = rules[i] as PageRule;
    for (let next = position + 1; next < order.length; next++) {
      const other = rules[order[next] as number] as PageRule;
      if (other.top > one.bottom + NEAR) break;
      if (other.left <= one.right + NEAR && one.left <= other.right + NEAR)
        parent[root(order[next] as number)] = root(i);
    }
  });
  const groups = new Map<number, PageRule[]>();
  rules.forEach((rule, i) => {
    const key = root(i);
    groups.set(key, [...(groups.get(key) ?? []), rule]);
  });
  return [...groups.values()];
}

const boxOf = (rules: readonly Box[]): Box => ({
  left: smallest(rules.map((one) => one.left)),
  top: smallest(rules.map((one) => one.top)),
  right: largest(rules.map((one) => one.right)),
  bottom: largest(rules.map((one) => one.bottom)),
});

/** Horizontal lines of one width below each other, with nothing between them that touches: a table without vertical lines. */
function joinStripes(
  page: DocumentPage,
  rules: readonly PageRule[],
  areas: readonly TableArea[],
  texts: readonly PageText[],
): TableArea[] {
  const free = rules.filter(
    (rule) =>
      isHorizontal(rule) &&
      rule.right - rule.left > 80 &&
      !areas.some((area) => inside(area.box, centreOf(rule), rule.top)),
  );
  const groups = new Map<string, PageRule[]>();
  for (const rule of free) {
    const key = `${Math.round(rule.left / 4)} ${Math.round(rule.right / 4)}`;
    groups.set(key, [...(groups.get(key) ?? []), rule]);
  }
  const found: TableArea[] = [];
  for (const group of groups.values()) {
    if (group.length < 3) continue;
    const box = boxOf(group);
    const within = texts.filter((text) => inside(box, centreOf(text), middleOf(text)));
    if (within.length < 6 || areas.some((area) => overlaps(area.box, box))) continue;
    const area = areaOf(page, box, group, [], within);
    if (area) found.push(area);
  }
  return [...areas, ...found];
}

const overlaps = (a: Box, b: Box): boolean =>
  a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;

/** Part of the lines that may run over a gap between columns. */
const MOST_OVER = 0.04;

/**
 * Borders of columns in the middle of gaps that all lines of several texts leave free. Where that makes fewer columns than most lines
 * have texts, a few lines may run over a gap.
 */
export function gapsOf(texts: readonly PageText[], box: Box, lines: readonly TextLine[]): number[] {
  const rows = lines.map(piecesOf).filter((pieces) => pieces.length > 1);
  if (rows.length < 2) return [];
  const turned = texts.filter((text) => text.turned);
  const strict = gapsWith(rows, turned, box, 0);
  const counts = rows.map((pieces) => pieces.length).sort((x, y) => x - y);
  const usual = counts[Math.floor(counts.length / 2)] ?? 0;
  return strict.length - 1 >= usual
    ? strict
    : gapsWith(rows, turned, box, Math.floor(rows.length * MOST_OVER));
}

function gapsWith(rows: readonly Box[][], turned: readonly PageText[], box: Box, allowed: number): number[] {
  const start = Math.floor(box.left);
  const marks = new Array<number>(Math.max(2, Math.ceil(box.right) - start + 2)).fill(0);
  const mark = (piece: Pick<Box, 'left' | 'right'>): void => {
    for (let x = Math.floor(piece.left) - start; x < Math.ceil(piece.right) - start; x++)
      if (x >= 0 && x < marks.length) marks[x] = (marks[x] ?? 0) + 1;
  };
  for (const pieces of rows) for (const piece of pieces) mark(piece);
  // Turned headings are as wide as they are tall.
  for (const text of turned) mark(text);
  const borders = [box.left];
  let gap = -1;
  let seen = false;
  for (let x = 0; x < marks.length; x++) {
    if ((marks[x] ?? 0) <= allowed) {
      if (gap < 0) gap = x;
      continue;
    }
    if (gap >= 0 && seen && x - gap >= 3) borders.push(start + (gap + x) / 2);
    gap = -1;
    seen = true;
  }
  borders.push(box.right);
  return borders;
}

/** Texts of a line that stand so close that they are one. */
function piecesOf(line: TextLine): Box[] {
  const pieces: Box[] = [];
  for (const text of line.texts) {
    const last = pieces.at(-1);
    if (last && text.left - last.right < 0.55 * text.size) {
      last.right = Math.max(last.right, text.right);
    } else pieces.push({ left: text.left, top: text.top, right: text.right, bottom: text.bottom });
  }
  return pieces;
}

/** A border between each two lines, at a drawn line where there is one between them. */
function rowsOf(lines: readonly TextLine[], horizontals: readonly number[], box: Box): number[] {
  const borders = [box.top];
  lines.forEach((line, i) => {
    const next = lines[i + 1];
    if (!next) return;
    const drawn = horizontals.find(
      (y) => y >= line.top + 1 && y <= next.bottom - 1 && y > middleOf(line) && y < middleOf(next),
    );
    borders.push(drawn ?? (line.bottom + next.top) / 2);
  });
  borders.push(box.bottom);
  return borders;
}

/** Fewest rows of a table without lines. */
const FEWEST = 4;

/** Lines below each other that leave the same gaps free. */
function looseAreas(page: DocumentPage, texts: readonly PageText[]): TableArea[] {
  const lines = linesOf(texts);
  const areas: TableArea[] = [];
  let group: TextLine[] = [];
  const close = (): void => {
    const three = group.filter((line) => piecesOf(line).length > 2);
    const two = group.filter((line) => piecesOf(line).length > 1);
    // Merged cells leave rows with few texts; running text has one in nearly all lines.
    const many = two.length > group.length * 0.6 ? two : three;
    if (three.length >= FEWEST && many.length > group.length * 0.4) {
      const first = group.indexOf(many[0] as TextLine);
      const last = group.lastIndexOf(many.at(-1) as TextLine);
      const own = group.slice(first, last + 1);
      const inner = own.flatMap((line) => line.texts);
      const bounds = boxOf(inner);
      const box = {
        left: bounds.left - 3,
        top: bounds.top - 2,
        right: bounds.right + 3,
        bottom: bounds.bottom + 2,
      };
      const turned = texts.filter(
        (text) =>
          text.turned &&
          centreOf(text) > box.left &&
          centreOf(text) < box.right &&
          text.bottom > box.top - 90 &&
          text.top < box.bottom,
      );
      if (turned.length > 0) box.top = Math.min(box.top, smallest(turned.map((text) => text.top - 2)));
      const columns = gapsOf([...inner, ...turned], box, own);
      if (columns.length > 3)
        areas.push({
          page: page.number,
          box,
          columns,
          rows: rowsOf(own, [], box),
          drawn: false,
          ruled: false,
        });
    }
    group = [];
  };
  for (const line of lines) {
    const last = group.at(-1);
    const height = line.bottom - line.top;
    if (last && line.top - last.bottom > 2.2 * height) close();
    // A line of running text over the whole width ends a table.
    if (
      group.length > 0 &&
      piecesOf(line).length === 1 &&
      (line.texts.at(-1)?.right ?? 0) - (line.texts[0]?.left ?? 0) > page.width * 0.6
    )
      close();
    group.push(line);
  }
  close();
  return areas;
}

/** The line above that begins with "Table", and where there is none the nearest that is short. */
function withTitle(area: TableArea, lines: readonly TextLine[]): TableArea {
  const above = lines.filter((line) => line.bottom <= area.box.top + 4 && area.box.top - line.bottom < 60);
  const named = above.findLast((line) => /^(table|tab\.)\s*[\d.:-]/i.test(lineText(line)));
  const title = named ?? above.at(-1);
  const text = title && lineText(title).slice(0, 120);
  return text ? { ...area, title: text } : area;
}

/** A table in a rectangle that the user has drawn: its borders as lines and gaps show them. */
export function outlineIn(
  page: DocumentPage,
  box: Box,
  running: ReadonlySet<PageText> = new Set(),
): TableArea | undefined {
  const within = page.texts.filter(
    (text) => !running.has(text) && inside(box, centreOf(text), middleOf(text)),
  );
  if (within.length === 0) return undefined;
  const rules = page.rules.filter((rule) => inside(box, centreOf(rule), middleOf(rule)));
  const found = areaOf(
    page,
    box,
    rules.filter(isHorizontal),
    rules.filter((rule) => !isHorizontal(rule)),
    within,
  );
  const lines = linesOf(within);
  return withTitle(
    found ?? {
      page: page.number,
      box,
      columns: [box.left, box.right],
      rows: rowsOf(lines, [], box),
      drawn: false,
      ruled: false,
    },
    linesOf(page.texts),
  );
}
