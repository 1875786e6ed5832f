import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import type { DeviceDescription, PadFunction } from '../../description/types';
import { readText } from '../tables/read-text';
import { printTables } from './print-tables';

const pellin = family('pellin-p8').original;
const rowsOf = (text: string): string[][] => expectOk(readText('t', text)).rows.map((row) => row.cells);
const withFunctions = (functions: PadFunction[], change: Partial<DeviceDescription> = {}): string[][] =>
  rowsOf(printTables({ ...pellin, functions, ...change }).functions);
const fn = (
  pad: string,
  signal: string,
  mux: number | null,
  more: Partial<PadFunction> = {},
): PadFunction => ({
  pad,
  signal,
  mux,
  ...more,
});

describe('functions are printed wide when that loses nothing', () => {
  test('a column a code, signals of one cell side by side, analog at the end', () => {
    const rows = withFunctions([
      fn('K0', 'SPI1.SCK', 1),
      fn('K0', 'CNT1.A', 1),
      fn('K0', 'ADC1.V0', null),
      fn('K1', 'SPI1.SDO', 2),
    ]);
    expect(rows[0]).toEqual(['pad', 'F0', 'F1', 'F2', 'AN', 'notes']);
    expect(rows[1]).toEqual(['K0', '-', 'SPI1.SCK CNT1.A', '-', 'ADC1.V0', '']);
    expect(rows[2]).toEqual(['K1', '-', '-', 'SPI1.SDO', '-', '']);
  });
  test('a note of all functions of a pad goes to the notes, one of a single function to its cell', () => {
    const rows = withFunctions([
      fn('K0', 'SPI1.SCK', 0, { notes: ['1', '2'] }),
      fn('K0', 'CNT1.A', 1, { notes: ['1'] }),
    ]);
    expect(rows[1]).toEqual(['K0', 'SPI1.SCK(2)', 'CNT1.A', '-', '1']);
  });
  test('pages have a column of their own when there are any', () => {
    const source = { document: 'x', page: 41 };
    expect(withFunctions([fn('K0', 'SPI1.SCK', 0, { source })])[0]).toContain('page');
    expect(withFunctions([fn('K0', 'SPI1.SCK', 0)])[0]).not.toContain('page');
  });
});

describe('functions are printed long when a wide table would lose something', () => {
  test.each<[string, PadFunction[]]>([
    ['numbers of functions', [fn('K0', 'SPI1.SCK', 0, { columns: { sel: 3 } })]],
    ['codes above what a table has columns for', [fn('K0', 'SPI1.SCK', 77)]],
    ['notes that are no footnote marks', [fn('K0', 'SPI1.SCK', 0, { notes: ['see-text'] })]],
    ['an order that is not by pad and code', [fn('K0', 'SPI1.SCK', 2), fn('K0', 'CNT1.A', 1)]],
    [
      'a pad that comes back later',
      [fn('K0', 'SPI1.SCK', 0), fn('K1', 'SPI1.SDO', 0), fn('K0', 'CNT1.A', 1)],
    ],
  ])('%s', (_name, functions) => {
    const rows = withFunctions(functions);
    expect(rows[0]?.slice(0, 4)).toEqual(['pad', 'signal', 'mux', 'notes']);
    expect(rows).toHaveLength(functions.length + 1);
  });
  test('a signal on every I/O pad is one row with a star', () => {
    const io = pellin.pads.filter((pad) => pad.kind === 'io');
    const everywhere = io.map((pad) => fn(pad.id, 'CLK.OUT', 60));
    expect(withFunctions([...everywhere, fn('K0', 'SPI1.SCK', 61)])).toEqual([
      ['pad', 'signal', 'mux', 'notes'],
      ['*', 'CLK.OUT', '60', ''],
      ['K0', 'SPI1.SCK', '61', ''],
    ]);
    expect(withFunctions(everywhere.slice(1)).length).toBe(io.length);
  });
});

describe('pads', () => {
  test('have numbers for the recipe before the packages, and a dash where they are not bonded', () => {
    const rows = rowsOf(printTables(family('velm-v3').original).pinout);
    expect(rows[0]).toEqual([
      'pad',
      'kind',
      'port',
      'bit',
      'supply',
      'class',
      'alias',
      'boot',
      'boot note',
      'boot signals',
      'notes',
      'locked',
      'q100',
      'q64',
    ]);
    expect(rows.some((row) => row.at(-1) === '-')).toBe(true);
  });
  test('with commas and quotes in their words come back as they are', () => {
    const note = 'held low, "starts" the loader; see =A1';
    const pads = pellin.pads.map((pad) => (pad.boot ? { ...pad, boot: { ...pad.boot, note } } : pad));
    const rows = rowsOf(printTables({ ...pellin, pads }).pinout);
    expect(rows.flat()).toContain(note);
  });
});
