import { parse } from 'csv-parse/sync';
import { hostileText } from '@/testing/hostile-text';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { cellFromCsv, printCsv } from './csv';
import { attachment, fileName } from './file-name';
import { distinctName, identifierFrom } from './identifier';

const random = randomFrom(7);
/** Halves of pairs do not survive UTF-8. */
const whole = (text: string): string => Buffer.from(text).toString();
const texts = Array.from({ length: fuzzBudget(20_000) }, () => whole(hostileText(random, 400)));
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
