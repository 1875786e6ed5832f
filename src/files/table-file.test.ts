import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expectOk } from '@/testing/expect-ok';
import { xlsx } from '@/testing/xlsx';
import { readTable } from './table-file';

let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'mavrek-table-'));
});
afterAll(() => rmSync(folder, { recursive: true }));

const write = (name: string, content: string | Uint8Array): string => {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
};
const cells = (path: string) => expectOk(readTable(path, 'pinout')).rows.map((row) => row.cells);

const TABLE = [
  ['pad', 'kind', 'q8'],
  ['A0', 'io', '1'],
  ['A&B <c>', 'io', '2'],
];

describe('a spreadsheet', () => {
  const book = xlsx({ Cover: [['only a title']], Pinout: TABLE });
  test('gives the sheet most like a pinout, or the one that is named', async () => {
    const path = write('book.xlsx', book);
    expect(cells(path)).toEqual(TABLE);
    expect(cells(`${path}#Cover`)).toEqual([['only a title']]);
    expect(cells(`${path}#Pinout`)).toEqual(TABLE);
  });
  test('rows count as the spreadsheet counts them', async () => {
    const grid = expectOk(readTable(`${write('book.xlsx', book)}#Pinout`, 'pinout'));
    expect(grid.rows.map((row) => row.line)).toEqual([1, 2, 3]);
  });
  test('a sheet that is not there is told with those that are', async () => {
    expect(readTable(`${write('book.xlsx', book)}#Functions`, 'pinout')).toMatchObject({
      ok: false,
      problems: [{ message: 'has no sheet "Functions"; it has Cover, Pinout' }],
    });
  });
  test('what is none is refused in words', async () => {
    const path = write('none.xlsx', 'no zip');
    expect(readTable(path, 'pinout')).toEqual({
      ok: false,
      problems: [
        {
          place: path,
          message: 'a text, though its name ends in .xlsx: rename it to .csv or .txt if it holds a table',
        },
      ],
    });
  });
});

test('text tables and boundary-scan descriptions are read by their contents and names', async () => {
  expect(cells(write('t.csv', TABLE.map((row) => row.join(',')).join('\n')))).toEqual(TABLE);
  expect(cells(write('t.tsv', TABLE.map((row) => row.join('\t')).join('\n')))).toEqual(TABLE);
  const bsdl = 'entity X is\nport (A0 : inout bit);\nconstant D1 : PIN_MAP_STRING := "A0 : 1";\nend X;';
  expect(cells(write('x.bsd', bsdl))).toEqual([
    ['pad', 'kind', 'd1'],
    ['A0', 'io', '1'],
  ]);
});

test('a file that is not there, and a folder, are told', async () => {
  expect(readTable(join(folder, 'nothing.csv'), 'pinout')).toMatchObject({
    problems: [{ message: 'there is no such file' }],
  });
  expect(readTable(folder, 'pinout')).toMatchObject({ problems: [{ message: 'cannot be read (EISDIR)' }] });
});
