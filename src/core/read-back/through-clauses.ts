import { shownBit } from '../derive/machine/clause-access';
import { createMachine } from '../derive/machine/state';
import type { Device } from '../device/device';
import { fullMask, heldBits, type Register } from '../device/registers/types';

/**
 * What registers hold, from what they read as: where clauses say what a read gives, each of its bits that shows a bit of state (or its
 * opposite) says what that is. A state of which some bits are not shown is left out.
 */
export function statesRead(device: Device, reads: ReadonlyMap<Register, number>): Map<Register, number> {
  const { registers } = device;
  const states = new Map<Register, number>();
  if (!registers.inClauses) return new Map(reads);
  const machine = createMachine(registers, 'every');
  const known = new Map<number, number>();
  const value = new Map<number, number>();
  for (const [register, read] of reads) {
    if (!register.clauses?.gives) {
      states.set(register, read);
      continue;
    }
    for (let bit = 0; bit < register.bits; bit++) {
      const shown = shownBit(machine, register, bit);
      if (!shown) continue;
      const mask = 1 << shown.bit;
      known.set(shown.word, (known.get(shown.word) ?? 0) | mask);
      if ((((read >>> bit) & 1) === 1) !== shown.inverted)
        value.set(shown.word, (value.get(shown.word) ?? 0) | mask);
    }
  }
  for (const register of registers.all) {
    const { storage } = register;
    if (!storage || states.has(register)) continue;
    const all = fullMask(heldBits(register));
    if ((((known.get(storage.word) ?? 0) >>> storage.shift) & all) >>> 0 !== all) continue;
    states.set(register, (((value.get(storage.word) ?? 0) >>> storage.shift) & all) >>> 0);
  }
  return states;
}
