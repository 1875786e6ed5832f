import { expectOk } from '@/testing/expect-ok';
import { corvane, frostGuard } from '@/testing/frost-guard';
import { LIMITS } from './base/limits';
import { append, largest, smallest } from './base/lists';
import { namesIn } from './bench/script/names';
import { parseScript } from './bench/script/parse';
import { playScript } from './bench/script/run';
import { derive } from './derive/derive';
import { preprocess } from './existing-code/c/preprocess';
import { reviewCode } from './existing-code/review';
import { extractPage, type PdfPage } from './import/pdf/extract-page';
import { offerTables, readDocument } from './import/pdf/offer-tables';
import { readText } from './import/tables/read-text';

/** Files that were made to break a reader: each is read, or refused with a sentence that says where and why. */
describe('C', () => {
  const derived = expectOk(derive(corvane(), frostGuard()));
  let next = 0;
  const review = (text: string) =>
    reviewCode(derived, [{ name: 'x.c', text }], { entries: [], defines: [] }, () => `f${next++}`);
  const inMain = (body: string): string => `unsigned g; void board_init(void) { ${body} }`;

  test.each<[string, string]>([
    ['130,000 tokens in a line', inMain(`g = ${'1, '.repeat(65_000)}1;`)],
    ['a macro that becomes 130,000 tokens', `#define M ${'1, '.repeat(65_000)}1\n${inMain('g = (M);')}`],
    ['1,000 brackets in a condition', `#if ${'('.repeat(1_000)}1${')'.repeat(1_000)}\n#endif\n`],
    ['100,000 signs in a condition', `#if ${'!'.repeat(100_000)}1\n#endif\n`],
    ['100,000 choices in a condition', `#if ${'1 ? '.repeat(100_000)}1\n#endif\n`],
    ['a sum of 5,000 terms', inMain(`g = ${'1 + '.repeat(5_000)}1;`)],
    ['a sum of 900 terms', inMain(`g = ${'1 + '.repeat(900)}1;`)],
    [
      'sums of 900 terms in brackets of such sums',
      inMain(`g = ${`(${'1 + '.repeat(900)}`.repeat(100)}1${')'.repeat(100)};`),
    ],
    ['100,000 members', inMain(`g = g${'.a'.repeat(100_000)};`)],
    ['100,000 calls', inMain(`g${'()'.repeat(100_000)};`)],
    ['100,000 brackets', inMain(`g = ${'('.repeat(100_000)}`)],
    ['100,000 braces', `void board_init(void) ${'{'.repeat(100_000)}`],
    ['100,000 stars', `int ${'*'.repeat(100_000)} p;`],
    ['100,000 casts', inMain(`g = ${'(int)'.repeat(100_000)}1;`)],
    ['10,000 branches', inMain(`${'if (g) g = 1; else '.repeat(10_000)};`)],
    ['10,000 cases', inMain(`switch (g) { ${'case 1: '.repeat(10_000)}; }`)],
    ['10,000 open conditions', '#if 1\n'.repeat(10_000)],
    ['a string of 1 MB', inMain(`g = sizeof "${'a'.repeat(1_000_000)}";`)],
    ['200,000 strings', inMain(`g = sizeof ${'"a" '.repeat(200_000)};`)],
  ])('%s', (_what, text) => {
    expect(() => review(text)).not.toThrow();
  });

  test('what is nested too deep is said, with its line', () => {
    const { problems } = preprocess(
      { name: 'x.c', text: `\n#if ${'('.repeat(1_000)}1${')'.repeat(1_000)}\n#endif` },
      [],
      [],
    );
    expect(problems).toEqual([{ place: 'x.c:2', message: expect.stringContaining('not understood') }]);
    const said = review(inMain(`g = ${'1 + '.repeat(5_000)}1;`)).findings.map((finding) => finding.message);
    expect(said.join('\n')).toMatch(/more than 1000 operators/);
  });
});

describe('PDF', () => {
  const OPERATORS = { save: 1, restore: 2, transform: 3, constructPath: 4, stroke: 5, rectangle: 6 };
  const page = (items: object[], size = { width: 595, height: 842 }): PdfPage => ({
    pageNumber: 1,
    getViewport: () => ({ ...size, transform: [1, 0, 0, -1, 0, size.height] }),
    getTextContent: async () => ({ items }),
    getOperatorList: async () => ({ fnArray: [], argsArray: [] }),
  });
  const item = (str: string, x: number, y: number, width = 20, scale = 8) => ({
    str,
    width,
    transform: [scale, 0, 0, scale, x, y],
  });
  const table = Array.from({ length: 8 }, (_, row) =>
    [0, 1, 2, 3].map((column) => item(`R${row}C${column}`, 60 + column * 100, 700 - row * 14)),
  ).flat();
  const tablesOn = async (items: object[], size?: { width: number; height: number }) => {
    const extracted = await extractPage(page(items, size), OPERATORS);
    return { extracted, tables: offerTables('x.pdf', readDocument([extracted]), 'pinout') };
  };

  test('a text a billion points wide takes nothing from the table beside it', async () => {
    const { tables } = await tablesOn([
      ...table,
      item('wide', 60, 500, 1e9),
      item('far', 1e12, 500),
      item('none', Number.NaN, 3),
      item('endless', 60, 480, Infinity),
    ]);
    expect(tables).toMatchObject([{ rows: 8, columns: 4 }]);
  });

  test('60,000 texts on a page: it is said that nothing is looked for there', async () => {
    const many = Array.from({ length: 60_000 }, (_, at) =>
      item('x', (at % 500) + 10, Math.floor(at / 500) * 6),
    );
    const { extracted, tables } = await tablesOn(many);
    expect([extracted.tooMuch, tables]).toEqual(['has more than 15,000 texts', []]);
  });

  test('as many texts as are taken are looked at in time', async () => {
    const many = Array.from({ length: LIMITS.pageTexts }, (_, at) =>
      item('1', (at % 250) * 2 + 10, 10 + ((at * 7919) % 800), 4, 4),
    );
    expect((await tablesOn(many)).extracted.tooMuch).toBeUndefined();
  });

  test('a page larger than any paper is not looked at', async () => {
    const { extracted } = await tablesOn(table, { width: 1e9, height: 1e9 });
    expect(extracted.tooMuch).toBe('is larger than 20,000 points');
  });
});

test.each([
  ['one line of 8 MB', `a,b\n${'x'.repeat(7_900_000)}`, 2],
  ['tabs', '\t'.repeat(300_000), 1],
  ['words', `pin name\n1 A\n${'w '.repeat(150_000)}`, 3],
])('a table with %s is refused with its line', (_what, text, line) => {
  expect(readText('t.csv', text)).toMatchObject({
    ok: false,
    problems: [{ place: `t.csv, line ${line}`, message: 'the line is longer than 200,000 characters' }],
  });
});

test('the longest line that is taken is read as blanks, positions or bars', () => {
  for (const piece of ['a ', 'a  ', 'a|', '\t', 'a\t', 'a,'])
    expect(() =>
      readText('t.csv', `${piece.repeat(LIMITS.lineCharacters / piece.length)}\n`.repeat(3)),
    ).not.toThrow();
});

test('a trial that repeats without end is stopped, and says so', () => {
  const derived = expectOk(derive(corvane(), frostGuard()));
  const script = parseScript(['repeat 1000000:', '  repeat 1000000: clock 1MHz'], namesIn(derived));
  const play = playScript(derived, script);
  expect(play.faults.at(-1)?.message).toContain('goes on for too long');
  expect(play.checks.length + play.faults.length).toBeLessThan(2_000);
});

test('lists out of files are added and measured however long they are', () => {
  const long = Array.from({ length: 400_000 }, (_, at) => at);
  const list: number[] = [];
  append(list, long);
  expect([list.length, largest(long), smallest(long), largest([]), smallest([])]).toEqual([
    400_000,
    399_999,
    0,
    -Infinity,
    Infinity,
  ]);
});
