import { deflateRawSync } from 'node:zlib';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { family } from '@/testing/families';
import { corvane, frostGuard } from '@/testing/frost-guard';
import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
import { xlsx } from '@/testing/xlsx';
import { LIMITS } from './base/limits';
import type { Meter } from './base/text/scan';
import { printDevice } from './description/print-device';
import { readBsdl } from './import/bsdl/read-bsdl';
import { parseDevice } from './import/compose/device-files';
import { EMPTY_REST, readDraft } from './import/compose/draft';
import { readFile } from './import/files/read-file';
import { readXlsx } from './import/files/xlsx';
import { readNetlist } from './import/netlist/read-netlist';
import { readSvd } from './import/svd/read-svd';
import { isEmptyCell, listCell, padCell, signalFrom, takeMarks } from './import/tables/cells';
import type { Grid } from './import/tables/grid';
import { guessMapping } from './import/tables/guess';
import { readText } from './import/tables/read-text';
import { printSvd } from './output/registers/print-svd';
import { parsePlan } from './plan/file/plan-file';
import { printPlan } from './plan/file/print-plan';
import { readEdit } from './plan/file/read-edit';
import { emptyPlan } from './plan/model/types';
import { parseTypedNets } from './plan/typed-nets/typed-nets';

const MEGABYTE = 1_000_000;
const fill = (piece: string, length = MEGABYTE): string =>
  piece.repeat(Math.ceil(length / piece.length)).slice(0, length);
const plan = emptyPlan('P', 'corvane-c40-80', 'q100', '');
const typedNets = (text: string, meter?: Meter) => {
  let next = 0;
  return parseTypedNets(text, plan, corvane().description, undefined, () => `n${next++}`, meter);
};

/** Work is in proportion to the text: counted in steps, since a time would say more of the machine. */
describe('a megabyte of the worst takes steps in proportion', () => {
  const within = (times: number, text: string, read: (meter: Meter) => unknown): void => {
    const meter = { steps: 0 };
    read(meter);
    expect(meter.steps).toBeLessThanOrEqual(times * Math.max(text.length, 1000));
  };
  const head = 'entity T is port (A : inout bit);\n';
  test.each([
    ['blanks', `${head}${fill(' ')}`],
    ['names of ports without a mode', `entity T is port (${fill('A ,')}`],
    ['nested brackets', `entity T is port ${fill('(')}`],
    ['constants without an end', head + fill('constant P : PIN_MAP_STRING := ')],
    ['one constant without an end', `${head}constant P : PIN_MAP_STRING := "${fill('A : 1, ')}`],
    ['entries that go wrong', head + fill('constant P : PIN_MAP_STRING := "??";\n')],
    ['blanks between entries', `${head}constant P : PIN_MAP_STRING := "${fill(' ')}"; end;`],
    ['bracketed lists without an end', `${head}constant P : PIN_MAP_STRING := "${fill('A : (1,')}`],
    ['quotes', head + fill('"')],
    ['comments', head + fill('-- "\n')],
    ['entities', fill('entity  ')],
  ])('boundary scan: %s', (_name, text) => within(8, text, (meter) => readBsdl('x.bsd', text, meter)));

  test.each([
    ['long names of blanks', fill(`P NNAME1 a${' '.repeat(5000)}b\n`)],
    ['one line of blanks', `P NNAME1 a${fill(' ')}b\n317`],
    ['dashes', fill(`net,${'a-'.repeat(1500)} b,1\n`)],
    ['dots', fill(`net,${'a1.'.repeat(1000)}\n`)],
    ['records', fill('317\n')],
    ['brackets', fill('(a')],
    ['texts', `(net "${fill('\\"')}" U1-1)`],
    ['pins in a net', `(net A ${fill('U1-1 ')})`],
    [
      'pins in a net of EDIF',
      `(edif b (library w (cell r) (cell t (view v (contents (instance I (viewRef v (cellRef r))) (net N (joined ${fill('(portRef P (instanceRef I))')})))))))`,
    ],
    [
      'nets of one name',
      `(edif b (library w (cell r) (cell t (view v (contents (instance I (viewRef v (cellRef r))) ${fill('(net N (joined (portRef P (instanceRef I))))')})))))`,
    ],
  ])('netlist: %s', (_name, text) => within(8, text, (meter) => readNetlist('x', text, meter)));

  test.each([
    ['digits', fill('1', 190_000)],
    ['ranges that are none', fill('1..', 190_000)],
    ['one range of digits', `${fill('1', 190_000)}..2 out`],
    ['one name many times', `x: ${fill('a ', 190_000)} out`],
    ['one line of one name', fill('a out\n', 190_000)],
    [
      'circuits',
      Array.from({ length: 20_000 }, (_, at) => `c${at}: a out`)
        .join('\n')
        .slice(0, 190_000),
    ],
    ['dividers', fill('·', 190_000)],
    ['quotes', fill('"', 190_000)],
    ['tabs', fill('\t', 190_000)],
    ['rows', fill('A\tUART1_TX\n', 190_000)],
  ])('typed nets: %s', (_name, text) => within(12, text, (meter) => typedNets(text, meter)));

  test.each([
    ['marks', fill('(1)', LIMITS.cellCharacters)],
    ['marks with blanks', fill('(1) ', LIMITS.cellCharacters)],
    ['open brackets', fill('(1', LIMITS.cellCharacters)],
    ['stars', fill('*', LIMITS.cellCharacters)],
    ['commas', `(${fill('1, ', LIMITS.cellCharacters)})`],
  ])('cells: %s', (_name, text) => within(8, text, (meter) => takeMarks(text, meter)));

  const field = (dim: string) =>
    `<device><peripherals><peripheral><name>P</name><baseAddress>0</baseAddress><registers>${dim}</registers></peripheral></peripherals></device>`;
  const nested = (depth: number): string =>
    depth === 0
      ? ''
      : `<cluster><dim>1000</dim><dimIncrement>4</dimIncrement><name>C%s</name><addressOffset>0</addressOffset>${nested(depth - 1)}</cluster>`;
  const chain = Array.from(
    { length: 9000 },
    (_, at) =>
      `<peripheral derivedFrom="P${at + 1}"><name>P${at}</name><baseAddress>0</baseAddress></peripheral>`,
  ).join('');
  const siblings = Array.from(
    { length: 9000 },
    (_, at) => `<register derivedFrom="R0"><name>R${at}</name><addressOffset>0</addressOffset></register>`,
  ).join('');
  test.each([
    ['arrays in arrays', field(nested(8))],
    [
      'a large array of fields',
      field(
        `<register><name>R</name><addressOffset>0</addressOffset><fields>${'<field><dim>200000</dim><dimIncrement>1</dimIncrement><name>F%s</name><bitOffset>0</bitOffset></field>'.repeat(50)}</fields></register>`,
      ),
    ],
    ['a chain of derivations', `<device><peripherals>${chain}</peripherals></device>`],
    ['registers derived from a sibling', field(siblings)],
    [
      'arrays of nothing',
      field('<cluster><dim>200000</dim><name>C</name><addressOffset>0</addressOffset></cluster>'.repeat(40)),
    ],
  ])('register description: %s', (_name, text) => {
    const meter = { steps: 0 };
    readSvd('x.svd', text, meter);
    expect(meter.steps).toBeLessThan(20 * MEGABYTE);
  });
});

/** A ZIP archive of one file of so many zero bytes, made in no time. */
function zipOfZeros(path: string, size: number): Uint8Array {
  const packed = deflateRawSync(Buffer.alloc(size), { level: 1 });
  const name = Buffer.from(path);
  const [local, central, end] = [Buffer.alloc(30), Buffer.alloc(46), Buffer.alloc(22)];
  for (const [header, signature, at] of [
    [local, 0x04034b50, 4],
    [central, 0x02014b50, 6],
  ] as const) {
    header.writeUInt32LE(signature, 0);
    header.writeUInt16LE(20, at);
    header.writeUInt16LE(8, at + 4);
    header.writeUInt32LE(packed.length, at + 14);
    header.writeUInt32LE(size, at + 18);
    header.writeUInt16LE(name.length, at + 22);
  }
  const body = local.length + name.length + packed.length;
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length + name.length, 12);
  end.writeUInt32LE(body, 16);
  return Buffer.concat([local, name, packed, central, name, end]);
}

test('a spreadsheet that asks for a thousand million rows, or unpacks to too much, is refused', () => {
  const small = xlsx({ Pinout: [['pad', 'q8']] });
  const book = (sheet: string) =>
    zipSync({
      ...unzipSync(small),
      'xl/worksheets/sheet1.xml': strToU8(`<worksheet><sheetData>${sheet}</sheetData></worksheet>`),
    });
  const fault = (sheet: string) => {
    const read = readXlsx('b.xlsx', book(sheet));
    return read.ok ? JSON.stringify(read.value) : (read.problems[0]?.message ?? '');
  };
  const value = '<v>1</v>';
  expect(fault(`<row r="999999999"><c r="A999999999">${value}</c></row>`)).toMatch(/no place in a sheet/);
  expect(fault(`<row r="9999999"><c r="A9999999">${value}</c></row>`)).toMatch(/at most 50,000 rows/);
  expect(fault(`<x:row r="70000"><x:c>${value}</x:c></x:row>`)).toMatch(/at most 50,000 rows/);
  expect(fault(`<row r="1"><c r="XFD1">${value}</c></row>`)).toMatch(/at most 200 columns/);
  expect(fault(`<row r="1"><c r="A&#57;99999999">${value}</c></row>`)).toMatch(/no place in a sheet/);
  expect(fault(`<row r="-4"><c>${value}</c></row>`)).toMatch(/has a row/);
  const rows = Array.from({ length: 12_000 }, (_, i) => `<row r="${i + 1}"><c>${value}</c></row>`).join('');
  const merged = zipSync({
    ...unzipSync(small),
    'xl/worksheets/sheet1.xml': strToU8(
      `<worksheet><sheetData>${rows}</sheetData><mergeCells>${'<mergeCell ref="A1:GR12000"/>'.repeat(500)}</mergeCells></worksheet>`,
    ),
  });
  expect(readXlsx('b.xlsx', merged)).toMatchObject({
    problems: [{ message: expect.stringMatching(/merged cells cover more/) }],
  });
  // Empty rows and cells up to the edge of the sheet are no table.
  expect(fault('<row r="1048576"/><row r="1"><c r="XFD1"/></row>')).toMatch(/the table is empty/);
  expect(readXlsx('b.xlsx', zipOfZeros('xl/worksheets/sheet1.xml', 201_000_000))).toMatchObject({
    problems: [{ message: expect.stringMatching(/when unpacked/) }],
  });
  expect(readXlsx('b.xlsx', strToU8('PK no zip'))).toMatchObject({
    problems: [{ message: expect.stringMatching(/damaged/) }],
  });
});

test('spreadsheets with bytes changed are refused, or taken for what they are; never an exception', () => {
  const random = randomFrom(4711);
  const book = xlsx({
    Pinout: [
      ['pad', 'kind', 'q8'],
      ['A0', 'io', '1'],
      ['VDD', 'supply', '2'],
    ],
  });
  let refused = 0;
  for (let run = 0; run < fuzzBudget(1_200); run++) {
    const bytes = Uint8Array.from(book);
    for (let turns = 1 + random.int(6); turns > 0; turns--) bytes[random.int(bytes.length)] = random.int(256);
    const read = readFile('b.xlsx', random.int(4) === 0 ? bytes.slice(0, random.int(bytes.length)) : bytes);
    if (!read.ok) refused++;
  }
  expect(refused).toBeGreaterThan(fuzzBudget(60));
});

/** Seeds are fixed. `MAVREK_FUZZ=25` does twenty-five times as much. */
describe('texts with pieces cut out, doubled, moved and replaced', () => {
  const RUNS = fuzzBudget(1_200);
  const PIECES = [
    '',
    '"',
    "'",
    '(',
    ')',
    ',',
    ';',
    ':',
    '\t',
    '\n',
    '\r',
    ' ',
    '<',
    '>',
    '</',
    '/>',
    '&',
    '{',
    '}',
    '[',
    ']',
  ];
  const WORDS = [
    '-1',
    '0x',
    '1e99',
    '999999999999',
    '__proto__',
    'constructor',
    '\u0000',
    '\ud800',
    '\ufeff',
    '%s',
    '..',
    '@',
    'é',
    'null',
  ];

  function mutated(random: Random, seed: string, longest: number): string {
    let text = seed;
    for (let turns = 1 + random.int(4); turns > 0; turns--) {
      const from = random.int(text.length + 1);
      const to = Math.min(text.length, from + random.int(random.int(3) === 0 ? 400 : 6));
      const piece = text.slice(from, to);
      const other = random.int(text.length + 1);
      switch (random.int(5)) {
        case 0:
          text = text.slice(0, from) + text.slice(to);
          break;
        case 1:
          text = text.slice(0, from) + piece.repeat(2 + random.int(20)) + text.slice(to);
          break;
        case 2:
          text = text.slice(0, from) + random.pick(PIECES) + text.slice(to);
          break;
        case 3:
          text = text.slice(0, from) + random.pick(WORDS) + text.slice(to);
          break;
        default:
          text = text.slice(0, other) + piece + text.slice(other);
      }
    }
    return text.slice(0, longest);
  }

  const small = family('pellin-p8').original;
  const short = (text: string, length: number): string => text.slice(0, length);
  const svd = printSvd(family('pellin-p8'));
  const second = svd.indexOf('<register>', svd.indexOf('<register>') + 10);
  const firstRegister = `${short(svd, second)}</registers></peripheral></peripherals></device>`;
  const [block] = small.recipe.registers.blocks;
  const part = printDevice({
    ...small,
    padClasses: {},
    notes: {},
    supplies: small.supplies.slice(0, 1),
    peripherals: small.peripherals.slice(0, 2),
    peripheralKinds: Object.fromEntries(Object.entries(small.peripheralKinds).slice(0, 2)),
    packages: small.packages.slice(0, 1).map((one) => ({ ...one, pins: { 1: 'K0', 2: 'VDD' } })),
    pads: small.pads.filter((pad) => ['K0', 'VDD'].includes(pad.id)),
    functions: small.functions.filter((fn) => fn.pad === 'K0').slice(0, 2),
    recipe: {
      ...small.recipe,
      registers: { blocks: block ? [block] : [] },
      encode: small.recipe.encode.slice(0, 1),
      stages: small.recipe.stages.slice(0, 1),
    },
  });
  const edits = JSON.stringify({
    kind: 'batch',
    label: 'x',
    edits: [
      { kind: 'net.setting', id: 'n', key: 'pull', from: null, to: 'up' },
      { kind: 'net.set', id: 'n', field: 'placement', from: null, to: { pad: 'B7', locked: true } },
      { kind: 'table.set', table: 'label', key: 'B7', from: null, to: 'x' },
      { kind: 'plan.set', field: 'name', from: 'a', to: 'b' },
    ],
  });
  const problemsOf = (result: unknown): { place: string; message: string }[] =>
    (result as { ok?: boolean } | undefined)?.ok === false
      ? ((result as { problems: [] }).problems ?? [])
      : [];
  const draft = (grid: Grid) =>
    readDraft({
      pinout: {
        grid,
        mapping: guessMapping('pinout', grid, { unknown: 'number' }),
        source: { document: 'p' },
      },
      functions: {
        grid,
        mapping: guessMapping('functions', grid, { unknown: 'number' }),
        source: { document: 'f' },
      },
      device: { id: 'x', name: 'X', maker: '', summary: '' },
      rest: EMPTY_REST,
      corrections: [],
      padColumns: {},
    });

  test.each<[string, string[], (text: string) => unknown, number]>([
    [
      'boundary scan',
      [
        'entity T is\nport (A0, A1 : inout bit; VDD : linkage bit_vector(1 to 2));\nconstant D4 : PIN_MAP_STRING := "A0 : 1, A1 : 2, " &\n"VDD : (3, 4)"; -- x\nend T;',
      ],
      (text) => readBsdl('x', text),
      RUNS,
    ],
    [
      'netlist',
      [
        'P  NNAME1  LONG_NAME_OF_A_NET\n317NNAME1          U1    -34\n327GND             R2    -1\n',
        'net,part,pin\nFAN_1,U1,34\nGND,U1-3,\n',
        'U1-34\tFAN_1\t7\n',
        '(export (net (name "FAN_1") (node (ref U1) (pin 34)))\n(net GND U1-2 R2-1))',
        '<nets><net name="FAN_1"><node ref="U1" pin="34"/></net><!-- x --><net><name>GND</name></net></nets>',
        '(edif b (edifVersion 2 0 0) (library w (cell r (view v (interface (port &1)))) (cell t (view v (interface (port P)) (contents (instance (rename I "U1") (viewRef v (cellRef r))) (net (array N 2) (joined (portRef (member P 1)) (portRef &1 (instanceRef I)))))))) (design d (cellRef t)))',
      ],
      (text) => readNetlist('x', text),
      RUNS,
    ],
    [
      'typed nets',
      [
        'mast: uart tx rx · de out low 8mA @B7; d0..7 out bus',
        'net\tis\tpad\nFAN 1\tout low\tB7\n',
        '"a b" irq up falling · x in 5V driven',
      ],
      (text) => typedNets(text),
      RUNS,
    ],
    [
      'a table',
      [
        'pad,kind,port,bit,q8\nA0/WAKE(1),io,A,0,1\nVDD,supply,,,"2 3"\n',
        'Pad\tF0\tF1\nA0\tUART1.TX(2)\t-\n',
      ],
      (text) => {
        const grid = readText('x', text);
        if (grid.ok) draft(grid.value);
        return grid;
      },
      RUNS,
    ],
    [
      'a cell',
      ['B7/WAKE2 (1, 2)²*', 'UART1_TX(3)[1]; SPI1.SCK', 'n/a', '(((1)))'],
      (text) => {
        isEmptyCell(text);
        takeMarks(text);
        padCell(text);
        for (const { text: word } of listCell(text)) signalFrom(word);
        return undefined;
      },
      RUNS,
    ],
    ['a register description', [firstRegister], (text) => readSvd('x', text), RUNS],
    [
      'a plan',
      [printPlan({ ...frostGuard(), nets: frostGuard().nets.slice(0, 3), constraints: [] })],
      (text) => parsePlan('x', text),
      RUNS,
    ],
    [
      'an edit',
      [edits],
      (text) => {
        try {
          return readEdit(JSON.parse(text));
        } catch (error) {
          if (error instanceof SyntaxError) return undefined;
          throw error;
        }
      },
      RUNS,
    ],
    ['a description', [part], (text) => parseDevice('x', text), RUNS],
  ])(
    '%s: an answer, or problems with a place; never an exception, never seconds',
    (name, seeds, read, runs) => {
      const random = randomFrom(name.length * 7919 + 1);
      let slowest = 0;
      for (let run = 0; run < runs; run++) {
        const text = mutated(random, random.pick(seeds), 20_000);
        // Processor time: what others do at the same time is none of its doing.
        const start = process.cpuUsage();
        const result = read(text);
        const { user, system } = process.cpuUsage(start);
        slowest = Math.max(slowest, (user + system) / 1000);
        for (const { place, message } of problemsOf(result)) {
          if (place.length === 0 || message.length < 4)
            throw new Error(`${JSON.stringify(text)}: "${place}" "${message}"`);
        }
      }
      expect(slowest).toBeLessThan(4000);
    },
  );
});
