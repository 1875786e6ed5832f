import { family } from '@/testing/families';
import { deriveOn, on, planOf } from '@/testing/frost-guard';
import { candidatesFor } from '../derive/candidates/candidates';
import { whyNot } from '../derive/resolve/resolve';
import type { Package } from '../description/types';
import { matchesLine } from './fields/excludes';
import { concerns, hertzText, highestRate, offerOf } from './offers';

const pellin = family('pellin-p8');
const pack = (id: string): Package => pellin.packages.get(id) as Package;
const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;

describe('what a package leaves of a part', () => {
  test('a note on a signal and a pad takes that function away there, and leaves it elsewhere', () => {
    const [large, small] = [offerOf(pellin, pack('d28')), offerOf(pellin, pack('d14'))];
    const fn = pellin.functionsByPad.get('K6')?.find((one) => one.signal === 'UART1.TX');
    if (!fn) throw new Error('no UART1.TX on K6');
    expect([large.removal(fn), small.removal(fn)?.note]).toEqual([undefined, '5']);
    expect(large.of('K6')).toContain(fn);
    expect(small.of('K6')).not.toContain(fn);
    expect(small.carrying('UART1.TX').map((one) => one.pad)).not.toContain('K6');
  });

  test('a note on an instance takes all its lines away', () => {
    const offer = offerOf(pellin, pack('d8'));
    for (const one of pellin.description.functions)
      if (one.signal.startsWith('CNT1.')) expect(offer.removal(one)?.why).toMatch(/note 7/);
    expect(offer.carrying('CNT1.A')).toEqual([]);
  });

  test('a note that limits a rate takes nothing away', () => {
    const offer = offerOf(pellin, pack('d14'));
    const adc = pellin.description.functions.find(
      (fn) => fn.signal.startsWith('ADC1.') && pellin.pinsOf.get('d14')?.has(fn.pad),
    );
    if (!adc) throw new Error('no ADC1');
    expect(offer.of(adc.pad)).toContain(adc);
    expect(highestRate(pellin, pack('d14'), adc)).toEqual({
      hertz: 50000,
      why: expect.stringContaining('note 6'),
    });
    expect(highestRate(pellin, pack('d28'), adc)).toBeUndefined();
  });

  test('pads that are not bonded carry nothing', () => {
    const bonded = pellin.pinsOf.get('d8');
    for (const fn of offerOf(pellin, pack('d8')).carrying('SPI1.SCK')) expect(bonded?.has(fn.pad)).toBe(true);
  });

  test('a net is not offered what a note takes away, and is told why', () => {
    const pad = pellin.pads.get('K6');
    if (!pad) throw new Error('no K6');
    expect(whyNot(pellin, pack('d28'), signal('UART1.TX'), pad)).toBeUndefined();
    expect(whyNot(pellin, pack('d14'), signal('UART1.TX'), pad)).toMatch(/in dual row 14: note 5/);
    const plan = planOf([{ name: 'TX', role: signal('UART1.TX') }], {
      device: 'pellin-p8-22',
      package: 'd14',
    });
    const derived = deriveOn(plan, pellin);
    const pads = candidatesFor(derived.occupancy, plan.nets[0] as never).map((one) => one.pad);
    expect(pads).not.toContain('K6');
  });

  test('the second pad of the crystal is offered last while the crystal is in use', () => {
    const nets = [
      { name: 'XTAL', role: signal('OSC.XI'), placement: on('M3') },
      { name: 'LAMP', role: { kind: 'output' as const } },
    ];
    const ranks = (count: number) => {
      const plan = planOf(nets.slice(2 - count), { device: 'pellin-p8-22', package: 'd28' });
      const lamp = plan.nets.at(-1);
      if (!lamp) throw new Error('no lamp');
      return candidatesFor(deriveOn(plan, pellin).occupancy, lamp).find((one) => one.pad === 'M4');
    };
    expect(ranks(1)?.clean).toBe(true);
    expect(ranks(2)).toMatchObject({ clean: false });
    expect(ranks(2)?.reasons[0]).toBe('taken along by OSC.XI on M3');
  });
});

test.each([
  ['SPI3.*', 'SPI3.SCK', true],
  ['SPI3.*', 'SPI33.SCK', false],
  ['UART1.TX', 'UART1.TX', true],
  ['UART1.TX', 'UART1.TXD', false],
])('%s speaks of %s: %s', (pattern, id, result) => {
  expect(matchesLine(pattern, id)).toBe(result);
});

test.each([
  [50_000, '50 kHz'],
  [66_000_000, '66 MHz'],
  [1_500_000, '1.5 MHz'],
  [800, '800 Hz'],
  [2_400_000_000, '2.4 GHz'],
])('%d Hz reads %s', (hertz, text) => {
  expect(hertzText(hertz)).toBe(text);
});

test('a note that names neither signals nor pads takes nothing away', () => {
  expect(concerns({ why: 'half a note' }, { pad: 'K0', signal: 'SPI1.SCK' })).toBe(false);
});
