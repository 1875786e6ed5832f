import { append } from '../../base/lists';
import { FORMS, type FormId } from './forms';
import { type Expected, expectedText, type Failure, fail, Matcher } from './match';
import type { Names } from './names';
import type { Captured, Script, ScriptProblem, Step } from './steps';
import { commentAt, type Word, wordsOf } from './words';

/** The lines of a script as steps. Lines that cannot be read are problems; the others are read all the same. */
export function parseScript(lines: readonly string[], names: Names): Script {
  const problems: ScriptProblem[] = [];
  const { steps } = readBlock(lines, 0, -1, names, new Set(), problems, 0);
  checkOrder(steps, problems);
  return { steps, problems };
}

/** The deepest that repetitions stand in each other. */
const DEEPEST = 8;

function readBlock(
  lines: readonly string[],
  first: number,
  outer: number,
  names: Names,
  variables: ReadonlySet<string>,
  problems: ScriptProblem[],
  depth: number,
): { steps: Step[]; next: number } {
  const steps: Step[] = [];
  let own: number | undefined;
  let at = first;
  while (at < lines.length) {
    const line = lines[at] as string;
    if (line.slice(0, commentAt(line)).trim() === '') {
      at++;
      continue;
    }
    const indent = line.length - line.trimStart().length;
    if (indent <= outer) break;
    own ??= indent;
    if (indent !== own) {
      problems.push({
        line: at,
        from: 0,
        to: indent,
        message: 'is further in than the line before it, which repeats nothing',
      });
      at++;
      continue;
    }
    const read = readSteps(line, at, 0, names, variables, problems, depth);
    at++;
    const last = read.at(-1);
    if (last?.form === 'repeat' && last.steps?.length === 0) {
      const inner = new Set([...variables, ...withName(last)]);
      if (depth >= DEEPEST)
        problems.push({
          line: at - 1,
          from: 0,
          to: line.length,
          message: `repeats within more than ${DEEPEST} others`,
        });
      const body = readBlock(lines, at, indent, names, inner, problems, depth + 1);
      if (body.steps.length === 0 && !problems.some((one) => one.line >= at))
        problems.push({
          line: at - 1,
          from: indent,
          to: line.length,
          message: 'repeats nothing: steps stand behind the colon, or further in on the next lines',
        });
      read[read.length - 1] = { ...last, steps: body.steps };
      at = body.next;
    }
    append(steps, read);
  }
  return { steps, next: at };
}

const withName = (step: Step): string[] => {
  const name = step.values.get('with');
  return typeof name === 'string' ? [name] : [];
};

/** The steps of one line from a column on, parted by semicolons; a repetition takes the rest of the line. */
function readSteps(
  line: string,
  number: number,
  from: number,
  names: Names,
  variables: ReadonlySet<string>,
  problems: ScriptProblem[],
  depth: number,
): Step[] {
  const { words, bad } = wordsOf(line);
  const steps: Step[] = [];
  if (bad !== undefined) {
    problems.push({ line: number, from: bad, to: bad + 1, message: `no script has "${line[bad]}" here` });
    return steps;
  }
  let rest = words.filter((one) => one.from >= from);
  while (rest.length > 0) {
    const semicolon = rest.findIndex((one) => one.text === ';' && one.kind === 'symbol');
    const isRepeat = rest[0]?.text === 'repeat';
    const own = isRepeat || semicolon < 0 ? rest : rest.slice(0, semicolon);
    rest = isRepeat || semicolon < 0 ? [] : rest.slice(semicolon + 1);
    if (own.length === 0) continue;
    const read = readStep(line, own, names, variables);
    const [begin, end] = [(own[0] as Word).from, (own.at(-1) as Word).to];
    if ('message' in read) {
      problems.push({ line: number, ...read });
      continue;
    }
    const { form, values, stepsFrom } = read;
    const step: Step = { form, line: number, text: line.slice(begin, end), values };
    if (form !== 'repeat') {
      steps.push(step);
      continue;
    }
    const inner = new Set([...variables, ...withName(step)]);
    const inline =
      stepsFrom === undefined ? [] : readSteps(line, number, stepsFrom, names, inner, problems, depth + 1);
    steps.push({ ...step, steps: inline });
  }
  return steps;
}

interface Read {
  form: FormId;
  values: Map<string, Captured>;
  /** Where the steps of a repetition begin on its line. */
  stepsFrom?: number;
}

function readStep(
  line: string,
  words: readonly Word[],
  names: Names,
  variables: ReadonlySet<string>,
): Read | Omit<ScriptProblem, 'line'> {
  const failure: Failure = { at: 0, expected: [] };
  for (const { id, slots } of FORMS) {
    const matcher = new Matcher(line, words, names, variables, failure);
    for (const { at, values, stepsFrom } of matcher.sequence(slots, { at: 0, values: new Map() })) {
      if (at === words.length) return { form: id, values, ...(stepsFrom === undefined ? {} : { stepsFrom }) };
      fail(failure, at, { word: 'the end of the step' });
    }
  }
  const word = words[failure.at];
  const from = word?.from ?? (words.at(-1) as Word).to;
  return {
    from,
    to: word?.to ?? from,
    message:
      failure.message ??
      `${word ? `"${word.text}" is not understood` : 'something is missing'}; ${expectedText(failure.expected)}`,
  };
}

/** What would be understood behind the words of an unfinished line. */
export function expectedAfter(
  line: string,
  names: Names,
  variables: ReadonlySet<string> = new Set(),
): Expected[] {
  const { words } = wordsOf(line);
  const last = words.map((one) => one.text).lastIndexOf(';');
  const own = words.slice(last + 1);
  const colon = own[0]?.text === 'repeat' ? own.findIndex((one) => one.text === ':') : -1;
  const used = colon < 0 ? own : own.slice(colon + 1);
  const failure: Failure = { at: 0, expected: [] };
  for (const { slots } of FORMS) {
    const matcher = new Matcher(line, used, names, variables, failure);
    for (const { at } of matcher.sequence(slots, { at: 0, values: new Map() }))
      fail(failure, at, { word: '' });
  }
  return failure.at < used.length
    ? []
    : failure.expected.filter((one) => !('word' in one) || one.word !== '');
}

/** What must be first is first. */
function checkOrder(steps: readonly Step[], problems: ScriptProblem[]): void {
  const walk = (list: readonly Step[], top: boolean): void => {
    list.forEach((step, at) => {
      if (step.form === 'start' && !(top && at === 0))
        problems.push({
          line: step.line,
          from: 0,
          to: step.text.length,
          message: 'what a script starts from is its first line',
        });
      if (step.steps) walk(step.steps, false);
    });
  };
  walk(steps, true);
}
