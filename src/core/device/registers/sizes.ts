import { LIMITS, type Limit, overLimit } from '../../base/limits';
import type { Problem } from '../../base/problems';
import type { DeviceDescription } from '../../description/types';
import { instancesOf } from './instances';

/** Whether a part is within its limits: counts, and products of counts, before anything is built of it. */
export function sizeProblems(device: DeviceDescription): Problem[] {
  const { recipe } = device;
  const counts: [Limit, string, number][] = [
    ['packages', 'packages', device.packages.length],
    ['pads', 'pads', device.pads.length],
    ['functions', 'functions', device.functions.length],
    ['peripherals', 'peripherals', device.peripherals.length],
    ['ports', 'recipe, ports', Object.keys(recipe.ports).length],
    ['blocks', 'recipe, blocks', recipe.registers.blocks.length],
    ['fields', 'recipe, fields', Object.keys(recipe.fields).length],
    ...device.packages.map((one): [Limit, string, number] => [
      'pins',
      `package ${one.id}`,
      Object.keys(one.pins).length,
    ]),
  ];
  const problems = counts
    .filter(([limit, , found]) => found > LIMITS[limit])
    .map(([limit, place, found]) => ({ place, message: overLimit(limit, found) }));
  if (problems.length > 0) return problems;
  const registers = registerCount(device);
  return registers > LIMITS.registers
    ? [{ place: 'recipe, registers', message: overLimit('registers', registers) }]
    : [];
}

/** Registers that a part will have: for each block its instances, times its registers with their counts and pieces. */
function registerCount(device: DeviceDescription): number {
  let count = 0;
  for (const block of device.recipe.registers.blocks) {
    const each = block.registers.reduce(
      (sum, one) => sum + (one.count ?? 1) * (one.accessedBy ? one.bits / one.accessedBy : 1),
      0,
    );
    count += instancesOf(device, block).length * each;
  }
  return count;
}
