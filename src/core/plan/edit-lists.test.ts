import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf, on, planOf } from '@/testing/frost-guard';
import { applyEdit, describeEdit, type Edit, invertEdit } from './edits/edits';
import {
  addAttachment,
  addConstraint,
  addTrial,
  addWaiver,
  changeAttachment,
  changeTrial,
  copyCircuit,
  forAll,
  removeConstraint,
  removeNet,
  removeNets,
  removeWaiver,
  setDemands,
  setEntry,
  setFar,
  setSetting,
} from './edits/make-edits';
import { parsePlan } from './file/plan-file';
import { printPlan } from './file/print-plan';
import type { Attachment } from './model/attachments';
import type { Constraint, Plan, Schematic, Trial, Waiver } from './model/types';
import { profileOf } from './profile';

/** Constraints, waivers, tables, the netlist, and changes of several nets at once: as edits, and in the file. */
const plan = planOf([
  { name: 'A', role: { kind: 'output' }, placement: on('B7') },
  { name: 'B', role: { kind: 'output' }, placement: on('B8') },
  { name: 'C', role: { kind: 'output' } },
]);
const constraint: Constraint = { id: 't', kind: 'bus', nets: ['n0', 'n1', 'n2'] };
const pair: Constraint = { id: 'p', kind: 'pair', nets: ['n0', 'n1'] };
const waiver: Waiver = {
  id: 'w',
  rule: 'unplaced',
  nets: ['n2'],
  pads: [],
  reason: 'later',
  author: 'mk',
  date: '2026-11-20',
};
const led: Attachment = { id: 'l', kind: 'led', nets: ['n0'], figures: { ohms: 470 } };
const trial: Trial = { id: 'x', name: 'A is lit', lines: ['{n0} on', 'expect {n0} on'] };
const schematic: Schematic = { file: 'b.csv', designator: 'U1', pins: [{ pin: '27', net: 'A' }] };
const apply = (to: Plan, edit: Edit): Plan => expectOk(applyEdit(to, edit));
const refusal = (to: Plan, edit: Edit): string => {
  const result = applyEdit(to, edit);
  return result.ok ? '' : (result.problems[0]?.message ?? '');
};

test.each([
  ['a constraint', addConstraint(plan, constraint), 'add a bus constraint on A, B, C'],
  ['a waiver', addWaiver(plan, waiver), 'waive unplaced'],
  ['a severity', setEntry(plan, 'severity', 'unplaced', 'note'), 'set severity of unplaced to note'],
  ['what unused pads become', setEntry(plan, 'unused', '*', 'analog'), 'set unused of all to analog'],
  ['a label', setEntry(plan, 'label', 'B7', 'J3-1'), 'set label of B7 to J3-1'],
  ['a netlist', { kind: 'schematic.set', from: null, to: schematic }, 'take in the netlist b.csv'],
  ['demands', setDemands(netOf(plan, 'A'), { milliamps: 4 }), 'set load of A to 4 mA'],
  ['a far end', setFar(netOf(plan, 'A'), { part: 'lamp' }), 'set part at the far end of A to lamp'],
  ['something attached', addAttachment(plan, led), 'attach a LED with its resistor to A'],
  ['a trial', addTrial(plan, trial), 'keep the trial A is lit'],
  ['several nets', forAll(plan.nets, 'drive all', (net) => setSetting(net, 'drive', '4mA')), 'drive all'],
] as [string, Edit, string][])(
  '%s: applied, in the file, taken back, and called by its name',
  (_, edit, words) => {
    const after = apply(plan, edit);
    expect(after).not.toEqual(plan);
    expect(expectOk(parsePlan('x', printPlan(after)))).toEqual(JSON.parse(JSON.stringify(after)));
    expect(apply(after, invertEdit(edit))).toEqual(plan);
    expect(describeEdit(plan, edit)).toBe(words);
  },
);

describe('what changed meanwhile is not trodden on', () => {
  test.each([
    [
      'a constraint twice',
      apply(plan, addConstraint(plan, constraint)),
      addConstraint(plan, constraint),
      /is there already/,
    ],
    [
      'a constraint that is gone',
      plan,
      removeConstraint(apply(plan, addConstraint(plan, constraint)), constraint),
      /is gone already/,
    ],
    [
      'a constraint that is another now',
      apply(plan, addConstraint(plan, { ...constraint, kind: 'apart' })),
      { kind: 'constraint.remove', constraint, at: 0 },
      /was changed meanwhile/,
    ],
    ['a waiver twice', apply(plan, addWaiver(plan, waiver)), addWaiver(plan, waiver), /is there already/],
    ['a waiver that is gone', plan, { kind: 'waiver.remove', waiver, at: 0 }, /is gone already/],
    [
      'a severity',
      apply(plan, setEntry(plan, 'severity', 'unplaced', 'note')),
      setEntry(plan, 'severity', 'unplaced', 'error'),
      /severity of unplaced: it was changed meanwhile \(now note\)/,
    ],
    [
      'demands',
      apply(plan, setDemands(netOf(plan, 'A'), { milliamps: 4 })),
      setDemands(netOf(plan, 'A'), { milliamps: 5 }),
      /A: demands was changed meanwhile/,
    ],
    [
      'a netlist',
      apply(plan, { kind: 'schematic.set', from: null, to: schematic }),
      { kind: 'schematic.set', from: null, to: { ...schematic, file: 'c.csv' } },
      /the netlist was changed meanwhile/,
    ],
  ] as [string, Plan, Edit, RegExp][])('%s', (_, now, edit, message) => {
    const before = JSON.stringify(now);
    expect(refusal(now, edit)).toMatch(message);
    expect(JSON.stringify(now)).toBe(before);
  });
});

describe('nets that go', () => {
  test('take their part in constraints along; a constraint on one net, or half a pair, demands nothing', () => {
    const constrained = apply(
      apply(plan, addConstraint(plan, constraint)),
      addConstraint({ ...plan, constraints: [constraint] }, pair),
    );
    const edit = removeNet(constrained, netOf(constrained, 'A'));
    const after = apply(constrained, edit);
    expect(after.constraints).toEqual([{ ...constraint, nets: ['n1', 'n2'] }]);
    expect(apply(after, invertEdit(edit))).toEqual(constrained);
  });
  test('take their circuit along when it is empty then, and come back in order', () => {
    const guard = frostGuard();
    const fans = guard.nets.filter((net) => net.circuit === 'fans');
    const edit = removeNets(guard, fans);
    const after = apply(guard, edit);
    expect(after.circuits.some((one) => one.id === 'fans')).toBe(false);
    expect(after.nets).toHaveLength(guard.nets.length - fans.length);
    expect(apply(after, invertEdit(edit))).toEqual(guard);
  });
});

test('what says nothing leaves no trace', () => {
  const net = netOf(plan, 'A');
  const given = apply(plan, setDemands(net, { milliamps: 4, rateHertz: undefined }));
  expect(netOf(given, 'A').demands).toEqual({ milliamps: 4 });
  expect('demands' in netOf(apply(given, setDemands(netOf(given, 'A'), {})), 'A')).toBe(false);
  const labelled = apply(plan, setEntry(plan, 'label', 'B7', 'x'));
  expect('tables' in apply(labelled, setEntry(labelled, 'label', 'B7', null))).toBe(false);
  const waived = apply(plan, addWaiver(plan, waiver));
  expect('waivers' in apply(waived, removeWaiver(waived, waiver))).toBe(false);
});

describe('a plan file that refers to what is not there is refused with its place', () => {
  const text = (change: object): string => JSON.stringify({ ...plan, ...change }, null, 1);
  test.each([
    ['a constraint', { constraints: [{ ...constraint, nets: ['n0', 'n9'] }] }, /there is no net "n9"/],
    ['a constraint of one net', { constraints: [{ ...constraint, nets: ['n0'] }] }, /nets/],
    ['an unknown kind of constraint', { constraints: [{ ...constraint, kind: 'glued' }] }, /kind/],
    ['an unknown level', { tables: { severity: { unplaced: 'fatal' } } }, /severity/],
    ['an unknown policy', { tables: { unused: { '*': 'melt' } } }, /unused/],
    ['a figure that is none', { nets: [{ ...plan.nets[0], demands: { milliamps: -1 } }] }, /milliamps/],
    ['an unknown demand', { nets: [{ ...plan.nets[0], demands: { luck: 1 } }] }, /luck/],
  ])('%s', (_, change, message) => {
    const result = parsePlan('x.json', text(change));
    expect(result.ok).toBe(false);
    if (!result.ok) {
      expect(result.problems.map((one) => `${one.place} ${one.message}`).join('; ')).toMatch(message);
      for (const { place } of result.problems) expect(place).toMatch(/^x\.json/);
    }
  });
});

describe('what is attached, and trials', () => {
  const encoder: Attachment = { id: 'e', kind: 'encoder', nets: ['n0', 'n1'] };
  const one = apply(plan, addAttachment(plan, led));
  const attached = apply(one, addAttachment(one, encoder));
  test('go with a net that is removed as the interface does, and come back with it', () => {
    const edit = removeNet(attached, netOf(attached, 'A'));
    const after = apply(attached, edit);
    expect('attachments' in after).toBe(false);
    expect(apply(after, invertEdit(edit)).attachments).toEqual(attached.attachments);
    expect(refusal(attached, { kind: 'net.remove', net: netOf(attached, 'A'), at: 0 })).toMatch(
      /something is attached to A/,
    );
  });
  test('a circuit is copied with what is attached in it, a board’s wiring keeps it, trials are of one plan', () => {
    let number = 0;
    const [circuit] = attached.circuits;
    if (!circuit) throw new Error('no circuit');
    const after = apply(
      attached,
      copyCircuit(
        attached,
        circuit,
        () => `new${number++}`,
        (role) => role,
      ),
    );
    expect(after.attachments?.map((one) => one.kind)).toEqual(['led', 'encoder', 'led', 'encoder']);
    const locked: Plan = {
      ...attached,
      trials: [trial],
      nets: attached.nets.map((net) =>
        net.placement ? { ...net, placement: { ...net.placement, locked: true } } : net,
      ),
    };
    expect(profileOf(locked).attachments).toEqual([led, encoder]);
    expect('trials' in profileOf(locked)).toBe(false);
  });
  test('are changed in their place', () => {
    const other = changeAttachment(attached, led, { ...led, figures: { ohms: 1000 } });
    expect(apply(attached, other).attachments?.[0]).toMatchObject({ id: 'l', figures: { ohms: 1000 } });
    const kept = apply(plan, addTrial(plan, trial));
    const two = apply(kept, addTrial(kept, { ...trial, id: 'y', name: 'other' }));
    const renamed = changeTrial(two, trial, { ...trial, name: 'lit' });
    expect(apply(two, renamed).trials?.map((one) => one.name)).toEqual(['lit', 'other']);
    expect(refusal(two, changeTrial(two, trial, { ...trial, name: 'other' }))).toMatch(
      /there is a trial "other"/,
    );
  });
  test('are refused where they cannot be', () => {
    expect(refusal(plan, addAttachment(plan, { ...led, nets: ['n0', 'n1'] }))).toMatch(/has 1 nets, not 2/);
    expect(refusal(plan, addAttachment(plan, { ...led, nets: ['gone'] }))).toMatch(/is gone/);
    expect(refusal(plan, addAttachment(plan, { ...encoder, nets: ['n0', 'n0'] }))).toMatch(/at it twice/);
  });
});

test.each([
  [{ rateHertz: 9600 }, { rateHertz: 115200 }, 'set rate of A to 115200 Hz'],
  [{ rateHertz: 9600, farVolts: 5 }, { farVolts: 5 }, 'say nothing of the rate of A'],
  [
    {},
    { farPull: 'up', farPullOhms: 10_000 },
    'change what holds it at the far end and resistor at the far end of A',
  ],
  [{}, { notPads: ['B7'] }, 'set pads it must not be on of A'],
] as const)('demands in words: %j to %j', (from, to, words) => {
  const net = { ...netOf(plan, 'A'), demands: from as never };
  expect(describeEdit(plan, setDemands(net, to as never))).toBe(words);
});
