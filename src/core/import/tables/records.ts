import { LIMITS } from '../../base/limits';
import type { PadKind } from '../../description/types';
import type { RowPlace } from './grid';

/** One pad as a table tells of it, before it is known whether the rest of the part agrees. */
export interface PadRecord {
  id: string;
  kind: PadKind;
  port?: string;
  bit?: number;
  supply?: string;
  class?: string;
  aliases: string[];
  boot?: 'debug' | 'strap' | 'clock' | 'reset';
  bootNote: string;
  bootSignals: string[];
  notes: string[];
  columns: Record<string, number>;
  pins: { package: string; pin: string; at: CellRef }[];
  line: number;
  page?: number;
  place?: RowPlace;
}

export interface FunctionRecord {
  /** `*` means every I/O pad. */
  pad: string;
  signal: string;
  mux: number | null;
  /** No register selects it: the peripheral takes the pad by itself. */
  itself?: true;
  notes: string[];
  columns: Record<string, number>;
  at: CellRef;
  /** As the cell has it. */
  text: string;
  page?: number;
  place?: RowPlace;
}

/** A cell of the user's table: the line it stands in and the column's index. */
export interface CellRef {
  line: number;
  column: number;
}

/** Errors must be mended, questions be answered; warnings may stand. */
export type Severity = 'error' | 'question' | 'warning';

/** What can be answered to a question about a table. */
export interface Answer {
  id: string;
  /** As it stands on the button. */
  title: string;
}

/** Answers given to questions about a table, by the question's key. */
export type Answers = Readonly<Record<string, string>>;

export interface TableProblem extends Partial<CellRef> {
  severity: Severity;
  message: string;
  /** Of a question: under what its answer is kept, and what can be answered. */
  key?: string;
  answers?: readonly Answer[];
  /** Texts that the cell, or the named word of it, could have instead. */
  suggestions?: string[];
  /** The word of the cell that is wrong, where the rest of the cell is right. */
  word?: string;
  /** Role of the column it is in, where only the row is known. */
  role?: string;
  /** For the last entry of a list that is cut: how many there are that are not listed. */
  more?: number;
}

/**
 * Notes a problem. After the first thousand they are only counted, in one last entry, and what they would say is not even worked
 * out: suggestions for every cell of a hostile table would take for ever.
 */
export function note(problems: TableProblem[], make: () => TableProblem): void {
  if (problems.length < LIMITS.tableProblems) {
    problems.push(make());
    return;
  }
  const last = problems.at(-1);
  if (last?.more === undefined) problems.push({ severity: 'error', message: '… and 1 more', more: 1 });
  else {
    last.more++;
    last.message = `… and ${last.more} more`;
  }
}

/** The answer to a question; without one the question is noted, and undefined given. An answer that is none of those is no answer. */
export function ask(
  problems: TableProblem[],
  given: Answers,
  question: Omit<TableProblem, 'severity'> & { key: string; answers: readonly Answer[] },
): string | undefined {
  const answer = Object.hasOwn(given, question.key) ? given[question.key] : undefined;
  if (question.answers.some((one) => one.id === answer)) return answer;
  note(problems, () => ({ ...question, severity: 'question' }));
  return undefined;
}

/** What became of a row. Every row has a fate; nothing is dropped silently. */
export type Fate =
  | 'headings'
  | 'used'
  | 'joined to the row above'
  | 'empty'
  | 'section title'
  | 'headings again'
  | 'note text'
  | 'hidden'
  | 'left out'
  | 'asked about'
  | 'refused';

export interface TableReading<Item> {
  records: Item[];
  problems: TableProblem[];
  fates: Map<number, Fate>;
  /** Texts of footnotes that stand below the table, by mark. */
  notes: Record<string, string>;
}

/** How many rows of a table had which fate; the counts sum up to the number of rows. */
export function countFates(fates: ReadonlyMap<number, Fate>): Partial<Record<Fate, number>> {
  const counts: Partial<Record<Fate, number>> = {};
  for (const fate of fates.values()) counts[fate] = (counts[fate] ?? 0) + 1;
  return counts;
}
