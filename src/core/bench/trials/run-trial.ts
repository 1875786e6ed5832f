import type { Derived } from '../../derive/derive';
import type { Trial } from '../../plan/model/types';
import type { SetupOptions } from '../engine/setup';
import { namesIn } from '../script/names';
import { parseScript } from '../script/parse';
import type { Check, Fault, Play } from '../script/play';
import { withNames } from '../script/rename';
import { playScript } from '../script/run';

/** What came of a trial. */
export interface TrialResult {
  trial: Trial;
  /** Everything that was expected came, every line could be read and done, and something was expected. */
  passed: boolean;
  checks: readonly Check[];
  /** Lines that cannot be read, and steps that cannot be done. */
  faults: readonly Fault[];
  /** How long the play took on the bench, in nanoseconds. */
  nanoseconds: number;
  /** Nets of which something is expected, and whether all of that came. */
  nets: ReadonlyMap<string, boolean>;
}

/** Plays a trial of the plan. */
export function runTrial(derived: Derived, trial: Trial, options: SetupOptions = {}): TrialResult {
  return playTrial(derived, trial, options).result;
}

/** Plays a trial of the plan; the play itself, too, for whoever looks at its traces. */
export function playTrial(
  derived: Derived,
  trial: Trial,
  options: SetupOptions = {},
): { result: TrialResult; play: Play } {
  const script = parseScript(trial.lines, namesIn(derived));
  const play = playScript(derived, script, options);
  const unread = script.problems.map(
    ({ line, message }): Fault => ({ line, text: trial.lines[line] ?? '', message }),
  );
  return { result: resultOf(derived, trial, play, unread), play };
}

function resultOf(derived: Derived, trial: Trial, play: Play, unread: readonly Fault[]): TrialResult {
  const names = namesIn(derived);
  const named = <T extends { text: string }>(one: T): T => ({ ...one, text: withNames(one.text, names) });
  const faults = [...unread, ...play.faults].sort((a, b) => a.line - b.line).map(named);
  const nets = new Map<string, boolean>();
  for (const { nets: watched, passed } of play.checks)
    for (const net of watched) nets.set(net, passed && (nets.get(net) ?? true));
  return {
    trial,
    passed: faults.length === 0 && play.checks.length > 0 && play.checks.every((one) => one.passed),
    checks: play.checks.map(named),
    faults,
    nanoseconds: play.bench.state.time,
    nets,
  };
}

/** In a few words why a trial did not pass. */
export function whyFailed({ checks, faults }: TrialResult): string | undefined {
  const fault = faults[0];
  if (fault) return `line ${fault.line + 1}: ${fault.message}`;
  const check = checks.find((one) => !one.passed);
  if (check) return `line ${check.line + 1}, ${check.text}: ${check.message}`;
  return checks.length === 0 ? 'it expects nothing' : undefined;
}
