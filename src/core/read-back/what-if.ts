import type { Derived } from '../derive/derive';
import { derive } from '../derive/derive';
import type { Register } from '../device/registers/types';
import type { Edit } from '../plan/edits/edits';
import { isOther, type PadReading, readBack } from './read-back';
import { joined } from './take-over';

/** What a plan would be if a register held another value. */
export interface WhatIf {
  /** Pads that would be something else. */
  readings: readonly PadReading[];
  /** Bits that would not be as typed, since no plan of pads gives them so. */
  left: number;
  /** Other registers that the edit changes as well. */
  others: readonly Register[];
  /** All of it as one edit; absent where no pad changes. */
  edit?: Edit;
}

/** A register with a value typed over it, everything else as planned, and the edit that comes nearest to it. */
export function whatIf(derived: Derived, register: Register, value: number, newId: () => string): WhatIf {
  const readings = readBack(derived, (one) => (one === register ? value : undefined), newId).filter(isOther);
  const edits = readings.flatMap((one) => one.meanings.slice(0, 1).map((meaning) => meaning.edit));
  const now = plannedOf(derived, register);
  if (edits.length === 0) return { readings, left: (now ^ value) >>> 0, others: [] };
  const label = `${register.name} = 0x${value.toString(16).toUpperCase()}`;
  const taken = joined(derived.plan, label, edits);
  const after = taken.ok ? derive(derived.device, taken.value.plan, derived) : taken;
  if (!taken.ok || !after.ok) return { readings, left: (now ^ value) >>> 0, others: [] };
  const others = changedRegisters(derived, after.value).filter((one) => one !== register);
  return {
    readings,
    left: (plannedOf(after.value, register) ^ value) >>> 0,
    others,
    edit: taken.value.edit,
  };
}

const plannedOf = ({ lowered }: Derived, register: Register): number =>
  lowered.image.find((one) => one.register === register)?.planned ?? register.reset;

function changedRegisters(before: Derived, after: Derived): Register[] {
  const all = new Set([...before.lowered.image, ...after.lowered.image].map((one) => one.register));
  return [...all].filter((one) => plannedOf(before, one) !== plannedOf(after, one));
}
