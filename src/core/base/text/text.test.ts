import { parse } from 'csv-parse/sync';
import MarkdownIt from 'markdown-it';
import { hostileText } from '@/testing/hostile-text';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { cellFromCsv, printCsv } from './csv';
import { attachment, fileName } from './file-name';
import { distinctName, identifierFrom } from './identifier';
import { markdownText } from './markdown';
import { visible } from './visible';

const random = randomFrom(7);
/** Halves of pairs do not survive UTF-8. */
const whole = (text: string): string => Buffer.from(text).toString();
const texts = Array.from({ length: fuzzBudget(6_000) }, () => whole(hostileText(random, 400)));
const read = (csv: string): string[][] => parse(csv, { relax_column_count: true });

describe('cells for spreadsheets', () => {
  test.each([
    '=1+1',
    '+1',
    '-x',
    '@a',
    ' =1',
    '\n=1',
    '\r\n =1',
    '\t@x',
    '\u00a0=1',
    '\u200b+x',
    '\uff1d1',
    '"=1',
    '|=x',
    '\u0000=1',
  ])('%j is text, and comes back as it was', (cell) => {
    if (cell === '+1') return expect(read(printCsv([[cell]]))).toEqual([['+1']]);
    expect(read(printCsv([[cell]]))).toEqual([[`'${cell}`]]);
    expect(cellFromCsv(`'${cell}`)).toBe(cell);
  });
  test.each(['-', '12', '-1.5', 'A0 = x', "it's", 'UART1.TX'])('%j needs nothing', (cell) => {
    expect(read(printCsv([[cell]]))).toEqual([[cell]]);
  });
  test('no cell of anything begins as a formula, and each comes back', () => {
    for (const text of texts) {
      const [[cell = '', second] = []] = read(printCsv([[text, 'x']]));
      expect(second).toBe('x');
      if (cell !== '-' && !/^[+-]?\d+(\.\d+)?$/.test(cell)) {
        expect(cell).not.toMatch(/^[\s\p{C}]*[=+\-@\uff1d]/u);
      }
      expect(cellFromCsv(cell)).toBe(text);
    }
  });
});

describe('text that people read', () => {
  const SEEN_OTHERWISE = /[\p{Cc}\p{Bidi_Control}\u2028\u2029\ufeff\u200b]/gu;
  test('nothing hides in it: no control characters, no turned direction; in JSON it is the same still', () => {
    for (const text of texts) {
      expect(visible(text).replaceAll(/[\t\n]/g, '')).not.toMatch(SEEN_OTHERWISE);
      const json = JSON.stringify({ [text]: [text] });
      expect(JSON.parse(visible(json))).toEqual({ [text]: [text] });
    }
    expect(visible('\u001b[31m \u202ereview\u202c \u009bx')).toBe(
      '\\u001b[31m \\u202ereview\\u202c \\u009bx',
    );
    expect(visible('Ventilateur à Genève, 温度\n\tמגן')).toBe('Ventilateur à Genève, 温度\n\tמגן');
  });
  test('in Markdown it stands for itself: in a cell, an item, a heading', () => {
    // HTML is let through, so that it would be seen here.
    const reader = new MarkdownIt({ html: true });
    const inside = (tag: string, page: string): string => {
      const html = reader.render(page);
      const found = new RegExp(`<${tag}>(.*?)</${tag}>`, 's').exec(html)?.[1];
      if (found === undefined || /<(?!\/)/.test(found)) throw new Error(`${JSON.stringify(page)} is ${html}`);
      return found
        .replaceAll('&lt;', '<')
        .replaceAll('&gt;', '>')
        .replaceAll('&quot;', '"')
        .replaceAll('&amp;', '&');
    };
    for (const text of texts.slice(0, fuzzBudget(2000))) {
      const shown = visible(text.replace(/\s+/g, ' ')).trim();
      if (shown === '') continue;
      const mark = markdownText(text);
      expect(inside('li', `- ${mark}\n`)).toBe(shown);
      expect(inside('h1', `# ${mark}\n`)).toBe(shown);
      expect(inside('td', `| a | b |\n|---|---|\n| ${mark} | y |\n`)).toBe(shown);
    }
  });
});

test('file names are plain, short in bytes, and never empty, whatever the text', () => {
  for (const text of [...texts, '\u338f'.repeat(110), '\ufdfa'.repeat(110), 'nul', '...', '']) {
    const name = fileName([text, 'A'], '.plan.json', 'plan');
    expect(name).toMatch(/^[a-z0-9][a-z0-9-]*\.plan\.json$/);
    expect(Buffer.byteLength(name)).toBeLessThanOrEqual(100);
    expect(attachment(text)).toMatch(/^attachment; filename="[A-Za-z0-9._-]*"$/);
  }
  expect(fileName(['con'], '.csv', 'plan')).toBe('con-file.csv');
  expect(fileName(['Frost guard', 'C'], '.plan.json', 'plan')).toBe('frost-guard-c.plan.json');
});

test('identifiers are letters, digits and underscores within their length, or empty', () => {
  for (const text of [...texts, '\u338f'.repeat(110)])
    expect(identifierFrom(text)).toMatch(/^([A-Za-z]([A-Za-z0-9_]{0,58}[A-Za-z0-9])?)?$/);
  expect(identifierFrom('\u00dcber 3 V')).toBe('Uber_3_V');
  const taken = new Set(['init']);
  expect(['init', 'init', 'a'].map((name) => distinctName(name, taken))).toEqual(['init_2', 'init_3', 'a']);
});
