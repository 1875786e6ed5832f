import { draftFrom } from '@/testing/documents/compare';
import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { loadDevice } from '../device/compile/load';
import { readDraft, type TableDraft } from './compose/draft';
import { readFile } from './files/read-file';
import { startTable } from './tables/choose-table';
import { addRow, joinToAbove, leaveOut, splitRows, takeIn } from './tables/edit-rows';
import type { TableKind } from './tables/mapping';
import { readText } from './tables/read-text';

const table = (kind: TableKind, text: string, answers?: Record<string, string>): TableDraft => {
  const { grid, mapping } = startTable(kind, expectOk(readText(kind, text)));
  return { grid, mapping, source: { document: kind }, ...(answers ? { answers } : {}) };
};
const read = (
  pinout: string,
  functions?: string,
  answers: { pinout?: Record<string, string>; functions?: Record<string, string> } = {},
) =>
  readDraft(
    draftFrom(
      table('pinout', pinout, answers.pinout),
      functions === undefined ? null : table('functions', functions, answers.functions),
    ),
  );
const open = (reading: ReturnType<typeof read>) =>
  [...reading.pinout.problems, ...reading.functionTable.problems]
    .filter((one) => one.severity !== 'warning')
    .map((one) => `${one.severity}: ${one.message}`);

const PINS =
  'Pad\tType\tQ8\nA0\tI/O\t1\nA1\tI/O\t2\nA2\tI/O\t3\nA3\tI/O\t4\nVDD\tS\t5\nVSS\tG\t6\nNRST\tI\t7\nXI\tI\t8';

describe('a column of functions without codes', () => {
  const FUNCTIONS =
    'Pad\tFunctions\nA0\tUART1.TX SPI1.SCK\nA1\tUART1.RX SPI1.SDO\nA2\tPACE1.Q1\nA3\tPACE1.Q2';
  test('is asked about, and nothing is taken for analog meanwhile', () => {
    const reading = read(PINS, FUNCTIONS);
    expect(open(reading)).toEqual([expect.stringMatching(/^question: The signals here have no mux codes/)]);
    expect(
      Object.values(reading.file.peripheralKinds).flatMap((kind) => Object.values(kind.lines)),
    ).toBeDefined();
  });
  test.each([
    ['from 0', [0, 1], undefined],
    ['from 1', [1, 2], undefined],
    ['analog', [null, null], undefined],
    ['none', [null, null], true],
  ])('answered %j', (answer, codes, itself) => {
    const reading = read(PINS, FUNCTIONS, { functions: { codes: answer } });
    expect(open(reading)).toEqual([]);
    const own = reading.functions.filter((one) => one.pad === 'A0');
    expect(own.map((one) => one.mux)).toEqual(codes);
    expect(own[0]?.itself).toBe(itself);
    const line = reading.file.peripheralKinds.UART?.lines.TX;
    expect(line?.direction).toBe(answer === 'analog' ? 'analog' : 'out');
    // It is stored as answered, and comes back so.
    expect(expectOk(loadDevice(reading.description as never)).description.functions[0]?.itself).toBe(itself);
  });
  test('a number behind the word function is asked about: it may count from 1', () => {
    const functions =
      'Pad\tFunction 1\tFunction 2\nA0\tUART1.TX\tSPI1.SCK\nA1\tUART1.RX\tSPI1.SDO\nA2\tPACE1.Q1\t-\nA3\tPACE1.Q2\t-';
    expect(open(read(PINS, functions))).toEqual([
      expect.stringMatching(/Is the number in "Function 1" the mux code\?/),
    ]);
    const codes = (answer: string) =>
      read(PINS, functions, { functions: { 'codes in headings': answer } })
        .functions.slice(0, 2)
        .map((one) => one.mux);
    expect([codes('same'), codes('lower')]).toEqual([
      [1, 2],
      [0, 1],
    ]);
  });
  test('empty cells of a code column are asked about too', () => {
    const reading = read(
      PINS,
      'Pad\tSignal\tCode\nA0\tUART1.TX\t1\nA1\tUART1.RX\t\nA2\tPACE1.Q1\t2\nA3\tPACE1.Q2\t2',
    );
    expect(open(reading)).toEqual([
      expect.stringMatching(/1 signals have an empty cell for their code \(rows 3\)/),
    ]);
  });
});

describe('rows that continue', () => {
  test('a wrapped cell alone in its row is no title: its signals stay', () => {
    const reading = read(
      PINS,
      'Pad\tF0\tF1\nA0\tUART1.TX\tSPI1.SCK,\n\t\tSPI2.CS PACE1.Q3\nA1\tUART1.\t-\n\tRX\t\nA2\tPACE1.Q1\t-\nA3\t-\tPACE1.Q2',
    );
    expect(open(reading)).toEqual([]);
    expect(reading.functions.map((one) => `${one.pad} ${one.signal} ${one.mux}`)).toEqual([
      'A0 UART1.TX 0',
      'A0 SPI1.SCK 1',
      'A0 SPI2.CS 1',
      'A0 PACE1.Q3 1',
      'A1 UART1.RX 0',
      'A2 PACE1.Q1 0',
      'A3 PACE1.Q2 1',
    ]);
  });
  test('a whole signal below another in a long table does not get the code of that', () => {
    const table = (second: string) =>
      read(
        PINS,
        `Pad\tSignal\tCode\nA0\tUART1.TX${second}\t1\n\tADC1.V0\t\nA1\tUART1.RX\t1\nA2\tPACE1.Q1\t2\nA3\tPACE1.Q2\t2`,
      );
    expect(open(table(''))).toEqual([expect.stringMatching(/1 signals have an empty cell for their code/)]);
    // A list that goes on is one cell.
    expect(table(',').functions.map((one) => `${one.pad} ${one.signal} ${one.mux}`)).toContain(
      'A0 ADC1.V0 1',
    );
  });
  test('what could be a title or not is asked', () => {
    const reading = read(PINS.replace('VDD\tS', 'UART1.TX here\t\t\nVDD\tS'));
    expect(open(reading)).toEqual([
      expect.stringMatching(/question: "UART1.TX here" stands alone in its row/),
    ]);
  });
});

test('a merged port column is no column of pads: ports, bits and names are right, or asked', () => {
  const rows = ['A', 'B', 'C', 'D'].flatMap((port, p) =>
    Array.from({ length: 8 }, (_, bit) => `${bit === 0 ? port : ''}\t${bit}\tI/O\t${p * 8 + bit + 1}`),
  );
  const text = ['Port\tBit\tType\tQ34', ...rows].join('\n');
  const reading = read(`${text}\nVDD`.replace(/\nVDD$/, ''), undefined, {
    pinout: { 'ports from above': 'yes' },
  });
  expect(reading.pads).toHaveLength(32);
  expect(reading.pads.map((pad) => `${pad.id} ${pad.port} ${pad.bit}`)[13]).toBe('B5 B 5');
  expect(open(read(text)).join()).toMatch(/28 rows have no port of their own/);
});

test('beside ports and bits, balls are pins and no names of pads', () => {
  const rows = ['A', 'B'].flatMap((port, p) =>
    Array.from(
      { length: 8 },
      (_, bit) =>
        `${port}\t${bit}\tI/O\t${p * 8 + bit + 1}\t${'ABCD'[Math.floor((p * 8 + bit) / 4)]}${(bit % 4) + 1}`,
    ),
  );
  const reading = read(['Port\tBit\tType\tQ16\tBG16', ...rows].join('\n'));
  expect(open(reading)).toEqual([]);
  expect(reading.pads.map((pad) => pad.id)).toContain('B7');
  expect(reading.file.packages.map((one) => one.id)).toEqual(['q16', 'bg16']);
});

describe('what cannot be right in a list of pads', () => {
  test.each([
    [
      'an I/O pad with many pins',
      PINS.replace('A0\tI/O\t1', 'A0\tI/O\t1 9 10 11 12'),
      /A0 is an I\/O pad with 5 pins of q8: its row holds several pads/,
    ],
    [
      'an I/O pad with two pins',
      PINS.replace('A0\tI/O\t1', 'A0\tI/O\t1 9'),
      /question: A0 is an I\/O pad with 2 pins/,
    ],
    [
      'an I/O pad without port and bit',
      PINS.replace('A0\tI/O', 'USBP\tI/O'),
      /question: USBP is an I\/O pad without port and bit/,
    ],
    [
      'a package that loses its last pins',
      PINS.replace('\nXI\tI\t8', ''),
      /package q8 has 7 pins here, its name speaks of 8/,
    ],
    ['a pad without a pin', PINS.replace('A0\tI/O\t1', 'A0\tI/O\t-'), /A0 has no pin in any package/],
    ['a cell behind the last column', `${PINS}\t9`, /"column 4" has no heading, and "9" in it/],
  ])('%s', (_name, text, message) => {
    expect(open(read(text)).join('\n')).toMatch(message);
  });
  test('a name that is another pad’s second name', () => {
    expect(open(read(PINS.replace('A0\tI/O', 'A0/A1X\tI/O').replace('A1\tI/O', 'A1X\tI/O'))).join()).toMatch(
      /A0 is also called A1X, which is a pad of its own in row 3/,
    );
  });
});

test('reset, boot and clock pins whose type says I/O stay what their names say', () => {
  const reading = read(PINS.replace('NRST\tI\t', 'NRST\tI/O\t').replace('XI\tI\t', 'BOOT0\tI/O\t'));
  expect(reading.pads.map((pad) => pad.kind).slice(-2)).toEqual(['reset', 'strap']);
  expect(reading.pinout.problems.map((one) => one.severity)).toEqual(['warning', 'warning']);
});

test.each([
  ['C7-WAKE2', 'C7', ['WAKE2'], undefined],
  ['C8-XI (C8)', 'C8', ['XI'], 'clock'],
  ['B2/STRAP1', 'B2', ['STRAP1'], 'strap'],
  ['WAKE2/C7', 'C7', ['WAKE2'], undefined],
  ['PC7_TCK', 'PC7', ['TCK'], 'debug'],
])('%s is one pad with aliases and its duty at boot', (cell, id, aliases, boot) => {
  const pad = read(PINS.replace('A0\t', `${cell}\t`)).pads[0];
  expect([pad?.id, pad?.aliases, pad?.boot, pad?.kind]).toEqual([id, aliases, boot, 'io']);
});

test('suggestions never make one pad of another that has rows of its own', () => {
  const functions = 'Pad\tF0\tF1\nA0\tUART1.TX\t-\nA1\tUART1.RX\t-\nA2\tSPI1.SCK\t-\nA33\tSPI1.SDO\tPACE1.Q1';
  const [problem] = read(PINS, functions).functionTable.problems;
  expect(problem?.message).toBe('the pinout has no pad A33');
  expect(problem?.suggestions).not.toContain('A2');
});

test('rows of one signal that give its register two places are refused with the rows', () => {
  const device = FAMILIES.map((folder) => family(folder).original).find((one) =>
    one.recipe.registers.blocks.some(
      (block) => block.each === 'signal' && /\b(signal|fn)\.\w+/.test(block.base),
    ),
  );
  if (!device) throw new Error('no family has a register a signal');
  const block = device.recipe.registers.blocks.find(
    (one) => one.each === 'signal' && /\b(signal|fn)\.\w+/.test(one.base),
  );
  const column = /\b(?:signal|fn)\.(\w+)/.exec(block?.base ?? '')?.[1] ?? '';
  const first = device.functions.find((fn) => fn.columns?.[column] !== undefined);
  const wrong = {
    ...device,
    functions: [
      ...device.functions,
      {
        ...(first as NonNullable<typeof first>),
        pad: device.functions.find((fn) => fn.pad !== first?.pad)?.pad ?? '',
        columns: { [column]: (first?.columns?.[column] ?? 0) + 1 },
      },
    ],
  };
  const loaded = loadDevice(wrong);
  expect(loaded.ok ? '' : loaded.problems.map((one) => one.message).join()).toMatch(
    /disagree: .* give \d+ and \d+; one register cannot be at two places/,
  );
});

describe('rows are changed several at once', () => {
  const grid = expectOk(readText('t', 'a\tb\n1\tx\n2\ty z\n3\tw'));
  const cells = (made: typeof grid) =>
    made.rows.map((row) => `${row.line}:${row.cells.join('|')}${row.out ? '-' : ''}`);
  test('left out and taken in again, joined, split, added', () => {
    const out = leaveOut(grid, new Set([2, 3]));
    expect(cells(out)).toEqual(['1:a|b', '2:1|x-', '3:2|y z-', '4:3|w']);
    expect(cells(takeIn(out, new Set([3])))).toEqual(['1:a|b', '2:1|x-', '3:2|y z', '4:3|w']);
    expect(cells(joinToAbove(grid, new Set([3, 4])))).toEqual(['1:a|b', '2:1 2 3|x y z w']);
    expect(cells(splitRows(grid, new Set([3])))).toEqual(['1:a|b', '2:1|x', '3:2|y', '3.001:2|z', '4:3|w']);
    expect(cells(addRow(grid, 2))).toEqual(['1:a|b', '2:1|x', '2.001:|', '3:2|y z', '4:3|w']);
  });
});

describe('a file is named for what it is', () => {
  const bytes = (...start: number[]) => new Uint8Array([...start, ...new Array<number>(4_000_000).fill(7)]);
  test.each([
    [
      'a PNG picture',
      bytes(0x89, 0x50, 0x4e, 0x47),
      /a PNG picture: take the document that it is a picture of/,
    ],
    ['a JPEG picture', bytes(0xff, 0xd8, 0xff), /a JPEG picture/],
    ['an old workbook', bytes(0xd0, 0xcf, 0x11, 0xe0), /an old binary office file/],
    ['a program', bytes(0x7f, 0x45, 0x4c, 0x46), /a program \(ELF\)/],
    ['anything else', bytes(0, 1, 2), /a binary file/],
    ['nothing', new Uint8Array(), /an empty file/],
    ['a web page', new TextEncoder().encode('<!DOCTYPE html><html><table></table></html>'), /a web page/],
    ['some other XML', new TextEncoder().encode('<?xml version="1.0"?><board/>'), /an XML file with "board"/],
  ])('%s', (_name, content, message) => {
    const result = readFile('file', content);
    expect(result.ok ? 'was read' : result.problems[0]?.message).toMatch(message);
  });
});
