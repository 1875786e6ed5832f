import { FAMILIES, family } from '@/testing/families';
import { mutate, type Tally } from '@/testing/mutations';
import { ALL, budget, share } from '@/testing/random';
import { shapeDevice } from '@/testing/shape';

const all: { folder: string; tally: Tally }[] = [];

describe.each(FAMILIES)('mutations of %s', (folder) => {
  test('each that changes what happens is noticed, by the proof itself where the hardware is the same', () => {
    const { tallies } = mutate(family(folder), budget({ quick: 1, all: 12 }), FAMILIES.indexOf(folder) + 1);
    all.push(...tallies.map((tally) => ({ folder, tally })));
    expect(tallies.flatMap((tally) => tally.missed)).toEqual([]);
  });
});

describe.each(share([15, 17, 19, 22, 25, ...Array.from({ length: 12 }, (_, at) => 29 + at)], 4, 0))(
  'mutations of the worked example %i',
  (shape) => {
    test('each that changes what happens is noticed', () => {
      const { tallies } = mutate(shapeDevice(shape), budget({ quick: 1, all: 9 }), shape);
      all.push(...tallies.map((tally) => ({ folder: `example ${shape}`, tally })));
      expect(tallies.flatMap((tally) => tally.missed)).toEqual([]);
    });
  },
);

test('there were many, of every kind, and most of them matter', () => {
  const sum = (of: (tally: Tally) => number): number =>
    all.reduce((total, { tally }) => total + of(tally), 0);
  expect(sum((one) => one.made)).toBeGreaterThanOrEqual(budget({ quick: 120, all: 500 }));
  // Few of the worked examples are mutated in every run, and only they have clauses and hold what they read.
  const kinds = (list: typeof all): string[] =>
    [...new Set(list.map(({ tally }) => tally.kind))].filter(
      (kind) => ALL || !/clause|held|read after|written back|in turn|key/.test(kind),
    );
  expect(kinds(all.filter(({ tally }) => tally.made > 0)).sort()).toEqual(kinds(all).sort());
  const noticed = sum((one) => one.refused + one.unproven + one.second);
  expect(noticed).toBeGreaterThan(sum((one) => one.made) / 2);
});
