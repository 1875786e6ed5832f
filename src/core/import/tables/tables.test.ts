import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { LIMITS } from '../../base/limits';
import { loadDevice } from '../../device/compile/load';
import { EMPTY_REST, type PartDraft, readDraft, withCell } from '../compose/draft';
import { printTables } from '../compose/print-tables';
import { codeCell, kindFrom, listCell, padCell, portBitOf, signalFrom, takeMarks } from './cells';
import type { Grid } from './grid';
import { guessMapping } from './guess';
import { mappingProblems, signatureOf, type TableKind } from './mapping';
import { readText } from './read-text';
import { countFates } from './records';

const grid = (text: string, name = 'table'): Grid => expectOk(readText(name, text));
const roles = (kind: TableKind, text: string) => guessMapping(kind, grid(text), { unknown: 'ignore' });

const draft = (pinout: string, functions = ''): PartDraft => {
  const table = (kind: TableKind, text: string) => {
    const made = grid(text, kind);
    return {
      grid: made,
      mapping: guessMapping(kind, made, { unknown: 'ignore' }),
      source: { document: kind },
    };
  };
  return {
    pinout: table('pinout', pinout),
    functions: functions === '' ? null : table('functions', functions),
    device: { id: 'tarn-t4', name: 'Tarn T4', maker: 'Tarn (made up)', summary: '' },
    rest: EMPTY_REST,
    corrections: [],
    padColumns: {},
  };
};
const MESSY = `Table 7. Pins of the Tarn T4
Pin name\tType\tQ12\tStructure\tSupply\tNotes
A0/WAKE1\tI/O\t1\tT5\tVDD\t1
A1(2)\tI/O\t2\tT5\tVDD\t
VDD\tS\t3 9\t\t\t
\t\t12\t\t\t
VSS\tG\t4\t\t\t

Port B (continued)
Pin name\tType\tQ12\tStructure\tSupply\tNotes
B0\tI/O\t5\tST\tVDD\t
B1\tI/O\t6\tST\tVDD\t
B2\tI/O\t7\tST\tVDD\t
RST\tRST\t8\t\t\t
XI\tCLK\t10\t\t\t
XO\tCLK\t11\t\t\t`;

describe('cells', () => {
  test.each([
    ['UART1.TX(3)', 'UART1.TX', ['3']],
    ['B7²', 'B7', ['2']],
    ['A0 [1,2]', 'A0', ['1', '2']],
    ['VDD*', 'VDD', ['*']],
    ['C4(1)(2)', 'C4', ['1', '2']],
    ['P1', 'P1', []],
  ])('footnote marks of %j', (cell, text, marks) => {
    expect(takeMarks(cell)).toEqual({ text, marks });
  });
  test.each([
    ['UART2.TX SPI1.SCK', ['UART2.TX', 'SPI1.SCK']],
    ['UART2.TX, SPI1.SCK', ['UART2.TX', 'SPI1.SCK']],
    ['A1; B2', ['A1', 'B2']],
    ['-', []],
    ['–', []],
    ['n/a', []],
    ['', []],
    ['UART2.TX (1)', ['UART2.TX']],
  ])('several in %j', (cell, words) => {
    expect(listCell(cell).map((one) => one.text)).toEqual(words);
  });
  test.each([
    ['B7/WAKE2', 'B7', ['WAKE2']],
    ['B7 (WAKE2)', 'B7', ['WAKE2']],
    ['B7\nSWDIO', 'B7', ['SWDIO']],
    ['P1_3', 'P1_3', []],
  ])('pad and aliases in %j', (cell, id, aliases) => {
    expect(padCell(cell)).toMatchObject({ id, aliases });
  });
  test.each([
    ['B7', { port: 'B', bit: 7 }],
    ['PB7', { port: 'B', bit: 7 }],
    ['PA.12', { port: 'A', bit: 12 }],
    ['P3_14', { port: '3', bit: 14 }],
    ['VDD', undefined],
    ['RESET', undefined],
  ])('port and bit of %s', (name, port) => {
    expect(portBitOf(name)).toEqual(port);
  });
  test.each([
    ['AF7', 7],
    ['7', 7],
    ['0x1F', 31],
    ['AN', null],
    ['-', null],
    ['seven', undefined],
  ])('mux code %j', (cell, code) => {
    expect(codeCell(cell)).toBe(code);
  });
  test('kinds and signals in the habits of data sheets', () => {
    expect([kindFrom('I/O', 'A0'), kindFrom('P', 'VSS'), kindFrom('P', 'VDD'), kindFrom('?', 'A0')]).toEqual([
      'io',
      'ground',
      'supply',
      undefined,
    ]);
    expect(signalFrom('UART2_TX')).toEqual({ signal: 'UART2.TX', assumedLine: false });
    expect(signalFrom('CLKOUT')).toEqual({ signal: 'CLKOUT.IO', assumedLine: true });
    expect(signalFrom('???')).toBeUndefined();
  });
});

describe('a table is read', () => {
  test.each([
    ['commas', 'a,b,c\n1,2,3'],
    ['tabs', 'a\tb\tc\n1\t2\t3'],
    ['semicolons', 'a;b;c\n1;2;3'],
    ['bars', 'a|b|c\n1|2|3'],
    ['runs of spaces, out of a PDF', 'a   b    c\n1   2    3'],
    ['a byte order mark and CRLF', '\ufeffa,b,c\r\n1,2,3\r\n'],
  ])('divided by %s', (_name, text) => {
    expect(grid(text).rows.map((row) => row.cells)).toEqual([
      ['a', 'b', 'c'],
      ['1', '2', '3'],
    ]);
  });
  test('quoted cells keep dividers and line ends', () => {
    expect(grid('a,b\n"x, y\nz",2').rows[1]?.cells).toEqual(['x, y\nz', '2']);
  });
  test.each([
    ['nothing', '   \n', /the table is empty/],
    ['too many columns', `${'a,'.repeat(LIMITS.tableColumns + 5)}b\n1`, /at most 200 columns/],
    ['a quote that never ends', 'a,b\n"x,2', /./],
  ])('%s is refused', (_name, text, message) => {
    const result = readText('t.csv', text);
    if (result.ok) expect(result.value.rows.length).toBeGreaterThan(0);
    else expect(result.problems[0]?.message).toMatch(message);
  });
});

describe('columns are guessed', () => {
  test('of a pinout, by headings and by contents', () => {
    expect(roles('pinout', MESSY)).toEqual({
      headerRow: 1,
      roles: ['pad', 'kind', 'pin:q12', 'class', 'supply', 'notes'],
    });
    expect(
      roles('pinout', 'No,Pin,Function\n1,VDD,power\n2,A0,I/O\n3,A1,I/O\n4,VSS,power\n5,A2,I/O').roles,
    ).toEqual(['pin:no', 'pad', expect.any(String)]);
  });
  test('of a wide function table', () => {
    expect(
      roles('functions', 'Port,AF0,AF1,AF12,Additional\nA0,-,UART1_TX,,ADC1_IN0\nA1,,UART1_RX,PACE1_Q1,')
        .roles,
    ).toEqual(['pad', 'mux:0', 'mux:1', 'mux:12', 'analog']);
  });
  test('of a long function table', () => {
    expect(
      roles('functions', 'Signal,Pad,Mux code\nUART1.TX,A0,3\nUART1.RX,A1,3\nADC1.IN0,A0,-').roles,
    ).toEqual(['signal', 'pad', 'code']);
  });
  test('with the same signature for the same headings only', () => {
    expect(signatureOf('pinout', ['Pad ', 'Type'])).toBe(signatureOf('pinout', ['pad', 'TYPE']));
    expect(signatureOf('pinout', ['pad'])).not.toBe(signatureOf('functions', ['pad']));
  });
  test.each([
    [['pad', 'pad'], /two columns are "pad"/],
    [['kind', 'pin:q1'], /no column says which pad/],
    [['pad', 'kind'], /no column has the pins/],
    [['pad', 'pin:'], /"pin in" needs a package/],
    [['pad', 'nonsense'], /"nonsense" is no role/],
  ])('a mapping %j that cannot be used says why', (list, message) => {
    expect(mappingProblems('pinout', { headerRow: 0, roles: list }).join()).toMatch(message);
  });
});

describe('every row has a fate, and every problem a cell', () => {
  test('titles, repeated headings, merged and empty rows', () => {
    const reading = readDraft(draft(MESSY));
    expect(reading.pinout.problems).toEqual([]);
    const counts = countFates(reading.pinout.fates);
    expect(counts).toEqual({
      'section title': 2,
      headings: 1,
      'headings again': 1,
      empty: 1,
      used: 10,
      'joined to the row above': 1,
    });
    const rows = draft(MESSY).pinout?.grid.rows.length;
    expect(Object.values(counts).reduce((a, b) => a + b, 0)).toBe(rows);
    const vdd = reading.pads.find((pad) => pad.id === 'VDD');
    expect(vdd?.pins.map((one) => one.pin)).toEqual(['3', '9', '12']);
    expect(reading.pads.find((pad) => pad.id === 'A0')).toMatchObject({
      aliases: ['WAKE1'],
      notes: ['1'],
      port: 'A',
      bit: 0,
    });
    expect(reading.pads.find((pad) => pad.id === 'A1')?.notes).toEqual(['2']);
  });

  const FUNCTIONS = `Pad,AF0,AF1,Analog
A0,-,UART1_TX,ADC1_IN0
A1,-,"UART1_RX, SPI1_SCK",ADC1_IN1
B0,SPI1_SCK(1),UART1_RX,
B1,,UART1_TX,`;

  test.each([
    ['an unknown pad', MESSY, `${FUNCTIONS}\nZ9,,UART1_TX,`, 6, 0, /the pinout has no pad Z9/],
    ['a pad that is no I/O', MESSY, `${FUNCTIONS}\nVDD,,UART1_TX,`, 6, 0, /VDD is no I\/O pad/],
    ['no signal', MESSY, `${FUNCTIONS}\nB2,,???,`, 6, 2, /"\?\?\?" is no signal/],
    ['a pin twice', MESSY.replace('\t6\t', '\t5\t'), '', 12, 2, /pin 5 is bonded to B0 already/],
    ['a pad twice', MESSY.replace('B1', 'B0'), '', 12, 0, /B0 stands in row 11 already/],
    ['no pin', MESSY.replace('\t6\t', '\tsix\t'), '', 12, 2, /"six" is no pin number/],
    ['no kind', MESSY.replace('RST\tRST', 'RST\tXYZ'), '', 14, 1, /"XYZ" is none of io, supply/],
    ['no name', MESSY.replace('B1\t', 'B 1\t'), '', 12, 0, /"B 1" cannot be a pad's name/],
  ])('%s', (_name, pinout, functions, line, column, message) => {
    const reading = readDraft(draft(pinout, functions));
    const problems = [...reading.pinout.problems, ...reading.functionTable.problems];
    const found = problems.find((one) => message.test(one.message));
    expect([found?.line, found?.column, found?.severity]).toEqual([line, column, 'error']);
    expect(reading.errors).toBeGreaterThan(0);
    const table = functions === '' ? reading.pinout : reading.functionTable;
    const rows = grid(functions === '' ? pinout : functions).rows.length;
    expect(table.fates.size).toBe(rows);
  });

  test('a suggestion that is taken mends the cell and nothing else', () => {
    const start = draft(MESSY.replace('B1\t', 'B 1\t'));
    const before = readDraft(start);
    const [problem] = before.pinout.problems;
    expect(problem?.suggestions).toEqual(['B1', 'B_1']);
    const pinout = start.pinout;
    if (!pinout || !problem) throw new Error('no problem');
    const mended = withCell(
      pinout.grid,
      problem.line ?? 0,
      problem.column ?? 0,
      problem.suggestions?.[0] ?? '',
    );
    const after = readDraft({ ...start, pinout: { ...pinout, grid: mended } });
    expect(after.errors).toBe(0);
    expect(after.pads).toHaveLength(before.pads.length + 1);
  });

  test('a missing pin is told', () => {
    const reading = readDraft(draft(MESSY.replace('B1\tI/O\t6', 'B1\tI/O\t-')));
    expect(reading.pinout.problems).toMatchObject([
      { severity: 'question', message: 'B1 has no pin in any package' },
      { severity: 'error', message: 'package q12: no pad for pin 6' },
    ]);
  });

  test('words that look like slips are warned of, and do not stop the import', () => {
    const text = `${FUNCTIONS}\nB2,,UART2_TZ,\nA0,UART2_TX,,\nA1,UART3_TX,,`;
    const reading = readDraft(draft(MESSY.replace('B2\tI/O\t7\tST\tVDD', 'B2\tI/O\t7\tST\tVDX'), text));
    const warnings = [...reading.pinout.problems, ...reading.functionTable.problems];
    expect(warnings.map((one) => [one.severity, one.suggestions])).toEqual([
      ['warning', ['VDD']],
      ['warning', ['UART2.TX']],
    ]);
    expect(reading.errors).toBe(0);
  });

  test('what tables do not say is inferred: shapes, supplies, classes, peripherals, directions', () => {
    const { file, description } = readDraft(draft(MESSY, FUNCTIONS));
    expect(file.packages).toEqual([
      { id: 'q12', name: 'dual row 12', shape: { kind: 'dual-row', pins: 12 } },
    ]);
    expect(file.supplies.map((one) => one.id)).toEqual(['VDD']);
    expect(Object.keys(file.padClasses)).toEqual(['T5', 'ST']);
    expect(file.peripherals.map((one) => [one.id, one.kind])).toEqual([
      ['UART1', 'UART'],
      ['ADC1', 'ADC'],
      ['SPI1', 'SPI'],
    ]);
    expect(file.peripheralKinds.UART?.lines).toEqual({ TX: { direction: 'out' }, RX: { direction: 'in' } });
    expect(file.peripheralKinds.ADC?.lines.IN0).toEqual({ direction: 'analog' });
    expect(description && loadDevice(description).ok).toBe(true);
    expect(description?.functions.find((fn) => fn.pad === 'B0')?.source).toEqual({
      document: 'functions',
      row: 4,
    });
  });

  test('what the user says of it counts more than what was inferred', () => {
    const start = draft(MESSY, FUNCTIONS);
    const { file } = readDraft({
      ...start,
      rest: {
        ...start.rest,
        packages: { q12: { name: 'flat 12' } },
        supplies: { VDD: { nominalVolts: 1.8 } },
        peripheralKinds: { UART: { title: 'serial', lines: { TX: { direction: 'both' } } } },
        notes: { '1': 'wake-up source' },
      },
    });
    expect(file.packages[0]?.name).toBe('flat 12');
    expect(file.supplies[0]).toEqual({ id: 'VDD', title: 'VDD', nominalVolts: 1.8 });
    expect(file.peripheralKinds.UART?.lines).toEqual({ TX: { direction: 'both' }, RX: { direction: 'in' } });
    expect(file.notes['1']).toBe('wake-up source');
  });
});

test('five thousand rows are read, each with a fate', () => {
  const rows = Array.from({ length: 5000 }, (_, i) => `A${i % 64},UART${Math.floor(i / 64)}.TX,${i % 16}`);
  const pinout = Array.from({ length: 64 }, (_, i) => `A${i},io,${i + 1}`);
  const reading = readDraft(
    draft(`pad,kind,q64\n${pinout.join('\n')}`, `pad,signal,mux\n${rows.join('\n')}`),
  );
  expect(countFates(reading.functionTable.fates)).toEqual({ headings: 1, used: 5000 });
  expect(reading.functions).toHaveLength(5000);
  expect(reading.errors).toBe(0);
});

describe.each(FAMILIES)('%s in the import view', (folder) => {
  test('its own printed tables are guessed right and give the same pads and functions', () => {
    const { original } = family(folder);
    const printed = printTables(original);
    const reading = readDraft(draft(printed.pinout, printed.functions));
    expect(
      [...reading.pinout.problems, ...reading.functionTable.problems].filter(
        (one) => one.severity === 'error',
      ),
    ).toEqual([]);
    expect(reading.pads.map((pad) => pad.id)).toEqual(original.pads.map((pad) => pad.id));
    const key = (fn: { pad: string; signal: string; mux: number | null }) =>
      `${fn.pad} ${fn.signal} ${fn.mux}`;
    expect(reading.description?.functions.map(key)).toEqual(original.functions.map(key));
    expect(reading.description?.packages.map((one) => [one.id, one.pins])).toEqual(
      original.packages.map((one) => [one.id, one.pins]),
    );
  });
});
