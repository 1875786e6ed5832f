import { checkpoint, restored } from '../engine/checkpoint';
import { advance } from '../engine/engine';
import { nextTime } from '../engine/events';
import type { Bench } from '../engine/sync';
import { type Answer, holds, meetEvent, type Scope, sinceNow, watchedBy } from './conditions';
import { isOver, type Play } from './play';
import type { Step } from './steps';
import { timeText } from './time-text';

/** Lets time pass until a condition holds, or until a time is over. */
export function awaitCondition(
  bench: Bench,
  { values }: Step,
  scope: Scope,
  nanoseconds: number,
): { is: Answer; instead: string; took: number } {
  const began = bench.state.time;
  const until = began + nanoseconds;
  const since = sinceNow(bench, values);
  for (;;) {
    const now = holds(bench, values, scope, since);
    if (now.is === true) {
      meetEvent(bench, values);
      return { ...now, took: bench.state.time - began };
    }
    const next = nextTime(bench.state.events);
    if (next > until || isOver(bench)) {
      advance(bench, until);
      const last = holds(bench, values, scope, since);
      if (last.is === true) meetEvent(bench, values);
      return { ...last, took: nanoseconds };
    }
    advance(bench, next);
  }
}

/** How much longer is looked for something that did not come in time, to say how long it takes. */
const LOOKED_ON = 100;

export function expect(play: Play, step: Step, scope: Scope): void {
  const { bench } = play;
  const { values } = step;
  if (values.get('when') !== undefined) {
    play.whole.push({ step });
    return;
  }
  const within = values.get('within') as number | undefined;
  const lasting = values.get('for') as number | undefined;
  if (within !== undefined) {
    const { is, instead, took } = awaitCondition(bench, step, scope, within);
    addCheck(
      play,
      step,
      is,
      is === true ? `took ${timeText(took)}` : lateText(bench, step, scope, within, instead),
    );
  } else if (lasting !== undefined) {
    const { is, instead, time } = staysSo(bench, step, scope, lasting);
    addCheck(play, step, is, instead, time);
  } else {
    const { is, instead } = holds(bench, values, scope, sinceNow(bench, values));
    if (is === true) meetEvent(bench, values);
    addCheck(play, step, is, instead);
  }
}

/** What did not come in time: does it come later? The bench is put back afterwards. */
function lateText(bench: Bench, step: Step, scope: Scope, within: number, instead: string): string {
  const before = checkpoint(bench.setup, bench.state);
  const late = awaitCondition(bench, step, scope, within * LOOKED_ON);
  const text = late.is === true ? `took ${timeText(within + late.took)}` : instead;
  bench.state = restored(bench.setup, bench.state, before);
  return text;
}

/** Whether a condition holds all the time for a while. */
function staysSo(
  bench: Bench,
  { values }: Step,
  scope: Scope,
  nanoseconds: number,
): { is: Answer; instead: string; time?: number } {
  const until = bench.state.time + nanoseconds;
  const since = sinceNow(bench, values);
  for (;;) {
    const now = holds(bench, values, scope, since);
    if (now.is !== true) {
      const { time } = bench.state;
      advance(bench, until);
      return { ...now, time };
    }
    const next = nextTime(bench.state.events);
    if (next > until || isOver(bench)) break;
    advance(bench, next);
  }
  advance(bench, until);
  return holds(bench, values, scope, since);
}

export function addCheck(
  play: Play,
  step: Step,
  is: Answer,
  message: string,
  time = play.bench.state.time,
): void {
  const passed = is === true;
  play.checks.push({
    line: step.line,
    text: step.text,
    passed,
    message,
    time,
    nets: watchedBy(step.values),
  });
}
