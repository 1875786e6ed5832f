import { append, largest } from '../../base/lists';
import { raised } from '../files/sheets';
import { type DocumentPage, middleOf, type PageText } from './page';

/** Texts that stand on one line, from left to right. */
export interface TextLine {
  top: number;
  bottom: number;
  texts: PageText[];
}

/** Upright texts of a page as lines. Raised marks join the word in front of them, so that they stand on its line. */
export function linesOf(texts: readonly PageText[]): TextLine[] {
  const lines: TextLine[] = [];
  const sorted = texts.filter((one) => !one.turned).sort((a, b) => middleOf(a) - middleOf(b));
  for (const text of sorted) {
    const line = lines.findLast((one) => {
      const middle = middleOf(text);
      return middle > one.top && middle < one.bottom;
    });
    if (line && text.top < line.bottom) {
      line.texts.push(text);
      // A small mark does not make the line taller.
      if (text.size > 0.8 * (line.texts[0]?.size ?? text.size)) {
        line.top = Math.min(line.top, text.top);
        line.bottom = Math.max(line.bottom, text.bottom);
      }
    } else lines.push({ top: text.top, bottom: text.bottom, texts: [text] });
  }
  const joined = withSmall(lines.sort((a, b) => a.top - b.top));
  for (const line of joined) line.texts.sort((a, b) => a.left - b.left);
  return joined;
}

/** Small type beside a line, as the raised number of a note is, stands on that line. */
function withSmall(lines: readonly TextLine[]): TextLine[] {
  const joined: TextLine[] = [];
  for (const line of lines) {
    const before = joined.at(-1);
    const [low, high] = before && height(before) < height(line) ? [before, line] : [line, before];
    const shared = before ? Math.min(before.bottom, line.bottom) - line.top : 0;
    if (!before || !high || height(low) > 0.8 * height(high) || shared < 0.6 * height(low)) joined.push(line);
    else
      joined[joined.length - 1] = {
        top: high.top,
        bottom: high.bottom,
        texts: [...before.texts, ...line.texts],
      };
  }
  return joined;
}

const height = (line: TextLine): number => line.bottom - line.top;

/**
 * Marks that are set smaller and higher, right behind a word, become characters of it (`A0` and a raised 1 is `A0¹`, never A01); all
 * other texts stay as they are.
 */
export function withRaised(page: DocumentPage): DocumentPage {
  const texts: PageText[] = [];
  const marks = page.texts.filter(
    (one) => !one.turned && /^[\s([]*\d{1,2}(\s*,\s*\d{1,2})*[\s)\]]*$/.test(one.text),
  );
  const small = new Set<PageText>();
  const behind = new Map<PageText, PageText[]>();
  for (const mark of marks) {
    const word = page.texts.find(
      (one) =>
        one !== mark &&
        !one.turned &&
        mark.size < 0.82 * one.size &&
        mark.bottom < one.bottom - 0.12 * one.size &&
        middleOf(mark) < middleOf(one) &&
        mark.bottom > one.top &&
        Math.abs(mark.left - one.right) < 0.45 * one.size,
    );
    if (!word) continue;
    small.add(mark);
    behind.set(word, [...(behind.get(word) ?? []), mark]);
  }
  for (const text of page.texts) {
    if (small.has(text)) continue;
    const own = behind.get(text);
    texts.push(
      own
        ? {
            ...text,
            text: text.text.trimEnd() + own.map((mark) => raised(mark.text)).join(''),
            right: Math.max(text.right, largest(own.map((mark) => mark.right))),
          }
        : text,
    );
  }
  return { ...page, texts };
}

/** The text of a line, with a blank where there is one. */
export const lineText = (line: TextLine): string => {
  let text = '';
  let end = Number.NEGATIVE_INFINITY;
  for (const one of line.texts) {
    const gap = one.left - end > 0.12 * one.size;
    text += text !== '' && gap && !text.endsWith(' ') ? ` ${one.text.trim()}` : one.text;
    end = one.right;
  }
  return text.trim();
};

/** A margin at the head and foot of pages that running texts stand in, as part of the height. */
const MARGIN = 0.13;

/** Texts that stand on several pages at the same height, numbers aside: running heads, feet and page numbers. */
export function runningTexts(pages: readonly DocumentPage[]): Set<PageText> {
  const seen = new Map<string, { pages: Set<number>; texts: PageText[] }>();
  for (const page of pages)
    for (const line of linesOf(page.texts)) {
      const share = line.top / page.height;
      if (share > MARGIN && share < 1 - MARGIN) continue;
      const key = `${Math.round(line.top / 4)} ${lineText(line).replace(/\d+/g, '#')}`;
      const known = seen.get(key) ?? { pages: new Set(), texts: [] };
      known.pages.add(page.number);
      append(known.texts, line.texts);
      seen.set(key, known);
    }
  const running = new Set<PageText>();
  for (const { pages: on, texts } of seen.values())
    if (on.size > 1 && on.size >= Math.min(3, pages.length / 2)) for (const text of texts) running.add(text);
  return running;
}
