import { family } from '@/testing/families';
import { corvane, deriveOn, on, planOf } from '@/testing/frost-guard';
import { budgetsOf, padLoads } from '../resolve/budget';
import { parseFigure } from './figures';
import { levelBefore, loadMilliamps, rateLimit } from './limits';
import { nearestRate, rateRange } from './rates';

describe('rates', () => {
  const device = corvane();
  test.each([
    // UART: 80 MHz / 16 / divider.
    ['UART1.TX', 115_200, 43, 0.94],
    ['UART1.TX', 9600, 521, -0.03],
    // A clock of its own: 40 MHz.
    ['UART5.TX', 115_200, 22, -1.36],
    // Only the listed dividers.
    ['SPI1.SCK', 6e6, 16, -16.67],
    // A range with a step.
    ['AUD1.CK', 3e6, 26, 2.56],
    // Beyond the ends.
    ['UART1.TX', 50e6, 1, -90],
    ['UART1.TX', 1, 65_535, 7529.51],
  ])('%s at %d Hz: divider %d, %d %% off', (signal, wanted, divider, error) => {
    const rate = nearestRate(device, signal, wanted);
    expect(rate?.divider).toBe(divider);
    expect(rate?.errorPercent).toBeCloseTo(error, 1);
  });
  test('no rate where the line does not run at it', () => {
    expect(nearestRate(device, 'SPI1.CS', 1e6)).toBeUndefined();
    expect(nearestRate(device, 'ADC1.V0', 1e6)).toBeUndefined();
  });
  test('no divider of any range is nearer', () => {
    for (const wanted of [777, 250_000, 31_000_000]) {
      for (const signal of ['UART1.TX', 'AUD1.CK', 'SPI1.SCK', 'CAN1.TX']) {
        const rate = nearestRate(device, signal, wanted);
        if (!rate) throw new Error(signal);
        const { dividers } = device.kindOf(signal)?.rate ?? { dividers: [] };
        const all = Array.isArray(dividers)
          ? dividers
          : Array.from(
              { length: Math.floor((dividers.to - dividers.from) / (dividers.step ?? 1)) + 1 },
              (_, at) => dividers.from + at * (dividers.step ?? 1),
            );
        const best = Math.min(...all.map((one) => Math.abs(rate.clockHertz / rate.per / one - wanted)));
        expect(Math.abs(rate.hertz - wanted)).toBeCloseTo(best, 6);
      }
    }
  });
  test('the lowest limit wins, and says whose it is', () => {
    const limit = (signal: string, pad: string) => {
      const known = device.pads.get(pad);
      const pkg = device.packages.get('q100');
      if (!known || !pkg) throw new Error(pad);
      return rateLimit(device, pkg, known, { pad, signal, mux: 1 });
    };
    expect(rateRange(device, 'UART1.TX')?.highest).toBe(5e6);
    expect(limit('UART1.TX', 'D4')?.why).toMatch(/divider of UART1\.TX gives 5 MHz/);
    expect(limit('UART6.TX', 'D4')?.why).toMatch(/UART6 runs at 2 MHz at most/);
    expect(limit('PACE3.Q1', 'B7')?.why).toMatch(/pad B7 \(5 V tolerant\) does 25 MHz/);
  });
});

describe('currents', () => {
  test('of an LED behind its resistor, of a coil', () => {
    expect(loadMilliamps({ kind: 'led', volts: 3.3, dropVolts: 1.8, ohms: 150 })).toBeCloseTo(10);
    expect(loadMilliamps({ kind: 'led', volts: 1.5, dropVolts: 1.8, ohms: 150 })).toBe(0);
    expect(loadMilliamps({ kind: 'coil', volts: 5, ohms: 250 })).toBeCloseTo(20);
  });
  test('the drive is the weakest that is enough, and follows when the net moves', () => {
    const drive = (pad: string, milliamps: number) =>
      deriveOn(planOf([{ name: 'X', role: { kind: 'output' }, placement: on(pad), demands: { milliamps } }]))
        .planned[0]?.settings.values.drive;
    expect(drive('A5', 3)).toBe('4mA');
    expect(drive('A5', 5)).toBe('8mA');
    expect(drive('F7', 10)).toBe('12mA');
  });
  test('sums by supply, port and package, each side by itself', () => {
    const { device, pkg, resolved } = deriveOn(
      planOf([
        { name: 'A', role: { kind: 'output' }, placement: on('A5'), demands: { milliamps: 6 } },
        {
          name: 'B',
          role: { kind: 'output' },
          placement: on('A7'),
          settings: { active: 'low' },
          demands: { milliamps: 5 },
        },
        {
          name: 'C',
          role: { kind: 'open-drain' },
          placement: on('B7'),
          demands: { farPull: 'up', farPullOhms: 3300 },
        },
        {
          name: 'D',
          role: { kind: 'input' },
          placement: on('B8'),
          demands: { farPull: 'up', farPullOhms: 3300 },
        },
      ]),
    );
    const budgets = budgetsOf(device, pkg, padLoads(device, resolved));
    const sum = (kind: string, id: string, side: string) =>
      budgets.find((one) => one.kind === kind && one.id === id && one.side === side)?.milliamps;
    expect(sum('supply', 'VDD', 'source')).toBe(6);
    expect(sum('supply', 'VDD', 'sink')).toBeCloseTo(6);
    expect(sum('port', 'A', 'sink')).toBe(5);
    expect(sum('port', 'B', 'sink')).toBeCloseTo(1);
    expect(sum('package', 'q100', 'sink')).toBeCloseTo(6);
  });
});

test('the level before initialisation: the stronger resistor decides, equal ones nothing', () => {
  const up = { title: '', atReset: 'pull-up', pullOhms: 40_000 } as const;
  expect(levelBefore(up, undefined)).toBe('high');
  expect(levelBefore(up, { farPull: 'down', farPullOhms: 4700 })).toBe('low');
  expect(levelBefore(up, { farPull: 'down', farPullOhms: 40_000 })).toBeUndefined();
  expect(levelBefore(up, { farPull: 'down', farPullOhms: 470_000 })).toBe('high');
  expect(levelBefore({ title: '', atReset: 'floating' }, { farPull: 'down' })).toBe('low');
  expect(levelBefore({ title: '', atReset: 'floating' }, undefined)).toBeUndefined();
});

test.each([
  ['115200', ['Hz'], 115_200],
  ['115.2k', ['Hz'], 115_200],
  ['10 MHz', ['Hz'], 10e6],
  ['4k7', ['Ω', 'ohm'], 4700],
  ['4,7 kΩ', ['Ω', 'ohm'], 4700],
  ['470', ['Ω', 'ohm'], 470],
  ['20 mA', ['A'], 0.02],
  ['3.3V', ['V'], 3.3],
  ['ten', ['V'], undefined],
  ['-3', ['V'], undefined],
  ['3 apples', ['V'], undefined],
] as [string, string[], number | undefined][])('"%s" is a figure', (text, units, value) => {
  const read = parseFigure(text, units);
  if (value === undefined) expect(read).toBeUndefined();
  else expect(read).toBeCloseTo(value, 9);
});

test('parts say what their pads tolerate, give and take', () => {
  for (const folder of ['corvane-c40', 'pellin-p8', 'ostrel-n5']) {
    const { padClasses } = family(folder).description;
    for (const one of Object.values(padClasses)) expect(one.toleratesVolts).toBeGreaterThan(0);
  }
});
