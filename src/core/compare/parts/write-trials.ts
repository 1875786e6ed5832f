import { hexText } from '../../base/text/hex';
import { type StateBefore, writeEffect } from '../../derive/machine/write-effect';
import type { Device } from '../../device/device';
import { canRead, canWrite, fullMask, type Register } from '../../device/registers/types';
import { addressMap } from './mapped';

/**
 * Writes to each register of one description and to the one of the other at the same address, on the machines of both: each bit alone,
 * none and all, in three states before. What is visible afterwards at any address must be the same, also where no setting of a pad uses it.
 */
export interface WriteTrials {
  /** How many writes were compared. */
  tried: number;
  differences: { about: string; first: string; second: string }[];
}

const STATES: readonly { state: StateBefore; words: string }[] = [
  { state: 'reset', words: 'after reset' },
  { state: 'open', words: 'with its guards open' },
  { state: 'every', words: 'from any state' },
];

const valuesFor = (register: Register): number[] => [
  0,
  fullMask(register.bits),
  ...Array.from({ length: register.bits }, (_, bit) => (1 << bit) >>> 0),
];

/** What the readable registers that a write changes hold afterwards, by address: `0x1001 00000001`. */
function visible(device: Device, register: Register, value: number, state: StateBefore): Map<string, string> {
  const after = new Map<string, string>();
  for (const { register: name, cells } of writeEffect(device, register, value, state).changes) {
    const held = device.registers.byName.get(name);
    if (!held || held.access.kind === 'internal' || !canRead(held)) continue;
    if (cells.every((cell) => cell.before === cell.after)) continue;
    after.set(`${hexText(held.address, 32)}`, cells.map((cell) => cell.after).join(''));
  }
  return after;
}

const text = (after: ReadonlyMap<string, string>): string =>
  [...after]
    .sort()
    .map(([address, bits]) => `${address} becomes ${bits}`)
    .join(', ') || 'nothing changes';

export function compareWrites(first: Device, second: Device): WriteTrials {
  const trials: WriteTrials = { tried: 0, differences: [] };
  const map = addressMap(second);
  for (const register of first.registers.all) {
    if (register.access.kind === 'internal' || register.pieces || !canWrite(register)) continue;
    const counterpart = map.find(register, 'write');
    if (!counterpart || !canWrite(counterpart)) continue;
    for (const { state, words } of STATES) {
      for (const value of valuesFor(register)) {
        trials.tried++;
        const [a, b] = [
          text(visible(first, register, value, state)),
          text(visible(second, counterpart, value, state)),
        ];
        if (a === b) continue;
        const write = `a write of ${hexText(value, register.bits)} to ${hexText(register.address, 32)} (${register.name}), ${words}`;
        trials.differences.push({ about: write, first: a, second: b });
        // One value of a register shows the difference as well as all.
        break;
      }
    }
  }
  return trials;
}
