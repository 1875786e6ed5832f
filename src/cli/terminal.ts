import { readFileSync, statSync } from 'node:fs';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { filePlace, type Problem } from '@/core/base/problems';
import { fail, formatProblems, type Result } from '@/core/base/result';
import { visible } from '@/core/base/text/visible';

/** Where a command writes to, and how it ends. */
export interface Streams {
  out(text: string): void;
  err(text: string): void;
  exit(status: number): void;
}

/** What commands need of the program around them. */
export interface Terminal {
  print(text: string): void;
  printJson(value: object): void;
  /** A line beside the output. */
  warn(text: string): void;
  complain(problems: readonly Problem[]): void;
  exit(status: number): void;
  readText(file: string): Result<string>;
}

/** Text from files is shown without anything that a terminal would obey. */
export function terminalOn({ out, err, exit }: Streams): Terminal {
  const print = (text: string): void => {
    const shown = visible(text);
    out(shown.endsWith('\n') ? shown : `${shown}\n`);
  };
  return {
    print,
    printJson: (value) => print(JSON.stringify(value, null, 2)),
    warn: (text) => err(`${text}\n`),
    complain: (problems) => {
      if (problems.length === 0) return;
      const rows = rowsOfFiles();
      err(`${problems.map((problem) => visible(withCaret(problem, rows))).join('\n')}\n`);
    },
    exit,
    readText,
  };
}

/** Rows of files that problems are in, each file read once; of a part of a larger name, or of one that is not there, none. */
function rowsOfFiles(): (file: string) => string[] {
  const known = new Map<string, string[]>();
  return (file) => {
    let rows = known.get(file);
    if (!rows) {
      const text = readText(file);
      rows = text.ok ? text.value.split('\n') : [];
      known.set(file, rows);
    }
    return rows;
  };
}

/** Longest row of a file that is shown under a problem. */
const WIDEST_ROW = 160;

/** `file:line:column: message`, and under it the row with a caret. */
function withCaret(problem: Problem, rowsOf: (file: string) => string[]): string {
  const head = formatProblems([problem]);
  const place = filePlace(problem.place);
  const row = place && rowsOf(place.file)[place.line - 1]?.replace(/\r$/, '').replaceAll('\t', ' ');
  if (!place || row === undefined || row.length > WIDEST_ROW) return head;
  return `${head}\n    ${row}\n    ${' '.repeat(Math.max(0, place.column - 1))}^`;
}

/** The text of a file; what is wrong with it otherwise, with its name as the place. */
export function readText(file: string): Result<string> {
  try {
    if (statSync(file).size > LIMITS.registerFileCharacters)
      return fail({ place: file, message: tooLarge('registerFileCharacters') });
    return { ok: true, value: readFileSync(file, 'utf8') };
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    const why = code === 'ENOENT' ? 'there is no such file' : `cannot be read (${code})`;
    return fail({ place: file, message: why });
  }
}
