import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { fingerprintOfDescription } from '../../description/fingerprint';
import { isEmptyCell } from '../tables/cells';
import { readText } from '../tables/read-text';
import { readDeviceFiles } from './device-files';
import { printTables } from './print-tables';

/** Rows by heading, without empty cells ("-" is empty too); lists in any order. */
const cells = (name: string, text: string): Record<string, string>[] => {
  const [header, ...rows] = expectOk(readText(name, text)).rows.map((row) => row.cells);
  const plain = (cell: string): string =>
    isEmptyCell(cell) ? '' : cell.trim().split(/\s+/).sort().join(' ');
  return rows.map((row) =>
    Object.fromEntries(
      row.map((cell, i) => [header?.[i] ?? i, plain(cell)]).filter(([, cell]) => cell !== ''),
    ),
  );
};

describe.each(FAMILIES)('%s', (folder) => {
  const file = (name: string): string => readFileSync(`devices/${folder}/${name}`, 'utf8');
  const { original } = family(folder);
  const printed = printTables(original);

  test('tables → description → tables without a difference', () => {
    expect(cells('pinout', printed.pinout)).toEqual(cells('pinout', file('pinout.csv')));
    // Rows of pads without functions say nothing, wherever they stand.
    const full = (rows: Record<string, string>[]) => rows.filter((row) => Object.keys(row).length > 1);
    expect(full(cells('functions', printed.functions))).toEqual(
      full(cells('functions', file('functions.csv'))),
    );
    expect(printed.recipe).toBe(file('recipe.part'));
  });

  test('description → tables → description without a difference', () => {
    const text = (name: string, content: string) => ({ name, text: content });
    const again = expectOk(
      readDeviceFiles(
        text('p.csv', printed.pinout),
        text('f.csv', printed.functions),
        text('r.part', printed.recipe),
      ),
    );
    expect(fingerprintOfDescription(again)).toBe(fingerprintOfDescription(original));
  });
});
