import { readdirSync } from 'node:fs';
import { formatProblems } from '@/core/base/result';
import { readDeviceFolder } from '@/files/devices';
import { mutate, type Tally } from '@/testing/mutations';

/**
 * `npm run bench mutations`: what becomes of mistakes in the steps of all shipped parts, in what is said of their hardware, and
 * in the operations themselves. `MAVREK_FUZZ=10` makes ten times as many.
 */
const each = Math.round(4 * Number(process.env.MAVREK_FUZZ ?? 1));
const folders = readdirSync('devices').sort();
const sums = new Map<string, Tally>();
for (const [position, folder] of folders.entries()) {
  const device = readDeviceFolder(`devices/${folder}`);
  if (!device.ok) throw new Error(formatProblems(device.problems));
  for (const tally of mutate(device.value, each, position + 1).tallies) {
    const sum = sums.get(tally.kind);
    if (!sum) {
      sums.set(tally.kind, { ...tally, missed: [...tally.missed] });
      continue;
    }
    for (const key of ['made', 'same', 'refused', 'unproven', 'harmless', 'second'] as const)
      sum[key] += tally[key];
    sum.missed.push(...tally.missed);
  }
}
const total = [...sums.values()].reduce((count, one) => count + one.made, 0);
console.log(`${total} mutations of ${folders.length} parts`);
console.table(
  [...sums.values()].map((one) => ({
    mutation: one.kind,
    made: one.made,
    'same accesses': one.same,
    'refused on loading': one.refused,
    'not proven': one.unproven,
    'proven, and right': one.harmless,
    'another part, wrong on the second machine': one.second,
    'proven, but wrong': one.missed.length,
  })),
);
for (const one of sums.values()) for (const text of one.missed) console.log(`proven, but wrong: ${text}`);
if ([...sums.values()].some((one) => one.missed.length > 0)) process.exitCode = 1;
