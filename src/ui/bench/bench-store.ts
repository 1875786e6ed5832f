'use client';

import { useSyncExternalStore } from 'react';
import { isInitialised, switchOn } from '@/core/bench/engine/engine';
import { type StepReport, stepWithReport } from '@/core/bench/engine/steps';
import { type BenchFault, type FaultResult, faultText, withFault } from '@/core/bench/faults/faults';
import { entriesSince, entryText } from '@/core/bench/recording/events-in-words';
import {
  type Breakpoint,
  canGoBack,
  goBack,
  type LineOutcome,
  linesOn,
  newRecording,
  playLine,
  type Recording,
  recordedLines,
  replayed,
  runTo,
} from '@/core/bench/recording/recording';
import { namesIn } from '@/core/bench/script/names';
import { parseScript } from '@/core/bench/script/parse';
import { startOf } from '@/core/bench/script/run';
import type { Difference } from '@/core/bench/trace/compare';
import type { LaidOver } from '@/core/bench/trace/lay-over';
import type { Vcd } from '@/core/bench/trace/vcd-read';
import type { Derived } from '@/core/derive/derive';
import { runBenchTask } from '../client/bench-worker';
import type { PlanSession } from '../client/plan-session';

/** A line that was played, and what came of it. */
export interface PlayedLine {
  text: string;
  says: string;
  bad: boolean;
  /** How many lines had been played then. */
  after: number;
}

export const NOT_YET = -1;

/** A recording from elsewhere that is laid over the lanes: a logic analyser's, or another revision's. */
export interface Overlay {
  name: string;
  /** By signal. */
  lanes: LaidOver;
  /** What is added to its times, in nanoseconds. */
  offset: number;
  tolerance: number;
  differences: ReadonlyMap<string, readonly Difference[]>;
  /** Up to when it has been compared; {@link NOT_YET} when the plan has changed since. */
  upTo: number;
  /** What of the play could not be played there. */
  lacks?: string | undefined;
  source: OverlaySource;
}

/** A logic analyser's recording, or another plan or kept revision on which the same is played. */
export type OverlaySource = { kind: 'board'; vcd: Vcd } | { kind: 'plan' | 'revision'; derived: Derived };

/** Every single fault, tried with the trials of a plan. */
export type FaultSearch =
  | { kind: 'idle' }
  | { kind: 'working'; done: number; of: number; stop(): void }
  | { kind: 'done'; derived: Derived; results: readonly FaultResult[]; unusable: readonly string[] }
  | { kind: 'failed'; message: string };

/** Of one line so much is said. */
const MOST_SAID = 12;

/** The bench of an open plan: what is played, and what of it is looked at. */
export class BenchStore {
  recording: Recording;
  /** Grows with each change, so that whoever draws knows. */
  version = 0;
  said: PlayedLine[] = [];
  fault: BenchFault | undefined;
  overlay: Overlay | undefined;
  /** Nanoseconds. */
  cursors: { a: number | undefined; b: number | undefined } = { a: undefined, b: undefined };
  breakpoints: Breakpoint[] = [];
  /** What trying every single fault has come to; it stays while other things are looked at and trials are changed. */
  faultSearch: FaultSearch = { kind: 'idle' };
  /** An operation that is looked at; the one that was done last when nothing is chosen. */
  shown: number | undefined;
  running = false;
  private reports: { key: string; derived: Derived; list: StepReport[] } | undefined;
  /** The lines that were played, as somebody last left them. */
  private kept: string[] = [];
  private readonly listeners = new Set<() => void>();
  private timer = 0;

  constructor(derived: Derived) {
    this.recording = newRecording(derived);
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  changed(): void {
    this.kept = recordedLines({ ...this.recording, start: undefined });
    this.version++;
    for (const one of this.listeners) one();
  }

  /** The plan has changed: what was played is played again. Whoever draws the plan anew draws the bench with it. */
  follow(derived: Derived): void {
    if (derived === this.recording.derived) return;
    this.halt();
    // Laid over the plan as it is now when it is compared again.
    if (this.overlay) this.overlay = { ...this.overlay, upTo: NOT_YET };
    const { start } = this.recording;
    // All that was played, also what could not be played on a plan in between.
    this.kept = linesOn(this.kept, this.recording.derived, derived);
    this.recording = replayed(derived, start, this.kept, this.options(derived));
    const [refused] = this.recording.refused;
    if (refused)
      this.say(refused.line, `cannot be played on the plan as it is now: ${refused.message}`, true);
    this.version++;
  }

  private options(derived: Derived) {
    return this.fault ? withFault(derived, this.fault) : {};
  }

  /** Begins anew, from where it began. */
  restart(): void {
    this.restartFrom(this.recording.start);
  }

  /** Begins anew from a line like `start from random 7`; from reset without one. */
  restartFrom(start: string | undefined): void {
    this.halt();
    const { derived } = this.recording;
    this.recording = newRecording(derived, start, this.options(derived));
    this.said = [];
    this.shown = undefined;
    this.cursors = { a: undefined, b: undefined };
    this.changed();
  }

  /** Puts a fault in, or takes it out, and plays what was played again. */
  breakIt(fault: BenchFault | undefined): void {
    const { derived, start } = this.recording;
    const lines = recordedLines({ ...this.recording, start: undefined });
    this.fault = fault;
    this.recording = replayed(derived, start, lines, this.options(derived));
    if (fault) this.say('', `fault: ${faultText(derived, fault)}`, true);
    this.shown = undefined;
    this.changed();
  }

  play(text: string): LineOutcome {
    const { log, operation } = this.recording.play.bench.state;
    const first = log.first + log.entries.length;
    const bare = operation === 0 && !this.isOver && this.recording.lines.length === 0;
    const outcome = playLine(this.recording, text);
    const [problem] = outcome.problems;
    if (problem) this.say(text, problem.message, true);
    else this.sayWhatHappened(text, first);
    for (const { text: step, message } of outcome.faults) this.say(step, message, true);
    for (const check of outcome.checks)
      this.say(
        check.text,
        check.passed ? `so it is${check.message ? `: ${check.message}` : ''}` : check.message,
        !check.passed,
      );
    if (bare && !problem && this.recording.play.bench.state.operation === 0)
      this.say(
        '',
        'the part is not initialised: its pads are as at reset. Run it first (space), unless this is what you mean; kept as a trial, it is played without, too.',
        true,
      );
    this.shown = undefined;
    this.changed();
    return outcome;
  }

  /** Calls with the registers that they read and wrote, handlers that ran. */
  private sayWhatHappened(text: string, first: number): void {
    const { bench } = this.recording.play;
    const found = entriesSince(bench, first).flatMap((entry) => {
      const says = entryText(bench, entry);
      if (says === undefined) return [];
      return [
        {
          text: entry.kind === 'call' ? entry.text : '',
          says,
          bad: entry.kind === 'interrupt' && entry.missed,
        },
      ];
    });
    const isOne = found.length === 1 && found[0]?.text === text;
    if (!isOne && !/^\s*expect\b/.test(text)) this.say(text, '', false);
    for (const one of found.slice(0, MOST_SAID)) this.say(one.text, one.says, one.bad);
    if (found.length > MOST_SAID) this.say('', `and ${found.length - MOST_SAID} more`, false);
  }

  say(text: string, says: string, bad: boolean): void {
    this.said = [...this.said.slice(-99), { text, says, bad, after: this.recording.lines.length }];
  }

  back(): void {
    this.halt();
    goBack(this.recording);
    this.said = this.said.filter((one) => one.after <= this.recording.lines.length);
    this.shown = undefined;
    this.changed();
  }

  get canGoBack(): boolean {
    return canGoBack(this.recording);
  }

  /** The stage behind the one of the next operation. */
  private get nextStage(): string {
    const { setup, state } = this.recording.play.bench;
    const now = setup.operations[state.operation]?.stage;
    return setup.operations.slice(state.operation).find((one) => one.stage !== now)?.stage ?? '';
  }

  /** All operations have been done, or the code has stopped. */
  get isOver(): boolean {
    return isInitialised(this.recording.play.bench);
  }

  step(): void {
    if (!this.isOver) this.play('step 1');
  }

  stepStage(): void {
    if (!this.isOver) this.runTo({ kind: 'stage', stage: this.nextStage });
  }

  /** All operations that are left; after that time runs, or stands still. */
  runOrPause(): void {
    if (this.isOver) this.run(!this.running);
    else this.play('initialise');
  }

  /** To the operation behind one, by stepping on or by going back. */
  goTo(operation: number): void {
    const { derived, start, play } = this.recording;
    const now = play.bench.state.operation;
    if (operation < now) {
      this.recording = newRecording(derived, start, this.options(derived));
      if (operation > 0) playLine(this.recording, `step ${operation}`);
    } else if (operation > now) playLine(this.recording, `step ${operation - now}`);
    this.shown = undefined;
    this.changed();
  }

  runTo(stop: Breakpoint): number {
    const count = runTo(this.recording, stop);
    this.shown = undefined;
    this.changed();
    return count;
  }

  /** What each operation does, from this start on. */
  stepReports(): readonly StepReport[] {
    const { derived, start } = this.recording;
    const key = `${start ?? ''} ${JSON.stringify(this.fault ?? null)}`;
    if (this.reports?.derived === derived && this.reports.key === key) return this.reports.list;
    const script = parseScript(start === undefined ? [] : [start], namesIn(derived));
    const bench = switchOn(derived, startOf(derived, script), this.options(derived));
    const list: StepReport[] = [];
    for (let report = stepWithReport(bench); report; report = stepWithReport(bench)) list.push(report);
    this.reports = { key, derived, list };
    return list;
  }

  /** Time runs as it does, or stands still. */
  run(on: boolean): void {
    this.halt();
    this.running = on;
    if (on) {
      let last = performance.now();
      const tick = (): void => {
        const now = performance.now();
        const milliseconds = Math.floor(now - last);
        if (milliseconds >= 15) {
          last += milliseconds;
          playLine(this.recording, `wait ${milliseconds} ms`);
          mergeWaits(this.recording);
          this.changed();
        }
        this.timer = requestAnimationFrame(tick);
      };
      this.timer = requestAnimationFrame(tick);
    }
    this.changed();
  }

  private halt(): void {
    cancelAnimationFrame(this.timer);
    this.running = false;
  }

  /** Tries every single fault in a worker. */
  async searchFaults(): Promise<void> {
    const { derived } = this.recording;
    const run = runBenchTask(
      { kind: 'faults', description: derived.device.description, plan: derived.plan },
      (done, of) => this.setFaultSearch({ kind: 'working', done, of, stop: run.stop }),
    );
    this.setFaultSearch({ kind: 'working', done: 0, of: 1, stop: run.stop });
    const answer = await run.result;
    if (answer === 'stopped') this.setFaultSearch({ kind: 'idle' });
    else if (answer.kind === 'faults')
      this.setFaultSearch({ kind: 'done', derived, results: answer.results, unusable: answer.unusable });
    else this.setFaultSearch({ kind: 'failed', message: answer.kind === 'failed' ? answer.message : '' });
  }

  private setFaultSearch(search: FaultSearch): void {
    this.faultSearch = search;
    this.changed();
  }

  lookAt(operation: number | undefined): void {
    this.shown = operation;
    this.changed();
  }

  setCursors(cursors: BenchStore['cursors']): void {
    this.cursors = cursors;
    this.changed();
  }

  lay(overlay: Overlay | undefined): void {
    this.overlay = overlay;
    this.changed();
  }
}

/** While time runs, one line says how long: going back takes all of it back. */
function mergeWaits({ lines, past }: Recording): void {
  const [one, two] = [/^wait (\d+) ms$/.exec(lines.at(-2) ?? ''), /^wait (\d+) ms$/.exec(lines.at(-1) ?? '')];
  const [earlier] = past.slice(-2);
  if (!one || !two || !earlier) return;
  const text = `wait ${Number(one[1]) + Number(two[1])} ms`;
  lines.splice(-2, 2, text);
  past.splice(-2, 2, { ...earlier, line: text });
}

const stores = new WeakMap<PlanSession, BenchStore>();

/** The one bench of an open plan, of the plan as it is now: it stays while other views are looked at. */
export function benchOf(session: PlanSession, derived: Derived): BenchStore {
  let store = stores.get(session);
  if (!store) {
    store = new BenchStore(derived);
    stores.set(session, store);
  }
  store.follow(derived);
  return store;
}

/** Draws again whenever something on the bench has changed. */
export const useBenchVersion = (store: BenchStore): number =>
  useSyncExternalStore(
    store.subscribe,
    () => store.version,
    () => 0,
  );

/** Which operation is looked at: the chosen one, the last one done, or the first. */
export const shownOperation = (store: BenchStore): number =>
  store.shown ?? Math.max(0, store.recording.play.bench.state.operation - 1);
