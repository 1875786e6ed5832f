import type { Machine } from '../../derive/machine/state';
import type { PadState } from '../pads/pad-state';
import { type Lane, newLane } from '../trace/lanes';
import { type Events, noEvents } from './events';
import { type BenchFinding, lastingPlaces } from './finding-kinds';
import type { Log } from './log';
import type { Setup } from './setup';

/** All of a bench that changes while one plays. */
export interface BenchState {
  machine: Machine;
  /** Memory as it was when pads were looked at last. */
  seenKnown: Int32Array;
  seenValue: Int32Array;
  /** Nanoseconds since power-up. */
  time: number;
  /** Which operation is next. */
  operation: number;
  states: PadState[];
  volts: Float64Array;
  codes: Uint8Array;
  /** The last level that was low or high for sure; 2 before there was one. */
  definite: Uint8Array;
  /** What peripherals drive on each pad: 0 low, 1 high, 2 not known. */
  peripheral: Uint8Array;
  /** Of charged nodes: their voltage at a time, where they tend to, and how fast (nanoseconds). */
  charge: {
    volts: Float64Array;
    since: Float64Array;
    towards: Float64Array;
    tau: Float64Array;
    /** When each is to be looked at again. */
    due: Float64Array;
  };
  events: Events;
  /** The state of what is by chance. */
  chance: number;
  lanes: Lane[];
  log: Log;
  findings: BenchFinding[];
  /** Those that last: position in `findings`, from 1, by pad and kind; see {@link lastingPlaces}. */
  lasting: Uint32Array;
  /** Interrupts that have happened and were not acknowledged, and how many went by unseen, by pad. */
  pending: Uint8Array;
  missed: Uint32Array;
  happened: Uint32Array;
  /** How often a pad has woken the part. */
  woken: Uint32Array;
  /** Steps of a script that did something, counted from 1, and by pad in which of them it last interrupted or woke the part. */
  act: number;
  happenedIn: Uint32Array;
  wokenIn: Uint32Array;
  /** Of interrupts by level, by pad: 0 the level is not there, 1 it is and no handler has run for it, 2 it lasts after one has. */
  asks: Uint8Array;
  /** The firmware has done something since initialisation. */
  called: boolean;
  /** Handlers wait: the firmware has turned interrupts off. */
  masked: boolean;
  /** Operations and events that were worked through. */
  steps: number;
  /** When so many have been worked through, nothing happens any more: what goes on for ever ends. */
  limit: number;
  /** How long a cycle of the bus takes, in nanoseconds. */
  cycleNanoseconds: number;
}

/** Of the bus, unless somebody says another. */
export const USUAL_CLOCK_HERTZ = 16e6;

export function newState(setup: Setup, machine: Machine): BenchState {
  const count = setup.pads.length;
  return {
    machine,
    seenKnown: new Int32Array(machine.known.length),
    seenValue: new Int32Array(machine.value.length),
    time: 0,
    operation: 0,
    states: setup.pads.map(({ reader }) => reader.read(machine)),
    volts: new Float64Array(count).fill(Number.NaN),
    codes: new Uint8Array(count).fill(255),
    definite: new Uint8Array(count).fill(2),
    peripheral: new Uint8Array(count).fill(2),
    charge: {
      volts: new Float64Array(count),
      since: new Float64Array(count),
      towards: new Float64Array(count),
      tau: new Float64Array(count),
      due: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
    },
    events: noEvents(),
    chance: 1,
    lanes: setup.pads.map(newLane),
    log: { entries: [], first: 0 },
    findings: [],
    lasting: new Uint32Array(lastingPlaces(count)),
    pending: new Uint8Array(count),
    missed: new Uint32Array(count),
    happened: new Uint32Array(count),
    woken: new Uint32Array(count),
    act: 1,
    happenedIn: new Uint32Array(count),
    wokenIn: new Uint32Array(count),
    asks: new Uint8Array(count),
    called: false,
    masked: false,
    steps: 0,
    limit: Number.POSITIVE_INFINITY,
    cycleNanoseconds: 1e9 / USUAL_CLOCK_HERTZ,
  };
}
