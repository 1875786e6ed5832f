import { agreement } from './agreement';
import type { Demands } from './model/types';

const of = (...all: Demands[]) => agreement(all);

test('what all have alike is agreed, also where it is made of parts', () => {
  const load = { kind: 'led', volts: 3.3, dropVolts: 2, ohms: 220 } as const;
  expect(of({ load, side: 'left' }, { load: { ...load }, side: 'left' })).toEqual({
    agreed: { load, side: 'left' },
    differ: new Set(),
  });
  expect(of({ notPads: ['B7', 'C3'] }, { notPads: ['B7', 'C3'] }).agreed).toEqual({ notPads: ['B7', 'C3'] });
});

test('other values, and values that only some have, differ', () => {
  const { agreed, differ } = of({ milliamps: 4, rateHertz: 1000 }, { milliamps: 5, rateHertz: 1000 }, {});
  expect(agreed).toEqual({});
  expect(differ).toEqual(new Set(['milliamps', 'rateHertz']));
  expect(of({ milliamps: 4 }, { milliamps: 8 }).differ).toEqual(new Set(['milliamps']));
});

test('none, and one alone, agree', () => {
  expect(of()).toEqual({ agreed: {}, differ: new Set() });
  expect(of({ farVolts: 5 })).toEqual({ agreed: { farVolts: 5 }, differ: new Set() });
});
