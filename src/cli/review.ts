import { statSync } from 'node:fs';
import { type Command, InvalidArgumentError, type Option } from 'commander';
import { LIMITS, overLimit, tooLarge } from '@/core/base/limits';
import { fail, ok, type Result } from '@/core/base/result';
import type { Derived } from '@/core/derive/derive';
import { type Finding, levelOf } from '@/core/existing-code/finding';
import { type Review, reviewCode } from '@/core/existing-code/review';
import { sarifOfReview } from '@/core/output/reports/sarif';
import { printPlan } from '@/core/plan/file/print-plan';
import { isOther } from '@/core/read-back/read-back';
import { joined } from '@/core/read-back/take-over';
import { writeWhole } from '@/files/write-files';
import { readIds } from './read-ids';
import type { Terminal } from './terminal';

interface Options {
  format: 'text' | 'json' | 'sarif';
  devices: string;
  entry: string[];
  define: string[];
  out?: string;
}

const CLEAN = 0;
const FINDINGS = 1;
const UNUSABLE = 2;

const another = (text: string, before: string[]): string[] => [...before, text];

function readDefine(text: string, before: string[]): string[] {
  if (!/^[A-Za-z_]\w*(=.*)?$/.test(text)) throw new InvalidArgumentError('It must be a name, or NAME=VALUE.');
  return another(text, before);
}

/** `review PLAN FILES`: what code that sets registers does, beside the plan. */
export function addReviewCommand(
  program: Command,
  terminal: Terminal,
  onPlan: (file: string, options: { devices: string }, run: (derived: Derived) => number) => void,
  options: { format: () => Option; devices: () => Option },
): void {
  program
    .command('review')
    .description('holds existing C against a plan; exit status 1 with findings of severity error')
    .argument('<plan>', 'plan file (mavrek-plan/2)')
    .argument('<files...>', 'the code and its headers; nothing of it is executed')
    .option('--entry <function>', 'where to begin; may be repeated', another, [])
    .option('--define <name=value>', 'as given to the compiler; may be repeated', readDefine, [])
    .option('--out <file>', 'write the plan that the code sets up there')
    .addOption(options.format().choices(['text', 'json', 'sarif']))
    .addOption(options.devices())
    .action((file: string, files: string[], given: Options) =>
      onPlan(file, given, (derived) => run(derived, files, given, terminal)),
    );
}

function run(derived: Derived, paths: readonly string[], options: Options, terminal: Terminal): number {
  const files = readFiles(paths, terminal);
  if (!files.ok) {
    terminal.complain(files.problems);
    return UNUSABLE;
  }
  const review = reviewCode(
    derived,
    files.value,
    { entries: options.entry, defines: options.define },
    readIds(derived),
  );
  const unknown = options.entry.filter((name) => !review.entries.includes(name));
  if (unknown.length > 0) {
    const message = `there is no such function; there are ${review.possible.slice(0, 20).join(', ') || 'none'}`;
    terminal.complain(unknown.map((place) => ({ place, message })));
    return UNUSABLE;
  }
  if (options.out !== undefined) {
    const edits = differing(review).flatMap((one) => one.meanings.slice(0, 1).map((meaning) => meaning.edit));
    const taken = joined(derived.plan, 'as the code sets it up', edits);
    const problems = taken.ok ? writeWhole(options.out, printPlan(taken.value.plan)) : taken.problems;
    if (problems.length > 0) {
      terminal.complain(problems);
      return UNUSABLE;
    }
  }
  if (options.format === 'sarif') terminal.print(JSON.stringify(sarifOfReview(review.findings), null, 2));
  else if (options.format === 'json') terminal.print(JSON.stringify(reportOf(review), null, 2));
  else terminal.print(textOf(review));
  return review.findings.some((one) => levelOf(one) === 'error') ? FINDINGS : CLEAN;
}

function readFiles(paths: readonly string[], terminal: Terminal): Result<{ name: string; text: string }[]> {
  if (paths.length > LIMITS.codeFiles)
    return fail({ place: 'files', message: overLimit('codeFiles', paths.length) });
  const files: { name: string; text: string }[] = [];
  let size = 0;
  for (const path of paths) {
    try {
      size += statSync(path).size;
    } catch {
      // What is wrong with it is said when it is read.
    }
    if (size > LIMITS.codeCharacters) return fail({ place: path, message: tooLarge('codeCharacters') });
    const text = terminal.readText(path);
    if (!text.ok) return text;
    files.push({ name: path.replaceAll('\\', '/'), text: text.value });
  }
  return ok(files);
}

const differing = ({ readings }: Review) => readings.filter(isOther);

const placeOf = ({ place: { file, line, column } }: Finding): string => `${file}:${line}:${column}`;

const reportOf = (review: Review) => ({
  entries: review.entries,
  missingHeaders: review.missing,
  writes: review.steps.length,
  asPlanned: review.asPlanned,
  findings: review.findings.map((one) => ({
    rule: one.rule,
    level: levelOf(one),
    file: one.place.file,
    line: one.place.line,
    column: one.place.column,
    message: one.message,
    pads: one.pads,
    register: one.register?.name ?? null,
  })),
  pads: differing(review).map(({ pad, net, state, meanings }) => ({
    pad,
    net: net?.name ?? null,
    state,
    meanings: meanings.map(({ text, exact }) => ({ text, exact })),
  })),
});

function textOf(review: Review): string {
  const count = (level: string): number => review.findings.filter((one) => levelOf(one) === level).length;
  return [
    ...review.findings.map((one) => `${placeOf(one)}: ${levelOf(one)}: ${one.rule}: ${one.message}`),
    ...(review.missing.length > 0 ? [`headers that were not given: ${review.missing.join(', ')}`] : []),
    `${review.entries.length > 0 ? `followed from ${review.entries.join(', ')}: ` : ''}${review.steps.length} writes; ${review.asPlanned} pads as planned, ${differing(review).length} not`,
    `${count('error')} errors, ${count('warning')} warnings, ${count('note')} notes`,
  ].join('\n');
}
