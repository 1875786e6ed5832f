import { largest, smallest } from '../../base/lists';
import type { Result } from '../../base/result';
import { lowerDigits } from '../../base/text/superscript';
import { type Grid, type GridRow, gridOf } from '../tables/grid';
import { joinTexts } from '../tables/rows';
import { gapsOf } from './find-tables';
import { linesOf, lineText } from './lines';
import {
  centreOf,
  type DocumentPage,
  inside,
  middleOf,
  type PageRule,
  type PageText,
  type TableArea,
} from './page';

/** A table that runs over one or several pages. */
export interface DocumentTable {
  title: string;
  areas: TableArea[];
}

/** How far borders of columns may differ from page to page, as part of the table's width. */
const ALIKE = 0.025;

/** Joins tables of pages that follow each other, with the same columns, where nothing says that another one begins. */
export function joinTables(areas: readonly TableArea[], pages: readonly DocumentPage[]): DocumentTable[] {
  const tables: DocumentTable[] = [];
  for (const area of areas) {
    const last = tables.at(-1);
    const before = last?.areas.at(-1);
    const page = pages.find((one) => one.number === before?.page);
    const runs =
      before !== undefined &&
      area.page === before.page + 1 &&
      sameColumns(before, area) &&
      before.box.bottom > (page?.height ?? 0) * 0.55 &&
      areas.find((one) => one.page === area.page) === area &&
      (!named(area) || continued(area) || numberOf(area) === numberOf(last?.areas[0]));
    if (last && runs) last.areas.push(area);
    else tables.push({ title: area.title ?? `page ${area.page}`, areas: [area] });
  }
  return tables.map((table) => commonColumns(table, pages));
}

/** Gaps between columns differ from page to page with what stands in them; those of all pages together are the columns. */
function commonColumns(table: DocumentTable, pages: readonly DocumentPage[]): DocumentTable {
  if (table.areas.length < 2 || table.areas.some((area) => area.drawn)) return table;
  const left = smallest(table.areas.map((area) => area.box.left));
  const right = largest(table.areas.map((area) => area.box.right));
  const texts = table.areas.map((area) => {
    const box = { ...area.box, left, right };
    const page = pages.find((one) => one.number === area.page);
    return (page?.texts ?? []).filter((text) => inside(box, centreOf(text), middleOf(text)));
  });
  const columns = gapsOf(texts.flat(), { left, right, top: 0, bottom: 0 }, texts.flatMap(linesOf));
  const most = largest(table.areas.map((area) => area.columns.length));
  // Texts that run over gaps on one page only would make one column of two.
  if (columns.length < most) return table;
  return {
    ...table,
    areas: table.areas.map((area) => ({ ...area, columns, box: { ...area.box, left, right } })),
  };
}

const named = (area: TableArea): boolean => /^(table|tab\.)\s*\d/i.test(area.title ?? '');
const continued = (area: TableArea): boolean => /cont(inued|'d|\.|d)?\b/i.test(area.title ?? '');
const numberOf = (area: TableArea | undefined): string | undefined =>
  /^(?:table|tab\.)\s*([\d.-]*\d)/i.exec(area?.title ?? '')?.[1];

function sameColumns(a: TableArea, b: TableArea): boolean {
  // Without drawn lines borders lie somewhere in a gap; a table that says which it is needs no more.
  if (!a.drawn && !b.drawn) {
    const near = Math.abs(a.box.left - b.box.left) < 24 && Math.abs(a.box.right - b.box.right) < 60;
    if (near && (continued(b) || Math.abs(a.columns.length - b.columns.length) < 2)) return true;
  }
  if (a.columns.length !== b.columns.length) return false;
  const width = a.box.right - a.box.left;
  return a.columns.every((x, i) => Math.abs(x - (b.columns[i] ?? x)) < Math.max(6, ALIKE * width));
}

/** A table of a document → grid: each row with its page and place, merged cells marked, notes below it by their marks. */
export function readDocumentTable(
  name: string,
  table: Pick<DocumentTable, 'areas'>,
  pages: readonly DocumentPage[],
  running: ReadonlySet<PageText> = new Set(),
): Result<Grid> {
  const rows: GridRow[] = [];
  const notes: Record<string, string> = {};
  for (const area of table.areas) {
    const page = pages.find((one) => one.number === area.page);
    if (!page) continue;
    const texts = page.texts.filter((text) => !running.has(text));
    for (const row of rowsOfArea(page, area, texts)) rows.push({ ...row, line: rows.length + 1 });
    Object.assign(notes, notesBelow(page, area, texts));
  }
  return gridOf(name, rows, Object.keys(notes).length > 0 ? { notes } : {});
}

const indexAt = (borders: readonly number[], at: number): number => {
  for (let i = 0; i + 1 < borders.length; i++)
    if (at >= (borders[i] ?? 0) && at < (borders[i + 1] ?? 0)) return i;
  return -1;
};

function rowsOfArea(page: DocumentPage, area: TableArea, texts: readonly PageText[]): GridRow[] {
  const { columns, rows, box } = area;
  const count = columns.length - 1;
  const cells = Array.from({ length: rows.length - 1 }, () =>
    Array.from({ length: count }, (): PageText[] => []),
  );
  const alone = titlesIn(area, texts);
  for (const text of texts) {
    const row = indexAt(rows, middleOf(text));
    if (row < 0 || centreOf(text) < box.left || centreOf(text) > box.right) continue;
    const whole = alone.has(text) || (area.drawn && spansFreely(page.rules, text, columns));
    for (const piece of whole ? [text] : cutAtBorders(text, columns, area.ruled)) {
      const column = whole ? indexAt(columns, text.left + 1) : indexAt(columns, centreOf(piece));
      if (column >= 0) cells[row]?.[column]?.push(piece);
    }
  }
  return cells
    .map((row, index): GridRow => {
      const top = rows[index] ?? 0;
      const bottom = rows[index + 1] ?? 0;
      const above = area.ruled && index > 0 ? mergedAbove(page.rules, columns, top) : [];
      const made: GridRow = {
        line: 0,
        cells: row.map(cellText),
        place: {
          page: area.page,
          box: [box.left / page.width, top / page.height, box.right / page.width, bottom / page.height],
        },
      };
      const covered = area.ruled ? coveredIn(page.rules, columns, top, bottom, row) : [];
      if (covered.length > 0) made.covered = covered;
      if (above.length > 0) made.above = above;
      return made;
    })
    .map((row, index, all) => fillMerged(row, all, index));
}

/** Texts that are alone in their row and run over borders: titles, which are not cut. */
function titlesIn(area: TableArea, texts: readonly PageText[]): Set<PageText> {
  const titles = new Set<PageText>();
  const { columns, rows, box } = area;
  rows.slice(0, -1).forEach((top, index) => {
    const bottom = rows[index + 1] ?? top;
    const within = texts.filter(
      (text) =>
        middleOf(text) >= top && middleOf(text) < bottom && inside(box, centreOf(text), middleOf(text)),
    );
    const [line, ...others] = linesOf(within);
    if (!line || others.length > 0 || within.some((text) => text.turned)) return;
    const close = line.texts.every(
      (text, i) => i === 0 || text.left - (line.texts[i - 1]?.right ?? 0) < 0.6 * text.size,
    );
    const over =
      indexAt(columns, line.texts[0]?.left ?? 0) !== indexAt(columns, (line.texts.at(-1)?.right ?? 0) - 0.5);
    if (close && over) for (const text of line.texts) titles.add(text);
  });
  return titles;
}

/** The text of a merged cell stands in each of its rows; where it is set in their middle, it is that of all of them. */
function fillMerged(row: GridRow, all: GridRow[], index: number): GridRow {
  if (!row.above) return row;
  for (const column of row.above) {
    let first = index;
    while (first > 0 && all[first]?.above?.includes(column)) first--;
    let last = index;
    while (all[last + 1]?.above?.includes(column)) last++;
    const text = all
      .slice(first, last + 1)
      .map((one) => one.cells[column] ?? '')
      .filter((cell, i, cells) => cell !== '' && cells.indexOf(cell) === i)
      .reduce((whole, cell) => joinTexts(whole, cell), '');
    for (let at = first; at <= last; at++) {
      const one = all[at];
      if (one) one.cells[column] = text;
    }
  }
  return row;
}

/** Whether a text runs over borders at which no line is drawn there: it is that of a merged cell. */
function spansFreely(rules: readonly PageRule[], text: PageText, columns: readonly number[]): boolean {
  const over = columns.filter((x) => x > text.left + 1 && x < text.right - 1);
  return over.length > 0 && over.every((x) => !crosses(rules, 'y', x, text.top, text.bottom));
}

/** A run of words over a border that no line is drawn at is cut at its blanks. */
function cutAtBorders(text: PageText, columns: readonly number[], ruled: boolean): PageText[] {
  const first = indexAt(columns, text.left + 0.5);
  const last = indexAt(columns, text.right - 0.5);
  if (first === last || first < 0 || last < 0 || text.turned || !/\s/.test(text.text.trim())) return [text];
  if (ruled && last - first > 1) return [text];
  const each = (text.right - text.left) / Math.max(1, text.text.length);
  return [...text.text.matchAll(/\S+/g)].map((word) => ({
    ...text,
    text: word[0],
    left: text.left + word.index * each,
    right: text.left + (word.index + word[0].length) * each,
  }));
}

/** Texts of a cell in reading order; a word that is broken at the end of a line is one, other lines stay lines. */
function cellText(texts: readonly PageText[]): string {
  const upright = linesOf(texts).map(lineText);
  const turned = texts.filter((text) => text.turned);
  const lines = [...upright, ...turnedLines(turned)].filter((line) => line !== '');
  return lines.reduce((whole, line) => {
    if (whole === '') return line;
    const joined = joinTexts(whole, line);
    return joined === `${whole} ${line}` ? `${whole}\n${line}` : joined;
  }, '');
}

/** Lines of turned text: upwards they follow each other from left to right, downwards from right to left. */
function turnedLines(texts: readonly PageText[]): string[] {
  const groups: PageText[][] = [];
  for (const text of [...texts].sort((a, b) => centreOf(a) - centreOf(b))) {
    const group = groups.at(-1);
    if (group && Math.abs(centreOf(text) - centreOf(group[0] as PageText)) < 0.5 * text.size)
      group.push(text);
    else groups.push([text]);
  }
  const down = texts.some((text) => text.turned === 'down');
  const ordered = down ? groups.reverse() : groups;
  return ordered.map((group) =>
    group
      .sort((a, b) => (down ? a.top - b.top : b.top - a.top))
      .map((text) => text.text.trim())
      .join(' '),
  );
}

/** Columns of a row that have no line above them: their cell is that of the row above. */
function mergedAbove(rules: readonly PageRule[], columns: readonly number[], top: number): number[] {
  return columns.slice(0, -1).flatMap((left, column) => {
    const right = columns[column + 1] ?? left;
    return crosses(rules, 'x', top, left, right) ? [] : [column];
  });
}

/** Columns that have no line to their left: they belong to the cell beside. */
function coveredIn(
  rules: readonly PageRule[],
  columns: readonly number[],
  top: number,
  bottom: number,
  row: readonly PageText[][],
): number[] {
  const free = columns
    .slice(0, -1)
    .flatMap((left, column) => (column > 0 && !crosses(rules, 'y', left, top, bottom) ? [column] : []));
  // The text of a merged cell may be set in its middle: it moves to where the cell begins.
  for (const column of free) {
    let start = column;
    while (free.includes(start)) start--;
    row[start]?.push(...(row[column] ?? []));
    row[column]?.splice(0);
  }
  return free;
}

/** Whether a line is drawn at a place, over at least half of the way between two others. */
function crosses(
  rules: readonly PageRule[],
  along: 'x' | 'y',
  at: number,
  from: number,
  to: number,
): boolean {
  let covered = 0;
  for (const rule of rules) {
    const place = along === 'x' ? rule.top : rule.left;
    if (Math.abs(place - at) > 3) continue;
    const [start, end] = along === 'x' ? [rule.left, rule.right] : [rule.top, rule.bottom];
    const length = Math.min(end, to) - Math.max(start, from);
    if (end - start > 1 && length > 0) covered += length;
  }
  return covered > (to - from) * 0.5;
}

const NOTE = /^(?:[([]?(\d{1,2})[)\].:]\s*|([⁰¹²³⁴⁵⁶⁷⁸⁹]{1,2})\s*|([*†‡§])\s*)(\S.*)$/;

/** Notes in the lines right below a table: each begins with its mark, lines without one go on with the note above. */
function notesBelow(page: DocumentPage, area: TableArea, texts: readonly PageText[]): Record<string, string> {
  const notes: Record<string, string> = {};
  let mark: string | undefined;
  let end = area.box.bottom;
  for (const line of linesOf(texts)) {
    if (line.top < area.box.bottom - 2) continue;
    if (line.top - end > 24) break;
    const first = line.texts[0];
    const text = lineText(line);
    const match = NOTE.exec(text);
    const small =
      first && /^\d{1,2}$/.test(first.text.trim()) && first.size < 0.82 * (line.texts[1]?.size ?? 0);
    if (match || small) {
      const digits = match?.[2] && lowerDigits(match[2]);
      mark = match?.[1] ?? digits ?? match?.[3] ?? first?.text.trim();
      const said =
        match?.[4] ??
        line.texts
          .slice(1)
          .map((one) => one.text)
          .join(' ');
      if (mark !== undefined) notes[mark] = said.trim();
    } else if (mark !== undefined && (first?.left ?? 0) >= area.box.left - 4) {
      notes[mark] = `${notes[mark]} ${text}`;
    } else break;
    end = line.bottom;
    if (line.top > page.height) break;
  }
  return notes;
}
