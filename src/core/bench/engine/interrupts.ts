import { bitOf, perform, showBits } from '../../derive/machine/machine';
import type { PadState } from '../pads/pad-state';
import { HIGH, levelOf } from '../trace/lanes';
import type { BenchPad } from './bench-pad';
import { addEntry } from './log';
import type { Setup } from './setup';
import type { BenchState } from './state';

/** Edges and levels that interrupt: which handler runs, what is missed, and what waits. */

const RISES = new Set(['rising', 'both', 'change']);
const FALLS = new Set(['falling', 'both', 'change']);

/** A pad's level has changed: does it interrupt? */
export function noticeEdge(setup: Setup, state: BenchState, pad: BenchPad, rises: boolean): void {
  const { trigger, fn } = state.states[pad.index] as PadState;
  if (fn && setup.device.kindOf(fn.signal)?.serves === 'wake-up' && pad.net) {
    const isActive = rises !== (pad.net.settings.active === 'low');
    if (isActive) addEntry(state.log, { time: state.time, kind: 'wake', net: pad.net.name });
  }
  const edge = rises ? RISES.has(trigger) : FALLS.has(trigger);
  const level = trigger === (rises ? 'high' : 'low');
  if (edge || level) raise(setup, state, pad, level ? trigger : rises ? 'rising' : 'falling');
}

function raise(setup: Setup, state: BenchState, pad: BenchPad, edge: string): void {
  const { index, flag } = pad;
  state.happened[index] = (state.happened[index] as number) + 1;
  const waits = flag ? bitOf(state.machine, flag.register, flag.bit) === 1 : state.pending[index] === 1;
  if (flag) showBits(state.machine, flag.register, 1 << flag.bit, 1 << flag.bit, 1 << flag.bit);
  const missed = waits && state.pending[index] === 1;
  if (missed) state.missed[index] = (state.missed[index] as number) + 1;
  state.pending[index] = 1;
  const acknowledged = !state.masked && handle(setup, state, pad);
  addEntry(state.log, {
    time: state.time,
    kind: 'interrupt',
    net: pad.net?.name ?? pad.pad.id,
    handler: handlerOf(setup, pad),
    line: lineOf(pad),
    edge,
    missed,
    held: state.masked,
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

/** The firmware lets interrupts through again: what waits is handled, and levels that still hold are so again. */
export function unmask(setup: Setup, state: BenchState): void {
  state.masked = false;
  for (const pad of setup.pads) {
    if (state.pending[pad.index] !== 1) continue;
    const acknowledged = handle(setup, state, pad);
    addEntry(state.log, {
      time: state.time,
      kind: 'interrupt',
      net: pad.net?.name ?? pad.pad.id,
      handler: handlerOf(setup, pad),
      line: lineOf(pad),
      edge: 'waiting',
      missed: false,
      held: false,
      acknowledged,
    });
  }
}

/** Whether a pad that interrupts by its level is at that level. */
export function isRaised(state: BenchState, { index }: BenchPad): boolean {
  const { trigger } = state.states[index] as PadState;
  const level = levelOf(state.codes[index] as number);
  return (trigger === 'high' && level === HIGH) || (trigger === 'low' && level === 0);
}
