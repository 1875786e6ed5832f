import { expectOk } from '@/testing/expect-ok';
import { corvane, frostGuard, netOf } from '@/testing/frost-guard';
import { writeDatum } from '../description/corrections';
import { loadDevice } from '../device/compile/load';
import { compareParts, describeDifferences } from './compare-parts';

const part = corvane();
const plan = frostGuard();
const changed = (...data: [string[], string | null][]) =>
  expectOk(
    loadDevice(
      data.reduce((description, [what, value]) => writeDatum(description, what, value), part.original),
    ),
  );

test('the same description changes nothing', () => {
  expect(compareParts(plan, part, part)).toEqual({
    data: [],
    findings: { gone: [], fresh: [] },
    nets: [],
    registers: [],
  });
});

test('another mux code: the net, and the register that holds it', () => {
  const comparison = compareParts(plan, part, changed([['function', 'D4', 'UART1.TX'], '9']));
  expect(comparison.data).toEqual([
    'function added: UART1.TX on D4 (code 9)',
    'function removed: UART1.TX on D4 (code 2)',
  ]);
  expect(comparison.nets).toEqual([{ net: netOf(plan, 'MAST_TX'), what: ['mux code: 2 → 9'] }]);
  expect(comparison.findings).toEqual({ gone: [], fresh: [] });
  expect(comparison.registers).toMatchObject([{ name: 'PD.FN1', bits: 32 }]);
  const [register] = comparison.registers;
  expect(((register?.before ?? 0) & 0x1f) - ((register?.after ?? 0) & 0x1f)).toBe(2 - 9);
});

test('a function that falls away: the net does not fit, and a finding comes', () => {
  const comparison = compareParts(plan, part, changed([['function', 'D4', 'UART1.TX'], null]));
  expect(comparison.nets[0]?.what).toContain('does not fit its pad any more');
  expect(comparison.findings.fresh.map((one) => one.rule)).toContain('function-not-here');
});

test('another pin, and a pad that becomes a supply', () => {
  const moved = compareParts(
    plan,
    part,
    changed([['pin', 'q100', '27'], 'B8'], [['pin', 'q100', '28'], 'B7']),
  );
  expect(moved.nets.find(({ net }) => net.name === 'FAN_1')?.what).toEqual(['pin: 27 → 28']);
  expect(moved.data[0]).toBe('2 pins changed: q100 27, q100 28');
  expect(moved.registers).toEqual([]);
});

test('a package that is gone is a problem, said in words', () => {
  const without = { ...part.original, packages: part.original.packages.filter((one) => one.id !== 'q100') };
  const comparison = compareParts(plan, part, expectOk(loadDevice(without)));
  expect(comparison.problem).toMatch(/has no package "q100"; it has q144, q64/);
});

test('differences of every kind are named', () => {
  const data: [string[], string][] = [
    [['supply', 'VDD', 'nominalVolts'], '3'],
    [['class', 'std', 'toleratesVolts'], '9'],
    [['peripheral', 'UART1', 'highestHertz'], '1000'],
    [['pad', 'B7', 'alias'], 'X'],
    [['field', 'use', 'at'], '2 * b'],
    [['register', 'PORT.USE', 'reset'], '0x1'],
  ];
  const words = describeDifferences(
    part.original,
    data.reduce((description, [what, value]) => writeDatum(description, what, value), part.original),
  );
  expect(words).toEqual([
    'pad changed: B7',
    'peripheral changed: UART1',
    'supply changed: VDD',
    'pad class changed: std',
    'register changed: PORT.USE',
    'recipe field changed: use',
  ]);
});
