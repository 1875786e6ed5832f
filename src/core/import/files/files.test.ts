import { strToU8 } from 'fflate';
import { openDocument, workbook } from '@/testing/documents/forms';
import type { PrintedTable } from '@/testing/documents/tables';
import { expectOk } from '@/testing/expect-ok';
import { randomFrom } from '@/testing/random';
import { guessMapping } from '../tables/guess';
import { layoutOf, readText } from '../tables/read-text';
import { decodeText } from './encoding';
import { readFile, readRegisters } from './read-file';

const TABLE: PrintedTable = {
  title: 'Table 1. Pins',
  head: [
    ['Port', 'Pad', 'Pin number', ''],
    ['', '', 'Q8', 'BG9'],
  ],
  rows: [
    { kind: 'title', text: 'Port A' },
    { kind: 'data', cells: ['A', 'A0¹', '1', 'A1'] },
    { kind: 'data', cells: ['A', 'A1', '2', 'A2'], above: [0] },
    { kind: 'data', cells: ['A', 'A2', '3', 'A3'], above: [0] },
    { kind: 'data', cells: ['A', 'A3', '4', 'B1'], above: [0] },
    { kind: 'data', cells: ['A', 'A4', '5', 'B2'], above: [0] },
  ],
  notes: {},
};

describe.each([
  ['XLSX', () => workbook(randomFrom(3), { Pins: TABLE })],
  ['ODS', () => openDocument({ Pins: TABLE })],
] as const)('%s', (name, make) => {
  const read = () => {
    const content = expectOk(readFile(`t.${name.toLowerCase()}`, make()));
    return content.kind === 'tables' ? content.tables : [];
  };
  test('merged cells, raised marks and hidden sheets are seen', () => {
    const tables = read();
    const pins = tables.find((one) => one.title === 'Pins');
    expect(pins?.grid.rows[4]).toMatchObject({ cells: ['A', 'A0¹', '1', 'A1'] });
    expect(pins?.grid.rows[5]).toMatchObject({ cells: ['A', 'A1', '2', 'A2'], above: [0] });
    expect(pins?.grid.rows[3]?.covered).toEqual([1, 2, 3]);
    if (name === 'XLSX')
      expect(tables.map((one) => [one.title, one.hidden])).toEqual([
        ['Cover', undefined],
        ['Pins', undefined],
        ['Lists', true],
      ]);
  });
  test('headings over several rows are those of their columns', () => {
    const grid = read().find((one) => one.title === 'Pins')?.grid;
    expect(grid && guessMapping('pinout', grid, { unknown: 'ignore' })).toMatchObject({
      headerRow: 2,
      headerRows: 2,
      roles: ['port', 'pad', 'pin:q8', 'pin:bg9'],
    });
  });
});

describe('texts in any usual encoding', () => {
  const wide = (text: string, big: boolean, mark: boolean): Uint8Array => {
    const codes = [...(mark ? '\ufeff' : ''), ...text].map((char) => char.charCodeAt(0));
    return Uint8Array.from(
      codes.flatMap((code) => (big ? [code >> 8, code & 255] : [code & 255, code >> 8])),
    );
  };
  test.each([
    ['UTF-8', strToU8('Größe – 1'), 'UTF-8', 'Größe – 1'],
    ['UTF-16, little end first', wide('Größe ab', false, true), 'UTF-16', 'Größe ab'],
    ['UTF-16, big end first', wide('Größe ab', true, true), 'UTF-16', 'Größe ab'],
    ['UTF-16 without a mark', wide('Pad,Type,Pin', false, false), 'UTF-16', 'Pad,Type,Pin'],
    [
      'Windows-1252',
      Uint8Array.from([0x47, 0x72, 0xf6, 0xdf, 0x65, 0x20, 0x96, 0x20, 0xb9]),
      'Windows-1252',
      'Größe – ¹',
    ],
  ])('%s', (_name, bytes, encoding, text) => {
    expect(decodeText(bytes)).toEqual({ text, encoding });
  });
  test('non-breaking spaces, soft hyphens and other hyphens make no other names', () => {
    const grid = expectOk(readText('t', 'Pad,Type\nA\u00ad0,I/O\nC7\u2011WAKE2,\u00a0I/O'));
    expect(grid.rows.map((row) => row.cells)).toEqual([
      ['Pad', 'Type'],
      ['A0', 'I/O'],
      ['C7-WAKE2', 'I/O'],
    ]);
  });
});

test('positions come before commas, and blank cells stay in their places', () => {
  const text =
    'Pad    Pin   Remark\nA0     1     first, and only\nA1           second\nA2     3\nA3     4     last, as well';
  expect(layoutOf(text).divider).toBe('positions');
  expect(expectOk(readText('t', text)).rows.map((row) => row.cells)).toEqual([
    ['Pad', 'Pin', 'Remark'],
    ['A0', '1', 'first, and only'],
    ['A1', '', 'second'],
    ['A2', '3', ''],
    ['A3', '4', 'last, as well'],
  ]);
});

test('lines that are drawn in characters divide, and are no rows', () => {
  const text = '| Pad | Pin |\n|-----|-----|\n| A0 | 1 |\n| A1 | |';
  expect(expectOk(readText('t', text)).rows.map((row) => row.cells)).toEqual([
    ['Pad', 'Pin'],
    [''],
    ['A0', '1'],
    ['A1', ''],
  ]);
});

describe('IP-XACT', () => {
  const file = (registers: string, prefix = 'ipxact') =>
    `<?xml version="1.0"?><${prefix}:component xmlns:${prefix}="urn:x"><${prefix}:name>frost</${prefix}:name><${prefix}:memoryMaps><${prefix}:memoryMap><${prefix}:name>bus</${prefix}:name><${prefix}:addressBlock><${prefix}:name>PORT_A</${prefix}:name><${prefix}:baseAddress>'h4000</${prefix}:baseAddress><${prefix}:range>4K</${prefix}:range><${prefix}:width>16</${prefix}:width>${registers}</${prefix}:addressBlock></${prefix}:memoryMap></${prefix}:memoryMaps></${prefix}:component>`;
  const register = (name: string, offset: string, inside = '') =>
    `<ipxact:register><ipxact:name>${name}</ipxact:name><ipxact:addressOffset>${offset}</ipxact:addressOffset><ipxact:size>16</ipxact:size>${inside}</ipxact:register>`;
  test('blocks, registers, arrays, fields, access and resets', () => {
    const inside = `<ipxact:access>read-only</ipxact:access><ipxact:field><ipxact:name>B</ipxact:name><ipxact:bitOffset>4</ipxact:bitOffset><ipxact:resets><ipxact:reset><ipxact:value>'h3</ipxact:value></ipxact:reset></ipxact:resets><ipxact:bitWidth>2</ipxact:bitWidth></ipxact:field>`;
    const read = expectOk(
      readRegisters(
        'f.xml',
        file(register('DIR', '0x2', inside) + register('CODE', '8', '<ipxact:dim>2</ipxact:dim>')),
      ),
    );
    expect(read.peripherals[0]).toMatchObject({ name: 'PORT_A', base: 0x4000 });
    expect(read.peripherals[0]?.registers).toMatchObject([
      {
        name: 'DIR',
        offset: 2,
        bits: 16,
        access: 'read-only',
        reset: 0x30,
        fields: [{ name: 'B', low: 4, bits: 2 }],
      },
      { name: 'CODE0', offset: 8, access: 'read-write' },
      { name: 'CODE1', offset: 10 },
    ]);
  });
  test.each([
    ['a number that is none', register('DIR', 'two'), /"two" is no number/],
    [
      'a register without a place',
      '<ipxact:register><ipxact:name>X</ipxact:name></ipxact:register>',
      /X has no addressOffset/,
    ],
    [
      'an endless array',
      register('X', '0', '<ipxact:dim>999999999</ipxact:dim>'),
      /an array of 999999999 cannot be/,
    ],
  ])('%s is told', (_name, registers, message) => {
    const read = readRegisters('f.xml', file(registers));
    expect(read.ok ? '' : read.problems.map((one) => `${one.place}: ${one.message}`).join()).toMatch(message);
  });
});

test('IBIS: several components of one part are one table, those of different parts several', () => {
  const text = (second: string) =>
    `[IBIS Ver] 5.0\n[Component] Q4\n[Pin] signal_name model_name\n1 A0 io\n2 VDD POWER\n3 VSS GND\n4 NC1 NC\n[Component] BG4\n[Pin] signal_name model_name\nA1 ${second} io\nA2 VDD POWER\nB1 VDD POWER\nB2 VSS GND\n[End]`;
  const tables = (second: string) => {
    const content = expectOk(readFile('f.ibs', strToU8(text(second))));
    return content.kind === 'tables' ? content.tables : [];
  };
  expect(tables('A0')[0]?.grid.rows.map((row) => row.cells)).toEqual([
    ['signal name', 'kind', 'model', 'Q4', 'BG4'],
    ['A0', '', 'io', '1', 'A1'],
    ['VDD', 'supply', '', '2', 'A2 B1'],
    ['VSS', 'ground', '', '3', 'B2'],
    ['NC1', 'no-connect', '', '4', ''],
  ]);
  expect(tables('A0').map((one) => one.title)).toEqual(['all packages', 'Q4', 'BG4']);
});
