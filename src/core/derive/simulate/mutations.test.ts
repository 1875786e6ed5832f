import { FAMILIES, family } from '@/testing/families';
import { mutate, type Tally } from '@/testing/mutations';
import { budget, share } from '@/testing/random';
import { shapeDevice } from '@/testing/shape';

const all: { folder: string; tally: Tally }[] = [];

describe.each(FAMILIES)('mutations of %s', (folder) => {
  test('each that changes what happens is noticed, by the proof itself where the hardware is the same', () => {
    const { tallies } = mutate(family(folder), budget({ quick: 1, all: 12 }), FAMILIES.indexOf(folder) + 1);
    all.push(...tallies.map((tally) => ({ folder, tally })));
    expect(tallies.flatMap((tally) => tally.missed)).toEqual([]);
  });
});

describe.each(share([15, 16, 17, 18, 19, 20, 22, 24, 25], 3, 0))(
  'mutations of the worked example %i',
  (shape) => {
    test('each that changes what happens is noticed', () => {
      const { tallies } = mutate(shapeDevice(shape), budget({ quick: 1, all: 9 }), shape);
      expect(tallies.flatMap((tally) => tally.missed)).toEqual([]);
    });
  },
);

test('there were many, of every kind, and most of them matter', () => {
  const sum = (of: (tally: Tally) => number): number =>
    all.reduce((total, { tally }) => total + of(tally), 0);
  expect(sum((one) => one.made)).toBeGreaterThanOrEqual(budget({ quick: 120, all: 500 }));
  expect(new Set(all.filter(({ tally }) => tally.made > 0).map(({ tally }) => tally.kind)).size).toBe(
    new Set(all.map(({ tally }) => tally.kind)).size,
  );
  const noticed = sum((one) => one.refused + one.unproven + one.second);
  expect(noticed).toBeGreaterThan(sum((one) => one.made) / 2);
});
