import { canWrite, type Register, type RegisterMap } from './types';

/** A register within the bytes of another one, and how far to the left it lies in its word. */
export interface Within {
  register: Register;
  shift: number;
}

const known = new WeakMap<RegisterMap, ReadonlyMap<Register, readonly Within[]>>();
const NONE: readonly Within[] = [];

/**
 * Registers that a write to one reaches too: they lie within its bytes, and are no views of the bits that it holds itself. Two that act
 * at one address both act.
 */
export function reachedBeside(map: RegisterMap, register: Register): readonly Within[] {
  let beside = known.get(map);
  if (!beside) {
    beside = besideEach(map);
    known.set(map, beside);
  }
  return beside.get(register) ?? NONE;
}

function besideEach(map: RegisterMap): Map<Register, Within[]> {
  const beside = new Map<Register, Within[]>();
  const sorted = map.all.filter(canWrite).sort((a, b) => a.address - b.address);
  for (const [position, outer] of sorted.entries()) {
    const end = outer.address + outer.bits / 8;
    // Those at the same address may stand before it.
    let from = position;
    while (sorted[from - 1]?.address === outer.address) from--;
    for (let at = from; (sorted[at]?.address ?? end) < end; at++) {
      const inner = sorted[at] as Register;
      const fits = inner !== outer && inner.address + inner.bits / 8 <= end;
      if (!fits || (inner.storage && inner.storage.word === outer.storage?.word)) continue;
      const bytes = inner.address - outer.address;
      const shift = 8 * (map.endian === 'little' ? bytes : outer.bits / 8 - bytes - inner.bits / 8);
      beside.set(outer, [...(beside.get(outer) ?? []), { register: inner, shift }]);
    }
  }
  return beside;
}
