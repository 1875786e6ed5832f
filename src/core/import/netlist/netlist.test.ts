import { expectOk } from '@/testing/expect-ok';
import { corvane } from '@/testing/frost-guard';
import { likelyParts, matchPart, type Netlist } from './netlist';
import { readNetlist } from './read-netlist';

/** Part → its pins as `number net`. */
const drawn = ({ parts }: Netlist): Record<string, string[]> =>
  Object.fromEntries([...parts].map(([part, pins]) => [part, pins.map(({ pin, net }) => `${pin} ${net}`)]));
const read = (text: string): Record<string, string[]> => drawn(expectOk(readNetlist('board.net', text)));
const refusal = (text: string): string => {
  const result = readNetlist('b', text);
  if (result.ok) throw new Error('it was read');
  return result.problems.map(({ place, message }) => `${place}: ${message}`).join('\n');
};
const quad100 = () => {
  const pkg = corvane().packages.get('q100');
  if (!pkg) throw new Error('no package');
  return pkg;
};

const record = (net: string, part: string, pin: string): string =>
  `327${net.padEnd(14)}   ${part.padEnd(6)}-${pin.padEnd(4)}     A01X+012345Y+006789X0500Y0500R000 S0`;

describe('netlists', () => {
  const test356 = [
    'C  a board',
    'P  UNITS CUST 0',
    'P  NNAME1  VERY_LONG_NAME_OF_A_NET',
    record('FAN_1', 'U1', '27'),
    record('NNAME1', 'U1', '28'),
    record('N/C', 'U1', '29'),
    record('FAN_1', 'R12', '1'),
    '317GND              VIA   -     M   D0300PA00X+000000Y+000000X0000Y0000R000S0',
    '999',
  ].join('\n');

  test('IPC-D-356A, with long names', () => {
    expect(read(test356)).toEqual({
      U1: ['27 FAN_1', '28 VERY_LONG_NAME_OF_A_NET', '29 N/C'],
      R12: ['1 FAN_1'],
    });
  });
  test.each([
    ['comma, with headings', 'Net,Designator,Pin\nFAN_1,U1,27\nGND,U1,2\n'],
    ['any order of columns', 'pin;ref;signal name\n27;U1;FAN_1\n2;U1;GND\n'],
    ['no headings', 'FAN_1,U1,27\nGND,U1,2\n'],
    ['part and pin in one', 'net,pin\nFAN_1,U1-27\nGND,U1-2\n'],
    ['tabs, Windows line ends', '\uFEFFnet\tpart\tpin\r\nFAN_1\tU1\t27\r\nGND\tU1\t2\r\n'],
  ])('a table: %s', (_, text) => {
    expect(read(text)).toEqual({ U1: ['27 FAN_1', '2 GND'] });
  });
  test.each([
    ['a row without a pin', 'net,part,pin\nFAN_1,U1,27\nGND,U1,\n', /^b:3:1/],
    ['nothing', '', /the table is empty/],
    ['only headings', 'net,part,pin\n', /names no pin/],
    ['a record cut short', '327FAN_1            U1', /^b:1:21/],
  ])('%s is refused with its place', (_, text, message) => {
    expect(refusal(text)).toMatch(message);
  });
});

describe('netlists as trees', () => {
  const EXPECTED = { U1: ['27 FAN_1', '2 GND'], R12: ['1 FAN_1', '2 GND'] };
  test.each([
    [
      'nets with pins in them',
      `(export (version 1) (parts (part (ref U1) (value "C40")) (part (ref "R12")))
        (libraries (part (name C40) (pins (pin (number 27) (name B7)))))
        (nets (net (code 1) (name "FAN_1") (node (ref U1) (pin "27")) (node (ref "R12") (pin 1)))
              (net (code 2) (name GND) (node (ref U1) (pin 2)) (node (ref R12) (pin 2)))))`,
    ],
    ['parts and pins in one word', '(netlist (net FAN_1 U1-27 R12-1) (net "GND" U1.2 R12.2))'],
    ['a list of pins', '(board (net (name FAN_1) (pins U1-27 R12-1)) (net (name GND) (pins U1-2 R12-2)))'],
    [
      'parts with pins in them',
      `(board (component U1 (pin 27 (net FAN_1)) (pin 2 (net "GND")))
              (component R12 (pin 1 (net FAN_1)) (pin 2 (net GND))))`,
    ],
    [
      'XML, nets with pins in them',
      `<?xml version="1.0"?><export><parts><part ref="U1"><value>C40</value></part></parts><nets>
        <net code="1" name="FAN_1"><node ref="U1" pin="27"/><node ref="R12" pin="1"/></net>
        <net code="2" name="GND"><node ref="U1" pin="2"/><node ref="R12" pin="2"/></net></nets></export>`,
    ],
    [
      'XML, all in elements',
      `<netlist><net><name>FAN_1</name><connection><component>U1</component><pin>27</pin></connection>
        <connection><component>R12</component><pin>1</pin></connection></net>
        <net><name>GND</name><connection><component>U1</component><pin>2</pin></connection>
        <connection><component>R12</component><pin>2</pin></connection></net></netlist>`,
    ],
    [
      'XML, parts with pins in them',
      `<board><part refdes="U1"><pin number="27" net="FAN_1"/><pin number="2" net="GND"/></part>
        <part refdes="R12"><pin number="1" net="FAN_1"/><pin number="2" net="GND"/></part></board>`,
    ],
  ])('%s', (_, text) => {
    expect(read(text)).toEqual(EXPECTED);
  });
  test('quotes, brackets and entities within names', () => {
    const quoted = '(net "A \\"(B)\\" \\\\" U1-1)';
    expect(read(quoted)).toEqual({ U1: ['1 A "(B)" \\'] });
    expect(read('<net name="A &lt;&#x42;&gt;"><node ref="U1" pin="1"/></net>')).toEqual({ U1: ['1 A <B>'] });
  });
  test.each([
    ['cut off', '(net FAN_1 (node (ref U1)', /^b:1:25: the file ends inside brackets/],
    ['a text without an end', '(net\n "FAN_1', /^b:2:2: a text is opened/],
    ['a bracket too many', '(net A U1-1))', /^b:1:13: a bracket is closed/],
    ['two netlists', '(net A U1-1)\n(net B U1-2)', /^b:2:1: something follows/],
    ['a pin without a part', '(net A (pin 4))', /^b:1:1: pin 4 of net A names no part/],
    ['a part without a pin', '(net A\n(node (ref U1)))', /^b:2:1: U1 on net A names no pin/],
    ['no connections', '(export (parts (part (ref U1))))', /names no pin of any part/],
    ['no XML', '<net name="A"><node</net>', /^b:1:\d+: not valid XML/],
    ['entities of its own', '<!DOCTYPE n [<!ENTITY a "b">]><n>&a;</n>', /document type declarations/],
    ['too deep', '('.repeat(500), /^b:1:61: nested deeper than 60 levels/],
  ])('%s is refused with its place', (_, text, message) => {
    expect(refusal(text)).toMatch(message);
  });
});

describe('EDIF 2 0 0', () => {
  const edif = (libraries: string, design = '(design board (cellRef top (libraryRef work)))'): string =>
    `(edif board (edifVersion 2 0 0) (edifLevel 0) (keywordMap (keywordLevel 0)) ${libraries} ${design})`;
  const cell = (name: string, ports: string, contents = ''): string =>
    `(cell ${name} (cellType GENERIC) (view net (viewType NETLIST) (interface ${ports})${contents === '' ? '' : ` (contents ${contents})`}))`;
  const part = (name: string, of: string, more = ''): string =>
    `(instance ${name} (viewRef net (cellRef ${of} (libraryRef parts))) ${more})`;
  const ref = (port: string, instance?: string): string =>
    `(portRef ${port}${instance ? ` (instanceRef ${instance})` : ''})`;
  const resistor = cell('R', '(port &1) (port &2)');

  test('renamed names, pin numbers from the port, the instance or the name; letters large or small', () => {
    const text = edif(`
      (external parts ${cell('chip', '(port (rename B7_PAD "B7") (designator "27")) (port VSS) (port &3)')} ${resistor})
      (library work ${cell(
        'top',
        '',
        `${part('(rename I1 "U1")', 'CHIP', '(portInstance VSS (designator "2"))')} ${part('X7', 'R', '(designator (stringDisplay "R12" (display a)))')}
        (net (rename n1 "FAN%45%1") (joined ${ref('b7_pad', 'i1')} ${ref('&1', 'X7')}))
        (net GND (joined ${ref('VSS', 'I1')} ${ref('&2', 'x7')}))`,
      )})`);
    expect(read(text)).toEqual({ U1: ['27 FAN-1', '2 GND'], R12: ['1 FAN-1', '2 GND'] });
    // The name is kept beside the number: either can be what a package knows.
    expect(expectOk(readNetlist('b', text)).parts.get('U1')?.[0]).toMatchObject({ pin: '27', name: 'B7' });
  });
  test('a sheet used twice: its parts are there twice, its ports join the nets around it', () => {
    const sheet = cell(
      'fan',
      '(port CTRL) (port GND)',
      `${part('R1', 'R')} (net inner (joined ${ref('CTRL')} ${ref('&1', 'R1')})) (net gnd (joined ${ref('GND')} ${ref('&2', 'R1')}))`,
    );
    const use = (name: string): string => `(instance ${name} (viewRef net (cellRef fan (libraryRef work))))`;
    expect(
      read(
        edif(
          `(library parts ${resistor}) (library work ${sheet} ${cell(
            'top',
            '',
            `${use('A')} ${use('B')} ${part('U1', 'R')}
          (net FAN_1 (joined ${ref('CTRL', 'A')} ${ref('&1', 'U1')})) (net FAN_2 (joined ${ref('CTRL', 'B')} ${ref('&2', 'U1')}))
          (net GND (joined ${ref('GND', 'A')} ${ref('GND', 'B')}))`,
          )})`,
        ),
      ),
    ).toEqual({ 'A/R1': ['1 FAN_1', '2 GND'], 'B/R1': ['1 FAN_2', '2 GND'], U1: ['1 FAN_1', '2 FAN_2'] });
  });
  test('arrays of ports and nets, pages, a view that is only drawn', () => {
    const bus = cell('bus', '(port (array (rename D "D[0:1]") 2)) (port &9)');
    expect(
      read(
        edif(
          `(library parts ${bus}) (library work (cell top (view drawing (viewType SCHEMATIC) (interface) (contents
            (page P1 ${part('U1', 'bus')} (net (array (rename Q "DATA[0:1]") 2) (joined ${ref('D', 'U1')})))
            (page P2 ${part('U2', 'bus')} (net (rename X "LAST") (joined (portRef (member D 1) (instanceRef U2)) ${ref('&9', 'U1')})))))))`,
          '',
        ),
      ),
    ).toEqual({ U1: ['D0 DATA0', 'D1 DATA1', '9 LAST'], U2: ['D1 LAST'] });
  });
  test.each([
    ['another version', '(edif b (edifVersion 3 0 0))', /EDIF 3 0 0 is not read; 2 0 0 is/],
    ['no cell with parts', edif(`(library parts ${resistor})`), /no cell with instances/],
    [
      'an instance that is not there',
      edif(
        `(library parts ${resistor}) (library work ${cell('top', '', `${part('R1', 'R')} (net A (joined ${ref('&1', 'R2')}))`)})`,
      ),
      /there is no instance r2 here/,
    ],
    [
      'cells that hold each other',
      edif(
        `(library work ${cell('a', '', '(instance I (viewRef net (cellRef b)))')} ${cell('b', '', '(instance I (viewRef net (cellRef a)))')})`,
        '(design x (cellRef a (libraryRef work)))',
      ),
      /hold each other deeper than/,
    ],
    [
      'more instances than memory holds',
      edif(
        `(library parts ${resistor}) (library work ${Array.from({ length: 9 }, (_, n) =>
          cell(
            `c${n}`,
            '',
            Array.from({ length: 10 }, (_, k) =>
              n === 8 ? part(`I${k}`, 'R') : `(instance I${k} (viewRef net (cellRef c${n + 1})))`,
            ).join(' '),
          ),
        ).join(' ')})`,
        '(design x (cellRef c0 (libraryRef work)))',
      ),
      /at most 200,000 instances/,
    ],
  ])('%s is refused', (_, text, message) => {
    expect(refusal(text)).toMatch(message);
  });
});

describe('the part that is meant', () => {
  test('the part that is meant is the one whose pins the package has', () => {
    const rows = Object.keys(corvane().packages.get('q100')?.pins ?? {}).map((pin) => `N${pin},U7,${pin}`);
    const netlist = expectOk(readNetlist('x', ['A,R1,1', 'B,R1,2', ...rows, 'X,J1,101'].join('\n')));
    const [best] = likelyParts(netlist, corvane().description, quad100());
    expect([best?.designator, best?.pins.length, best?.unknown]).toEqual(['U7', 100, []]);
  });
  const match = (rows: string[], designator = 'U1') => {
    const part = matchPart(
      expectOk(readNetlist('x', rows.join('\n'))),
      designator,
      corvane().description,
      quad100(),
    );
    if (!part) throw new Error(`no ${designator}`);
    return part;
  };
  test('pins go by number, with leading zeros too, or by the name of their pad; a name with several pins means all', () => {
    const { pins, unknown } = match(['FAN_1,U1,B7', 'FAN_2,U1,080', 'GND,U1,vss', 'X,U1,EP']);
    expect(pins.find(({ net }) => net === 'FAN_1')?.pin).toBe('27');
    expect(pins.find(({ net }) => net === 'FAN_2')?.pin).toBe('80');
    expect(pins.filter(({ net }) => net === 'GND').map(({ pin }) => quad100().pins[pin])).toEqual(
      Object.values(quad100().pins).filter((pad) => pad === 'VSS'),
    );
    expect(unknown).toEqual(['EP']);
  });
  test('a net with one pin on the whole board is told apart, where the file lists other parts', () => {
    expect(match(['A,U1,27', 'B,U1,28', 'B,R1,1']).pins).toEqual([
      { pin: '27', net: 'A', alone: true },
      { pin: '28', net: 'B' },
    ]);
    expect(match(['A,U1,27']).pins).toEqual([{ pin: '27', net: 'A' }]);
  });
  test('a pin on two nets, and names that a plan cannot hold, are said with their line', () => {
    expect(match(['A,U1,27', 'B,U1,27']).problems).toEqual(['line 2: U1-27 is on two nets, A and B']);
    expect(match([`${'N'.repeat(121)},U1,27`]).problems).toEqual([
      expect.stringMatching(/^line 1: the net "N+" is too long/),
    ]);
    expect(match(['A,U1,27', 'A,U1,27']).problems).toEqual([]);
  });
});
