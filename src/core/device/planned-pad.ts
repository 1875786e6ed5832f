import type { PadSettings } from '../description/settings';
import { sameSettings } from '../description/settings';
import type { Pad, PadFunction } from '../description/types';
import type { Device } from './device';
import { encodeSettings } from './fields/encode';
import { placeValue, type Slot, slotMask } from './fields/fields';
import type { Register } from './registers/types';

/** A pad and what it shall be. `settings` are canonical. */
export interface PlannedPad {
  pad: Pad;
  fn?: PadFunction;
  settings: PadSettings;
}

const sameOnes = new WeakMap<Device, Map<string, PlannedPad[]>>();
/** Of one pad; more are forgotten again, oldest first. */
const MOST_REMEMBERED = 16;

/**
 * The one object for a pad that shall be this, so that what follows from it is remembered whichever net asks for it: a net that is
 * renamed, or moved away and back, changes nothing about the pad.
 */
export function onePlannedPad(device: Device, planned: PlannedPad): PlannedPad {
  let pads = sameOnes.get(device);
  if (!pads) {
    pads = new Map();
    sameOnes.set(device, pads);
  }
  const known = pads.get(planned.pad.id) ?? [];
  pads.set(planned.pad.id, known);
  const found = known.find((one) => one.fn === planned.fn && sameSettings(one.settings, planned.settings));
  if (found) return found;
  if (known.length >= MOST_REMEMBERED) known.shift();
  known.push(planned);
  return planned;
}

/** What a planned pad wants of the registers. */
export interface Wanted {
  /** Bits to be written, where they are written. */
  contributions: Contribution[];
  /** Fields and what they shall hold, where they take effect. */
  ends: { field: string; value: number; slots: Slot[] }[];
}

const remembered = new WeakMap<Device, WeakMap<PlannedPad, Wanted>>();

/** Field values of one pad in their places. Remembered, since planned pads are never changed. */
export function wantedOf(device: Device, planned: PlannedPad): Wanted {
  let known = remembered.get(device);
  if (!known) {
    known = new WeakMap();
    remembered.set(device, known);
  }
  let wanted = known.get(planned);
  if (!wanted) {
    wanted = work(device, planned);
    known.set(planned, wanted);
  }
  return wanted;
}

function work(device: Device, { pad, fn, settings }: PlannedPad): Wanted {
  const ends: Wanted['ends'] = [];
  const contributions: Contribution[] = [];
  for (const { field, value } of encodeSettings(settings, pad, fn, device)) {
    const slots = device.slotsOf(field, pad, fn);
    if (slots.length === 0) continue;
    ends.push({ field, value, slots });
    for (const slot of slots) {
      contributions.push({
        pad: pad.id,
        field,
        register: slot.through ?? slot.register,
        low: slot.low,
        bits: slot.bits,
        mask: slotMask(slot),
        value: placeValue(slot, value),
        setBy: slot.setBy,
        clearedBy: slot.clearedBy,
      });
    }
  }
  return { contributions, ends };
}

export const contributionsOf = (device: Device, planned: PlannedPad): Contribution[] =>
  wantedOf(device, planned).contributions;

/** One pad's contribution: the canonical settings it shall end with, as field values in their places. */
export interface Contribution {
  pad: string;
  field: string;
  register: Register;
  low: number;
  bits: number;
  mask: number;
  value: number;
  setBy?: Register;
  clearedBy?: Register;
}
