import { canWrite, fullMask, type Register } from '../../device/registers/types';
import { reachedBeside } from '../../device/registers/within';
import type { CodeStyle } from '../../plan/model/types';
import { type Bits, bitsOf, type Machine } from '../machine/state';
import { stepsByClauses } from './solve';
import type { Change, RegisterStep } from './steps';

/**
 * How a register is driven, by what kind it is: the one place that decides. `held` is what the register is known to hold
 * after the operations before. No step at all when nothing is left to be done.
 */
export function stepsFor(change: Change, machine: Machine, style: CodeStyle): RegisterStep[] {
  const { register, mask, value } = change;
  const { access } = register;
  const one = (written: number): RegisterStep[] => [{ kind: 'write', register, value: written >>> 0 }];
  switch (access.kind) {
    case 'read-write':
      return plain(change, register, machine, style);
    case 'alias':
      return register.target ? plain(change, register.target, machine, style) : [];
    case 'write':
      return writeOnly(change, bitsOf(machine, register));
    case 'masked': {
      if (change.whole) return one(value);
      if (!change.explicit && holds(bitsOf(machine, register), mask, value)) return [];
      // The upper half names the bits that are written: one store, nothing read, no other bit touched.
      return one(mask * 2 ** (register.bits / 2) + (value & mask));
    }
    case 'set':
    case 'clear':
    case 'toggle':
    case 'set-clear':
    case 'act':
    case 'strobe':
      // Only the bits that are meant, and never what a read would show: each 1 acts.
      return one(withAlways(register, change.whole ? value : value & mask));
    case 'key':
      return one(value);
    case 'read':
      // Shown there, and changed through the registers that set and clear its bits.
      if (change.setBy && change.clearedBy)
        return !change.explicit && holds(bitsOf(machine, register), mask, value)
          ? []
          : pair(change, change.setBy, change.clearedBy, machine);
      return one(value);
    case 'clauses':
      // A statement writes what it says; a field is reached by solving.
      if (change.explicit && canWrite(register))
        return one(change.whole ? value : restOf(register, bitsOf(machine, register), mask) | (value & mask));
      return stepsByClauses(machine, change) ?? [];
    case 'internal':
      // Where no write does it nothing is done, and the proof says what is missing.
      return stepsByClauses(machine, change) ?? [];
  }
}

const holds = (held: Bits, mask: number, value: number): boolean =>
  (mask & ~(held.known & ~(held.value ^ value))) === 0;

const withAlways = ({ always }: Register, value: number): number =>
  always ? (value & ~always.mask) | always.value : value;

/** A register that can be read and written; `store` is where its bits are, which for an alias is another register. */
function plain(change: Change, store: Register, machine: Machine, style: CodeStyle): RegisterStep[] {
  const held = bitsOf(machine, store);
  const { register, setBy, clearedBy } = change;
  const { always } = store;
  const all = fullMask(store.bits);
  const mask = (change.mask | (always?.mask ?? 0)) >>> 0;
  const value = withAlways(store, change.value);
  const flags = store.flagMask;
  const zeroFlags = store.zeroFlagMask;
  if (change.whole) return [{ kind: 'write', register, value: value >>> 0 }];
  const clears = (value & flags) | (mask & ~value & zeroFlags);
  if (!change.explicit && holds(held, mask & ~flags & ~zeroFlags, value) && clears === 0) return [];
  // Flags are written what leaves them wherever nobody asks for them to be cleared; what is read only takes any value.
  const free = flags | zeroFlags | store.readOnlyMask;
  const rest = all & ~mask & ~free;
  const sole = rest === 0;
  if (!sole && style === 'preserving' && !change.explicit && setBy && clearedBy)
    return pair(change, setBy, clearedBy, machine);
  if ((rest & ~held.known) === 0) {
    const kept = ((held.value & ~flags) | zeroFlags) & ~mask & all;
    return [{ kind: 'write', register, value: (kept | (value & mask)) >>> 0 }];
  }
  return [{ kind: 'update', register, clear: mask >>> 0, set: (value & mask) >>> 0 }];
}

/** The word that sets some bits by one of its halves and clears others by the other one. */
export function wordOfHalves(register: Register, set: number, clear: number): number {
  const isLower = register.access.kind !== 'set-clear' || register.access.setting === 'lower';
  const [lower, upper] = isLower ? [set, clear] : [clear, set];
  return (upper * 2 ** (register.bits / 2) + lower) >>> 0;
}

/** Through registers that set and clear single bits: nothing is read, and no other bit touched. */
function pair(change: Change, setBy: Register, clearedBy: Register, machine: Machine): RegisterStep[] {
  // Where a write does more than this, nothing is asked that is so already.
  const more = [setBy, clearedBy].some((way) => reachedBeside(machine.map, way).length > 0);
  const held = bitsOf(machine, change.register);
  const settled = more && !change.explicit ? held.known & ~(held.value ^ change.value) : 0;
  const high = (change.value & change.mask & ~settled) >>> 0;
  const low = (change.mask & ~change.value & ~settled) >>> 0;
  if (setBy === clearedBy) return [{ kind: 'write', register: setBy, value: wordOfHalves(setBy, high, low) }];
  return [
    ...(high ? [{ kind: 'write' as const, register: setBy, value: high }] : []),
    ...(low ? [{ kind: 'write' as const, register: clearedBy, value: low }] : []),
  ];
}

/** Bits beside those that are written: what is known of them. */
const restOf = (register: Register, held: Bits, mask: number): number =>
  (held.value & held.known & ~mask & fullMask(register.bits)) >>> 0;

/** What cannot be read is written whole; bits that nothing is known of get their reset value. */
function writeOnly(change: Change, held: Bits): RegisterStep[] {
  const { register, mask } = change;
  const value = withAlways(register, change.value);
  if (change.whole) return [{ kind: 'write', register, value: value >>> 0 }];
  if (!change.explicit && holds(held, mask, value)) return [];
  const known = (held.value & held.known) | (register.reset & ~held.known);
  const rest = known & ~mask & fullMask(register.bits);
  return [{ kind: 'write', register, value: withAlways(register, rest | (value & mask)) >>> 0 }];
}
