import type { Derived } from '../../derive/derive';
import { mishapText } from '../../derive/machine/mishap-text';
import type { Operation } from '../../derive/machine/operations';
import { perform } from '../../derive/machine/perform';
import { tick } from '../../derive/machine/state';
import type { Act, Clock } from '../attached/types';
import { setStage } from './electrics';
import { nextTime, takeEvent } from './events';
import { noticeAwaited } from './findings';
import { addEntry, causeNow, type LogEntry } from './log';
import { applyHolds, type SetupOptions, setupOf } from './setup';
import { START_TITLES, type StartFrom, startMachine } from './start';
import { newState } from './state';
import { type Bench, newBench, sync, touch } from './sync';

/** A bench, switched on: nothing has been initialised yet. */
export function switchOn(derived: Derived, from: StartFrom, options: SetupOptions = {}): Bench {
  const setup = setupOf(derived, options);
  const machine = startMachine(derived, from);
  const bench = newBench(setup, newState(setup, machine));
  applyHolds(setup, 0);
  note(bench, { time: 0, kind: 'start', text: START_TITLES[from.kind] });
  sync(bench, true);
  return bench;
}

export function note({ state }: Bench, entry: LogEntry): void {
  addEntry(state.log, entry);
}

/** What an operation takes for sure, in cycles; of one that waits for something that is only the least. */
function cyclesOf(operation: Operation): number {
  switch (operation.kind) {
    case 'wait':
      return operation.cycles;
    case 'write':
    case 'read':
    case 'write held':
      return 1;
    case 'await':
      return 0;
    default:
      return 'shadow' in operation && operation.shadow ? 1 : 2;
  }
}

/** Whether there is an operation of initialisation left. */
export const isInitialised = ({ setup, state }: Bench): boolean => state.operation >= setup.operations.length;

/** Does the next operation of initialisation. False when there is none left, or waiting has ended without result and the code stopped. */
export function stepOperation(bench: Bench): boolean {
  const { setup, state } = bench;
  const operation = setup.operations[state.operation];
  if (!operation) return false;
  const index = state.operation;
  state.operation = index + 1;
  state.steps++;
  const entry: LogEntry = { time: state.time, kind: 'operation', index, operation, mishaps: [] };
  note(bench, entry);
  const cause = causeNow(state.log);
  entry.mishaps = run(bench, operation);
  entry.time = state.time;
  for (const mishap of entry.mishaps) {
    if (mishap.perhaps) continue;
    state.findings.push({
      kind: 'lost',
      pad: -1,
      message: `${capital(mishapText(operation, index, mishap))}.`,
      from: state.time,
      until: state.time,
      cause,
    });
  }
  // Code that waits in vain leaves the initialisation.
  if (entry.mishaps.some((one) => one.reason === 'times-out' && !one.perhaps)) {
    state.operation = setup.operations.length;
    letGo(bench);
    return false;
  }
  if (state.operation === setup.operations.length) {
    letGo(bench);
    noticeAwaited(setup, state);
  }
  return true;
}

/** Does all operations of initialisation that are left. */
export function initialise(bench: Bench): void {
  while (stepOperation(bench)) {
    // One after the other.
  }
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** Whoever holds a pin only until initialisation is done lets it go then. */
function letGo(bench: Bench): void {
  if (bench.setup.holds.length === 0) return;
  for (const pad of applyHolds(bench.setup, bench.state.operation)) touch(bench, pad);
  sync(bench);
}

/** Carries an operation out: events that come before its end happen before it. */
export function run(bench: Bench, operation: Operation): ReturnType<typeof perform> {
  const { state } = bench;
  advance(bench, state.time + cyclesOf(operation) * state.cycleNanoseconds, operation.kind === 'wait');
  if (operation.kind === 'wait') return [];
  const before = state.machine.cycle;
  state.machine.onArrival = bench.onArrival;
  const mishaps = perform(state.machine, operation);
  state.machine.onArrival = undefined;
  const spent = (state.machine.cycle - before - cyclesOf(operation)) * state.cycleNanoseconds;
  sync(bench);
  if (spent > 0) advance(bench, state.time + spent, false);
  return mishaps;
}

/** Lets time pass until then, nanoseconds since power-up; what is due on the way happens. */
export function advance(bench: Bench, until: number, ticks = true): void {
  const { state } = bench;
  for (;;) {
    const next = nextTime(state.events);
    if (next > until || state.steps >= state.limit) break;
    passTo(bench, Math.max(next, state.time), ticks);
    const what = takeEvent(state.events);
    state.steps++;
    happen(bench, what, next);
  }
  passTo(bench, until, ticks);
}

function passTo(bench: Bench, time: number, ticks: boolean): void {
  const { state } = bench;
  const { machine } = state;
  if (time <= state.time) return;
  if (ticks) {
    const cycles = Math.floor((time - state.time) / state.cycleNanoseconds);
    if (machine.pending.length === 0) machine.cycle += cycles;
    else {
      tick(machine, cycles);
      sync(bench);
    }
  }
  state.time = time;
}

function happen(bench: Bench, what: number, due: number): void {
  const { setup, state } = bench;
  const part = setup.parts[what];
  if (!part) {
    const node = what - setup.parts.length;
    // What was planned before something else happened to it is out of date.
    if (state.charge.due[node] !== due) return;
    touch(bench, node);
    sync(bench);
    return;
  }
  note(bench, { time: state.time, kind: 'part', part: what });
  part.attached.wake?.(bench.clocks[what] as Clock);
  touch(bench, part.pads[0] as number);
  sync(bench);
}

/** Does something to what is attached; says what is wrong with that, or undefined. */
export function act(bench: Bench, part: number, what: Act, text: string, line?: number): string | undefined {
  const { setup, state } = bench;
  const one = setup.parts[part];
  if (!one) return 'there is no such part';
  note(bench, { time: state.time, kind: 'act', text, ...(line === undefined ? {} : { line }) });
  const fault = one.attached.act(what, bench.clocks[part] as Clock);
  if (fault !== undefined) return fault;
  state.steps++;
  touch(bench, one.pads[0] as number);
  sync(bench);
  return undefined;
}

/** A peripheral drives its line: 0 low, 1 high, 2 nobody knows. */
export function drivePeripheral(bench: Bench, pad: number, level: number, text: string, line?: number): void {
  const { setup, state } = bench;
  note(bench, { time: state.time, kind: 'act', text, ...(line === undefined ? {} : { line }) });
  state.peripheral[pad] = level;
  setStage(setup, state, pad);
  touch(bench, pad);
  sync(bench);
}
