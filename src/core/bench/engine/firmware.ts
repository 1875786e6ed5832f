import { hexText } from '../../base/text/hex';
import { type AccessStep, operationsFor } from '../../derive/accessors/access';
import type { AccessAction, Accessor } from '../../derive/accessors/accessors';
import { readRegister } from '../../derive/machine/machine';
import { fullMask } from '../../device/registers/types';
import { advance, note, run } from './engine';
import type { BusAccess, LogEntry } from './log';
import { type Bench, sync } from './sync';

/** The functions of the generated code, called on the bench: the same accesses, on the same machine. */

/** What a call has read: bits that are known, and their values; undefined of one that reads nothing. */
export interface Given {
  known: number;
  value: number;
}

/** The accessor of a net, a bus or a circuit for an action; `nets` are those of the group, in any order. */
export function accessorFor(
  { setup }: Bench,
  action: AccessAction,
  nets: readonly string[],
): Accessor | undefined {
  return setup.derived.accessors.list.find(
    (one) =>
      one.action === action && one.nets.length === nets.length && nets.every((net) => one.nets.includes(net)),
  );
}

/** Calls a function of the firmware, with a value for those that take one. `text` is what the log says. */
export function call(
  bench: Bench,
  accessor: Accessor,
  value: number,
  text: string,
  line?: number,
): Given | undefined {
  const { state } = bench;
  if (accessor.action !== 'read' && accessor.action !== 'interrupt_pending') state.called = true;
  const entry: CallEntry = {
    time: state.time,
    kind: 'call',
    text,
    line,
    accessor,
    value,
    reads: undefined,
    gives: undefined,
  };
  note(bench, entry);
  let given: Given | undefined;
  for (const step of accessor.steps) {
    if (step.kind === 'get') given = get(bench, step, entry, given);
    else if (step.kind !== 'put') {
      state.steps++;
      run(bench, step);
    } else {
      for (const operation of operationsFor(step, value)) {
        state.steps++;
        run(bench, operation);
      }
    }
  }
  if (given) entry.gives = valueText(given, accessor.nets.length);
  return given;
}

type CallEntry = Extract<LogEntry, { kind: 'call' }>;

function get(
  bench: Bench,
  { register, moves }: Extract<AccessStep, { kind: 'get' }>,
  entry: CallEntry,
  before: Given | undefined,
): Given {
  const { state } = bench;
  advance(bench, state.time + state.cycleNanoseconds, false);
  const { bits } = readRegister(state.machine, register);
  sync(bench);
  entry.reads = [...(entry.reads ?? []), { known: bits.known, value: bits.value }];
  const given = before ?? { known: 0, value: 0 };
  for (const { bit, low, inverted } of moves) {
    given.known = (given.known | (((bits.known >>> low) & 1) << bit)) >>> 0;
    given.value = (given.value | ((((bits.value >>> low) & 1) ^ (inverted ? 1 : 0)) << bit)) >>> 0;
  }
  return given;
}

/** The registers that a call read and wrote, in order. */
export function accessesOf({ accessor, value, reads = [] }: CallEntry): BusAccess[] {
  const left = [...reads];
  return accessor.steps.flatMap((step): BusAccess[] => {
    if (step.kind === 'get') {
      const read = left.shift();
      const mask = step.moves.reduce((sum, { low }) => (sum | (1 << low)) >>> 0, 0);
      return [{ register: step.register.name, ...(read ? { read: { ...read, mask } } : {}) }];
    }
    return operationsFor(step, value).flatMap((operation): BusAccess[] => {
      switch (operation.kind) {
        case 'write':
          return [{ register: operation.register.name, wrote: operation.value }];
        case 'update':
          return [
            {
              register: operation.register.name,
              changed: (operation.clear | operation.set) >>> 0,
              wrote: operation.set,
            },
          ];
        case 'flip':
          return [{ register: operation.register.name, turned: operation.mask }];
        default:
          return [];
      }
    });
  });
}

/** "1", "0x3C", "0b0?10", "not known". */
export function valueText({ known, value }: Given, bits: number): string {
  const all = fullMask(bits);
  if ((known & all) >>> 0 === all) return bits === 1 ? String(value & 1) : hexText((value & all) >>> 0, bits);
  if (bits === 1) return 'not known';
  const digits = Array.from({ length: bits }, (_, at) => {
    const bit = bits - 1 - at;
    return ((known >>> bit) & 1) === 0 ? '?' : String((value >>> bit) & 1);
  });
  return `0b${digits.join('')}`;
}
