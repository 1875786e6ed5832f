import { append } from '../../base/lists';
import type { Derived } from '../../derive/derive';
import { bitsOf } from '../../derive/machine/state';
import type { Register } from '../../device/registers/types';
import { type Checkpoint, checkpoint, restored } from '../engine/checkpoint';
import { isInitialised, stepOperation, switchOn } from '../engine/engine';
import type { SetupOptions } from '../engine/setup';
import { namesIn } from '../script/names';
import { parseScript } from '../script/parse';
import { allowSteps, type Check, type Fault, type Play } from '../script/play';
import { withIds, withNames } from '../script/rename';
import { finish, runSteps, startOf } from '../script/run';
import type { ScriptProblem, Step } from '../script/steps';

/**
 * A play as somebody makes it, line by line: each click and each typed line is a line of a script, so that what was played can be
 * kept as a trial. Every line can be taken back.
 */
export interface Recording {
  derived: Derived;
  /** What it starts from, as a first line; absent for reset. */
  start: string | undefined;
  options: SetupOptions;
  lines: string[];
  play: Play;
  /** The bench before each line. */
  past: Past[];
  /** Lines of a play that was played again which cannot be played here, and why. */
  refused: { line: string; message: string }[];
}

interface Past {
  line: string;
  before: Checkpoint;
  checks: number;
  faults: number;
  whole: number;
}

/** What came of a line. */
export interface LineOutcome {
  problems: readonly ScriptProblem[];
  checks: readonly Check[];
  faults: readonly Fault[];
}

/** Operations and events of one line: the page waits for them. */
const MOST_STEPS = 2_000_000;

/** Lines that are kept to be taken back; the bench before earlier ones is forgotten. */
const MOST_PAST = 400;

/** A bench, switched on, and nothing played yet. `start` is a line like `start from random 7`. */
export function newRecording(derived: Derived, start?: string, options: SetupOptions = {}): Recording {
  const script = parseScript(start === undefined ? [] : [start], namesIn(derived));
  const bench = switchOn(derived, startOf(derived, script), options);
  return {
    derived,
    start,
    options,
    lines: [],
    play: { bench, checks: [], faults: [], whole: [], steps: 0 },
    past: [],
    refused: [],
  };
}

/** Plays one more line, or several that belong together. What cannot be read changes nothing. */
export function playLine(recording: Recording, text: string): LineOutcome {
  const { play, derived } = recording;
  const lines = text.split('\n');
  const { steps, problems } = parseScript(lines, namesIn(derived));
  if (problems.length > 0 || steps.length === 0) return { problems, checks: [], faults: [] };
  const first = steps[0] as Step;
  if (first.form === 'start') {
    const message = 'what the bench starts from is chosen above; the play begins anew then';
    return { problems: [{ line: 0, from: 0, to: text.length, message }], checks: [], faults: [] };
  }
  remember(recording, text);
  allowSteps(play.bench, MOST_STEPS);
  const [checks, faults] = [play.checks.length, play.faults.length];
  const at = recording.lines.length - lines.length;
  runSteps(
    play,
    steps.map((step) => moved(step, at)),
    () => undefined,
  );
  return { problems: [], checks: play.checks.slice(checks), faults: play.faults.slice(faults) };
}

/** A step as it stands in the whole recording. */
const moved = (step: Step, by: number): Step => ({
  ...step,
  line: step.line + by,
  ...(step.steps ? { steps: step.steps.map((one) => moved(one, by)) } : {}),
});

function remember(recording: Recording, line: string): void {
  const { play, past, lines } = recording;
  past.push({
    line,
    before: checkpoint(play.bench.setup, play.bench.state),
    checks: play.checks.length,
    faults: play.faults.length,
    whole: play.whole.length,
  });
  if (past.length > MOST_PAST) past.shift();
  append(lines, line.split('\n'));
}

export const canGoBack = ({ past }: Recording): boolean => past.length > 0;

/** Takes the last line back. */
export function goBack(recording: Recording): void {
  const { play, past, lines } = recording;
  const last = past.pop();
  if (!last) return;
  play.bench.state = restored(play.bench.setup, play.bench.state, last.before);
  play.checks.length = last.checks;
  play.faults.length = last.faults;
  play.whole.length = last.whole;
  lines.length -= last.line.split('\n').length;
}

/** What is expected of the whole play, as far as it has come. */
export function wholeSoFar({ play }: Recording): Check[] {
  const copy: Play = { ...play, checks: [], whole: [...play.whole] };
  finish(copy);
  return copy.checks;
}

/** Where stepping stops. */
export type Breakpoint =
  | { kind: 'stage'; stage: string }
  /** The pad of a net is something else, or has another level. */
  | { kind: 'net'; net: string }
  | { kind: 'pad'; pad: string }
  | { kind: 'register'; register: string; mask: number };

/** Steps until a breakpoint is met, or the initialisation is over; the number of operations done. */
export function runTo(recording: Recording, stop: Breakpoint): number {
  const { bench } = recording.play;
  const looks = lookOf(recording, stop);
  const first = looks();
  remember(recording, '');
  let count = 0;
  while (!isInitialised(bench)) {
    if (
      stop.kind === 'stage' &&
      count > 0 &&
      bench.setup.operations[bench.state.operation]?.stage === stop.stage
    )
      break;
    const goesOn = stepOperation(bench);
    count++;
    if (!goesOn || looks() !== first) break;
  }
  recording.lines.pop();
  const past = recording.past.at(-1);
  if (count === 0 || !past) {
    recording.past.pop();
    return 0;
  }
  past.line = `step ${count}`;
  recording.lines.push(past.line);
  return count;
}

/** What a breakpoint looks at, as a text that differs when it is met. */
function lookOf({ play, derived }: Recording, stop: Breakpoint): () => string {
  const { bench } = play;
  switch (stop.kind) {
    case 'stage':
      return () => '';
    case 'net':
    case 'pad': {
      const at = stop.kind === 'net' ? bench.setup.byNet.get(stop.net) : bench.setup.byPad.get(stop.pad);
      let number = 0;
      let last: unknown;
      return () => {
        const state = at === undefined ? undefined : bench.state.states[at];
        if (state !== last) number++;
        last = state;
        return `${number} ${at === undefined ? '' : bench.state.codes[at]}`;
      };
    }
    case 'register': {
      const register: Register | undefined = derived.device.registers.byName.get(stop.register);
      return () => {
        if (!register) return '';
        const { known, value } = bitsOf(bench.state.machine, register);
        return `${known & stop.mask} ${value & known & stop.mask}`;
      };
    }
  }
}

/** Plays lines anew from the start: for a plan that has changed, or to go to an earlier place. */
export function replayed(
  derived: Derived,
  start: string | undefined,
  lines: readonly string[],
  options: SetupOptions = {},
): Recording {
  const recording = newRecording(derived, start, options);
  for (const line of blocksOf(lines)) {
    const { problems, faults } = playLine(recording, line);
    const [wrong] = [...problems, ...faults];
    if (wrong) recording.refused.push({ line, message: wrong.message });
  }
  return recording;
}

/** Lines as they are called on another state of the plan, or another plan with the same nets: nets keep their ids, not their names. */
export function linesOn(lines: readonly string[], before: Derived, now: Derived): string[] {
  if (before === now) return [...lines];
  return lines.map((line) => withNames(withIds(line, namesIn(before)), namesIn(now)));
}

/** Lines, those that are further in with the one that repeats them. */
function blocksOf(lines: readonly string[]): string[] {
  const blocks: string[] = [];
  for (const line of lines) {
    if (/^\s/.test(line) && blocks.length > 0) blocks[blocks.length - 1] += `\n${line}`;
    else if (line.trim() !== '') blocks.push(line);
  }
  return blocks;
}

/**
 * What was played, as the lines of a trial that does the same again. A trial that says nothing of initialisation begins with it, so
 * one that was played without says that it did.
 */
export function trialLines(recording: Pick<Recording, 'start' | 'lines'>): string[] {
  const lines = recordedLines(recording);
  const [first] = lines;
  const starts = first !== undefined && /^\s*start\b/.test(first) ? 1 : 0;
  if (lines.length === starts || lines.some((line) => /^\s*(initialise|step|stage)\b/.test(line)))
    return lines;
  return [...lines.slice(0, starts), 'step 0', ...lines.slice(starts)];
}

/** A recording as the lines of a trial: several steps in a row are one. */
export function recordedLines({ start, lines }: Pick<Recording, 'start' | 'lines'>): string[] {
  const found: string[] = start === undefined ? [] : [start];
  for (const line of lines) {
    const [last, now] = [/^step (\d+)$/.exec(found.at(-1) ?? ''), /^step (\d+)$/.exec(line)];
    const [waited, wait] = [/^wait (\d+) ms$/.exec(found.at(-1) ?? ''), /^wait (\d+) ms$/.exec(line)];
    if (last && now) found[found.length - 1] = `step ${Number(last[1]) + Number(now[1])}`;
    else if (waited && wait) found[found.length - 1] = `wait ${Number(waited[1]) + Number(wait[1])} ms`;
    else found.push(line);
  }
  return found;
}
