import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { recipeOfLines } from '@/testing/shape';
import { loadSmall } from '@/testing/small-part';
import { renamed, symbolsOf } from '../../description/part-text/symbols';
import { loadDevice } from '../../device/compile/load';
import type { Device } from '../../device/device';
import { readDeviceFiles } from '../../import/compose/device-files';
import { compareParts, verdictOf } from './compare-parts';
import { partComparisonText } from './print';

/** A pad that is an input or an output, with a latch that ones of two registers set and clear. */
const LINES = `setting mode input output
setting level low high
applies input:, output: level, function:, analog:

block PORT each port at 0x1000 + 0x10*p, named P{port}
  DIR   +0 :8
  LATCH +1 :8
  RAISE +2 :8, set of LATCH
  LOWER +3 :8, clear of LATCH

field dir   PORT.DIR bit b, from mode (output: 1, input: 0)
field latch PORT.LATCH bit b, set by PORT.RAISE, cleared by PORT.LOWER, from mode level (output high: 1, output low: 0, *: keep)
access latch latch

stage latch, writes latch
stage direction, writes dir
`;
const part = (lines: string): Device => loadSmall(recipeOfLines('part', lines));
const against = (lines: string) => compareParts(part(LINES), part(lines));

test('a description against itself, all of it shown', () => {
  const comparison = against(LINES);
  expect(comparison).toMatchObject({ differences: [], names: [], behaviour: { unproven: [], wrong: [] } });
  // Sixteen pads as an input, an output that starts low, one that starts high.
  expect(comparison.behaviour.shown).toBe(48);
  expect(verdictOf(comparison)).toBe('same');
});

test('said otherwise, and the same: other names, clauses for words, another order', () => {
  const inClauses = LINES.replace('RAISE +2 :8, set of LATCH', 'RAISE +2 :8, read LATCH, write LATCH |= v')
    .replace('LOWER +3 :8, clear of LATCH', 'LOWER +3 :8, read LATCH, write LATCH &= ~v')
    .replace(', set by PORT.RAISE, cleared by PORT.LOWER', '');
  expect(verdictOf(against(inClauses))).toBe('same');
  const named = LINES.replaceAll('RAISE', 'SETS').replaceAll('PORT', 'BANK').replaceAll('dir', 'toward');
  const comparison = against(named);
  expect(verdictOf(comparison)).toBe('same');
  expect(comparison.names).toEqual(['0x00001002: PA.RAISE and PA.SETS', '0x00001012: PB.RAISE and PB.SETS']);
});

test.each([
  ['a field one bit further', 'PORT.DIR bit b', 'PORT.DIR bit 7-b', /is not right on the other/],
  [
    'a table the other way round',
    '(output: 1, input: 0)',
    '(output: 0, input: 1)',
    /is not right on the other/,
  ],
  [
    'a register that clears where the other sets',
    'RAISE +2 :8, set of LATCH',
    'RAISE +2 :8, clear of LATCH',
    /is not right on the other|not proven/,
  ],
  [
    'a reset value',
    'DIR   +0 :8',
    'DIR   +0 :8, reset 0x01',
    /0x00001000 \(PA\.DIR\), after reset: 0x00 ≠ 0x01/,
  ],
  ['an address', 'LOWER +3', 'LOWER +4', /register at 0x00001003: PA\.LOWER, 8 bits ≠ nothing/],
  [
    'what can be read',
    'RAISE +2 :8, set of LATCH',
    'RAISE +2 :8, write LATCH |= v',
    /0x00001002, is: read and written ≠ written/,
  ],
  [
    'a guard',
    'field dir ',
    'block POWER at 0x2000\n  ON +0 :8\nguard PORT open when POWER.ON bit p\n\nfield dir ',
    /is not right on the other|there is no register/,
  ],
  [
    'a value of a setting',
    'setting level low high',
    'setting level low high later',
    /setting level: low high ≠ low high later/,
  ],
  ['reserved bits', 'DIR   +0 :8', 'DIR   +0 :8, always 0x80 in 0x80', /is not right on the other/],
])('told apart: %s', (_name, from, to, words) => {
  const lines = LINES.replace(from, to)
    // A value more needs a row more; what acts otherwise is no way of the field.
    .replace(
      '(output high: 1, output low: 0, *: keep)',
      to.includes('later')
        ? '(output high|later: 1, output low: 0, *: keep)'
        : '(output high: 1, output low: 0, *: keep)',
    )
    .replace(', set by PORT.RAISE', /clear of|write LATCH/.test(to) ? '' : ', set by PORT.RAISE');
  const recipe = recipeOfLines('part', lines);
  if (to.includes('later')) recipe.alike = [{ settings: { level: 'high|later' }, why: 'x' }];
  const comparison = compareParts(part(LINES), loadSmall(recipe));
  expect(verdictOf(comparison)).toBe('different');
  expect(partComparisonText(comparison, 'one.part', 'two.part')).toMatch(words);
});

test('told apart: what a register does that no code uses', () => {
  const unused = (lines: string): string => LINES.replace('  LOWER +3', `${lines}\n  LOWER +3`);
  const comparison = compareParts(
    part(unused('  FLIP  +5 :8, toggle of LATCH\n  MORE  +6 :8')),
    part(unused('  FLIP  +5 :8, set of LATCH\n  MORE  +6 :8, ignores 0x80')),
  );
  expect(comparison.behaviour.wrong).toEqual([]);
  expect(verdictOf(comparison)).toBe('different');
  const words = partComparisonText(comparison, 'one.part', 'two.part');
  expect(words).toMatch(
    /a write of 0xFF to 0x00001006 \(PA\.MORE\), after reset: 0x00001006 becomes 11111111 ≠ 0x00001006 becomes 01111111/,
  );
  expect(words).toMatch(/\(PA\.FLIP\), from any state/);
});

test('pins, pads and functions by name', () => {
  const [first, second] = [family('pellin-p8'), family('pellin-p8')];
  const changed = expectOk(
    loadDevice({
      ...second.original,
      functions: second.original.functions.filter(
        ({ pad, signal }) => !(pad === 'K0' && signal.startsWith('PACE')),
      ),
      packages: second.original.packages.map((each) => ({
        ...each,
        pins: { ...each.pins, '1': each.pins['2'] ?? '', '2': each.pins['1'] ?? '' },
      })),
    }),
  );
  const abouts = compareParts(first, changed).differences.map(({ about }) => about);
  expect(abouts).toEqual(expect.arrayContaining(['package d28, pin 1', 'package d28, pin 2']));
});

test('a shipped part with every register renamed is the same part', () => {
  let text = readFileSync('devices/pellin-p8/recipe.part', 'utf8');
  const registers = [...symbolsOf(text).definitions.values()].filter(({ role }) => role === 'register');
  for (const { key } of registers) {
    const place = symbolsOf(text).definitions.get(key)?.from ?? 0;
    const name = key.split('.')[1];
    for (const { from, to, insert } of expectOk(renamed(text, place, `Z${name}`)).reverse())
      text = text.slice(0, from) + insert + text.slice(to);
  }
  const file = (name: string) => ({ name, text: readFileSync(`devices/pellin-p8/${name}`, 'utf8') });
  const renamedPart = expectOk(
    loadDevice(
      expectOk(readDeviceFiles(file('pinout.csv'), file('functions.csv'), { name: 'r.part', text })),
    ),
  );
  const comparison = compareParts(family('pellin-p8'), renamedPart);
  expect(verdictOf(comparison)).toBe('same');
  expect(comparison.names.length).toBeGreaterThan(20);
  expect(comparison.behaviour.shown).toBeGreaterThan(200);
}, 60_000);
