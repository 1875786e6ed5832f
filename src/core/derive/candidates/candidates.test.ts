import { family } from '@/testing/families';
import { corvane, deriveOn, netOf, on, planOf } from '@/testing/frost-guard';
import type { Device } from '../../device/device';
import type { Constraint, Demands, Net, Plan } from '../../plan/model/types';
import { type Candidate, candidatesFor } from './candidates';

const input = { kind: 'input' } as const;
const output = { kind: 'output' } as const;
const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;

const candidates = (plan: Plan, name: string, device?: Device): Candidate[] =>
  candidatesFor(deriveOn(plan, device).occupancy, netOf(plan, name));
const at = (list: readonly Candidate[], pad: string): Candidate => {
  const found = list.find((one) => one.pad === pad);
  if (!found) throw new Error(`no candidate ${pad}`);
  return found;
};
const demanding = (demands: Demands, net: Partial<Net> = {}): Candidate[] =>
  candidates(planOf([{ name: 'X', role: output, demands, ...net }]), 'X');

describe('what a net demands speaks against pads that do not give it', () => {
  test.each([
    ['a current', { milliamps: 6 }, 'B7', /pad B7 can source 4 mA, and 6 mA are wanted/],
    [
      'a rate',
      { rateHertz: 40e6 },
      'B7',
      /pad B7 \(5 V tolerant\) does 25 MHz at most, and 40 MHz are wanted/,
    ],
    ['a voltage', { farVolts: 5 }, 'A5', /pad A5 tolerates 3\.6 V, and the far end puts 5 V on it/],
    ['a side', { side: 'top' }, 'A5', /pad A5 is on the left side, not the top side/],
    [
      'a level',
      { beforeInit: 'high' },
      'A5',
      /pad A5 floats before initialisation, and the net must be high/,
    ],
    ['a pad ruled out', { notPads: ['A5'] }, 'A5', /the plan rules out pad A5/],
  ] as [string, Demands, string, RegExp][])('%s', (_, demands, pad, words) => {
    const list = demanding(demands);
    const bad = at(list, pad);
    expect(bad.clean).toBe(false);
    expect(bad.reasons.join('; ')).toMatch(words);
    const [best] = list;
    expect(demands.beforeInit === undefined ? best?.clean : true).toBe(true);
  });
  test('sinking is told from sourcing', () => {
    const list = demanding({ milliamps: 6 }, { settings: { active: 'low' } });
    expect(at(list, 'B7').reasons.join()).toMatch(/pad B7 can sink 4 mA/);
  });
  test('a chosen drive limits what the pad gives', () => {
    const list = demanding({ milliamps: 6 }, { settings: { drive: '2mA' } });
    expect(at(list, 'A5').reasons.join()).toMatch(/can source 2 mA at drive 2mA/);
  });
  test('a resistor at the far end decides the level before initialisation', () => {
    const list = demanding({ beforeInit: 'high', farPull: 'up', farPullOhms: 4700 });
    expect(at(list, 'A5').clean).toBe(true);
  });
});

describe('what several nets demand together', () => {
  const constrained = (kind: Constraint['kind'], nets: Parameters<typeof planOf>[0]): Plan => {
    const plan = planOf(nets);
    return { ...plan, constraints: [{ id: 't', kind, nets: plan.nets.map((net) => net.id) }] };
  };
  test('a bus goes on where it began', () => {
    const plan = constrained('bus', [
      { name: 'A', role: output, placement: on('B8') },
      { name: 'B', role: output },
    ]);
    const list = candidates(plan, 'B');
    expect(list[0]?.pad).toBe('B9');
    expect(at(list, 'B10').reasons).toContain('not in order with A');
    expect(list.filter((one) => one.clean).map((one) => one.pad)).toEqual(['B9']);
  });
  test('a pair lies beside its other', () => {
    const plan = constrained('pair', [
      { name: 'A', role: output, placement: on('E12') },
      { name: 'B', role: output },
    ]);
    const clean = candidates(plan, 'B').filter((one) => one.clean);
    expect(clean.map((one) => one.pad).sort()).toEqual(['E11', 'E13']);
  });
  test('what shall be apart is not', () => {
    const plan = constrained('apart', [
      { name: 'A', role: output, placement: on('E12') },
      { name: 'B', role: output },
    ]);
    expect(at(candidates(plan, 'B'), 'E13').reasons).toContain('not apart from A');
  });
  test('channels of one timer', () => {
    const channel = { kind: 'open-signal', peripheral: 'PACE', line: 'Q*' } as const;
    const plan = constrained('same-instance', [
      { name: 'A', role: signal('PACE3.Q1'), placement: on('D12') },
      { name: 'B', role: channel },
    ]);
    for (const one of candidates(plan, 'B').filter((candidate) => candidate.clean))
      expect(one.fn?.signal).toMatch(/^PACE3\.Q[234]$/);
  });
});

describe('interrupt lines', () => {
  const irq = { kind: 'interrupt' } as const;
  test('a pad whose line another net has', () => {
    const plan = planOf([
      { name: 'A', role: irq, placement: on('E12') },
      { name: 'B', role: irq },
    ]);
    expect(at(candidates(plan, 'B'), 'F12').reasons).toContain("interrupt line 12 is A's");
    expect(candidates(plan, 'B')[0]?.clean).toBe(true);
  });
  test('a pad whose bit has none', () => {
    const device = family('ketter-k2');
    const plan = planOf([{ name: 'A', role: irq }], { device: device.description.id, package: 'q64' });
    const list = candidates(plan, 'A', device);
    expect(at(list, 'A9').reasons).toContain('no interrupt line');
    expect(device.pads.get(list[0]?.pad ?? '')?.bit).toBeLessThan(8);
  });
  test('plain inputs do not mind', () => {
    const plan = planOf([
      { name: 'A', role: irq, placement: on('E12') },
      { name: 'B', role: input },
    ]);
    expect(at(candidates(plan, 'B'), 'F12').clean).toBe(true);
  });
});

describe('what a pad costs', () => {
  const spi = (line: string) => ({ kind: 'open-signal', peripheral: 'SPI', line }) as const;
  test('an instance that the circuit names is worth more than any distance', () => {
    const plan = planOf([
      { name: 'SCK', role: signal('SPI2.SCK') },
      { name: 'SDO', role: spi('SDO') },
    ]);
    const list = candidates(plan, 'SDO');
    expect(list[0]?.fn?.signal).toBe('SPI2.SDO');
    expect(list[0]?.terms.split).toBeUndefined();
    const other = list.find((one) => one.fn?.signal !== 'SPI2.SDO');
    expect(other?.terms.split).toBe(1);
    expect(other?.reasons).toContain('SCK names another instance');
  });
  test('another circuit that names it has it for itself', () => {
    const plan = {
      ...planOf([
        { name: 'SCK', role: signal('SPI2.SCK') },
        { name: 'SDO', role: spi('SDO'), circuit: 'other' },
      ]),
    };
    const own = candidates(plan, 'SDO').find((one) => one.fn?.signal === 'SPI2.SDO');
    expect(own).toMatchObject({ holds: false, clean: false });
    expect(own?.reasons).toContain('SPI2 serves another circuit');
  });
  test('a fault costs more than all terms together, and what holds comes first', () => {
    const plan = planOf([
      { name: 'A', role: output, placement: on('E12') },
      { name: 'B', role: output },
    ]);
    const list = candidates(plan, 'B');
    const last = list.findLastIndex((one) => one.holds);
    expect(list.findIndex((one) => !one.holds)).toBe(last + 1);
    expect(at(list, 'E12')).toMatchObject({ holds: false, takenBy: [{ name: 'A' }] });
    expect(list[0]?.reasons).toContain('beside A');
  });
  test('distance is said as it is, though far is far', () => {
    const plan = planOf([
      { name: 'A', role: output, placement: on('A0') },
      { name: 'B', role: output },
    ]);
    const far = at(candidates(plan, 'B'), 'D10');
    expect(far.terms.near).toBe(24);
    expect(far.reasons.join()).toMatch(/right side, 4\d pins from A/);
  });
  test('boot pads are taken last of those that hold, and are not proposed', () => {
    const list = candidates(planOf([{ name: 'B', role: input }]), 'B');
    const holding = list.filter((one) => one.holds);
    const firstSpecial = holding.findIndex((one) => one.terms.special);
    expect(holding.slice(firstSpecial).every((one) => one.terms.special === 1 && !one.clean)).toBe(true);
    expect(firstSpecial).toBeGreaterThan(0);
  });
});

test('the best candidate by hand is one the placer could choose: no demand is broken by taking it', () => {
  for (const demands of [
    { milliamps: 8 },
    { farVolts: 5 },
    { side: 'right' },
    { rateHertz: 80e6 },
  ] as Demands[]) {
    const [best] = demanding(demands);
    const plan = planOf([{ name: 'X', role: output, demands, placement: on(best?.pad ?? '') }]);
    expect(deriveOn(plan).findings.filter((one) => one.severity === 'error')).toEqual([]);
  }
  expect(corvane().description.pads.length).toBeGreaterThan(100);
});
