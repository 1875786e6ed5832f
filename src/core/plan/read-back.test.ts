import { expectOk } from '@/testing/expect-ok';
import { type Random, randomFrom, rounds } from '@/testing/random';
import { LIMITS } from '../base/limits';
import { applyEdit, type Edit, invertEdit } from './edits/edits';
import {
  addConstraint,
  addNets,
  addWaiver,
  placeNet,
  removeConstraint,
  removeNets,
  setCircuit,
  setDemands,
  setEntry,
  setNote,
} from './edits/make-edits';
import { parsePlan } from './file/plan-file';
import { printPlan } from './file/print-plan';
import { readEdit } from './file/read-edit';
import { setLabelOf } from './labels';
import { CONSTRAINT_KINDS, type Constraint, emptyPlan, type Net, type Plan } from './model/types';

/**
 * A plan can always be read back: whatever two people do at the same time, each against the plan as he last saw it, what is left
 * is exported, imported, and equal.
 */
const net = (id: string, circuit = 'c0'): Net => ({
  id,
  name: id.toUpperCase(),
  circuit,
  role: { kind: 'input' },
  placement: null,
  settings: {},
});
const start: Plan = {
  ...emptyPlan('P', 'd', 'q', ''),
  circuits: [
    { id: 'c0', name: 'A' },
    { id: 'c1', name: 'B' },
  ],
  nets: ['n0', 'n1', 'n2', 'n3', 'n4'].map((id) => net(id)),
  constraints: [{ id: 't0', kind: 'bus', nets: ['n0', 'n1', 'n2'] }],
};

/** An edit somebody could make who sees this plan; some of them are made by hand and are wrong. */
function someEdit(random: Random, plan: Plan, fresh: () => string): Edit {
  const some = plan.nets.length > 0 ? random.pick(plan.nets) : net('n0');
  const circuit = random.pick(['c0', 'c1', 'c2', ...plan.circuits.map((one) => one.id)]);
  const ids = [...plan.nets.map((one) => one.id), 'n0', 'n1', 'gone'];
  const constraint: Constraint = {
    id: random.int(4) === 0 ? 't0' : fresh(),
    kind: random.pick(CONSTRAINT_KINDS),
    nets: Array.from({ length: random.int(5) }, () => random.pick(ids)),
  };
  const [known] = plan.constraints ?? [];
  switch (random.int(14)) {
    case 0:
      return addConstraint(plan, constraint);
    case 1:
      return { kind: 'net.remove', net: some, at: random.int(6) };
    case 2:
      return removeNets(plan, [some, random.pick(plan.nets.length > 0 ? plan.nets : [some])]);
    case 3:
      return { kind: 'net.add', net: net(random.int(3) === 0 ? 'n0' : fresh(), circuit), at: random.int(6) };
    case 4:
      return {
        kind: 'circuit.remove',
        circuit: random.pick(plan.circuits.length > 0 ? plan.circuits : start.circuits),
        at: 0,
      };
    case 5:
      return {
        kind: 'circuit.add',
        circuit: { id: random.pick(['c0', 'c1', 'c2']), name: 'C' },
        at: random.int(3),
      };
    case 6:
      return setCircuit(some, circuit);
    case 7:
      return known ? removeConstraint(plan, known) : addConstraint(plan, constraint);
    case 8:
      return setEntry(
        plan,
        random.pick(['label', 'unused', 'severity']),
        'B7',
        random.pick([null, 'analog', 'note']),
      );
    case 9:
      return addNets(plan, [{ id: fresh(), name: 'D' }], [net(fresh(), circuit)], [constraint]);
    case 10:
      return addWaiver(plan, {
        id: fresh(),
        rule: 'unplaced',
        nets: [some.id],
        pads: [],
        reason: 'r',
        author: 'a',
        date: '2026-11-26',
      });
    case 11:
      return random.int(2)
        ? setNote(some, random.pick(['', 'x']))
        : setDemands(some, random.pick([{}, { rateHertz: 5 }]));
    case 12:
      return random.int(2)
        ? placeNet(some, { pad: 'B7', locked: false })
        : setLabelOf(plan, some, random.pick(['', 'J1']));
    default:
      return {
        kind: 'schematic.set',
        from: plan.schematic ?? null,
        to: random.pick([null, { file: 'f', designator: 'U1', pins: [] }]),
      };
  }
}

const isReadBack = (plan: Plan, whole = true): boolean => {
  const text = printPlan(plan);
  const read = parsePlan('p', text);
  if (!read.ok || printPlan(read.value) !== text) return false;
  // Printing leaves nothing out; that is looked at now and then.
  return !whole || JSON.stringify(sorted(read.value)) === JSON.stringify(sorted(plan));
};
const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .filter(([, one]) => one !== undefined)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([key, one]) => [key, sorted(one)]),
        )
      : value;

const constraintsOf = (plan: Plan): string =>
  JSON.stringify(sorted([...(plan.constraints ?? [])].sort((a, b) => (a.id < b.id ? -1 : 1))));

test('after sequences of edits of two people the plan is read back, and undone edits leave no trace', () => {
  const random = randomFrom(20261126);
  let next = 0;
  const fresh = (): string => `x${next++}`;
  let applied = 0;
  let refused = 0;
  let sequences = 0;
  let plan = start;
  const wrong: string[] = [];
  for (const turn of rounds('edits of two people', { seconds: 8, least: 400 })) {
    if (wrong.length > 0) break;
    sequences++;
    if (turn % 20 === 0) plan = start;
    // Both see the same plan and make two edits each, which arrive in any order.
    const seen = plan;
    const edits: Edit[] = [];
    for (const _person of [0, 1]) {
      let own = seen;
      for (const _step of [0, 1]) {
        const edit = someEdit(random, own, fresh);
        const after = applyEdit(own, edit);
        if (after.ok) own = after.value;
        edits.splice(random.int(edits.length + 1), 0, edit);
      }
    }
    for (const edit of edits) {
      // What the server would not take never gets here.
      if (!readEdit(JSON.parse(JSON.stringify(edit))).ok) continue;
      const before = plan;
      const after = applyEdit(plan, edit);
      if (!after.ok) {
        refused++;
        continue;
      }
      applied++;
      plan = after.value;
      if (turn % 10 === 0) {
        const back = applyEdit(plan, invertEdit(edit));
        // A place that was seen long ago may be another one by now: the same constraints, in any order.
        if (back.ok && constraintsOf(back.value) !== constraintsOf(before))
          wrong.push(`undo of ${JSON.stringify(edit)}`);
      }
    }
    if (!isReadBack(plan, turn % 10 === 0)) wrong.push(JSON.stringify({ edits, plan }));
  }
  expect(wrong).toEqual([]);
  expect(Math.min(applied, refused)).toBeGreaterThan(sequences / 4);
});

describe('constraints and their nets', () => {
  const refusal = (plan: Plan, edit: Edit): string => {
    const result = applyEdit(plan, edit);
    return result.ok ? '' : (result.problems[0]?.message ?? '');
  };
  const constraint = (nets: string[], kind: Constraint['kind'] = 'bus'): Edit =>
    addConstraint(start, { id: 't', kind, nets });
  test.each([
    [constraint(['n0', 'gone']), 'a net of that constraint is gone'],
    [constraint(['n0', 'n1', 'n0']), 'that constraint cannot be: a net is in it twice'],
    [constraint(['n0']), 'that constraint cannot be: a bus constraint is on two or more nets, not on 1'],
    [
      constraint(['n0', 'n1', 'n2'], 'pair'),
      'that constraint cannot be: a pair constraint is on two nets, not on 3',
    ],
    [
      { kind: 'net.remove', net: net('n1'), at: 1 } as Edit,
      'N1 is in a bus constraint with N0, N2; it stays until that is removed',
    ],
  ])('%j is refused', (edit, message) => {
    expect(refusal(start, edit)).toBe(message);
  });
  test('removing a net as the interface does carries its constraints along', () => {
    const after = expectOk(applyEdit(start, removeNets(start, [net('n1')])));
    expect(after.constraints).toEqual([{ id: 't0', kind: 'bus', nets: ['n0', 'n2'] }]);
    expect(isReadBack(after)).toBe(true);
  });
  test('a plan takes as many nets as its file does, and not one more', () => {
    const nets = Array.from({ length: LIMITS.nets }, (_, at) => net(`m${at}`));
    const full = { ...start, constraints: [], nets };
    expect(refusal(full, { kind: 'net.add', net: net('more'), at: 0 })).toBe(
      'a plan takes at most 2,000 nets',
    );
    expect(parsePlan('p', printPlan(full)).ok).toBe(true);
  });
});
