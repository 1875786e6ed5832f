import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { LIMITS } from '../../base/limits';
import { fingerprintOfDescription } from '../../description/fingerprint';
import { printDevice } from '../../description/print-device';
import type { DeviceDescription } from '../../description/types';
import { loadDevice } from '../../device/compile/load';
import { parseDevice, readDeviceFiles, readRecipeFile } from './device-files';

const pellin = family('pellin-p8').original;
const messages = (text: string): string[] => {
  const result = parseDevice('part.json', text);
  return result.ok ? [] : result.problems.map((one) => `${one.place}: ${one.message}`);
};
const broken = (change: (description: DeviceDescription) => void): string[] => {
  const description = structuredClone(pellin);
  change(description);
  return messages(printDevice(description));
};
/** A part of the description that is there for sure. */
const at = <T>(list: readonly T[], index: number): T => {
  const item = list[index];
  if (item === undefined) throw new Error(`nothing at ${index}`);
  return item;
};

describe.each(FAMILIES)('%s in one file', (folder) => {
  const { original } = family(folder);
  const text = printDevice(original);
  test('is read back as it was', () => {
    expect(expectOk(parseDevice('x.json', text))).toEqual(JSON.parse(JSON.stringify(original)));
  });
  test('has one pad and one function a line, so that it diffs well', () => {
    const lines = text.split('\n');
    expect(lines.filter((line) => line.startsWith('    {"id"')).length).toBeGreaterThanOrEqual(
      original.pads.length,
    );
    const one = at(original.functions, 0);
    expect(
      lines.filter((line) => line.includes(`"pad":"${one.pad}","signal":"${one.signal}"`)).length,
    ).toBeGreaterThan(0);
  });
  test('is small enough to be read at once', () => {
    expect(text.length).toBeLessThan(LIMITS.deviceBytes / 4);
  });
});

describe('what a description names and does not have is told with row and column', () => {
  test.each<[string, (description: DeviceDescription) => void, RegExp]>([
    ['a pad twice', (d) => d.pads.push(at(d.pads, 7)), /part\.json:\d+:\d+: two pads are called K2/],
    [
      'a pin on no pad',
      (d) => {
        at(d.packages, 0).pins['2'] = 'Z9';
      },
      /there is no pad Z9/,
    ],
    [
      'a supply',
      (d) => {
        at(d.pads, 0).supply = 'VXX';
      },
      /there is no supply VXX/,
    ],
    [
      'a class',
      (d) => {
        at(d.pads, 5).class = 'odd';
      },
      /there is no pad class odd/,
    ],
    [
      'a port',
      (d) => {
        at(d.pads, 5).port = 'Q';
      },
      /the recipe has no port Q/,
    ],
    [
      'a port without a bit',
      (d) => {
        delete at(d.pads, 5).bit;
      },
      /K0 has a port but no bit/,
    ],
    [
      'a note',
      (d) => {
        at(d.pads, 5).notes = ['99'];
      },
      /there is no note 99/,
    ],
    [
      'the pad of a function',
      (d) => {
        at(d.functions, 0).pad = 'Z9';
      },
      /there is no pad Z9/,
    ],
    [
      'a peripheral',
      (d) => {
        at(d.functions, 0).signal = 'NOPE1.TX';
      },
      /there is no peripheral NOPE1/,
    ],
    [
      'a line',
      (d) => {
        at(d.functions, 0).signal = 'SPI1.NOPE';
      },
      /SPI1 has no line NOPE/,
    ],
    [
      'a note that takes nothing away',
      (d) => {
        at(d.packages, 0).removes = [{ why: 'half a note' }];
      },
      /removes/,
    ],
    [
      'a correction without a reason',
      (d) => {
        d.corrections = [{ id: 'a', what: ['note', '1'], from: null, to: 'x', why: '', who: '', when: '' }];
      },
      /corrections\.0\.why/,
    ],
  ])('%s', (_name, change, message) => {
    expect(broken(change).join('\n')).toMatch(message);
  });

  test('unknown keys, other formats, text that is no JSON, and files that are too large', () => {
    expect(messages(printDevice(pellin).replace('"maker"', '"owner"')).join()).toMatch(
      /unknown key "owner"|lacks "maker"/,
    );
    expect(messages('{"format": "other/1"}').join()).toMatch(
      /part\.json:1:\d+: format must be "mavrek-device\/3"/,
    );
    expect(messages('[').join()).toMatch(/not valid JSON/);
    expect(messages(' '.repeat(LIMITS.deviceBytes + 1)).join()).toMatch(/larger than 8 MB/);
  });

  test('keys that programs stumble over are only texts', () => {
    const text = printDevice(pellin).replace(
      '"id": "pellin-p8-22"',
      '"id": "pellin-p8-22", "__proto__": {"admin": true}',
    );
    expect(messages(text).join()).toMatch(/unknown key "__proto__"/);
    expect(({} as { admin?: boolean }).admin).toBeUndefined();
  });
});

describe('a fingerprint', () => {
  const print = (change: Partial<DeviceDescription>): string =>
    fingerprintOfDescription({ ...pellin, ...change });
  const own = print({});
  test('does not change with where a datum was read', () => {
    expect(
      print({ pads: pellin.pads.map((pad) => ({ ...pad, source: { document: 'other.pdf', page: 9 } })) }),
    ).toBe(own);
    expect(print({ source: { document: 'other' } })).toBe(own);
  });
  test('changes with any datum, and with the order of ports and of value tables', () => {
    expect(print({ summary: 'x' })).not.toBe(own);
    expect(print({ notes: { ...pellin.notes, '1': 'x' } })).not.toBe(own);
    const { recipe } = pellin;
    const reversed = Object.fromEntries(Object.entries(recipe.ports).reverse());
    expect(print({ recipe: { ...recipe, ports: reversed } })).not.toBe(own);
    const rule = recipe.encode.find((one) => Object.keys(one.table).length > 2);
    const encode = recipe.encode.map((one) =>
      one === rule ? { ...one, table: Object.fromEntries(Object.entries(one.table).reverse()) } : one,
    );
    expect(print({ recipe: { ...recipe, encode } })).not.toBe(own);
  });
});

describe('three files', () => {
  const file = (name: string) => ({ name, text: readFileSync(`devices/pellin-p8/${name}`, 'utf8') });
  const read = (change: Partial<Record<'pinout' | 'functions' | 'recipe', (text: string) => string>>) => {
    const edit = (name: string, by: ((text: string) => string) | undefined) => {
      const one = file(name);
      return by ? { ...one, text: by(one.text) } : one;
    };
    const result = readDeviceFiles(
      edit('pinout.csv', change.pinout),
      edit('functions.csv', change.functions),
      edit('recipe.part', change.recipe),
    );
    return result.ok ? [] : result.problems.map((one) => `${one.place}: ${one.message}`);
  };
  test('are good as shipped', () => {
    expect(read({})).toEqual([]);
  });
  test.each<[string, Parameters<typeof read>[0], RegExp]>([
    [
      'a row that lost a cell',
      { pinout: (text) => text.replace('K0,io,', 'K0,') },
      /pinout\.csv, row 7: has 13 cells, the headings are 14/,
    ],
    [
      'a package without a column',
      { pinout: (text) => text.replace(',d8\n', ',d9\n') },
      /there is no column "d8"/,
    ],
    [
      'a supply that is not there',
      { pinout: (text) => text.replace(',VDA,', ',VDX,') },
      /pinout\.csv, row \d+: there is no supply VDX/,
    ],
    [
      'a line that is not there',
      { functions: (text) => text.replace('SPI1.SCK', 'SPI1.SKC') },
      /functions\.csv, row 2, column F1: SPI1 has no line SKC/,
    ],
    [
      'a recipe with a wrong word',
      { recipe: (text) => text.replace('little endian', 'little endain') },
      /recipe\.part:4:12: expected "endian", found "endain"/,
    ],
    ['an empty table', { functions: () => '' }, /functions\.csv: the table is empty/],
  ])('%s is told with its place', (_name, change, message) => {
    expect(read(change).join('\n')).toMatch(message);
  });
  test('a recipe file alone is held to its schema', () => {
    expect(readRecipeFile(file('recipe.part')).ok).toBe(true);
    expect(readRecipeFile({ name: 'r.json', text: '{"format":"mavrek-recipe/3"}' }).ok).toBe(false);
  });
});

test('a description that is read is a description that loads', () => {
  for (const folder of FAMILIES) {
    const { original } = family(folder);
    expect(expectOk(loadDevice(expectOk(parseDevice('x', printDevice(original))))).fingerprint).toBe(
      family(folder).fingerprint,
    );
  }
});
