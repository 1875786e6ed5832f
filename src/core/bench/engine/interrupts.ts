import { bitOf, perform, showBits } from '../../derive/machine/machine';
import { edgesOf } from '../../derive/simulate/meanings';
import type { PadState } from '../pads/pad-state';
import { type BenchPad, nameOf } from './bench-pad';
import { addEntry } from './log';
import type { Setup } from './setup';
import type { BenchState } from './state';

/** Edges and levels that interrupt: which handler runs, what is missed, and what waits. */

/** A pad's level has changed: does it interrupt? */
export function noticeEdge(setup: Setup, state: BenchState, pad: BenchPad, rises: boolean): void {
  const { trigger, fn } = state.states[pad.index] as PadState;
  if (fn && setup.device.kindOf(fn.signal)?.serves === 'wake-up' && pad.net) {
    const isActive = rises !== (pad.net.settings.active === 'low');
    if (isActive) addEntry(state.log, { time: state.time, kind: 'wake', net: pad.net.name });
  }
  const [edge, level] = rises ? ['rising', 'high'] : ['falling', 'low'];
  const raised = edgesOf(trigger).find((one) => one === edge || one === level);
  if (raised !== undefined) raise(setup, state, pad, raised);
}

function raise(setup: Setup, state: BenchState, pad: BenchPad, edge: string): void {
  const { index, flag } = pad;
  state.happened[index] = (state.happened[index] as number) + 1;
  const waits = flag ? bitOf(state.machine, flag.register, flag.bit) === 1 : state.pending[index] === 1;
  if (flag) showBits(state.machine, flag.register, 1 << flag.bit, 1 << flag.bit, 1 << flag.bit);
  const missed = waits && state.pending[index] === 1;
  if (missed) state.missed[index] = (state.missed[index] as number) + 1;
  state.pending[index] = 1;
  noteInterrupt(setup, state, pad, { edge, missed, held: state.masked });
}

/** Lets the handler run, unless handlers wait, and says so in the log. */
function noteInterrupt(
  setup: Setup,
  state: BenchState,
  pad: BenchPad,
  how: { edge: string; missed: boolean; held: boolean },
): void {
  const acknowledged = !how.held && handle(setup, state, pad);
  addEntry(state.log, {
    time: state.time,
    kind: 'interrupt',
    net: nameOf(pad),
    handler: handlerOf(setup, pad),
    line: lineOf(pad),
    ...how,
    acknowledged,
  });
}

/** What a net's handler is called in generated code; the pad where no net has it. */
const handlerOf = (setup: Setup, { net, pad }: BenchPad): string =>
  (net && setup.handlers.get(net.id)) ?? pad.id;

/** "line 3, number 11, shared". */
function lineOf({ line }: BenchPad): string | undefined {
  if (!line || line.shared === 'own') return undefined;
  return `line ${line.id}${line.number === undefined ? '' : `, number ${line.number}`}, shared`;
}

/** The handler runs, and takes the flag back where the part has one. */
function handle(setup: Setup, state: BenchState, pad: BenchPad): boolean {
  state.pending[pad.index] = 0;
  const accessor =
    pad.net &&
    setup.derived.accessors.list.find(
      (one) => one.action === 'interrupt_acknowledge' && one.nets[0] === pad.net?.id,
    );
  if (!accessor) return pad.flag === undefined;
  for (const step of accessor.steps)
    if (step.kind !== 'put' && step.kind !== 'get') perform(state.machine, step);
  return true;
}

/** The firmware lets interrupts through again: what waits is handled. */
export function unmask(setup: Setup, state: BenchState): void {
  state.masked = false;
  for (const pad of setup.pads)
    if (state.pending[pad.index] === 1)
      noteInterrupt(setup, state, pad, { edge: 'waiting', missed: false, held: false });
}
