import type { Device } from './device';
import type { Register } from './registers/types';

const fieldWords = new WeakMap<Device, ReadonlySet<number>>();

/** Words of state in which a field of some pad lies, or one that depends on its function. */
function wordsOfFields(device: Device): ReadonlySet<number> {
  let words = fieldWords.get(device);
  if (!words) {
    const known = new Set<number>();
    for (const field of device.fields.values())
      for (const pad of device.description.pads) {
        if (pad.kind !== 'io' || pad.port === undefined) continue;
        const functions = field.needsFunction ? (device.functionsByPad.get(pad.id) ?? []) : [undefined];
        for (const fn of functions)
          for (const { register, through } of device.slotsOf(field.id, pad, fn))
            for (const { storage } of [register, ...(through ? [through] : [])])
              if (storage) known.add(storage.word);
      }
    words = known;
    fieldWords.set(device, words);
  }
  return words;
}

/** State that no address reaches and in which no field lies: counts of accesses, steps of a sequence. It is there for what comes after. */
export const isBookkeeping = (device: Device, { access, storage }: Register): boolean =>
  access.kind === 'internal' && storage !== undefined && !wordsOfFields(device).has(storage.word);
