import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { randomFrom, rounds } from '@/testing/random';
import { type Makers, randomJson, type Schema } from '@/testing/random-json';
import { shapeRecipe } from '@/testing/shape';
import { smallPart } from '@/testing/small-part';
import { parseDevice, readRecipeFile } from '../../import/compose/device-files';
import { recipeFileOf } from '../../import/compose/print-tables';
import { partTextPage } from './page';
import { formatPartText, printPartText, readPartText } from './text-form';

const again = (value: object, kind: 'recipe' | 'description'): unknown => {
  const text = printPartText(value);
  const read = readPartText('x.part', text, kind);
  if (!read.ok)
    throw new Error(`${read.problems.map((one) => `${one.place}: ${one.message}`).join('\n')}\n${text}`);
  return read.value.value;
};
const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value));

describe.each(FAMILIES)('%s', (folder) => {
  const { original } = family(folder);

  test('description → text → description, tables and all', () => {
    expect(again(original, 'description')).toEqual(plain(original));
  });

  test('its text is as all are printed, and says what the recipe says', () => {
    const text = readFileSync(`devices/${folder}/recipe.part`, 'utf8');
    expect(expectOk(formatPartText(folder, text))).toBe(text);
    expect(expectOk(readRecipeFile({ name: 'x.part', text }))).toEqual(plain(recipeFileOf(original)));
  });
});

test.each(Array.from({ length: 40 }, (_, at) => at + 1))('worked example %i as text', (shape) => {
  const part = smallPart(shapeRecipe(shape));
  // An empty list is not said.
  for (const each of Object.values(part.padClasses)) if (each.lacks?.length === 0) delete each.lacks;
  expect(again(part, 'description')).toEqual(plain(part));
});

const SCHEMA = JSON.parse(readFileSync('docs/schema/mavrek-device-3.schema.json', 'utf8')) as {
  definitions: Record<string, Schema>;
};
const EXPRESSIONS = [
  'b',
  '2*b',
  '0x10 + port.io',
  '4*(b%8)',
  '(p + 1) << 2',
  '~m & 0xF',
  'PORT.OUT := 1',
  'pad.x = 1 and port.y != 0',
];
const MAKERS: Makers = {
  expression: (random) => random.pick(EXPRESSIONS),
  // What says nothing has no line.
  invariants: (random) => [
    random.int(2) === 0 ? { never: 'dir = 1', why: 'x' } : { steady: ['dir', 'in'], while: 'open = 1' },
  ],
  access: (random) =>
    random.pick([
      'set of R',
      'key 0x1 then 2 opens A, B.* once',
      'internal',
      'read',
      'clear and set of X, both keep',
      'masked',
      'act copies A to B',
      'no, such "access"',
    ]),
  // A map says the same as items of which nothing else is said.
  between: (random) =>
    random.pick([{ pull: ['*'], mode: ['input'] }, [{ setting: 'pull', values: ['none'], why: 'x' }]]),
};

type Settings = { settings: Record<string, string[]>; meanings?: Record<string, { values?: object }> };

/** What values mean is said where the values are: of those that are there. */
function withMeaningsOf({ settings, meanings }: Settings): void {
  for (const [key, meaning] of Object.entries(meanings ?? {})) {
    const values = Object.entries(meaning.values ?? {}).filter(([value]) => settings[key]?.includes(value));
    if (values.length > 0) meaning.values = Object.fromEntries(values);
    else delete meaning.values;
    if (meanings && (!settings[key] || Object.keys(meaning).length === 0)) delete meanings[key];
  }
}

test('whatever the schema allows: description → text → description', () => {
  let lines = 0;
  for (const round of rounds('descriptions as text', { seconds: 6, least: 30 })) {
    const random = randomFrom(90_000 + round);
    const value = randomJson(random, SCHEMA as unknown as Schema, SCHEMA.definitions, MAKERS) as {
      text?: string;
      recipe: Settings & Record<string, object>;
      functions: { mux: number | null; itself?: true }[];
    };
    // The text as it was written is no line of the text.
    delete value.text;
    for (const fn of value.functions) if (fn.mux !== null) delete fn.itself;
    // A field of one part is in one place.
    for (const field of Object.values(value.recipe.fields as Record<string, { parts?: object[] }>)) {
      if (field.parts?.length !== 1) continue;
      Object.assign(field, field.parts[0]);
      delete field.parts;
    }
    withMeaningsOf(value.recipe);
    if (Object.keys(value.recipe.meanings ?? {}).length === 0) delete value.recipe.meanings;
    const text = printPartText(value);
    lines += text.split('\n').length;
    expect(again(value, 'description')).toEqual(plain(value));
    expect(expectOk(formatPartText('x.part', text))).toBe(text);
  }
  expect(lines).toBeGreaterThan(500);
});

describe('what is wrong is said with its place', () => {
  const HEAD = 'part p "P", maker "m", summary "s"\n';
  const wrong = (text: string): string[] => {
    const read = readPartText('p.part', HEAD + text, 'recipe');
    return read.ok ? [] : read.problems.map(({ place, message }) => `${place}: ${message}`);
  };
  test.each([
    ['Block A at 0', 'p.part:2:1: no line begins with "Block"; did you mean block?'],
    ['note 1 x', 'expected a text in double quotes, found "x"; for example: note 1 "A3 is an input only"'],
    ['blok A at 0', 'p.part:2:1: no line begins with "blok"; did you mean block?'],
    ['block A\n  X +0 :8', 'p.part:2:8: expected "at" EXPRESSION, found the end of the line'],
    [
      'block A at 0\n  X +0 :8 "x", folows pads',
      '3:16: "folows" means nothing in the line of a register; did you mean follows?',
    ],
    [
      'block A at 0\n  X +0 :8 "x" ro',
      '3:15: expected ",", found "ro"; for example: OUT +0x24 :16 "output latch", ro',
    ],
    ['block A at 0\n  X +0 :8, ro, ro', '3:16: "ro" is said twice'],
    ['supply V "v" 3.3', '2:14: expected V after 3.3'],
    ['supply V "v', 'a string that begins with " has no end'],
    ['class a "a", up to 5 mHz', '2:20: expected Hz or kHz or MHz or GHz after 5'],
    ['kind K "k" (D3..D0 out)', '"D3..D0" is no run of names such as D0..D15'],
    ['setting pull none up\nsetting pull none', '3:1: there are two of pull'],
    ['note 1 "x"\n  note 2 "y"', 'nothing stands under the line of a note; is it indented by mistake?'],
    ['field a R bit b, from mode (input 1)', 'expected ":", found ")"'],
    ['kind K "k" (A0..A60000 in, B0..B60000 in)', 'runs of names stand for more than 70,000 entries'],
    ['a\n'.repeat(70_001), 'the text has 70,001; at most 70,000 lines are taken'],
    ['\tnote 1 "x"', 'lines are indented by spaces, not by tabs'],
  ])('%j', (text, message) => {
    const all = wrong(text);
    expect(all.join('\n')).toContain(message);
  });

  test('each line by itself, and only the line that is wrong', () => {
    expect(wrong('note 1 "x\nnote 2 "y"')).toEqual(['p.part:2:8: a string that begins with " has no end']);
    expect(wrong('supply V "v" 3\nnote 1 "x"\nfoo\nnote 2 "y"')).toHaveLength(2);
  });

  test('what the schema refuses is at its line', () => {
    const text = readFileSync('devices/sarn-s9/recipe.part', 'utf8').replace('SRC +0 :8', 'SRC +0 :99');
    const read = readRecipeFile({ name: 'r.part', text });
    const line = text.split('\n').findIndex((each) => each.includes(':99')) + 1;
    expect(read.ok ? [] : read.problems.map(({ place }) => place)).toEqual([`r.part:${line}:11`]);
  });
});

test('the printed grammar is the one that reads: npm run docs:grammar', () => {
  expect(readFileSync('docs/part-text.md', 'utf8')).toBe(partTextPage());
});

test('lines may stand in any order, and comments stay where they are', () => {
  const text = readFileSync('devices/velm-v3/recipe.part', 'utf8');
  const sections = text.split(/\n(?=[a-z])/);
  const reversed = ['# head', ...[...sections].reverse(), '# tail', ''].join('\n');
  const value = (each: string) => expectOk(readRecipeFile({ name: 'v.part', text: each }));
  const [one, two] = [value(text), value(reversed)];
  expect(Object.keys(two.recipe.fields).sort()).toEqual(Object.keys(one.recipe.fields).sort());
  expect([...two.recipe.stages].reverse()).toEqual(one.recipe.stages);
  const commented =
    '# what it is\npart  p   "P", # who\n   maker "m",summary "s" # end\n\n# registers\nblock A at 0 \n    # one\n    X +0 :8 # eight\n# last\n';
  expect(expectOk(formatPartText('c.part', commented))).toBe(
    '# what it is\n# who\n# end\npart p "P", maker "m", summary "s"\n\n# registers\nblock A at 0\n  # one\n  X +0 :8  # eight\n# last\n',
  );
});

test('a mutated text is read, or refused at a place in it: never anything else', () => {
  const texts = FAMILIES.map((folder) => readFileSync(`devices/${folder}/recipe.part`, 'utf8'));
  const pieces = [
    '"',
    "'",
    '`',
    '(',
    ')',
    ',',
    ':',
    '#',
    '\n',
    '  ',
    '\t',
    '..',
    '+',
    '*',
    '0x',
    '\\',
    'from',
    'part',
    'block',
    '[',
    '\u0000',
    'é',
  ];
  let refused = 0;
  let count = 0;
  for (const round of rounds('mutated texts', { seconds: 10, least: 300 })) {
    const random = randomFrom(40_000 + round);
    let text = random.pick(texts);
    for (let change = random.int(4); change >= 0; change--) {
      const at = random.int(text.length);
      const length = random.int(3) === 0 ? random.int(40) : random.int(3);
      text = text.slice(0, at) + (random.int(3) === 0 ? '' : random.pick(pieces)) + text.slice(at + length);
    }
    const read = random.int(2) === 0 ? readRecipeFile({ name: 'm.part', text }) : parseDevice('m.part', text);
    count++;
    if (read.ok) continue;
    refused++;
    const rows = text.split('\n');
    for (const { place } of read.problems) {
      const [, row, column] = /^m\.part(?::(\d+):(\d+))?/.exec(place) ?? [];
      expect(place.startsWith('m.part')).toBe(true);
      if (row === undefined) continue;
      expect(rows[Number(row) - 1]).toBeDefined();
      expect(Number(column)).toBeLessThanOrEqual((rows[Number(row) - 1] as string).length + 1);
    }
  }
  expect(refused).toBeGreaterThan(count / 3);
});
