import { nextState, bitsOf as randomBits } from '../../base/random';
import type { Derived } from '../../derive/derive';
import { assume, copyMachine, createMachine, type Machine, shownBits } from '../../derive/machine/state';
import { fullMask, heldBits, type Register } from '../../device/registers/types';

/** What the chip is when the bench is switched on. */
export type StartFrom =
  /** As it is out of reset. */
  | { kind: 'reset' }
  /** In every state at once: what the proof starts from. */
  | { kind: 'any' }
  /** As something before may have left it: every bit by chance. */
  | { kind: 'random'; seed: number }
  /** As registers were read; those that were not are as out of reset. */
  | { kind: 'values'; values: ReadonlyMap<string, number> }
  /** As another play left it. */
  | { kind: 'machine'; machine: Machine };

export const START_TITLES: Record<StartFrom['kind'], string> = {
  reset: 'reset',
  values: 'dump',
  random: 'random bits',
  any: 'any state',
  machine: 'after another trial',
};

/** A register machine in the state from which one starts. */
export function startMachine({ device }: Derived, from: StartFrom): Machine {
  if (from.kind === 'machine') return { ...copyMachine(from.machine), cycle: 0, pending: [] };
  const machine = createMachine(device.registers, from.kind === 'any' ? 'every' : 'reset');
  if (from.kind === 'reset' || from.kind === 'any') return machine;
  const next = from.kind === 'random' ? numbers(from.seed) : () => 0;
  for (const register of device.registers.all) {
    if (!register.storage) continue;
    if (from.kind === 'values') {
      const value = from.values.get(register.name);
      if (value !== undefined) assume(machine, register, fullMask(heldBits(register)), value);
    } else if (!register.follows) {
      // Reserved bits have the value that every write must give them.
      const { mask, value } = register.always ?? { mask: 0, value: 0 };
      const bits = fullMask(heldBits(register)) & ~register.readOnlyMask & ~mask;
      assume(machine, register, bits, next());
      assume(machine, register, mask, value);
    }
  }
  const given = from.kind === 'values' ? from.values : new Map<string, number>();
  for (const one of device.registers.all.flatMap((register) => register.followers))
    if (!given.has(one.register.name)) settleFollower(machine, one);
  machine.changed.clear();
  return machine;
}

function settleFollower(machine: Machine, one: Register['followers'][number]): void {
  const bits = shownBits(machine, one);
  assume(machine, one.register, one.mask & bits.known, bits.value);
}

/** Numbers of 32 bits: equal seeds give equal numbers. */
function numbers(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = nextState(state);
    return randomBits(state);
  };
}
