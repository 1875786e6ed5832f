import { append } from '../../base/lists';
import type { Device, Stage } from '../../device/device';
import type { Contribution, PlannedPad } from '../../device/planned-pad';
import type { Register } from '../../device/registers/types';
import { writeContext } from '../../device/write-context';
import type { CircuitId, CodeStyle } from '../../plan/model/types';
import type { BitOwner, Clash, ImageRegister, Operation, PadShare } from '../machine/operations';
import { perform } from '../machine/perform';
import { createMachine, tryOut } from '../machine/state';
import type { Contributions, FieldWants, Gathered } from './gather';
import { gather } from './gather';
import { after, before, decide, flush, padsOf, runStatements, turnsOf } from './statements';
import { operationsOfStep, type RegisterStep, readApart } from './steps';
import { stepsFor } from './strategies';
import {
  type Batch,
  type Decided,
  emitStep,
  type Joint,
  join,
  newWork,
  operationOf,
  touch,
  type Work,
} from './work';

export interface Lowered {
  style: CodeStyle;
  operations: Operation[];
  image: ImageRegister[];
  clashes: Clash[];
  /** Bits that statements of the recipe decide, and what they leave in them. */
  decided: Decided[];
  /** Where circuits have functions of their own: how many of the operations are each one's, in order. */
  parts?: readonly { circuit: CircuitId | undefined; count: number }[];
}

/**
 * Planned pads → operations in the recipe's order, one access per register and stage, and the register image. *from-reset*
 * relies on reset values; *preserving* changes only the planned bits. A register machine goes along and says what registers
 * hold by then, so that what is there already is not written again.
 */
export function lower(
  device: Device,
  planned: readonly PlannedPad[],
  style: CodeStyle,
  earlier?: Lowered,
  peripheralClocks = false,
): Lowered {
  const gathered = gather(device, planned, style, earlier && gatheredOf.get(earlier));
  const { byField, early } = gathered;
  const start = style === 'from-reset' ? 'reset' : 'every';
  const work = newWork(style, createMachine(device.registers, start), early);
  for (const stage of device.stages) {
    // What peripherals need is done on request only.
    if (stage.per === 'peripheral' && !peripheralClocks) continue;
    for (const turn of turnsOf(stage, planned)) {
      work.held.stage.clear();
      const batch = runStatements(device, stage, turn, work);
      const only =
        stage.for || stage.inTurn ? new Set(padsOf(stage, turn).map(({ pad }) => pad.id)) : undefined;
      const fields = new Map<Register, Contributions[]>();
      for (const field of stage.fields ?? []) {
        for (const [register, wanted] of byField.get(field) ?? []) {
          const left = leftOf(wanted, work, register);
          const list = only ? left.filter(({ pad }) => only.has(pad)) : left;
          if (list.length === 0) continue;
          fields.set(register, [...(fields.get(register) ?? []), list]);
        }
      }
      writeFields(device, stage, fields, batch, work);
      flush(device, stage, runStatements(device, stage, turn, work, stage.endStatements), work);
    }
  }
  const image = [...work.touched.values()].sort((x, y) => x.register.address - y.register.address);
  for (const entry of image) entry.owners.sort((x, y) => x.low - y.low);
  const lowered: Lowered = {
    style,
    operations: work.operations,
    image,
    clashes: work.clashes,
    decided: [...work.decided.values()],
  };
  gatheredOf.set(lowered, gathered);
  return lowered;
}

const gatheredOf = new WeakMap<Lowered, Gathered>();

/** What has not been written before its stage. */
function leftOf({ all, loud }: FieldWants, work: Work, register: Register): Contributions {
  const left = work.doneEarly.has(register) ? loud : all;
  return work.done.size === 0 ? left : left.filter((one) => !work.done.has(one));
}

/** Writes a stage's fields, register by register in the order in which the stage names them. */
function writeFields(
  device: Device,
  stage: Stage,
  fields: ReadonlyMap<Register, readonly Contributions[]>,
  batch: Batch,
  work: Work,
): void {
  // What statements have begun in a register is finished in the same access.
  const keyed = stage.beforeEach.length > 0 || stage.afterEach.length > 0;
  const changes: Batch = keyed ? new Map() : new Map(batch);
  if (changes.size === 0) flush(device, stage, batch, work);
  const apart = [...changes.keys()].some(
    (register) =>
      !fields.has(register) ||
      work.style === 'from-reset' ||
      // A bit that lets the others through has to be there before them.
      register.guards.some((guard) => guard.register === register),
  );
  if (changes.size > 0 && apart) {
    flush(device, stage, batch, work);
    changes.clear();
  }
  for (const [register, own] of fields) {
    const all = keyed || stage.inTurn ? undefined : work.early.get(register);
    const early = all && !work.doneEarly.has(register) ? all : undefined;
    const begun = changes.get(register);
    const joined = begun
      ? foldAnew(register, listOf(stage, own, early, work.done), begun)
      : foldOf(stage, register, own, early, work.done);
    changes.set(register, joined.change);
    if (early) {
      if (joined.clashes.length === 0) work.doneEarly.add(register);
      else for (const one of joined.taken) work.done.add(one);
    }
    append(work.clashes, joined.clashes);
    append(touch(work, register, joined.mask, joined.value).owners, joined.owners);
  }
  for (const change of changes.values()) {
    if (change.mask === 0) continue;
    const steps = keyed
      ? keyedSteps(device, stage, change, work)
      : stepsFor(change, work.machine, work.style);
    for (const step of steps) {
      const pads = sharesOf(change, step.register);
      if (!keyed) {
        emitStep(work, step, stage, pads, change.scope);
        continue;
      }
      const context = writeContext(device, change.register, step.register);
      emitStep(work, step, stage, pads, change.scope, {
        before: () => before(device, stage, context, work),
        after: () => after(device, stage, context, work),
      });
    }
    if (change.explicit) decide(work, change);
  }
}

/** How a register is driven once what the stage does before each write has been done: it may select what the write means. */
function keyedSteps(device: Device, stage: Stage, change: Joint, work: Work): RegisterStep[] {
  const { machine, style } = work;
  const context = writeContext(device, change.register);
  const steps = tryOut(machine, () => {
    before(device, stage, context, newWork(style, machine));
    return stepsFor(change, machine, style);
  });
  return steps.map((step) => {
    if (step.kind !== 'update') return step;
    // What stands before the write may not bear a read in between.
    const isTaken = (way: RegisterStep): boolean =>
      tryOut(machine, () => {
        const { before: reads, write } = operationsOfStep(way, 1_000_000);
        for (const read of reads) perform(machine, operationOf(read, stage, [], []));
        before(device, stage, context, newWork(style, machine));
        return perform(machine, operationOf(write, stage, [], [])).length === 0;
      });
    if (isTaken(step)) return step;
    const apart = readApart(step);
    return apart && isTaken(apart) ? apart : step;
  });
}

/** What pads want of one register in one stage, put together. */
interface Folded {
  change: Joint;
  /** The bits of pads alone. */
  mask: number;
  value: number;
  /** Contributions that found their place; the others clash with one before them. */
  taken: readonly Contribution[];
  owners: readonly BitOwner[];
  clashes: readonly Clash[];
}

/** The contributions of a stage to a register, and those of later ones that may be written with them. */
function listOf(
  stage: Stage,
  own: readonly Contributions[],
  early: Contributions | undefined,
  done: ReadonlySet<Contribution>,
): Contributions {
  const quiet = early?.filter((one) => stage.fields?.includes(one.field) !== true && !done.has(one)) ?? [];
  return own.length === 1 && quiet.length === 0 ? (own[0] as Contributions) : [...own.flat(), ...quiet];
}

interface Remembered {
  own: readonly Contributions[];
  early: Contributions | undefined;
  fold: Folded;
}
const folded = new WeakMap<Stage, Map<Register, Remembered>>();

/** The same as last time, when the very same lists are to be put together. */
function foldOf(
  stage: Stage,
  register: Register,
  own: readonly Contributions[],
  early: Contributions | undefined,
  done: ReadonlySet<Contribution>,
): Folded {
  let known = folded.get(stage);
  if (!known) {
    known = new Map();
    folded.set(stage, known);
  }
  const last = known.get(register);
  const same =
    last !== undefined &&
    done.size === 0 &&
    last.early === early &&
    last.own.length === own.length &&
    last.own.every((list, at) => list === own[at]);
  if (same) return last.fold;
  const fold = foldAnew(register, listOf(stage, own, early, done));
  if (done.size === 0) known.set(register, { own, early, fold });
  else known.delete(register);
  return fold;
}

/** Takes bits of pads into the write of a register, each pad's once; into one that statements have begun, where there is one. */
function foldAnew(register: Register, list: Contributions, begun?: Joint): Folded {
  const change: Joint = begun ?? { register, mask: 0, value: 0, pads: [], explicit: false, from: [] };
  const shares = new Map<string, PadShare>(change.pads.map((one) => [one.pad, one]));
  const taken: Contribution[] = [];
  const owners: BitOwner[] = [];
  const clashes: Clash[] = [];
  let [mask, value] = [0, 0];
  for (const one of list) {
    if (!join(clashes, change, one.pad, one.mask, one.value)) continue;
    taken.push(one);
    change.setBy = one.setBy;
    change.clearedBy = one.clearedBy;
    const own = shares.get(one.pad);
    if (own) {
      own.value = (own.value | one.value) >>> 0;
      own.mask = (own.mask | one.mask) >>> 0;
    } else {
      const share = { pad: one.pad, value: one.value, mask: one.mask };
      shares.set(one.pad, share);
      change.pads.push(share);
    }
    mask = (mask | one.mask) >>> 0;
    value = ((value & ~one.mask) | one.value) >>> 0;
    owners.push({ low: one.low, bits: one.bits, pad: one.pad, field: one.field });
  }
  return { change, mask, value, taken, owners, clashes };
}

/** The pads that a step is for: of a pair of set and clear registers, those whose bits it sets or clears. */
function sharesOf(change: Joint, register: Register): PadShare[] {
  if (change.setBy === change.clearedBy) return change.pads;
  if (register === change.setBy) return change.pads.filter((one) => one.value !== 0);
  if (register === change.clearedBy) return change.pads.filter((one) => one.value !== one.mask);
  return change.pads;
}
