import { LIMITS } from '../../base/limits';
import type { DeviceDescription } from '../types';
import { linesOf, type TextLine } from './lines';
import { printPartText, readPartText, type TextKind } from './text-form';

/**
 * The text as a person wrote it, with its comments and in its order, is kept beside what was read from it: `text` of a description. It is
 * shown as long as it says the same, and never decides anything.
 */
export function withText<T extends { text?: string }>(value: T, text: string): T {
  const { text: _before, ...bare } = value;
  return (text === printPartText(bare) ? bare : { ...bare, text }) as T;
}

/**
 * The text of all but the tables: as it was written, without the lines of the tables where those were in it; as it is printed where that
 * does not read as the very same.
 */
export function writtenText(value: object, text: string | undefined): string {
  const printed = printPartText(value);
  if (text === undefined) return printed;
  if (saysThat(text, printed, 'recipe')) return text;
  const bare = withoutTables(text);
  return saysThat(bare, printed, 'recipe') ? bare : printed;
}

/** The text of a whole description, its tables included, with the comments of the text as it was written. */
export function wholeText(description: DeviceDescription): string {
  const printed = printPartText(description);
  const { text } = description;
  if (text === undefined) return printed;
  if (saysThat(text, printed, 'description')) return text;
  const joined = joinedWithTables(text, description);
  return saysThat(joined, printed, 'description') ? joined : printed;
}

function saysThat(text: string, printed: string, kind: TextKind): boolean {
  if (text.length > LIMITS.deviceBytes) return false;
  const read = readPartText('', text, kind);
  return read.ok && printPartText(read.value.value as object) === printed;
}

/** The pins of each package under its line, and all other lines of the tables after the text. */
function joinedWithTables(
  text: string,
  { packages, pads, functions, corrections }: DeviceDescription,
): string {
  let joined = '';
  let done = 0;
  for (const line of linesOf(text).lines) {
    const [, id] = /^package\s+(\S+)/.exec(text.slice(line.start, line.end)) ?? [];
    const pkg = packages.find((each) => each.id === id);
    if (!pkg) continue;
    const end = rowEnd(text, lastOf(line).end);
    joined += `${text.slice(done, end).trimEnd()}\n${pinRows(pkg)}`;
    done = end;
  }
  const tables = printPartText({ pads, functions, ...(corrections ? { corrections } : {}) });
  return `${joined}${text.slice(done).replace(/^\n/, '').trimEnd()}\n\n${tables}`;
}

/** A text without its lines of pads, functions, pins and corrections, and what stands above and beside those. */
function withoutTables(text: string): string {
  let left = '';
  let done = 0;
  const drop = (line: TextLine, from: number): void => {
    left += text.slice(done, Math.max(done, from));
    done = rowEnd(text, lastOf(line).end);
  };
  for (const [at, line] of linesOf(text).lines.entries()) {
    const word = wordOf(text, line);
    if (['pad', 'function', 'correction'].includes(word))
      drop(line, at === 0 ? line.start : linesBefore(text, line));
    if (word === 'package')
      for (const child of line.children)
        if (wordOf(text, child) === 'pins') drop(child, linesBefore(text, child));
  }
  return `${(left + text.slice(done)).trimEnd()}\n`;
}

const wordOf = (text: string, { start, end }: TextLine): string =>
  /^[a-z]+/.exec(text.slice(start, Math.min(end, start + 20)))?.[0] ?? '';

/** Where the rows of comments above a line begin. */
function linesBefore(text: string, { start }: TextLine): number {
  let from = text.lastIndexOf('\n', start - 1) + 1;
  while (from > 0) {
    const above = text.lastIndexOf('\n', from - 2) + 1;
    if (!/^\s*#/.test(text.slice(above, from))) break;
    from = above;
  }
  return from;
}

const lastOf = (line: TextLine): TextLine => line.children.at(-1) ?? line;

const rowEnd = (text: string, from: number): number => {
  const end = text.indexOf('\n', from);
  return end < 0 ? text.length : end + 1;
};

/** The line of a package's pins, indented, as it is printed. */
function pinRows({ id, name, shape, pins }: DeviceDescription['packages'][number]): string {
  const printed = printPartText({ packages: [{ id, name, shape, pins }] });
  const [row] = linesOf(printed).lines[0]?.children ?? [];
  return row ? `  ${printed.slice(row.start, row.end)}\n` : '';
}
