import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan } from '@/testing/families';
import { corvane, deriveOn, frostGuard, planOf } from '@/testing/frost-guard';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { openRole } from '../../derive/candidates/groups';
import { POLICY_TITLES } from '../../derive/resolve/unused';
import { placePlan } from '../../place/place';
import { applyEdit, invertEdit } from '../edits/edits';
import { addNets, copyCircuit, setEntry } from '../edits/make-edits';
import { emptyPlan, type Plan, roleText } from '../model/types';
import { templatesFor } from '../templates';
import { parseTypedNets, type TypedNets } from './typed-nets';

const ids = () => {
  let next = 0;
  return () => `id${++next}`;
};
const blank = emptyPlan('Blank', 'corvane-c40-80', 'q100', '');
type Typed = TypedNets & { problems: string[] };
const typed = (text: string, plan: Plan = blank, device = corvane(), joins?: string): Typed => {
  const read = parseTypedNets(text, plan, device.description, joins, ids());
  return { ...read, problems: read.marks.map((one) => one.message) };
};
const short = (text: string): string[] =>
  typed(text).nets.map((net) => {
    const extra = { ...net.settings, ...net.demands };
    return `${net.name}: ${roleText(net.role)}${Object.keys(extra).length > 0 ? ` ${JSON.stringify(extra)}` : ''}${net.placement ? ` on ${net.placement.pad}` : ''}`;
  });

describe('what is typed', () => {
  test.each([
    [
      'fans: fan_1 fan_2 out low 4mA',
      ['FAN_1: output {"active":"low","milliamps":4}', 'FAN_2: output {"active":"low","milliamps":4}'],
    ],
    [
      'radio: busy irq up driven 5V',
      ['RADIO_BUSY: interrupt input {"pull":"up","farPull":"driven","farVolts":5}'],
    ],
    ['radio: ready in rising up', ['RADIO_READY: input {"trigger":"rising","pull":"up"}']],
    ['radio: ready falling', ['RADIO_READY: interrupt input {"trigger":"falling"}']],
    ['link: uart tx 115.2kHz', ['LINK_TX: any UART · TX {"rateHertz":115200}']],
    ['bridge: pace q* 20kHz', ['BRIDGE_Q: any PACE · any Q {"rateHertz":20000}']],
    [
      'bus: i2c sda scl pulled-up',
      ['BUS_SDA: any I2C · SDA {"farPull":"up"}', 'BUS_SCL: any I2C · SCL {"farPull":"up"}'],
    ],
    [
      'x: aux io, wire line, level aout',
      ['X_AUX: input and output', 'X_WIRE: open-drain line', 'X_LEVEL: analog output'],
    ],
    ['x: lamp out @b7', ['X_LAMP: output on B7']],
  ])('%s', (text, expected) => {
    expect(short(text)).toEqual(expected);
    expect(typed(text).problems).toEqual([]);
  });
  test.each([
    ['disp: d0..3 out', ['DISP_D0', 'DISP_D1', 'DISP_D2', 'DISP_D3']],
    ['disp: d3..1 out', ['DISP_D3', 'DISP_D2', 'DISP_D1']],
    ['keys: in_08..11 in up', ['KEYS_IN_08', 'KEYS_IN_09', 'KEYS_IN_10', 'KEYS_IN_11']],
    ['lamps: LAMP1..2 out, spare out', ['LAMP1', 'LAMP2', 'LAMPS_SPARE']],
    ['flash: qsp cs clk d0..3', ['CS', 'CLK', 'D0', 'D1', 'D2', 'D3'].map((line) => `FLASH_${line}`)],
    ['one: d4..4 out', ['ONE_D4']],
    ['odd: d..3 out', ['ODD_D..3']],
  ])('%s stands for names', (text, expected) => {
    const { nets, problems } = typed(text);
    expect(nets.map((net) => net.name)).toEqual(expected);
    expect(problems).toEqual([]);
  });
  test('what nets demand of each other is typed after them', () => {
    const { nets, constraints, problems } = typed(
      'disp: d0..7 out bus · wr rd out apart · bus out · pace q1 q1b pair',
    );
    expect(problems).toEqual([]);
    const names = (ids: readonly string[]) => ids.map((id) => nets.find((net) => net.id === id)?.name);
    expect(constraints.map((constraint) => [constraint.kind, names(constraint.nets).join(' ')])).toEqual([
      ['bus', 'DISP_D0 DISP_D1 DISP_D2 DISP_D3 DISP_D4 DISP_D5 DISP_D6 DISP_D7'],
      ['apart', 'DISP_WR DISP_RD'],
      ['pair', 'DISP_Q1 DISP_Q1B'],
    ]);
    expect(nets.at(-3)?.name).toBe('DISP_BUS');
  });
  test('nets and what they demand of each other are one edit, and undone as one', () => {
    const { circuits, nets, constraints } = typed('disp: d0..7 out bus');
    const edit = addNets(blank, circuits, nets, constraints);
    const plan = expectOk(applyEdit(blank, edit));
    expect(plan.constraints).toEqual(constraints);
    expect(placePlan(corvane(), corvane().packages.get('q100') as never, plan).status).toBe('optimal');
    expect(expectOk(applyEdit(plan, invertEdit(edit))).constraints ?? []).toEqual([]);
  });
  test('a pad in a typed line is locked', () => {
    expect(typed('x: lamp out @B7').nets[0]?.placement).toEqual({ pad: 'B7', locked: true });
  });
  test.each([
    ['x: lamp out @Q99', /there is no pad Q99/],
    ['x: a b out @B7', /@B7 is for one net/],
    ['uart tx rx zz', /UART has no line zz/],
    ['x: a0..99 out', /a0\.\.99 would be 100 nets; 64 at once are allowed/],
    ['x: a out bus', /bus is for several nets, not for 1/],
    ['x: a b c out pair', /pair is for two nets, not for 3/],
  ])('%s: says what it did not understand', (text, message) => {
    expect(typed(text).problems.join('; ')).toMatch(message);
  });
});

describe('what is not understood is marked where it stands, with what was probably meant', () => {
  const markOf = (text: string, device = corvane()) => {
    const { marks } = typed(text, blank, device);
    const [first] = marks;
    if (!first) throw new Error(`${text}: nothing is marked`);
    return { word: text.slice(first.from, first.to), ...first };
  };
  test.each([
    ['lamp out lwo', 'lwo', 'low'],
    ['x: lamp out flling', 'flling', 'falling'],
    ['lamp lwo out', 'lwo', 'low'],
    ['k out 8kA', '8kA', '8mA'],
    ['a out 5 parsecs', '5', '5mA'],
    ['uart9 tx', 'uart9', 'uart1'],
    ['x: lamp out @B77', '@B77', '@B7'],
    ['uart tc', 'tc', 'tx'],
    ['flash: qsp', 'qsp', 'qsp cs clk d0 d1 d2 d3'],
    ['urat tx rx', 'urat tx rx', 'uart tx rx'],
  ])('%s', (text, word, suggestion) => {
    const mark = markOf(text);
    expect(mark.word).toBe(word);
    expect(mark.suggestions.map((one) => one.text)).toContain(suggestion);
    // Taking the suggestion leaves one mark fewer at that place.
    const mended = `${text.slice(0, mark.from)}${suggestion}${text.slice(mark.to)}`;
    expect(typed(mended).marks.length).toBeLessThan(typed(text).marks.length || 1);
  });
  test.each([
    ['@A1 @A2', /name a net before @A1|there is no pad|has one pad/],
    ['lamp out @B7 @B8', /2 pads are given; a net has one pad/],
    ['lamp in out', /"out" contradicts "in"/],
    ['key in up down', /"down" contradicts "up"/],
    ['lamp out 4mA 8mA', /"8mA" contradicts "4mA"/],
    ['in up', /is in the name of the net, or is a name missing before it/],
    ['x: uart tx rx out', /the lines of uart have their direction already/],
    ['door up low', /door: say in, out, io, irq or analog/],
  ])('%s', (text, message) => {
    expect(markOf(text).message).toMatch(message);
  });
  test('nothing of an item with a mark is added', () => {
    expect(typed('lamps: a out · lamp out lwo').nets.map((net) => net.name)).toEqual(['LAMPS_A']);
  });
  test('a quoted word stays a name, whatever it says', () => {
    expect(short('"lwo" lamp out')).toEqual(['LWO: output', 'LAMP: output']);
    expect(short('lamp "lwo" out low')).toEqual([
      'LAMP: output {"active":"low"}',
      'LWO: output {"active":"low"}',
    ]);
    expect(short('"in" in · "uart9" out · "two words" in')).toEqual([
      'IN: input',
      'UART9: output',
      'TWO WORDS: input',
    ]);
  });
  test('both edges are said, or refused by a part that cannot tell them', () => {
    const brask = family('brask-b14');
    const onBrask = (text: string) => typed(text, blank, brask);
    expect(onBrask('ready irq up falling rising').nets[0]?.settings).toEqual({ pull: 'up', trigger: 'both' });
    expect(onBrask('ready irq rising rising').nets[0]?.settings).toEqual({ trigger: 'rising' });
    const pellin = family('pellin-p8');
    expect(markOf('ready irq up falling rising', pellin).message).toMatch(
      /cannot be told falling; it has change/,
    );
    expect(typed('ready irq change', blank, pellin).nets[0]?.settings).toEqual({ trigger: 'change' });
  });
  test('names of what every object has are names, and mean nothing', () => {
    expect(short('constructor toString __proto__ out')).toEqual([
      'CONSTRUCTOR: output',
      'toString: output',
      '__PROTO__: output',
    ]);
    expect(markOf('lamp out constructor').message).toMatch(/means nothing/);
    expect(markOf('x out @constructor').message).toMatch(/there is no pad constructor/);
  });
});

describe('the circuit of what is typed without one', () => {
  const plan = planOf([{ name: 'LAMP_A', role: { kind: 'output' } }], {
    circuits: [{ id: 'board', name: 'Lamps' }],
  });
  test('it stands in one for such nets, not in the last of the plan', () => {
    const { nets, circuits } = typed('door in up low', plan);
    expect(circuits.map((one) => one.name)).toEqual(['Board']);
    expect(nets.map((net) => net.circuit)).toEqual([circuits[0]?.id]);
  });
  test('it joins the circuit that it is told to', () => {
    expect(typed('door in up low', plan, corvane(), 'board').nets.map((net) => net.circuit)).toEqual([
      'board',
    ]);
  });
  test('the circuit of one line is not that of the next', () => {
    const { nets, circuits } = typed('lamps: a out\ndoor in up', blank);
    const nameOf = (id: string | undefined) => circuits.find((one) => one.id === id)?.name;
    expect(nets.map((net) => nameOf(net.circuit))).toEqual(['Lamps', 'Board']);
  });
});

describe('rows from a spreadsheet', () => {
  test('with headings in any order', () => {
    const { nets, circuits, problems } = typed(
      'Pad\tNet name\tComment\tFunction\tGroup\nB7\tFAN 1\tcontactor\tout low\tFans\nd4\tMAST_TX\t\tUART1_TX\tMast\n\tMAST_RX\t\tuart rx\tMast\n',
    );
    expect(problems).toEqual([]);
    expect(circuits.map((one) => one.name)).toEqual(['Fans', 'Mast']);
    expect(
      nets.map(({ name, role, placement, note }) => [name, roleText(role), placement?.pad, note]),
    ).toEqual([
      ['FAN_1', 'output', 'B7', 'contactor'],
      ['MAST_TX', 'UART1.TX', 'D4', undefined],
      ['MAST_RX', 'any UART · RX', undefined, undefined],
    ]);
  });
  test('without headings: net, what it is, pad', () => {
    expect(typed('LAMP\tout\tB7\nKEY\tin up').nets.map((net) => [net.name, net.placement?.pad])).toEqual([
      ['LAMP', 'B7'],
      ['KEY', undefined],
    ]);
  });
  test('a row may stand for several nets; a pad is for one', () => {
    const { nets, problems } = typed('net\tis\tpad\tnote\nD0..3\tout\tB7\tto the display');
    expect(nets.map(({ name, note, placement }) => [name, note, placement])).toEqual(
      ['D0', 'D1', 'D2', 'D3'].map((name) => [name, 'to the display', null]),
    );
    expect(problems).toEqual(['D0..3: the pad B7 is for one net, not for 4']);
  });
  test('a pad that is not there is told', () => {
    const { problems } = typed('LAMP\tout\tX1');
    expect(problems).toEqual(['LAMP: there is no pad X1']);
  });
});

test.each(FAMILIES)('usual circuits of %s are understood and can be placed', (folder) => {
  const device = family(folder);
  const largest = [...device.packages.values()].sort(
    (a, b) => Object.keys(b.pins).length - Object.keys(a.pins).length,
  )[0];
  if (!largest) throw new Error(folder);
  const templates = templatesFor(device.description);
  expect(templates.length).toBeGreaterThanOrEqual(5);
  for (const { text } of templates) {
    const plan = emptyPlan('T', device.description.id, largest.id, device.fingerprint);
    const { nets, circuits, marks } = parseTypedNets(text, plan, device.description, undefined, ids());
    expect([text, marks]).toEqual([text, []]);
    const filled = expectOk(applyEdit(plan, addNets(plan, circuits, nets)));
    expect([text, placePlan(device, largest, filled).status]).toEqual([text, 'optimal']);
  }
});

test('a circuit is copied: new names, no pads, instances open, constraints within it; undo takes it back', () => {
  const plan = frostGuard();
  const valves = plan.circuits.find((one) => one.id === 'valves');
  if (!valves) throw new Error('no valves');
  const edit = copyCircuit(plan, valves, ids(), (role) => openRole(corvane(), role));
  const after = expectOk(applyEdit(plan, edit));
  const copies = after.nets.slice(plan.nets.length);
  expect(copies.map((net) => [net.name, roleText(net.role), net.placement])).toEqual([
    ['VALVE2_A_OPEN', 'any PACE · Q1', null],
    ['VALVE2_A_SHUT', 'any PACE · Q2', null],
    ['VALVE2_B_OPEN', 'any PACE · Q3', null],
    ['VALVE2_B_SHUT', 'any PACE · Q4', null],
    ['VALVE2_SENSE', 'analog input', null],
  ]);
  expect(after.constraints).toHaveLength(2);
  expect(after.constraints?.[1]?.nets).toEqual(copies.slice(0, 4).map((net) => net.id));
  expect(expectOk(applyEdit(after, invertEdit(edit)))).toEqual(plan);
});

test.each(FAMILIES)('unused pads of %s are what the policy says, and proven', (folder) => {
  const device = family(folder);
  for (const policy of Object.keys(POLICY_TITLES).filter((one) => one !== 'reset')) {
    const plan = familyPlan(device);
    const with_ = expectOk(applyEdit(plan, setEntry(plan, 'unused', '*', policy)));
    const before = deriveOn(plan, device);
    const { proof, findings, planned } = deriveOn(with_, device);
    expect([policy, proof.pins > before.proof.pins]).toEqual([policy, true]);
    expect([policy, proof.proven]).toEqual([policy, proof.pins]);
    const mode = policy === 'analog' ? 'analog' : policy === 'output-low' ? 'output' : 'input';
    const added = planned.filter((one) => !before.planned.some((other) => other.pad.id === one.pad.id));
    expect(new Set(added.map((one) => one.settings.values.mode))).toEqual(new Set([mode]));
    expect(findings.filter((one) => one.severity === 'error')).toEqual([]);
  }
});

test('nothing typed is lost between circuits of one name', () => {
  const plan = planOf([{ name: 'A', role: { kind: 'input' } }]);
  expect(typed('board: b out', plan).nets[0]?.circuit).toBe('board');
});

describe('as people write it', () => {
  const demandsOf = (text: string) => typed(text).nets.map(({ demands }) => demands);
  test.each([
    ['link: uart tx 115200', { rateHertz: 115_200 }],
    ['link: uart tx 115200 baud', { rateHertz: 115_200 }],
    ['link: uart tx 115200baud', { rateHertz: 115_200 }],
    ['link: uart tx 115.2k', { rateHertz: 115_200 }],
    ['link: uart tx 115.2 kHz', { rateHertz: 115_200 }],
    ['link: uart tx 115.2 kbaud', { rateHertz: 115_200 }],
    ['link: uart tx 1M', { rateHertz: 1_000_000 }],
    ['link: uart tx 9600 8E1', { rateHertz: 9600, format: '8E1' }],
    ['link: uart tx 8E1 9600 bps', { rateHertz: 9600, format: '8E1' }],
    ['lamp out 8 mA', { milliamps: 8 }],
    ['busy in 5 V', { farVolts: 5 }],
  ])('%s', (text, demands) => {
    expect([typed(text).problems, demandsOf(text)]).toEqual([[], [demands]]);
  });

  const placesOf = (text: string) =>
    typed(text).nets.map(({ name, placement }) => `${name} ${placement?.pad ?? '-'}`);
  test.each([
    ['link: uart tx rx @D5 @D4', ['LINK_TX D5', 'LINK_RX D4']],
    ['d0..3 out @B4', ['D0 B4', 'D1 B5', 'D2 B6', 'D3 B7']],
    ['d0..3 out @B4..7', ['D0 B4', 'D1 B5', 'D2 B6', 'D3 B7']],
    ['d0..1 out @B9..8', ['D0 B9', 'D1 B8']],
    ['a b out bus @B4', ['A B4', 'B B5']],
  ])('%s', (text, places) => {
    expect([typed(text).problems, placesOf(text)]).toEqual([[], places]);
  });
  test.each([
    ['a b out @B4', /@B4 is for one net, and there are 2 nets: name a pad for each/],
    ['a b c out @B4 @B5', /2 pads are given, and there are 3 nets/],
    ['a b out @B4 @B4', /@B4 is given twice/],
    ['d0..7 out @B12', /port B has no bit 1\d/],
    [`${'n'.repeat(121)} out`, /is longer than 120 characters/],
    [`${'c'.repeat(121)}: a out`, /is longer than 120 characters/],
    [`${'c'.repeat(100)}: ${'n'.repeat(30)} out`, /is longer than 120 characters/],
    [`${'n'.repeat(121)}\tin`, /is longer than 120 characters/],
    ['a: b: c out', /name the nets of a/],
  ])('%s is marked', (text, message) => {
    expect(typed(text).problems.join('; ')).toMatch(message);
  });

  test.each(['a: x out, b: y out', 'a: x out · b: y out', 'a: x out; b:y out'])(
    '%s is two circuits',
    (text) => {
      const { nets, circuits, problems } = typed(text);
      expect([problems, circuits.map(({ name }) => name), nets.map(({ name }) => name)]).toEqual([
        [],
        ['A', 'B'],
        ['A_X', 'B_Y'],
      ]);
    },
  );
  test('a circuit of several words after a comma', () => {
    expect(typed('a: x out, mast link: y out').circuits.map(({ name }) => name)).toEqual(['A', 'Mast link']);
  });

  test('a mark begins before it ends, in whatever order the columns of a row are', () => {
    for (const text of ['is\tnet\nzz qq\tlamp', 'pad\tis\tnet\nB4\tuart zz\tlamp', 'is\tnet\nout lwo\tA'])
      for (const { from, to } of typed(text).marks) expect(to).toBeGreaterThan(from);
  });
  test('whatever is typed, marks are within the text and no name is cut', () => {
    const random = randomFrom(7);
    const words = [
      'uart',
      'tx',
      'rx',
      '115200',
      'baud',
      '@B4',
      '@B4..7',
      'd0..7',
      ':',
      ',',
      '·',
      'out',
      'in',
      '"x y"',
      '8E1',
      'k'.repeat(119),
      '\t',
      '\n',
    ];
    for (let run = 0; run < fuzzBudget(2000); run++) {
      const text = Array.from({ length: random.int(12) }, () => random.pick(words)).join(
        random.pick([' ', '']),
      );
      const { marks, nets } = typed(text);
      for (const { from, to } of marks)
        expect([text, from >= 0 && from <= to && to <= text.length]).toEqual([text, true]);
      for (const { name } of nets) expect(name.length).toBeLessThanOrEqual(120);
    }
  });
});

describe('lines that are typed as one', () => {
  const kinds = (text: string) => typed(text).constraints.map(({ kind, nets }) => `${kind} ${nets.length}`);
  test.each([
    ['motor: pace q1 q1b', ['same-instance 2']],
    ['motor: pace q1 q1b q2 q2b', ['same-instance 4']],
    ['motor: pace q* q*b', ['pair 2']],
    ['motor: pace q1, pace q2', []],
    ['motor: pace q1', []],
    ['motor: pace3 q1 q1b', []],
    ['motor: pace q1 q2 apart', ['apart 2']],
    ['link: uart tx rx', []],
  ])('%s', (text, wanted) => {
    expect([typed(text).problems, kinds(text)]).toEqual([[], wanted]);
  });

  test.each(FAMILIES)('the placer keeps them on one instance, on every part: %s', (folder) => {
    const device = family(folder);
    const { description } = device;
    for (const [kind, { lines, needs = [] }] of Object.entries(description.peripheralKinds)) {
      const wanted = Object.keys(lines)
        .filter((line) => !/\*/.test(line))
        .slice(0, 3);
      if (needs.length > 0 || 'TX' in lines || wanted.length < 2) continue;
      const empty = emptyPlan('P', description.id, description.packages[0]?.id ?? '', device.fingerprint);
      const read = typed(`m: ${kind.toLowerCase()} ${wanted.join(' ').toLowerCase()}`, empty, device);
      if (read.problems.length > 0) continue;
      const plan = expectOk(applyEdit(empty, addNets(empty, read.circuits, read.nets, read.constraints)));
      const placing = placePlan(device, description.packages[0] as never, plan);
      if (placing.status === 'infeasible') continue;
      const instances = placing.moves.map(({ to }) => to.signal?.split('.')[0]);
      expect([kind, new Set(instances).size]).toEqual([kind, 1]);
    }
  });
});
