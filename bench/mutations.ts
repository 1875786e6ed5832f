import { readdirSync } from 'node:fs';
import { formatProblems } from '@/core/base/result';
import { readDeviceFolder } from '@/files/devices';
import { recipeOf } from '@/testing/hardware-shapes';
import { mutate, type Tally } from '@/testing/mutations';
import { PROCEDURES } from '@/testing/procedure-shapes';
import { shapeDevice } from '@/testing/shape';
import { loadSmall } from '@/testing/small-part';

/**
 * `npm run bench mutations`: what becomes of mistakes in the steps of all shipped parts, in what is said of their hardware, and
 * in the operations themselves. `MAVREK_FUZZ=10` makes ten times as many.
 */
const each = Math.round(4 * Number(process.env.MAVREK_FUZZ ?? 1));
const folders = readdirSync('devices').sort();
const shipped = folders.map((folder) => {
  const device = readDeviceFolder(`devices/${folder}`);
  if (!device.ok) throw new Error(formatProblems(device.problems));
  return device.value;
});
/** The worked examples that say their hardware in clauses, and those with procedures. */
const FIRST_EXAMPLE = 29;
const examples = Array.from({ length: 12 }, (_, at) => shapeDevice(FIRST_EXAMPLE + at));
const parts = [
  ...shipped,
  ...examples,
  ...Object.values(PROCEDURES).map((shape) => loadSmall(recipeOf(shape))),
];
const sums = new Map<string, Tally>();
for (const [position, device] of parts.entries()) {
  for (const tally of mutate(device, each, position + 1).tallies) {
    const sum = sums.get(tally.kind);
    if (!sum) {
      sums.set(tally.kind, { ...tally, missed: [...tally.missed] });
      continue;
    }
    for (const key of ['made', 'same', 'refused', 'unproven', 'harmless', 'second', 'stated'] as const)
      sum[key] += tally[key];
    sum.missed.push(...tally.missed);
  }
}
const total = [...sums.values()].reduce((count, one) => count + one.made, 0);
console.log(
  `${total} mutations of ${shipped.length} shipped parts and ${parts.length - shipped.length} small ones in clauses`,
);
console.table(
  [...sums.values()].map((one) => ({
    mutation: one.kind,
    made: one.made,
    'same accesses': one.same,
    'refused on loading': one.refused,
    'not proven': one.unproven,
    'proven, and right': one.harmless,
    'proven, the steps say so': one.stated,
    'another part, wrong on the second machine': one.second,
    'proven, but wrong': one.missed.length,
  })),
);
for (const one of sums.values()) for (const text of one.missed) console.log(`proven, but wrong: ${text}`);
if ([...sums.values()].some((one) => one.missed.length > 0)) process.exitCode = 1;
