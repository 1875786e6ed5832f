import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expectOk } from '@/testing/expect-ok';
import { applyEdit, type Edit } from './edits/edits';
import { parsePlan } from './file/plan-file';
import { printPlan } from './file/print-plan';
import { readEdit } from './file/read-edit';
import { migrateEdit, migratePlan } from './migrations';

const FIRST = readFileSync('src/testing/first-formats/frost-guard.plan.json', 'utf8');

/** The plan with everything in it that the first format spelled otherwise. */
const everything = () => ({
  ...JSON.parse(FIRST),
  ties: [{ id: 't', kind: 'bus', nets: ['fan-1', 'fan-2'] }],
  waivers: [
    { id: 'w', rule: 'tie-broken', nets: ['fan-1'], pads: [], reason: 'r', author: 'a', date: '2026-01-01' },
    {
      id: 'v',
      rule: 'setting-idle',
      nets: ['fan-1'],
      pads: [],
      about: 'slew',
      reason: 'r',
      author: 'a',
      date: '2026-01-01',
    },
  ],
  tables: { severity: { 'tie-broken': 'note', unproven: 'error' } },
  schematic: { file: 'b.csv', designator: 'U1', pins: [{ terminal: '27', net: 'FAN_1' }] },
});

test('a plan of the first format is read as one of today, and nothing of it is lost', () => {
  const old = everything();
  old.nets[0].settings = {
    active: 'low',
    buffer: 'open-drain',
    slew: 'fast',
    threshold: 'Schmitt',
    pull: 'up',
  };
  old.nets[0].demands = { before: 'high', load: { kind: 'lamp', volts: 3.3, dropVolts: 2, ohms: 680 } };
  const plan = expectOk(parsePlan('old.plan.json', JSON.stringify(old)));
  expect(plan.format).toBe('mavrek-plan/2');
  expect(plan.nets[0]).toMatchObject({
    placement: { pad: 'B7', locked: true },
    settings: { active: 'low', outputType: 'open-drain', speed: 'fast', inputBuffer: 'Schmitt', pull: 'up' },
    demands: { beforeInit: 'high', load: { kind: 'led', volts: 3.3 } },
  });
  expect(plan.constraints).toEqual([{ id: 't', kind: 'bus', nets: ['fan-1', 'fan-2'] }]);
  expect(plan.waivers?.map(({ rule, about }) => [rule, about])).toEqual([
    ['constraint-broken', undefined],
    ['setting-idle', 'speed'],
  ]);
  expect(plan.tables?.severity).toEqual({ 'constraint-broken': 'note', unproven: 'error' });
  expect(plan.schematic?.pins).toEqual([{ pin: '27', net: 'FAN_1' }]);
  expect(expectOk(parsePlan('again.plan.json', printPlan(plan)))).toEqual(plan);
});

test('a plan of today stays as it is', () => {
  const plan = expectOk(parsePlan('old.plan.json', FIRST));
  expect(migratePlan(plan)).toBe(plan);
});

test('what says one thing in both spellings is refused, not chosen from', () => {
  const old = JSON.parse(FIRST);
  old.nets[0].placement = { pad: 'B7', held: true, locked: false };
  const read = parsePlan('x', JSON.stringify(old));
  expect(read.ok ? '' : read.problems.map((one) => one.message).join()).toMatch(/unknown key "held"/);
});

const net = (held: object, locked: object): [unknown, unknown] => [
  {
    id: 'n',
    name: 'N',
    circuit: 'c',
    role: { kind: 'output' },
    settings: { slew: 'fast' },
    placement: { pad: 'B7', ...held },
  },
  {
    id: 'n',
    name: 'N',
    circuit: 'c',
    role: { kind: 'output' },
    settings: { speed: 'fast' },
    placement: { pad: 'B7', ...locked },
  },
];
const [oldNet, newNet] = net({ held: true }, { locked: true });
const nothing = { from: null, to: null };

test.each<[string, object, object]>([
  [
    'a constraint',
    { kind: 'tie.add', tie: { id: 't', kind: 'bus', nets: ['a', 'b'] }, at: 0 },
    { kind: 'constraint.add', constraint: { id: 't', kind: 'bus', nets: ['a', 'b'] }, at: 0 },
  ],
  [
    'one taken away',
    { kind: 'tie.remove', tie: { id: 't', kind: 'bus', nets: ['a', 'b'] }, at: 0 },
    { kind: 'constraint.remove', constraint: { id: 't', kind: 'bus', nets: ['a', 'b'] }, at: 0 },
  ],
  ['a net', { kind: 'net.add', net: oldNet, at: 0 }, { kind: 'net.add', net: newNet, at: 0 }],
  [
    'a placement',
    { kind: 'net.set', id: 'n', field: 'placement', from: null, to: { pad: 'A1', held: false } },
    { kind: 'net.set', id: 'n', field: 'placement', from: null, to: { pad: 'A1', locked: false } },
  ],
  [
    'demands',
    { kind: 'net.set', id: 'n', field: 'demands', from: {}, to: { before: 'low' } },
    { kind: 'net.set', id: 'n', field: 'demands', from: {}, to: { beforeInit: 'low' } },
  ],
  [
    'a name that is such a word',
    { kind: 'net.set', id: 'n', field: 'name', from: 'held', to: 'buffer' },
    { kind: 'net.set', id: 'n', field: 'name', from: 'held', to: 'buffer' },
  ],
  [
    'a setting',
    { kind: 'net.setting', id: 'n', key: 'buffer', from: null, to: 'open-drain' },
    { kind: 'net.setting', id: 'n', key: 'outputType', from: null, to: 'open-drain' },
  ],
  [
    'a severity',
    { kind: 'table.set', table: 'severity', key: 'tie-broken', from: null, to: 'note' },
    { kind: 'table.set', table: 'severity', key: 'constraint-broken', from: null, to: 'note' },
  ],
  [
    'a label of such a name',
    { kind: 'table.set', table: 'label', key: 'tie-broken', ...nothing },
    { kind: 'table.set', table: 'label', key: 'tie-broken', ...nothing },
  ],
  [
    'a netlist',
    {
      kind: 'schematic.set',
      from: null,
      to: { file: 'f', designator: 'U1', pins: [{ terminal: '1', net: 'a' }] },
    },
    {
      kind: 'schematic.set',
      from: null,
      to: { file: 'f', designator: 'U1', pins: [{ pin: '1', net: 'a' }] },
    },
  ],
])('an edit of the first format: %s', (_name, old, now) => {
  expect(migrateEdit(old, 1)).toEqual(now);
  expect(migrateEdit({ kind: 'batch', label: 'l', edits: [old] }, 1)).toEqual({
    kind: 'batch',
    label: 'l',
    edits: [now],
  });
  expect(migrateEdit(now, 2)).toBe(now);
  expect(readEdit(migrateEdit(old, 1))).toMatchObject({ ok: true });
});

test('a log of the first format gives the plan that the plan of the first format gives', () => {
  const old = JSON.parse(FIRST);
  const edits = [
    ...old.circuits.map((circuit: object, at: number) => ({ kind: 'circuit.add', circuit, at })),
    ...old.nets.map((one: object, at: number) => ({ kind: 'net.add', net: one, at })),
  ];
  const start = expectOk(
    parsePlan('x', JSON.stringify({ ...old, circuits: [], nets: [], ties: undefined, waivers: undefined })),
  );
  const end = edits.reduce((plan, edit) => expectOk(applyEdit(plan, migrateEdit(edit, 1) as Edit)), start);
  const whole = expectOk(parsePlan('x', FIRST));
  expect({ circuits: end.circuits, nets: end.nets }).toEqual({ circuits: whole.circuits, nets: whole.nets });
});

test('whatever JSON there is, bringing it to the newest format throws nothing', () => {
  const words = fc.constantFrom(
    'nets',
    'ties',
    'placement',
    'held',
    'settings',
    'kind',
    'edits',
    'format',
    '__proto__',
  );
  const { tree } = fc.letrec((tie) => ({
    tree: fc.oneof(
      { depthSize: 'small' },
      fc.constantFrom('mavrek-plan/1', 'batch', 'tie.add', 'net.set', 7, null),
      fc.array(tie('tree'), { maxLength: 3 }),
      fc.dictionary(words, tie('tree'), { maxKeys: 4 }),
    ),
  }));
  fc.assert(
    fc.property(tree, (value) => {
      migratePlan(
        typeof value === 'object' && value !== null ? { ...value, format: 'mavrek-plan/1' } : value,
      );
      migrateEdit(value, 1);
    }),
    { numRuns: 2000, seed: 11 },
  );
});
