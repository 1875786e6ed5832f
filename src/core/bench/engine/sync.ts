import { nextState, partOf } from '../../base/random';
import { bitsOf, showBits } from '../../derive/machine/state';
import type { Clock } from '../attached/types';
import type { Element } from '../circuit/elements';
import { currentThrough } from '../circuit/solve';
import type { PadState } from '../pads/pad-state';
import { addChange, HIGH, type Lane, LOW, levelOf } from '../trace/lanes';
import type { BenchPad } from './bench-pad';
import { codeOf, setStage, solveComponent } from './electrics';
import { addEvent } from './events';
import { noticeFindings } from './findings';
import { holdFlag, noticeEdge, noticeLevel } from './interrupts';
import { causeNow } from './log';
import type { Setup } from './setup';
import type { BenchState } from './state';
import type { BenchPart, Component } from './wiring';

/** A bench at work: what stays, what changes, and what is to be looked at. */
export interface Bench {
  setup: Setup;
  state: BenchState;
  /** Components that something has happened to, each once, and whether it is among them. */
  dirty: number[];
  isDirty: Uint8Array;
  /** For each part the time, and chance. */
  clocks: readonly Clock[];
  amperes(element: Element): number;
  /** Time alone has changed a register. */
  onArrival(): void;
}

export function newBench(setup: Setup, state: BenchState): Bench {
  const bench: Bench = {
    setup,
    state,
    dirty: [],
    isDirty: new Uint8Array(setup.components.length),
    clocks: [],
    amperes: (element) => currentThrough(element, bench.state.volts),
    onArrival: () => sync(bench),
  };
  bench.clocks = setup.parts.map((_, part) => new PartClock(bench, part));
  return bench;
}

class PartClock implements Clock {
  constructor(
    private readonly bench: Bench,
    private readonly part: number,
  ) {}

  get now(): number {
    return this.bench.state.time;
  }

  wakeAt(time: number): void {
    addEvent(this.bench.state.events, time, this.part);
  }

  chance(): number {
    const { state } = this.bench;
    state.chance = nextState(state.chance);
    return partOf(state.chance);
  }
}

/** Something has happened to what is joined to a pad. */
export function touch({ setup, dirty, isDirty }: Bench, pad: number): void {
  const component = setup.componentOf[pad] as number;
  if (isDirty[component] === 1) return;
  isDirty[component] = 1;
  dirty.push(component);
}

/** Everything is to be looked at. */
export function touchAll(bench: Bench): void {
  for (const { index } of bench.setup.pads) touch(bench, index);
}

/** Things that answer each other this often in no time are going round in a circle. */
const MOST_ROUNDS = 100;

/**
 * Brings pads, voltages, levels, and what follows from levels, up to what registers and parts are now. `first`: everything is looked
 * at.
 */
export function sync(bench: Bench, first = false): void {
  const { setup, state, dirty, isDirty } = bench;
  if (first) {
    for (const { index } of setup.pads) setStage(setup, state, index);
    touchAll(bench);
    state.seenKnown.set(state.machine.known);
    state.seenValue.set(state.machine.value);
  }
  for (let round = 0; round < MOST_ROUNDS; round++) {
    if (state.machine.changed.count > 0) readPads(bench);
    if (dirty.length === 0) return;
    for (let at = dirty.pop(); at !== undefined; at = dirty.pop()) {
      isDirty[at] = 0;
      settle(bench, setup.components[at] as Component);
    }
  }
}

/** Looks at the pads of which register bits have changed. */
function readPads(bench: Bench): void {
  const { setup, state } = bench;
  const { machine, seenKnown, seenValue } = state;
  // Flags that are held up join the end of the list, and are looked at as well.
  for (let at = 0; at < machine.changed.count; at++) {
    const word = machine.changed.list[at] as number;
    const flagged = setup.flags.size > 0 ? setup.flags.get(word) : undefined;
    if (flagged) for (const pad of flagged) holdFlag(state, setup.pads[pad] as BenchPad);
    const known = machine.known[word] as number;
    const value = machine.value[word] as number;
    const changed = (known ^ (seenKnown[word] as number)) | ((value ^ (seenValue[word] as number)) & known);
    seenKnown[word] = known;
    seenValue[word] = value;
    const watchers = setup.watchers[word];

    if (watchers)
      for (let left = changed & watchers.mask; left !== 0; left &= left - 1)
        for (const pad of watchers.byBit[31 - Math.clz32(left & -left)] as readonly number[])
          readPad(bench, pad);
    const inverted = setup.inverters.size > 0 ? setup.inverters.get(word) : undefined;
    if (inverted) for (const pad of inverted) showLevel(setup.pads[pad] as BenchPad, state);
  }
  machine.changed.clear();
}

function readPad(bench: Bench, index: number): void {
  const { setup, state } = bench;
  const pad = setup.pads[index] as BenchPad;
  const before = state.states[index] as PadState;
  const now = pad.reader.read(state.machine);
  if (now === before) return;
  state.states[index] = now;
  setStage(setup, state, index);
  touch(bench, index);
  if (now.trigger !== before.trigger) noticeLevel(setup, state, pad);
}

/** A voltage that changes by more than this part of the supply is a change of the lane. */
const SEEN_CHANGE = 0.005;

/** Solves a component, and says to all concerned what has come of it. */
function settle(bench: Bench, component: Component): void {
  const { setup, state } = bench;
  solveComponent(setup, state, component);
  for (const index of component.parts) {
    const { attached } = setup.parts[index] as BenchPart;
    attached.settle?.(bench.amperes, bench.clocks[index] as Clock);
  }
  for (const node of component.nodes) {
    const pad = setup.pads[node] as BenchPad;
    const code = codeOf(setup, state, node);
    const before = state.codes[node] as number;
    const volts = state.volts[node] as number;
    const lane = state.lanes[node] as Lane;
    if (code === before) {
      const drawn = lane.volts[lane.length - 1] as number;
      if (Math.abs(volts - drawn) > SEEN_CHANGE * pad.supplyVolts)
        addChange(lane, state.time, code, volts, causeNow(state.log));
    } else {
      state.codes[node] = code;
      addChange(lane, state.time, code, volts, causeNow(state.log));
      levelChanged(bench, pad, code);
    }
    noticeFindings(setup, state, pad, code);
  }
}

function levelChanged(bench: Bench, pad: BenchPad, code: number): void {
  const { setup, state } = bench;
  const level = levelOf(code);
  showLevel(pad, state);
  if (level !== LOW && level !== HIGH) return;
  const before = state.definite[pad.index] as number;
  if (before === level) return;
  state.definite[pad.index] = level;
  // A keeper takes the new level over.
  if ((state.states[pad.index] as PadState).pull === 'keeper') {
    setStage(setup, state, pad.index);
    touch(bench, pad.index);
  }
  if (before <= HIGH) noticeEdge(bench.setup, state, pad, level === HIGH);
}

/** Puts the level of a pad where the firmware reads it; one that is neither low nor high is not known there. */
function showLevel(pad: BenchPad, state: BenchState): void {
  if (pad.shows.length === 0) return;
  const level = levelOf(state.codes[pad.index] as number);
  const reads = (state.states[pad.index] as PadState).reads && level <= HIGH;
  for (const { register, bit, inverted, by } of pad.shows) {
    const turned = by ? bitsOf(state.machine, by.register) : undefined;
    const knows = reads && (!by || ((turned?.known ?? 0) >>> by.bit) & 1);
    const turns = by ? (((turned?.value ?? 0) >>> by.bit) & 1) === 1 : inverted;
    const shown = ((level === HIGH) !== turns ? 1 : 0) << bit;
    showBits(state.machine, register, 1 << bit, knows ? 1 << bit : 0, shown);
  }
}
