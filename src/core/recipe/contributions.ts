import type { Pad, PadFunction } from '../device/types';
import type { PadSettings } from '../settings';
import type { Device } from './device';
import { encodeSettings } from './encode';
import { placeValue, type Slot, slotMask } from './fields';
import type { Contribution } from './operations';

/** A pad and what it shall be. `settings` are canonical. */
export interface PlannedPad {
  pad: Pad;
  fn?: PadFunction;
  settings: PadSettings;
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
