import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { randomFrom, rounds } from '@/testing/random';
import { parseDevice, readRecipeFile } from '../../import/compose/device-files';
import { printTables, recipeTextOf } from '../../import/compose/print-tables';
import { fingerprintOfDescription } from '../fingerprint';
import { onTables } from '../on-tables';
import { printDevice } from '../print-device';
import { printPartText, readPartText } from './text-form';
import { wholeText, withText, writtenText } from './written';

const original = family('sarn-s9').original;
const printed = recipeTextOf({ ...original, text: undefined });
const commented = `# Checked against the errata of May.\n${printed.replace('stage ', '# before all else\nstage ')}# end\n`;
const stored = (text: string) => onTables(original, expectOk(readRecipeFile({ name: 'sarn.part', text })));

test('comments and order stay, through the exchange format and back; what it means is the same', () => {
  const description = stored(commented);
  expect(recipeTextOf(description)).toBe(commented);
  expect(printTables(description).recipe).toBe(commented);
  expect(fingerprintOfDescription(description)).toBe(fingerprintOfDescription(original));
  const again = expectOk(parseDevice('x.json', printDevice(description)));
  expect(again.text).toBe(commented);
  expect(recipeTextOf(again)).toBe(commented);
  // Lines in another order are the text as well.
  const [first, ...others] = printed.split('\n\n');
  const turned = [...others, first].join('\n\n');
  expect(recipeTextOf(stored(turned))).toBe(turned);
});

test.each(FAMILIES)('with its tables the text of %s keeps its comments, and is the same part', (folder) => {
  const { text: _before, ...bare } = family(folder).original;
  const lines = recipeTextOf(bare as typeof original).split('\n');
  const text = lines
    .flatMap((line, at) => (/^\S/.test(line) ? [`# comment ${at}`, line] : [line]))
    .join('\n');
  const whole = wholeText({ ...bare, text } as typeof original);
  expect(whole.match(/^# comment /gm)?.length).toBe(text.match(/^# comment /gm)?.length);
  const read = expectOk(parseDevice('x.part', whole));
  expect(read.text).toBe(whole);
  expect(fingerprintOfDescription(read)).toBe(fingerprintOfDescription(bare as typeof original));
  // A description that was stored whole goes out as it came.
  expect(wholeText(read)).toBe(whole);
  // And all but its tables is the text that one edits, with its comments.
  expect(recipeTextOf(read)).toBe(text);
});

test('whatever stands in a kept text, what is shown reads as the description', () => {
  const { text: _before, ...bare } = family('ketter-k2').original;
  const whole = printPartText(bare);
  const hardware = recipeTextOf(bare);
  for (const round of rounds('texts that say something else', { seconds: 6, least: 10 })) {
    const random = randomFrom(30 + round);
    const at = random.int(whole.length);
    const piece = random.pick(['', '#', '"', '\n', 'pins ', 'package q', 'pad X io\n', '(', '  ']);
    const text = whole.slice(0, at) + piece + whole.slice(at + random.int(40));
    for (const [kind, shown] of [
      ['description', wholeText({ ...bare, text })],
      ['recipe', recipeTextOf({ ...bare, text })],
    ] as const) {
      const read = expectOk(readPartText('x.part', shown, kind)).value as object;
      expect(printPartText(read)).toBe(kind === 'recipe' ? hardware : whole);
    }
  }
});

test('a text that is as it is printed is not kept twice', () => {
  expect(stored(printed).text).toBeUndefined();
  expect(
    withText({ ...stored(commented), text: commented }, printPartText(stored(commented))).text,
  ).toBeUndefined();
});

test('a text that says something else, or nothing that can be read, is not shown', () => {
  const description = stored(commented);
  const other = { ...description, summary: 'another one' };
  expect(recipeTextOf(other)).toBe(recipeTextOf({ ...other, text: undefined }));
  for (const text of ['stage', '\u0000', '# only a comment', printed.replace('set of OUT', 'clear of OUT')])
    expect(recipeTextOf({ ...description, text })).toBe(printed);
  // Rows of a table in another order decide something else.
  expect(writtenText({ recipe: { encode: [] } }, 'table a from mode\n')).toBe(
    printPartText({ recipe: { encode: [] } }),
  );
});

test.each(FAMILIES)('the text of %s is shown as it is in its folder', (folder) => {
  const { original: description } = family(folder);
  const text = recipeTextOf(description);
  expect(expectOk(readRecipeFile({ name: 'x.part', text }))).toMatchObject({
    device: { id: description.id },
  });
  if (description.text !== undefined) expect(text).toBe(description.text);
});
