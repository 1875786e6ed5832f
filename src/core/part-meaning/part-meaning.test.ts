import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { shapeDevice } from '@/testing/shape';
import { type StateBefore, type WriteEffect, writeEffect } from '../derive/machine/write-effect';
import { symbolsOf } from '../description/part-text/symbols';
import type { Device } from '../device/device';
import { readRecipeFile } from '../import/compose/device-files';
import { meaningOf } from './meaning';
import { textKeeper } from './text-task';

const effect = (device: Device, name: string, value: number, state: StateBefore): WriteEffect => {
  const register = device.registers.byName.get(name);
  if (!register) throw new Error(`no register ${name}`);
  return writeEffect(device, register, value, state);
};
/** `PA.OUT 00010010`, the highest bit first; changed bits by what they become. */
const bitsAfter = ({ changes }: WriteEffect): string[] =>
  changes.map(({ register, cells }) => `${register} ${cells.map((cell) => cell.after).join('')}`);

describe('what a write does', () => {
  const device = family('velm-v3');
  test('is lost where a guard is shut, taken where it is open, and perhaps taken from any state', () => {
    const shut = effect(device, 'PA.OE', 0x12, 'reset');
    expect(bitsAfter(shut)).toEqual(['PA.OE 00000000']);
    expect(shut.lost.join()).toMatch(/SYS\.RUNS bit 0 is 0/);
    const open = effect(device, 'PA.OE', 0x12, 'open');
    expect([bitsAfter(open), open.lost]).toEqual([['PA.OE 00010010'], []]);
    expect(bitsAfter(effect(device, 'PA.OE', 0x12, 'every'))[0]).toMatch(/^PA\.OE [?=]{8}$/);
  });

  test('shows every register that it reaches, clauses included', () => {
    // A latch that no address reads, and a register whose ones set its bits.
    const latch = shapeDevice(29);
    expect(bitsAfter(effect(latch, 'PA.RAISE', 0x81, 'reset'))).toEqual(['PA.LATCH 10000001']);
    expect(bitsAfter(effect(latch, 'PA.RAISE', 0x81, 'every'))).toEqual(['PA.LATCH 1======1']);
    const sets = family('sarn-s9');
    expect(bitsAfter(effect(sets, 'A.ON', 0x3, 'reset'))).toEqual(['A.OUT 0000000000000011']);
  });
});

test('every name of the shipped texts that is of the hardware means something', () => {
  for (const folder of FAMILIES) {
    const { definitions } = symbolsOf(readFileSync(`devices/${folder}/recipe.part`, 'utf8'));
    for (const { key, role } of definitions.values()) {
      if (!['register', 'field', 'setting', 'block', 'stage'].includes(role)) continue;
      const meaning = meaningOf(family(folder), key);
      expect([folder, key, meaning?.heading]).toEqual([folder, key, expect.any(String)]);
      expect(JSON.stringify(meaning)).not.toMatch(/undefined|NaN|\[object/);
    }
  }
});

test('a register says address, reset, bits and whose they are', () => {
  const meaning = meaningOf(family('pellin-p8'), 'register PORT.LT');
  expect(meaning).toMatchObject({ heading: 'PORT.LT', bits: { register: 'PK.LT' } });
  expect(meaning?.facts.map(({ name }) => name)).toEqual([
    'is',
    'I/O space',
    'memory space',
    'width',
    'reset',
  ]);
  expect(meaning?.bits?.cells.at(-1)).toMatchObject({ bit: 0, field: 'latch', pads: 'K0' });
});

test('a text is checked on the tables of the part, its problems at their lines', () => {
  const { original } = family('sarn-s9');
  const text = readFileSync('devices/sarn-s9/recipe.part', 'utf8');
  const ask = textKeeper();
  expect(ask({ id: 1, kind: 'open', description: original })).toEqual({
    id: 1,
    kind: 'checked',
    problems: [],
  });
  const check = (changed: string): string[] => {
    const file = expectOk(readRecipeFile({ name: 's.part', text: changed }));
    const answer = ask({ id: 2, kind: 'check', name: 's.part', text: changed, file });
    return answer.kind === 'checked' ? answer.problems.map(({ place }) => place) : ['no answer'];
  };
  expect(check(text)).toEqual([]);
  const wrong = text.replace('clear of OUT', 'clear of OTU');
  const line = wrong.split('\n').findIndex((each) => each.includes('OTU')) + 1;
  expect(check(wrong)).toEqual([
    expect.stringContaining(`s.part:${line}:3, recipe, block PORT, register OFF`),
  ]);
  // What was whole last is what names mean.
  expect(ask({ id: 3, kind: 'meaning', key: 'register PORT.OFF' })).toMatchObject({
    meaning: { heading: 'PORT.OFF' },
  });
});
