import { family } from '@/testing/families';
import type { Package } from '../description/types';
import { distanceBetween, orderOf, SIDES, sideOf, sidesOfShape } from './geometry';

const quad: Package = { id: 'q', name: 'q', shape: { kind: 'quad', pins: 16 }, pins: {} };
const dual: Package = { id: 'd', name: 'd', shape: { kind: 'dual-row', pins: 8 }, pins: {} };
const grid: Package = {
  id: 'b',
  name: 'b',
  shape: { kind: 'ball-grid', rows: ['A', 'B', 'C', 'D', 'E'], columns: 5 },
  pins: {},
};

test.each([
  [quad, '1', 'left'],
  [quad, '4', 'left'],
  [quad, '5', 'bottom'],
  [quad, '12', 'right'],
  [quad, '16', 'top'],
  [quad, '17', undefined],
  [quad, 'A1', undefined],
  [dual, '4', 'left'],
  [dual, '5', 'right'],
  [grid, 'C1', 'left'],
  [grid, 'C5', 'right'],
  [grid, 'A3', 'top'],
  [grid, 'E3', 'bottom'],
  [grid, 'Z3', undefined],
] as const)('%o: pin %s is on the %s side', (pkg, pin, side) => {
  expect(sideOf(pkg, pin)).toBe(side);
});

test('a dual row has two sides, all others four', () => {
  expect(sidesOfShape(dual)).toEqual(['left', 'right']);
  expect(sidesOfShape(quad)).toEqual(SIDES);
  expect(sidesOfShape(grid)).toEqual(SIDES);
});

test('distances go round the corner, and across the grid', () => {
  expect(distanceBetween(quad, 1, 16)).toBe(1);
  expect(distanceBetween(quad, 1, 9)).toBe(8);
  expect(distanceBetween(dual, 1, 8)).toBe(1);
  // Rows of balls are one column wider than the grid, so that positions tell row and column.
  expect(distanceBetween(grid, 0 * 6 + 1, 1 * 6 + 2)).toBe(1);
  expect(distanceBetween(grid, 0 * 6 + 1, 4 * 6 + 3)).toBe(4);
});

test.each(['corvane-c40', 'pellin-p8', 'hadrik-h7'])(
  'every bonded pad of %s has a place of its own and a side',
  (folder) => {
    const device = family(folder);
    for (const pkg of device.packages.values()) {
      const order = orderOf(device, pkg);
      const bonded = device.pinsOf.get(pkg.id) ?? new Map<string, string[]>();
      for (const [pad, pins] of bonded) {
        expect(order.get(pad)).toBeDefined();
        if (device.pads.get(pad)?.kind === 'io') expect(sideOf(pkg, pins[0] ?? '')).toBeDefined();
      }
      const single = [...bonded].filter(([, pins]) => pins.length === 1).map(([pad]) => order.get(pad));
      expect(new Set(single).size).toBe(single.length);
    }
  },
);
