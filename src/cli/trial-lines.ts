import { findNodeAtLocation, type Node, parseTree } from 'jsonc-parser';
import { completionsFor } from '@/core/bench/script/complete';
import { meaningInScript, type WordMeaning } from '@/core/bench/script/meaning';
import { namesIn } from '@/core/bench/script/names';
import { parseScript } from '@/core/bench/script/parse';
import type { Derived } from '@/core/derive/derive';

/**
 * The lines of trials within the text of a plan file: each is a string of its own, and what is said of its columns is said of places in the
 * file. Lines are read as they stand there, with nets by their ids or by their names.
 */
interface LineInFile {
  text: string;
  /** Offsets in the file of each character of the line, and of its end. */
  offsets: number[];
}

export interface PlaceInFile {
  from: number;
  to: number;
}

/** Where the characters of a string of JSON stand: what is escaped takes more than one. */
function offsetsIn(file: string, node: Node): number[] {
  const offsets: number[] = [];
  const end = node.offset + node.length - 1;
  for (let at = node.offset + 1; at < end; at += file[at] === '\\' ? (file[at + 1] === 'u' ? 6 : 2) : 1)
    offsets.push(at);
  return [...offsets, end];
}

function trialsIn(file: string): LineInFile[][] {
  const root = parseTree(file);
  const trials = root && findNodeAtLocation(root, ['trials']);
  return (trials?.type === 'array' ? (trials.children ?? []) : []).map((trial) => {
    const lines = findNodeAtLocation(trial, ['lines']);
    return (lines?.type === 'array' ? (lines.children ?? []) : []).map((line) =>
      line.type === 'string'
        ? { text: String(line.value), offsets: offsetsIn(file, line) }
        : { text: '', offsets: [line.offset] },
    );
  });
}

const textsOf = (lines: readonly LineInFile[]): string[] => lines.map(({ text }) => text);

/** What is wrong with the trials of a plan, and where in its file. */
export const trialProblems = (file: string, derived: Derived): (PlaceInFile & { message: string })[] =>
  trialsIn(file).flatMap((lines) =>
    parseScript(textsOf(lines), namesIn(derived)).problems.map(({ line, from, to, message }) => {
      const offsets = lines[line]?.offsets ?? [0];
      const at = (column: number): number => offsets[Math.min(column, offsets.length - 1)] as number;
      return { from: at(from), to: at(Math.max(to, from + 1)), message };
    }),
  );

/** The line of a trial at an offset of the file. */
function lineAt(
  file: string,
  offset: number,
): { lines: LineInFile[]; line: number; column: number; row: LineInFile } | undefined {
  for (const lines of trialsIn(file))
    for (const [line, row] of lines.entries()) {
      const column = row.offsets.findIndex((at) => at >= offset);
      if (column >= 0 && offset >= (row.offsets[0] as number)) return { lines, line, column, row };
    }
  return undefined;
}

/** What the word at an offset of the file means. */
export function trialMeaning(
  file: string,
  offset: number,
  derived: Derived,
): (WordMeaning & { place: PlaceInFile }) | undefined {
  const here = lineAt(file, offset);
  const meaning = here && meaningInScript(derived, textsOf(here.lines), here.line, here.column);
  if (!meaning) return undefined;
  const { offsets } = here.row;
  return {
    ...meaning,
    place: { from: offsets[meaning.from] as number, to: offsets[meaning.to] as number },
  };
}

/** What the line of a trial could go on with, as it is written in the file. */
export function trialCompletions(
  file: string,
  offset: number,
  derived: Derived,
): { place: PlaceInFile; list: { text: string; says: string }[] } | undefined {
  const here = lineAt(file, offset);
  if (!here) return undefined;
  const { from, list } = completionsFor(here.row.text.slice(0, here.column), namesIn(derived));
  return {
    place: { from: here.row.offsets[from] as number, to: offset },
    list: list.map(({ text, says }) => ({ text: JSON.stringify(text).slice(1, -1), says })),
  };
}
