import { LIMITS, limitText } from '../../base/limits';
import type { Bench } from '../engine/sync';
import type { Step } from './steps';

/** What came of an expectation. */
export interface Check {
  line: number;
  text: string;
  passed: boolean;
  /** What was instead, where it did not pass. */
  message: string;
  /** Nanoseconds since power-up: when it was decided, or when it first was not so. */
  time: number;
  nets: readonly string[];
}

/** A step that could not be done. */
export interface Fault {
  line: number;
  text: string;
  message: string;
}

/** A play, as far as it has come. */
export interface Play {
  bench: Bench;
  checks: Check[];
  faults: Fault[];
  /** Expectations about the whole play, looked at when it ends. */
  whole: { step: Step }[];
  /** Steps of the script so far, repeated ones counted each time: those that bring nothing about are not free either. */
  steps: number;
}

/** Why a play has to end here; undefined as long as it may go on. */
export const whyOver = (play: Play): string | undefined =>
  isOver(play.bench)
    ? 'goes on for too long: the play ends here, after as many operations and events as one may have'
    : play.steps >= LIMITS.playSteps
      ? `goes on for too long: the play ends here, after ${limitText('playSteps')}`
      : undefined;

/** A play that has gone through so many operations and events is taken to go on for ever, unless other is said. */
const MOST_STEPS = 10_000_000;

/** From now on so many operations and events may be worked through. */
export function allowSteps({ state }: Bench, count = MOST_STEPS): void {
  state.limit = state.steps + count;
}

export const isOver = ({ state }: Bench): boolean => state.steps >= state.limit;
