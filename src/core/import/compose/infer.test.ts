import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { closest, distance, sameButNumbers } from '../../base/text/near';
import { hasRecipe } from '../../description/recipe';
import { guessMapping } from '../tables/guess';
import { rolesFor, splitRole } from '../tables/mapping';
import { readFunctions } from '../tables/read-functions';
import { readPinout } from '../tables/read-pinout';
import { layoutOf, readText } from '../tables/read-text';
import { ballRows, emptyRecipe, inferRest, inferShape, lineKindFor, shapeName } from './infer';

const numbers = (count: number): string[] => Array.from({ length: count }, (_, i) => String(i + 1));

describe('the shape that pin numbers speak of', () => {
  test.each([
    [8, 'dual row 8'],
    [14, 'dual row 14'],
    [28, 'dual row 28'],
    [32, 'quad 32'],
    [48, 'quad 48'],
    [64, 'quad 64'],
    [100, 'quad 100'],
    [144, 'quad 144'],
  ])('%i numbers: %s', (count, name) => {
    expect(shapeName(inferShape(numbers(count)))).toBe(name);
  });
  test('one number more than four sides have is the pad underneath', () => {
    expect(inferShape(numbers(49))).toEqual({ kind: 'quad', pins: 48, exposedPad: true });
  });
  test('letters mean balls; rows are lettered without those that are mistaken for digits', () => {
    expect(inferShape(['A1', 'A6', 'F3'])).toEqual({
      kind: 'ball-grid',
      rows: ['A', 'B', 'C', 'D', 'E', 'F'],
      columns: 6,
    });
    const rows = ballRows(21);
    expect(rows).not.toEqual(expect.arrayContaining(['I']));
    expect(rows).not.toEqual(expect.arrayContaining(['O']));
    expect(rows.slice(-2)).toEqual(['Y', 'AA']);
    expect(new Set(rows).size).toBe(21);
  });
  test.each(FAMILIES)('the shipped packages of %s are inferred as they are described', (folder) => {
    for (const { shape, pins } of family(folder).description.packages) {
      const inferred = inferShape(Object.keys(pins));
      // A small quad looks like two rows: the user says so in the part step.
      if (shape.kind === 'quad' && shape.pins <= 28) continue;
      expect(inferred.kind).toBe(shape.kind);
      if (inferred.kind === 'ball-grid' && shape.kind === 'ball-grid')
        expect([inferred.rows.length, inferred.columns]).toEqual([shape.rows.length, shape.columns]);
      else if (inferred.kind !== 'ball-grid' && shape.kind !== 'ball-grid')
        expect(inferred.pins).toBe(shape.pins);
    }
  });
});

describe('directions of lines in the trade’s names', () => {
  test.each([
    ['UART', 'TX', false, 'out'],
    ['UART', 'RX', false, 'in'],
    ['UART', 'CTS', false, 'in'],
    ['UART', 'DE', false, 'out'],
    ['SPI', 'SDO', false, 'out'],
    ['SPI', 'SDI', false, 'in'],
    ['I2C', 'SDA', false, 'both'],
    ['PACE', 'Q1', false, 'both'],
    ['PACE', 'Q1B', false, 'out'],
    ['ADC', 'IN3', true, 'analog'],
    ['WAKE', 'IN1', false, 'in'],
    ['ODD', 'THING', false, 'both'],
  ])('%s %s', (kind, line, analog, direction) => {
    expect(lineKindFor(kind, line, analog).direction).toBe(direction);
  });
  test('a bus of two wires is open-drain', () => {
    expect(lineKindFor('I2C', 'SCL', false).defaults).toEqual({ outputType: 'open-drain' });
  });
});

test('an empty recipe knows no registers, and says so', () => {
  const recipe = emptyRecipe(['A', 'B']);
  expect(hasRecipe(recipe)).toBe(false);
  expect(Object.keys(recipe.ports)).toEqual(['A', 'B']);
  for (const folder of FAMILIES) expect(hasRecipe(family(folder).description.recipe)).toBe(true);
});

describe('words that are like each other', () => {
  test.each([
    ['TX', 'TX', 0],
    ['UATR', 'UART', 1],
    ['TZ', 'TX', 1],
    ['', 'abc', 3],
    ['sck', 'SCK', 0],
    ['VDDA', 'VDA', 1],
  ])('%j and %j are %i steps apart', (a, b, steps) => {
    expect(distance(a, b)).toBe(steps);
    expect(distance(b, a)).toBe(steps);
  });
  test('the closest come first; words that differ in a number only are others', () => {
    expect(closest('SKC', ['SCK', 'SDO', 'SDI', 'CS'], 2)[0]).toBe('SCK');
    expect(closest('UART9', ['UART1', 'UART2'], 3)).toEqual([]);
    expect(closest('something else', ['SCK'], 3)).toEqual([]);
    expect([sameButNumbers('B7', 'B12'), sameButNumbers('B7', 'C7')]).toEqual([true, false]);
  });
});

describe('what divides the cells', () => {
  test.each([
    ['a,b\nc,d', ','],
    ['a\tb, c\nd\te', '\t'],
    ['"a;b",c\n"d;e",f', ','],
    ['a;b\nc;d', ';'],
    ['a | b\nc | d', '|'],
    ['A0   I/O   1\nA1   I/O   2', 'positions'],
    ['one\ntwo', ','],
  ])('of %j', (text, divider) => {
    expect(layoutOf(text).divider).toBe(divider);
  });
});

describe('roles of columns', () => {
  test.each(['pinout', 'functions'] as const)('of a %s each have a title of their own', (kind) => {
    const titles = rolesFor(kind).map((one) => one.title);
    expect(new Set(titles).size).toBe(titles.length);
    for (const { role, named } of rolesFor(kind))
      expect([role, role.includes(':'), named === '']).toEqual([role, false, false]);
  });
  test.each([
    ['pin:q100', ['pin', 'q100']],
    ['mux:7', ['mux', '7']],
    ['pad', ['pad', '']],
    ['number:a:b', ['number', 'a:b']],
  ])('%s', (role, parts) => {
    expect(splitRole(role)).toEqual(parts);
  });
});

describe('a long table', () => {
  const pinout = expectOk(
    readText('p', 'pad,kind,port,bit,d4\nA0,io,A,0,1\nA1,io,A,1,2\nVDD,supply,,,3\nVSS,ground,,,4'),
  );
  const pads = readPinout(pinout, guessMapping('pinout', pinout, { packages: ['d4'], unknown: 'number' }), {
    fromDocument: false,
  }).records;
  const read = (text: string) => {
    const grid = expectOk(readText('f', text));
    return readFunctions(grid, guessMapping('functions', grid, { unknown: 'number' }), pads);
  };
  test('a star stands for every I/O pad', () => {
    expect(read('pad,signal,mux\n*,CLK.OUT,15').records).toMatchObject([
      { pad: '*', signal: 'CLK.OUT', mux: 15 },
    ]);
  });
  test('numbers of the recipe go with the function, page with the source', () => {
    expect(read('pad,signal,mux,sel,page\nA0,UART1.TX,1,7,41').records).toMatchObject([
      { pad: 'A0', columns: { sel: 7 }, page: 41 },
    ]);
  });
  test('a number that is none, a code that is none, a page that is none', () => {
    const { problems } = read('pad,signal,mux,sel,page\nA0,UART1.TX,one,x,last');
    expect(problems.map((one) => [one.column, one.message])).toEqual(
      expect.arrayContaining([
        [3, '"x" is not a whole number'],
        [4, '"last" is no page number'],
        [2, '"one" is no mux code'],
      ]),
    );
  });
  test('the same function twice is warned of and counted once', () => {
    const { records, problems } = read('pad,signal,mux\nA0,UART1.TX,1\nA0,UART1.TX,1');
    expect(records).toHaveLength(1);
    expect(problems).toMatchObject([
      { severity: 'warning', line: 3, message: 'UART1.TX on A0 stands here twice' },
    ]);
  });
  test('rows without a pad continue the pad above', () => {
    expect(
      read('pad,signal,mux\nA0,UART1.TX,1\n,SPI1.SCK,2\nA1,UART1.RX,1').records.map((one) => one.pad),
    ).toEqual(['A0', 'A0', 'A1']);
  });
  test('what the tables say of peripherals is gathered by kind', () => {
    const { peripherals, peripheralKinds } = inferRest(
      pads,
      read('pad,signal,mux\nA0,UART1.TX,1\nA1,UART2.RX,1\nA1,ADC1.V0,-').records,
    );
    expect(peripherals.map((one) => [one.id, one.kind])).toEqual([
      ['UART1', 'UART'],
      ['UART2', 'UART'],
      ['ADC1', 'ADC'],
    ]);
    expect(Object.keys(peripheralKinds.UART?.lines ?? {})).toEqual(['TX', 'RX']);
  });
});
