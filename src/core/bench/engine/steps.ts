import type { Operation } from '../../derive/machine/operations';
import { bitsOf } from '../../derive/machine/state';
import type { PadState } from '../pads/pad-state';
import { stepOperation } from './engine';
import { netsOfOperation, padWords, registerText, stateWords } from './explain';
import type { LogEntry } from './log';
import type { Bench } from './sync';

/** What one operation did. */
export interface StepReport {
  index: number;
  operation: Operation;
  /** What the register held before and after; absent of one that only waits. */
  register?: { name: string; before: string; after: string; bits: number; width: number };
  nets: { id: string; name: string; pad: string }[];
  /** Pads that are something else since. */
  pads: { pad: string; net: string | undefined; before: string; after: string; level: string }[];
  mishaps: Extract<LogEntry, { kind: 'operation' }>['mishaps'];
}

/** Does the next operation, and says what has changed by it. */
export function stepWithReport(bench: Bench): StepReport | undefined {
  const { setup, state } = bench;
  const operation = setup.operations[state.operation];
  if (!operation) return undefined;
  const index = state.operation;
  const before = [...state.states];
  const codes = state.codes.slice();
  const target = 'register' in operation ? (operation.register.target ?? operation.register) : undefined;
  const held = target && registerText(state.machine, target);
  const from = target && bitsOf(state.machine, target);
  stepOperation(bench);
  const entry = [...state.log.entries]
    .reverse()
    .find(
      (one): one is Extract<LogEntry, { kind: 'operation' }> =>
        one.kind === 'operation' && one.index === index,
    );
  const to = target && bitsOf(state.machine, target);
  return {
    index,
    operation,
    ...(target && held !== undefined && from && to
      ? {
          register: {
            name: target.name,
            before: held,
            after: registerText(state.machine, target),
            width: target.bits,
            bits: ((from.value ^ to.value) | (from.known ^ to.known)) >>> 0,
          },
        }
      : {}),
    nets: netsOfOperation(setup.derived, operation),
    pads: setup.pads.flatMap(({ index: at, pad, net }) => {
      const [old, now] = [before[at] as PadState, state.states[at] as PadState];
      if (old === now && codes[at] === state.codes[at]) return [];
      const device = setup.device;
      return [
        {
          pad: pad.id,
          net: net?.name,
          before: padWords(device, old),
          after: padWords(device, now),
          level: stateWords(state.codes[at] as number),
        },
      ];
    }),
    mishaps: entry?.mishaps ?? [],
  };
}
