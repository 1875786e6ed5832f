import { LIMITS, overLimit } from '../../base/limits';

/**
 * The lines of a part's text: a scan from left to right that knows of strings, comments and brackets, and stacks lines by their
 * indentation (the off-side rule). A line goes on where a bracket is open or its last character is a comma. Linear in the text.
 */
export interface TextLine {
  /** From its first character to after its last, comments and line breaks within it included. */
  start: number;
  end: number;
  /** Columns before its first character. */
  indent: number;
  /** Comments that stand above it, one a line, and whether a blank line does. */
  above: string[];
  blankAbove: boolean;
  /** Comments at the end of its rows. */
  beside: string[];
  children: TextLine[];
  /** A string in it has no end: nothing is sure of what it says. */
  broken?: true;
}

export interface TextLines {
  lines: TextLine[];
  /** Comments after the last line. */
  below: string[];
  wrong: { at: number; message: string }[];
}

const OPENING = new Set(['(', '[']);
const CLOSING = new Set([')', ']']);
const QUOTES = new Set(['"', "'", '`']);

/** Where a string that begins at `from` ends: after its quote, or at the end of its row where it has none. */
export function endOfString(text: string, from: number): { end: number; closed: boolean } {
  const quote = text[from];
  for (let at = from + 1; at < text.length; at++) {
    const char = text[at];
    if (char === '\\') at++;
    else if (char === '\n') return { end: at, closed: false };
    else if (char === quote) return { end: at + 1, closed: true };
  }
  return { end: text.length, closed: false };
}

export const endOfRow = (text: string, from: number): number => {
  const end = text.indexOf('\n', from);
  return end < 0 ? text.length : end;
};

/** A row that begins with a letter at the left edge begins a section, whatever bracket was left open above it. */
const beginsSection = (text: string, row: number): boolean => /[A-Za-z]/.test(text[row] ?? '');

/** What needs no look of its own. */
const PLAIN = /[^\s#"'`()[\]]+/y;

interface Row {
  /** After the last character that is neither blank nor comment. */
  end: number;
  depth: number;
  comment?: string;
  goesOn: boolean;
}

function readRow(text: string, from: number, openBrackets: number, wrong: TextLines['wrong']): Row {
  let end = from;
  let depth = openBrackets;
  let comment: string | undefined;
  let at = from;
  for (; at < text.length && text[at] !== '\n'; ) {
    const char = text[at] as string;
    if (char === '#') {
      const stop = endOfRow(text, at);
      comment = text.slice(at + 1, stop).trim();
      break;
    }
    if (QUOTES.has(char)) {
      const string = endOfString(text, at);
      if (!string.closed) wrong.push({ at, message: `a string that begins with ${char} has no end` });
      at = string.end;
      end = at;
      continue;
    }
    if (OPENING.has(char)) depth++;
    else if (CLOSING.has(char)) depth = Math.max(0, depth - 1);
    else {
      PLAIN.lastIndex = at;
      const plain = PLAIN.exec(text)?.[0].length ?? 0;
      at += Math.max(1, plain);
      if (plain > 0) end = at;
      continue;
    }
    at++;
    end = at;
  }
  return {
    end,
    depth,
    ...(comment === undefined ? {} : { comment }),
    goesOn: depth > 0 || text[end - 1] === ',',
  };
}

export function linesOf(text: string): TextLines {
  const lines: TextLine[] = [];
  const wrong: TextLines['wrong'] = [];
  const open: TextLine[] = [];
  let above: string[] = [];
  let blankAbove = false;
  let row = 0;
  let count = 0;
  while (row < text.length) {
    let start = row;
    while (text[start] === ' ' || text[start] === '\t' || text[start] === '\r') start++;
    const tab = text.slice(row, start).indexOf('\t');
    if (text[start] === '\n' || start >= text.length) {
      blankAbove = true;
      row = start + 1;
      continue;
    }
    if (text[start] === '#') {
      const end = endOfRow(text, start);
      above.push(text.slice(start + 1, end).trim());
      row = end + 1;
      continue;
    }
    if (tab >= 0) wrong.push({ at: row + tab, message: 'lines are indented by spaces, not by tabs' });
    const line: TextLine = {
      start,
      end: start,
      indent: start - row,
      above,
      blankAbove,
      beside: [],
      children: [],
    };
    above = [];
    blankAbove = false;
    if (++count > LIMITS.partLines) {
      wrong.push({ at: start, message: `the text ${overLimit('partLines', count)}` });
      break;
    }
    const before = wrong.length;
    let read = readRow(text, start, 0, wrong);
    let next = endOfRow(text, read.end) + 1;
    for (;;) {
      line.end = Math.max(line.end, read.end);
      if (read.comment) line.beside.push(read.comment);
      next = endOfRow(text, Math.max(read.end, start)) + 1;
      if (!read.goesOn || next >= text.length || beginsSection(text, next)) break;
      start = next;
      const further = readRow(text, next, read.depth, wrong);
      // A row of blanks or of a comment alone leaves open what was open.
      read = further.end === next ? { ...further, goesOn: true, depth: read.depth } : further;
    }
    if (wrong.length > before) line.broken = true;
    row = next;
    while (open.length > 0 && (open.at(-1) as TextLine).indent >= line.indent) open.pop();
    const parent = open.at(-1);
    if (parent) parent.children.push(line);
    else lines.push(line);
    open.push(line);
  }
  return { lines, below: above, wrong };
}
