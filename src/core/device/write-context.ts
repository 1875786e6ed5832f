import type { Context } from '../description/language/scope';
import type { Pad } from '../description/types';
import type { Device } from './device';
import type { Register } from './registers/types';

/** Which pad's a register is alone: undefined where fields of several lie in it, or of none. */
const solePads = new WeakMap<Device, ReadonlyMap<Register, Pad | undefined>>();

function solePadsOf(device: Device): ReadonlyMap<Register, Pad | undefined> {
  let pads = solePads.get(device);
  if (!pads) {
    const known = new Map<Register, Pad | undefined>();
    for (const field of device.fields.values()) {
      if (field.needsFunction) continue;
      for (const pad of device.description.pads) {
        if (pad.kind !== 'io' || pad.port === undefined) continue;
        for (const { register, through } of device.slotsOf(field.id, pad))
          for (const each of [register, ...(through ? [through] : [])])
            known.set(each, known.has(each) && known.get(each) !== pad ? undefined : pad);
      }
    }
    pads = known;
    solePads.set(device, pads);
  }
  return pads;
}

/**
 * What the variables of a step around a single write stand for: the instances of the register that is written and of the one whose bits
 * that decides, and the pad whose bits alone lie there.
 */
export function writeContext(device: Device, ...registers: readonly Register[]): Context {
  const pad = registers.map((register) => solePadsOf(device).get(register)).find((each) => each);
  return Object.assign({}, ...(pad ? [{ pad }] : []), ...registers.map(({ context }) => context));
}
