import type { PadFunction } from '../description/types';
import type { Device } from './device';
import type { Slot } from './fields/fields';
import type { Register } from './registers/types';

/** A field of a pad, or of a signal on it, and where it stands in a register. */
export interface FieldPlace {
  field: string;
  pad: string;
  /** For a field whose place depends on the function. */
  fn?: PadFunction;
  slot: Slot;
}

const known = new WeakMap<Device, Map<Register, FieldPlace[]>>();

/** The fields of all pads by the register they stand in, lowest bits first; where several share bits, the first of them. */
export function fieldPlaces(device: Device): ReadonlyMap<Register, FieldPlace[]> {
  let found = known.get(device);
  if (!found) {
    found = work(device);
    known.set(device, found);
  }
  return found;
}

function work(device: Device): Map<Register, FieldPlace[]> {
  const found = new Map<Register, FieldPlace[]>();
  for (const place of eachFieldPlace(device)) {
    const { slot } = place;
    const list = found.get(slot.register) ?? [];
    const taken = list.some(
      ({ slot: other }) => other.low < slot.low + slot.bits && slot.low < other.low + other.bits,
    );
    if (!taken) list.push(place);
    found.set(slot.register, list);
  }
  for (const list of found.values()) list.sort((a, b) => a.slot.low - b.slot.low);
  return found;
}

/** Every field of every pad, also where several pads share one. */
export function* eachFieldPlace(device: Device): Generator<FieldPlace> {
  for (const pad of device.description.pads) {
    if (pad.kind !== 'io' || pad.port === undefined) continue;
    for (const { id: field, needsFunction } of device.fields.values()) {
      if (needsFunction) {
        for (const fn of device.functionsByPad.get(pad.id) ?? [])
          for (const slot of device.slotsOf(field, pad, fn)) yield { field, pad: pad.id, fn, slot };
      } else for (const slot of device.slotsOf(field, pad)) yield { field, pad: pad.id, slot };
    }
  }
}
