import { SaxesParser } from 'saxes';
import { family, familyPlan } from '@/testing/families';
import { corvane, deriveOn, expectOk, frostGuard, on, planOf, withNets } from '@/testing/frost-guard';
import { likelyParts, readNetlist } from '../../import/netlist/read-netlist';
import { packageSvg } from '../../output/board/package-svg';
import { scheduleCsv, scheduleMarkdown, scheduleRows } from '../../output/board/schedule';
import { applyEdit } from '../../plan/edits/edits';
import type { Plan } from '../../plan/model/types';
import { crossCheck, sameNetName } from './cross-check';

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
    const { parts } = expectOk(readNetlist('board.ipc', test356));
    expect(parts.get('U1')).toEqual([
      { pin: '27', net: 'FAN_1' },
      { pin: '28', net: 'VERY_LONG_NAME_OF_A_NET' },
      { pin: '29', net: 'N/C' },
    ]);
    expect([...parts.keys()]).toEqual(['U1', 'R12']);
  });
  test.each([
    ['comma, with headings', 'Net,Designator,Pin\nFAN_1,U1,27\nGND,U1,2\n'],
    ['any order of columns', 'pin;ref;signal name\n27;U1;FAN_1\n2;U1;GND\n'],
    ['no headings', 'FAN_1,U1,27\nGND,U1,2\n'],
    ['part and pin in one', 'net,pin\nFAN_1,U1-27\nGND,U1-2\n'],
    ['tabs, Windows line ends', '\uFEFFnet\tpart\tpin\r\nFAN_1\tU1\t27\r\nGND\tU1\t2\r\n'],
  ])('a table: %s', (_, text) => {
    expect(expectOk(readNetlist('board.csv', text)).parts.get('U1')).toEqual([
      { pin: '27', net: 'FAN_1' },
      { pin: '2', net: 'GND' },
    ]);
  });
  test.each([
    ['a row without a pin', 'net,part,pin\nFAN_1,U1,27\nGND,U1,\n', /^b\.csv:3:1/],
    ['nothing', '', /the table is empty/],
    ['only headings', 'net,part,pin\n', /names no pin/],
    ['a record cut short', '327FAN_1            U1', /^b\.csv:1:21/],
  ])('%s is refused with its place', (_, text, message) => {
    const result = readNetlist('b.csv', text);
    expect(result.ok).toBe(false);
    if (!result.ok) expect(`${result.problems[0]?.place}: ${result.problems[0]?.message}`).toMatch(message);
  });
  test('the part that is meant is the one whose pins the package has', () => {
    const rows = Object.keys(corvane().packages.get('q100')?.pins ?? {}).map((pin) => `N${pin},U7,${pin}`);
    const netlist = expectOk(readNetlist('x', ['A,R1,1', 'B,R1,2', ...rows, 'X,J1,101'].join('\n')));
    const pkg = corvane().packages.get('q100');
    if (!pkg) throw new Error('no package');
    expect(likelyParts(netlist, pkg)[0]).toEqual({ designator: 'U7', known: 100, strange: 0 });
  });
});

describe('cross-check', () => {
  const pinOf = (pad: string): string => corvane().pinsOf.get('q100')?.get(pad)?.[0] ?? '';
  const drawn = (plan: Plan, change: Record<string, string> = {}): Plan => ({
    ...plan,
    schematic: {
      file: 'board.ipc',
      designator: 'U1',
      pins: deriveOn(plan).resolved.map(({ net, pad }) => ({
        pin: pinOf(pad?.id ?? ''),
        net: change[net.name] ?? net.name,
      })),
    },
  });
  test('names differ in case, path and separators only', () => {
    expect(sameNetName('/mast/tx-en', 'TX_EN')).toBe(true);
    expect(sameNetName('TX1', 'TX_1')).toBe(false);
  });
  test('a schematic drawn from the plan agrees with it', () => {
    const plan = drawn(frostGuard());
    expect(crossCheck(deriveOn(plan))).toEqual([]);
    expect(deriveOn(plan).findings).toEqual([]);
  });
  test('two nets swapped: following the netlist swaps them back, both at once', () => {
    const before = frostGuard();
    const swapped = {
      ...withNets(before, { FAN_3: { placement: on('E14') }, FAN_4: { placement: on('E13') } }),
    };
    const plan = { ...swapped, schematic: drawn(before).schematic ?? null };
    const differences = crossCheck(deriveOn(plan));
    expect(differences.map((one) => [one.netlistNet, one.planned?.name])).toEqual([
      ['FAN_3', 'FAN_4'],
      ['FAN_4', 'FAN_3'],
    ]);
    const [step] = differences[0]?.followNetlist ?? [];
    const after = expectOk(applyEdit(plan, step?.edit as never));
    expect(crossCheck(deriveOn(after))).toEqual([]);
    expect(deriveOn(after).findings).toEqual([]);
  });
  test('the other way, the schematic is marked to change', () => {
    const plan = drawn(frostGuard(), { FAN_3: 'HEATER' });
    const [difference] = crossCheck(deriveOn(plan));
    const [step] = difference?.followPlan ?? [];
    expect(step?.label).toBe(`the schematic is to change: U1-${pinOf('E13')} is FAN_3`);
    expect(crossCheck(deriveOn(expectOk(applyEdit(plan, step?.edit as never))))).toEqual([]);
  });
});

describe('the pin schedule', () => {
  const hostile = planOf([
    { name: '=HYPERLINK("x")', role: { kind: 'output' }, placement: on('B7'), note: '<b>|`_*' },
  ]);
  test('has every pin once, in order', () => {
    const rows = scheduleRows(deriveOn(frostGuard()));
    expect(rows.map((row) => row.pin)).toEqual(Object.keys(corvane().packages.get('q100')?.pins ?? {}));
    expect(rows.find((row) => row.pad === 'B7')).toMatchObject({
      pin: '27',
      net: 'FAN_1',
      circuit: expect.any(String),
    });
    expect(rows.find((row) => row.pad === 'VDD')?.what).toBe('supply');
  });
  test('a spreadsheet runs nothing out of it, Markdown shows what was written', () => {
    expect(scheduleCsv(deriveOn(hostile))).toContain(`"'=HYPERLINK(""x"")"`);
    expect(scheduleMarkdown(deriveOn(hostile))).toContain('| &lt;b&gt;\\|\\`\\_\\* |');
  });
  test('the drawing is XML for every shape of package, whatever nets are called', () => {
    const check = (text: string): number => {
      const parser = new SaxesParser({ xmlns: true });
      let texts = 0;
      parser.on('opentag', (tag) => {
        if (tag.name === 'text') texts++;
      });
      parser.on('error', (error) => {
        throw error;
      });
      parser.write(text).close();
      return texts;
    };
    for (const folder of ['corvane-c40', 'pellin-p8', 'hadrik-h7']) {
      const device = family(folder);
      const derived = deriveOn(familyPlan(device), device);
      expect(check(packageSvg(derived))).toBeGreaterThan(Object.keys(derived.pkg.pins).length);
    }
    check(
      packageSvg(
        deriveOn(
          planOf([{ name: '</text><script>\u0000&"', role: { kind: 'output' }, placement: on('B7') }]),
        ),
      ),
    );
  });
});
