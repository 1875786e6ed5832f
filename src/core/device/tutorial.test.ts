import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { shapeRecipe } from '@/testing/shape';
import { smallPart } from '@/testing/small-part';
import { readJson } from '../base/json/read-json';
import { lower } from '../derive/lower/lower';
import { prove } from '../derive/simulate/proof';
import { applyCorrections } from '../description/corrections';
import { formatPartText } from '../description/part-text/text-form';
import { sameSettings } from '../description/settings';
import type { Correction } from '../description/types';
import { readDeviceFiles } from '../import/compose/device-files';
import { deviceProblems } from '../import/compose/device-problems';
import { loadDevice } from './compile/load';
import { decodePad, settingsOf } from './decode';
import type { Device } from './device';
import { encodeSettings } from './fields/encode';
import { placeValue, slotMask } from './fields/fields';
import type { PlannedPad } from './planned-pad';
import type { Register } from './registers/types';

/** The page that teaches the format is held to what it says: every example in it is loaded and run. */
const PAGE = readFileSync('docs/device-format.md', 'utf8');
const blocks = new Map(
  [...PAGE.matchAll(/^```(?:json|csv|part) (.+)\n([\s\S]*?)^```$/gm)].map((match) => [
    match[1] ?? '',
    match[2] ?? '',
  ]),
);
const block = (name: string): string => {
  const text = blocks.get(name);
  if (text === undefined) throw new Error(`the page has no block ${name}`);
  return text;
};

const tarn = () =>
  expectOk(
    readDeviceFiles(
      { name: 'pinout.csv', text: block('tarn-t4/pinout.csv') },
      { name: 'functions.csv', text: block('tarn-t4/functions.csv') },
      { name: 'recipe.part', text: block('tarn-t4/recipe.part') },
    ),
  );

/** Every setting of every pad read back out of the bits it gives. */
function expectReadsBack(device: Device): number {
  let count = 0;
  for (const pad of device.description.pads.filter((one) => one.port !== undefined)) {
    for (const { settings, fn } of settingsOf(device, pad)) {
      const written = new Map<Register, number>();
      const contents = (register: Register): number => written.get(register) ?? register.reset;
      for (const { field, value } of encodeSettings(settings, pad, fn, device))
        for (const slot of device.slotsOf(field, pad, fn))
          written.set(
            slot.register,
            ((contents(slot.register) & ~slotMask(slot)) | placeValue(slot, value)) >>> 0,
          );
      const found = decodePad(device, pad, contents);
      expect(found.some((one) => sameSettings(one, settings))).toBe(true);
      count++;
    }
  }
  return count;
}

/** Each setting of each pad alone, in both styles: what the others are is not to be touched. */
function expectEachProven(device: Device): void {
  for (const pad of device.description.pads.filter((one) => one.port !== undefined)) {
    for (const { settings, fn } of settingsOf(device, pad)) {
      for (const style of ['from-reset', 'preserving'] as const) {
        const planned = [{ pad, fn, settings }];
        expect(prove(device, planned, lower(device, planned, style)).failures).toEqual([]);
      }
    }
  }
}

/** The last setting of each pad, all at once, in both styles. */
function expectProven(device: Device): void {
  const taken = new Set<string>();
  const planned = device.description.pads
    .filter((pad) => pad.port !== undefined)
    .flatMap((pad): PlannedPad[] => {
      const all = [...settingsOf(device, pad)].filter(({ fn }) => !fn || !taken.has(fn.signal));
      // What is shared between pads (a line by its number, a route) is planned on one of them only.
      const free = all.filter(({ settings, fn }) =>
        encodeSettings(settings, pad, fn, device).every(({ field }) => {
          const shared = device.fields.get(field)?.shared;
          return (
            !shared ||
            device.slotsOf(field, pad, fn).every((slot) => !taken.has(`${slot.register.name} ${slot.low}`))
          );
        }),
      );
      const last = free.at(-1);
      if (!last) return [];
      if (last.fn) taken.add(last.fn.signal);
      for (const { field } of encodeSettings(last.settings, pad, last.fn, device))
        for (const slot of device.slotsOf(field, pad, last.fn))
          taken.add(`${slot.register.name} ${slot.low}`);
      return [{ pad, fn: last.fn, settings: last.settings }];
    });
  expect(planned.length).toBeGreaterThan(7);
  for (const style of ['from-reset', 'preserving'] as const) {
    const proof = prove(device, planned, lower(device, planned, style));
    expect(proof.failures).toEqual([]);
    expect(proof.proven).toBe(planned.length);
  }
}

const SHAPES = 40;

test.each([...blocks].filter(([name]) => name.startsWith('shape')))(
  '%s is as all texts are printed',
  (name, text) => {
    expect(expectOk(formatPartText(name, text))).toBe(text);
  },
);

test('the page has an example of each of the shapes', () => {
  for (let shape = 1; shape <= SHAPES; shape++) expect(blocks.has(`shape ${shape}`)).toBe(true);
});

describe.each(Array.from({ length: SHAPES }, (_, index) => index + 1))('shape %i', (shape) => {
  const description = smallPart(shapeRecipe(shape));
  test('loads, keeps to the schema, reads back, and ends as planned', () => {
    const json = expectOk(readJson('shape', JSON.stringify(description), 'deviceBytes'));
    expect(deviceProblems()(json)).toEqual([]);
    const device = expectOk(loadDevice(description));
    expect(expectReadsBack(device)).toBeGreaterThan(30);
    expectProven(device);
    expectEachProven(device);
  });
});

describe('the part of the tutorial', () => {
  test('loads; all its settings read back; its operations end as planned', () => {
    const device = expectOk(loadDevice(tarn()));
    expect(expectReadsBack(device)).toBeGreaterThan(40);
    expectProven(device);
    expectEachProven(device);
  });
  test('is the one in examples/', () => {
    for (const name of ['pinout.csv', 'functions.csv', 'recipe.part'])
      expect(readFileSync(`examples/tarn-t4/${name}`, 'utf8')).toBe(block(`tarn-t4/${name}`));
  });
  test('takes the correction of the page', () => {
    const correction: Correction = JSON.parse(block('correction'));
    expect(applyCorrections(tarn(), [correction]).unapplied).toEqual([]);
  });
});
