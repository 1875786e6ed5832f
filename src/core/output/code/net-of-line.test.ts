import { deriveOn, frostGuard, netOf } from '@/testing/frost-guard';
import { generateFiles } from '../generate';
import { TARGETS } from '../targets';
import { netOfLine } from './net-of-line';

const plan = frostGuard();
const derived = deriveOn(plan);
const fan = netOf(plan, 'FAN_1').id;

const coded = TARGETS.filter(({ document, id }) => !document && !['devicetree', 'asm-avr'].includes(id));

test.each(coded)('$title: the functions of a net lead to it, lines of initialisation to none', (target) => {
  const files = generateFiles(target, derived);
  let found = 0;
  for (const { text, operations = [] } of files) {
    const lines = text.split('\n');
    for (const [at, line] of lines.entries()) {
      if (!/fan_1_(set|clear|toggle|read)\b/i.test(line)) continue;
      expect([line, netOfLine(derived, text, at + 1)]).toEqual([line, fan]);
      found++;
    }
    for (const line of operations) expect(netOfLine(derived, text, line)).toBeUndefined();
  }
  expect(found).toBeGreaterThan(3);
});

test('constants lead to their net, and the body of a function as its head', () => {
  const text = generateFiles(TARGETS[0] as never, derived)[0]?.text ?? '';
  const lines = text.split('\n');
  const rate = lines.findIndex((line) => line.includes('MAST_TX_INSTANCE'));
  expect(netOfLine(derived, text, rate + 1)).toBe(netOf(plan, 'MAST_TX').id);
  expect(netOfLine(derived, 'void frost_guard_fan_1_set(void)\n{\n    x();\n    y();\n}\n', 4)).toBe(fan);
  expect(netOfLine(derived, 'void frost_guard_fan_1_set(void)\n{\n}\n\nint other;\n', 5)).toBeUndefined();
});
