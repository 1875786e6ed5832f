import { expectOk } from '@/testing/expect-ok';
import { EMPTY_REST, readDraft } from '../compose/draft';
import { guessMapping } from '../tables/guess';
import { readBsdl } from './read-bsdl';

const FILE = `-- boundary scan of a made-up part; "-- not a comment" in quotes
entity TARN_T4 is
  generic (PHYSICAL_PIN_MAP : string := "Q8");
  port (
    A0, A1 : inout bit;   -- two of a kind
    B2     : inout bit;
    TDI    : in    bit;
    VDD    : linkage bit_vector(1 to 2);
    VSS    : linkage bit
  );
  use STD_1149_1_2001.all;
  attribute PIN_MAP of TARN_T4 : entity is PHYSICAL_PIN_MAP;
  constant Q8 : PIN_MAP_STRING :=
    "A0 : 1, A1 : 2, " &  -- first side
    "VDD : (3, 8), VSS : 4, " &
    "B2 : 5, TDI : 6";
  constant BG9 : PIN_MAP_STRING := "A0:A1,A1:A2,VDD:(B1,B2),VSS:C3,B2:C1";
end TARN_T4;
`;

test('pin maps become a pinout table, a column a package', () => {
  const grid = expectOk(readBsdl('tarn.bsd', FILE));
  expect(grid.rows.map((row) => row.cells)).toEqual([
    ['pad', 'kind', 'q8', 'bg9'],
    ['A0', 'io', '1', 'A1'],
    ['A1', 'io', '2', 'A2'],
    ['VDD', '-', '3 8', 'B1 B2'],
    ['VSS', '-', '4', 'C3'],
    ['B2', 'io', '5', 'C1'],
    ['TDI', '-', '6', '-'],
  ]);
  // Rows are told apart by their line, though several pads stand in one line of the file.
  expect(new Set(grid.rows.map((row) => row.line)).size).toBe(grid.rows.length);
});

test('from there it is imported like any other table', () => {
  const grid = expectOk(readBsdl('tarn.bsd', FILE));
  const mapping = guessMapping('pinout', grid, { unknown: 'ignore' });
  const reading = readDraft({
    pinout: { grid, mapping, source: { document: 'tarn.bsd' } },
    functions: null,
    device: { id: 't', name: 'T', maker: '', summary: '' },
    rest: EMPTY_REST,
    corrections: [],
    padColumns: {},
  });
  expect(reading.pads.map((pad) => [pad.id, pad.kind, pad.pins.length])).toEqual([
    ['A0', 'io', 2],
    ['A1', 'io', 2],
    ['VDD', 'supply', 4],
    ['VSS', 'ground', 2],
    ['B2', 'io', 2],
    ['TDI', 'debug-only', 1],
  ]);
});

test.each([
  ['some other text', 'hello', /this is no boundary-scan description/],
  ['no ports', 'entity X is end X;', /the entity has no port list/],
  ['no pin map', 'entity X is port (A : inout bit); end X;', /no constant of type PIN_MAP_STRING/],
  [
    'a broken pin map',
    'entity X is port (A : inout bit);\nconstant P : PIN_MAP_STRING := "A : 1, " &\n"??"; end X;',
    /x\.bsd:3:1: the pin map cannot be read at "\?\?"/,
  ],
])('%s is refused with its place', (_name, text, message) => {
  const result = readBsdl('x.bsd', text);
  expect(
    result.ok ? 'was read' : result.problems.map((one) => `${one.place}: ${one.message}`).join(),
  ).toMatch(message);
});
