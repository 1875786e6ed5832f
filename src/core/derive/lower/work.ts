import type { Stage } from '../../device/device';
import type { Contribution } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import type { CodeStyle } from '../../plan/model/types';
import type { BareOperation, Clash, ImageRegister, Operation, PadShare } from '../machine/operations';
import { perform } from '../machine/perform';
import type { Machine } from '../machine/state';
import type { Contributions } from './gather';
import { type Change, operationsOfStep, type RegisterStep } from './steps';

/** What lowering has done so far: operations, a machine that has gone along, and which bits are decided. */

/** Bits of a register that statements have given a value; the last statement counts. */
export interface Decided {
  register: Register;
  mask: number;
  value: number;
  /** Bits of {@link mask} whose value a statement does not say (it flips them). */
  open: number;
  /** Bits of {@link mask} that end as they were before: what was read is written back. */
  back: number;
  /** Bits of {@link mask} whose value only what was read decides. */
  free: number;
}

export interface Work {
  style: CodeStyle;
  machine: Machine;
  operations: Operation[];
  touched: Map<Register, ImageRegister>;
  decided: Map<Register, Decided>;
  clashes: Clash[];
  /** Contributions that may be written before their stage. */
  early: ReadonlyMap<Register, Contributions>;
  /** Registers of which all of them have been. */
  doneEarly: Set<Register>;
  /** Single ones that have been, where others clash. */
  done: Set<Contribution>;
  /** What statements of the stage, and of those around a single access, have read: numbers by name and occasion. */
  held: { stage: Map<string, number>; each: Map<string, number>; count: number };
}

/** Nothing done yet, on a machine that goes along. */
export const newWork = (
  style: CodeStyle,
  machine: Machine,
  early: ReadonlyMap<Register, Contributions> = new Map(),
): Work => ({
  style,
  machine,
  operations: [],
  touched: new Map(),
  decided: new Map(),
  clashes: [],
  early,
  doneEarly: new Set(),
  done: new Set(),
  held: { stage: new Map(), each: new Map(), count: 0 },
});

/** What a step does, with whom it is for; written out, since it is done for every access of every derivation. */
export function operationOf(
  step: BareOperation,
  { id: stage }: Stage,
  pads: PadShare[],
  scope: readonly string[] | undefined,
): Operation {
  switch (step.kind) {
    case 'write': {
      const { register, value } = step;
      return { kind: 'write', register, value, stage, pads, ...(scope ? { scope } : {}) };
    }
    case 'update': {
      const { register, clear, set } = step;
      return { kind: 'update', register, clear, set, stage, pads, ...(scope ? { scope } : {}) };
    }
    default:
      return { ...step, stage, pads, ...(scope ? { scope } : {}) };
  }
}

/** Carries a step out: what it reads, what comes between, the write, and what comes after it. */
export function emitStep(
  work: Work,
  step: RegisterStep,
  stage: Stage,
  pads: PadShare[],
  scope: readonly string[] | undefined,
  around?: { before(): void; after(): void },
): void {
  const { before, write } = operationsOfStep(step, work.held.count + 1);
  work.held.count += before.length;
  for (const read of before) emit(work, operationOf(read, stage, [], scope));
  around?.before();
  emit(work, operationOf(write, stage, pads, scope));
  around?.after();
}

export function emit(work: Work, operation: Operation): void {
  work.operations.push(operation);
  perform(work.machine, operation);
}

export function touch(work: Work, register: Register, mask: number, value: number): ImageRegister {
  let entry = work.touched.get(register);
  if (!entry) {
    entry = { register, reset: register.reset, planned: register.reset, mask: 0, owners: [] };
    work.touched.set(register, entry);
  }
  entry.mask = (entry.mask | mask) >>> 0;
  entry.planned = ((entry.planned & ~mask) | (value & mask)) >>> 0;
  return entry;
}

/** Bits of one register to be changed in one step, put together from all pads or ports. */
export interface Joint extends Change {
  pads: PadShare[];
  scope?: string[];
  /** Who gave which bits, to name both where two differ. */
  from: { pad: string; mask: number; value: number }[];
}

export type Batch = Map<Register, Joint>;

export function jointFor(changes: Batch, register: Register, explicit: boolean): Joint {
  let change = changes.get(register);
  if (!change) {
    change = { register, mask: 0, value: 0, pads: [], explicit, from: [] };
    changes.set(register, change);
  }
  return change;
}

/** Adds bits to a change; two that differ in a bit are a clash, and the first one stays. */
export function join(clashes: Clash[], change: Joint, pad: string, mask: number, value: number): boolean {
  const shared = (change.mask & mask) >>> 0;
  if (shared !== 0 && ((change.value ^ value) & shared) !== 0) {
    const other = change.from.find((one) => ((one.value ^ value) & one.mask & mask) !== 0);
    clashes.push({ register: change.register, mask: shared, pads: [other?.pad ?? '', pad] });
    return false;
  }
  change.mask = (change.mask | mask) >>> 0;
  change.value = (change.value | (value & mask)) >>> 0;
  change.from.push({ pad, mask, value });
  return true;
}
