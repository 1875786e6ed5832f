import { perform } from '../../derive/machine/perform';
import { bitOf, showBits } from '../../derive/machine/state';
import { edgesOf } from '../../derive/simulate/meanings';
import type { PadState } from '../pads/pad-state';
import { HIGH } from '../trace/lanes';
import { type BenchPad, nameOf } from './bench-pad';
import { addEntry } from './log';
import type { Setup } from './setup';
import type { BenchState } from './state';

/** Edges and levels that interrupt: which handler runs, what is missed, and what waits. */

/** Of an interrupt by level: the level is not there, is there and no handler has run for it yet, or lasts after one has. */
export const ASKS = { no: 0, waits: 1, handled: 2 } as const;

/** A pad's level has changed: does it interrupt? */
export function noticeEdge(setup: Setup, state: BenchState, pad: BenchPad, rises: boolean): void {
  const { trigger, fn } = state.states[pad.index] as PadState;
  if (fn && setup.device.kindOf(fn.signal)?.serves === 'wake-up' && pad.net) {
    const isActive = rises !== (pad.net.settings.active === 'low');
    if (isActive) {
      state.woken[pad.index] = (state.woken[pad.index] as number) + 1;
      state.wokenIn[pad.index] = state.act;
      addEntry(state.log, { time: state.time, kind: 'wake', net: pad.net.name });
    }
  }
  if (trigger === 'none') return;
  const edge = rises ? 'rising' : 'falling';
  if (edgesOf(trigger).includes(edge)) raise(setup, state, pad, edge);
  noticeLevel(setup, state, pad);
}

/** A level that interrupts may have come or gone, or the firmware may have begun to listen to one that is there already. */
export function noticeLevel(setup: Setup, state: BenchState, pad: BenchPad): void {
  const { index } = pad;
  const { trigger } = state.states[index] as PadState;
  const level = state.definite[index] === HIGH ? 'high' : 'low';
  const isThere = (state.definite[index] as number) <= HIGH && edgesOf(trigger).includes(level);
  if (isThere === (state.asks[index] !== ASKS.no)) return;
  if (isThere) {
    state.asks[index] = ASKS.waits;
    raise(setup, state, pad, level);
  } else endLevel(setup, state, pad);
}

/** A level that interrupted is over: where no flag remembers it, what still waits was for nothing. */
function endLevel(setup: Setup, state: BenchState, pad: BenchPad): void {
  const { index, flag } = pad;
  const before = state.asks[index];
  state.asks[index] = ASKS.no;
  if (before === ASKS.handled) {
    // The run of the handler that was the last has taken the flag back.
    if (!state.masked) handle(setup, state, pad);
    else if (!flag) state.pending[index] = 0;
    noteInterrupt(setup, state, pad, { edge: 'over', missed: false, held: state.masked });
    return;
  }
  if (flag || state.pending[index] === 0) return;
  state.pending[index] = 0;
  state.missed[index] = (state.missed[index] as number) + 1;
  noteInterrupt(setup, state, pad, { edge: 'over', missed: true, held: true });
}

function raise(setup: Setup, state: BenchState, pad: BenchPad, edge: string): void {
  const { index, flag } = pad;
  state.happened[index] = (state.happened[index] as number) + 1;
  state.happenedIn[index] = state.act;
  const waits = flag ? bitOf(state.machine, flag.register, flag.bit) === 1 : state.pending[index] === 1;
  showFlag(state, pad);
  const missed = waits && state.pending[index] === 1;
  if (missed) state.missed[index] = (state.missed[index] as number) + 1;
  state.pending[index] = 1;
  const acknowledged = !state.masked && handle(setup, state, pad);
  noteInterrupt(setup, state, pad, { edge, missed, held: state.masked, acknowledged });
}

function showFlag({ machine }: BenchState, { flag }: BenchPad): void {
  if (flag) showBits(machine, flag.register, 1 << flag.bit, 1 << flag.bit, 1 << flag.bit);
}

/** A flag that was taken back is set again at once while the level that interrupts lasts. */
export function holdFlag(state: BenchState, pad: BenchPad): void {
  const { flag, index } = pad;
  if (state.asks[index] === ASKS.no || !flag) return;
  if (bitOf(state.machine, flag.register, flag.bit) !== 1) showFlag(state, pad);
}

function noteInterrupt(
  setup: Setup,
  state: BenchState,
  pad: BenchPad,
  how: { edge: string; missed: boolean; held: boolean; acknowledged?: boolean },
): void {
  addEntry(state.log, {
    time: state.time,
    kind: 'interrupt',
    net: nameOf(pad),
    handler: handlerOf(setup, pad),
    line: lineOf(pad),
    acknowledged: false,
    lasts: state.asks[pad.index] !== ASKS.no,
    ...how,
  });
}

/** What a net's handler is called in generated code; the pad where no net has it. */
const handlerOf = (setup: Setup, { net, pad }: BenchPad): string =>
  (net && setup.handlers().get(net.id)) ?? pad.id;

/** "line 3, number 11, shared". */
function lineOf({ line }: BenchPad): string | undefined {
  if (!line || line.shared === 'own') return undefined;
  return `line ${line.id}${line.number === undefined ? '' : `, number ${line.number}`}, shared`;
}

/** The handler runs, and takes the flag back where the part has one; while the level lasts it runs again and again. */
function handle(setup: Setup, state: BenchState, pad: BenchPad): boolean {
  const { index } = pad;
  state.pending[index] = 0;
  if (state.asks[index] === ASKS.waits) state.asks[index] = ASKS.handled;
  const accessor =
    pad.net &&
    setup.derived.accessors.list.find(
      (one) => one.action === 'interrupt_acknowledge' && one.nets[0] === pad.net?.id,
    );
  if (!accessor) return pad.flag === undefined;
  for (const step of accessor.steps)
    if (step.kind !== 'put' && step.kind !== 'get') perform(state.machine, step);
  holdFlag(state, pad);
  return true;
}

/** The firmware lets handlers wait; one of which the level lasts waits from now on. */
export function mask(setup: Setup, state: BenchState): void {
  state.masked = true;
  for (const { index } of setup.pads) if (state.asks[index] !== ASKS.no) state.pending[index] = 1;
}

/** The firmware lets interrupts through again: what waits is handled. */
export function unmask(setup: Setup, state: BenchState): void {
  state.masked = false;
  for (const pad of setup.pads) {
    if (state.pending[pad.index] !== 1) continue;
    const acknowledged = handle(setup, state, pad);
    noteInterrupt(setup, state, pad, { edge: 'waiting', missed: false, held: false, acknowledged });
  }
}
