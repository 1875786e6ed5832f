import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { recipeOf } from '@/testing/hardware-shapes';
import { PROCEDURES } from '@/testing/procedure-shapes';
import { shapeRecipe } from '@/testing/shape';
import { smallPart } from '@/testing/small-part';
import { loadDevice } from '../device/compile/load';
import { parseDevice, readRecipeFile } from '../import/compose/device-files';
import { fingerprintOfDescription } from './fingerprint';
import { migrateCorrections, migrateDescription, spelledFirst } from './migrations';
import type { DeviceDescription } from './types';

const part = (): DeviceDescription => {
  const made = JSON.parse(JSON.stringify(smallPart({}))) as DeviceDescription;
  made.padClasses = {
    ...made.padClasses,
    std: {
      title: 'standard',
      bySpeed: { fast: { highestHertz: 1 } },
      lacks: [{ setting: 'outputType', values: ['open-drain'], why: 'w' }],
    },
  };
  return made;
};

test('a recipe file of the first format is read in the trade’s words', () => {
  const text = readFileSync('src/testing/first-formats/velm-v3.recipe.json', 'utf8');
  expect(text).toMatch(/"use"/);
  const file = expectOk(readRecipeFile({ name: 'recipe.json', text }));
  expect(Object.keys(file.recipe.settings)).toContain('mode');
  expect(JSON.stringify(file.recipe.encode.map((rule) => rule.from))).not.toMatch(
    /"(use|buffer|slew|threshold)"/,
  );
  expect(file.packages[0]?.shape).toMatchObject({ pins: 100 });
});

test('a description of the first format is today’s, and is the same part', () => {
  const old = spelledFirst(part()) as Record<string, never>;
  expect(JSON.stringify(old)).toMatch(/"terminals".*"bySlew".*"use"/s);
  const read = expectOk(parseDevice('old.json', JSON.stringify(old)));
  expect(read).toEqual(part());
  // The fingerprint is what the first format gave it: plans stay on their description.
  expect(fingerprintOfDescription(read)).toBe(fingerprintOfDescription(part()));
  expect(expectOk(loadDevice(read)).fingerprint).toBe(fingerprintOfDescription(part()));
});

/** As the second format spelled it: keys of several words had blanks. */
const spelledSecond = (text: string): string =>
  text
    .replace('"mavrek-device/3"', '"mavrek-device/2"')
    .replace(
      /"(accessed|after|any|before|cleared|in|left|open|returns|set|toggled|writable|write)([A-Z][a-z]+)([A-Z][a-z]+)?":/g,
      (key, first: string, second: string, third?: string) =>
        /^"(setBits|inBits)/.test(key)
          ? key
          : `"${[first, second, ...(third ? [third] : [])].join(' ').toLowerCase()}":`,
    );

test('descriptions of the second format are today’s, and the same parts', () => {
  const keys = new Set<string>();
  const parts = [
    ...FAMILIES.map((folder) => family(folder).original),
    ...Object.values(PROCEDURES).map((shape) => smallPart(recipeOf(shape))),
    ...Array.from({ length: 40 }, (_, at) => smallPart(shapeRecipe(at + 1))),
  ];
  for (const today of parts) {
    const { text: _written, ...bare } = today;
    const old = spelledSecond(JSON.stringify(bare));
    for (const [key] of old.matchAll(/"[a-z]+( [a-z]+)+"(?=:)/g)) keys.add(key);
    const read = expectOk(parseDevice('old.json', old));
    expect(read).toEqual(JSON.parse(JSON.stringify(bare)));
    expect(fingerprintOfDescription(read)).toBe(fingerprintOfDescription(today));
  }
  // Every key of several words is in one of them.
  expect(keys.size).toBeGreaterThanOrEqual(15);
});

test('a description of today stays as it is', () => {
  const now = part();
  expect(migrateDescription(now)).toBe(now);
});

test('names that users gave are not touched: a field called "use", a note "terminals"', () => {
  const old = {
    format: 'mavrek-device/1',
    notes: { terminals: 'buffer' },
    recipe: { fields: { use: { in: 'threshold' } } },
  };
  expect(migrateDescription(old)).toEqual({ ...old, format: 'mavrek-device/3' });
});

test('corrections by themselves', () => {
  const list = [{ what: ['terminal', 'q100', '3'] }, { what: ['pad', 'terminal', 'kind'] }];
  expect(migrateCorrections(list)).toEqual([
    { what: ['pin', 'q100', '3'] },
    { what: ['pad', 'terminal', 'kind'] },
  ]);
  expect(migrateCorrections('none')).toBe('none');
});
