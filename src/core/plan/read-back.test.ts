import { expectOk } from '@/testing/frost-guard';
import { fuzzBudget, type Random, randomFrom } from '@/testing/random';
import { parsePlan } from '../formats/plan-file';
import { printPlan } from '../formats/print-plan';
import { readEdit } from '../formats/read-edit';
import { LIMITS } from '../limits';
import { applyEdit, type Edit, invertEdit } from './edit';
import { setLabelOf } from './labels';
import {
  addNets,
  addTie,
  addWaiver,
  placeNet,
  removeNets,
  removeTie,
  setCircuit,
  setDemands,
  setEntry,
  setNote,
} from './make-edits';
import { emptyPlan, type Net, type Plan, TIE_KINDS, type Tie } from './types';

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
  ties: [{ id: 't0', kind: 'bus', nets: ['n0', 'n1', 'n2'] }],
};

/** An edit somebody could make who sees this plan; some of them are made by hand and are wrong. */
function someEdit(random: Random, plan: Plan, fresh: () => string): Edit {
  const some = plan.nets.length > 0 ? random.pick(plan.nets) : net('n0');
  const circuit = random.pick(['c0', 'c1', 'c2', ...plan.circuits.map((one) => one.id)]);
  const ids = [...plan.nets.map((one) => one.id), 'n0', 'n1', 'gone'];
  const tie: Tie = {
    id: random.int(4) === 0 ? 't0' : fresh(),
    kind: random.pick(TIE_KINDS),
    nets: Array.from({ length: random.int(5) }, () => random.pick(ids)),
  };
  const [known] = plan.ties ?? [];
  switch (random.int(14)) {
    case 0:
      return addTie(plan, tie);
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
      return known ? removeTie(plan, known) : addTie(plan, tie);
    case 8:
      return setEntry(
        plan,
        random.pick(['label', 'unused', 'severity']),
        'B7',
        random.pick([null, 'analog', 'note']),
      );
    case 9:
      return addNets(plan, [{ id: fresh(), name: 'D' }], [net(fresh(), circuit)], [tie]);
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
        ? placeNet(some, { pad: 'B7', held: false })
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

const tiesOf = (plan: Plan): string =>
  JSON.stringify(sorted([...(plan.ties ?? [])].sort((a, b) => (a.id < b.id ? -1 : 1))));

const SEQUENCES = fuzzBudget(100_000);
test(`after ${SEQUENCES} sequences of edits of two people the plan is read back, and undone edits leave no trace`, () => {
  const random = randomFrom(20261126);
  let next = 0;
  const fresh = (): string => `x${next++}`;
  let applied = 0;
  let refused = 0;
  let plan = start;
  const wrong: string[] = [];
  for (let turn = 0; turn < SEQUENCES && wrong.length === 0; turn++) {
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
        // A place that was seen long ago may be another one by now: the same ties, in any order.
        if (back.ok && tiesOf(back.value) !== tiesOf(before)) wrong.push(`undo of ${JSON.stringify(edit)}`);
      }
    }
    if (!isReadBack(plan, turn % 10 === 0)) wrong.push(JSON.stringify({ edits, plan }));
  }
  expect(wrong).toEqual([]);
  expect(Math.min(applied, refused)).toBeGreaterThan(SEQUENCES / 4);
});

describe('ties and their nets', () => {
  const refusal = (plan: Plan, edit: Edit): string => {
    const result = applyEdit(plan, edit);
    return result.ok ? '' : (result.problems[0]?.message ?? '');
  };
  const tie = (nets: string[], kind: Tie['kind'] = 'bus'): Edit => addTie(start, { id: 't', kind, nets });
  test.each([
    [tie(['n0', 'gone']), 'a net of that tie is gone'],
    [tie(['n0', 'n1', 'n0']), 'that tie cannot be: a net is in it twice'],
    [tie(['n0']), 'that tie cannot be: a bus tie is of two or more nets, not of 1'],
    [tie(['n0', 'n1', 'n2'], 'pair'), 'that tie cannot be: a pair tie is of two nets, not of 3'],
    [
      { kind: 'net.remove', net: net('n1'), at: 1 } as Edit,
      'N1 is tied (bus) to N0, N2; it stays until it is untied',
    ],
  ])('%j is refused', (edit, message) => {
    expect(refusal(start, edit)).toBe(message);
  });
  test('removing a net as the interface does carries its ties along', () => {
    const after = expectOk(applyEdit(start, removeNets(start, [net('n1')])));
    expect(after.ties).toEqual([{ id: 't0', kind: 'bus', nets: ['n0', 'n2'] }]);
    expect(isReadBack(after)).toBe(true);
  });
  test('a plan takes as many nets as its file does, and not one more', () => {
    const nets = Array.from({ length: LIMITS.nets }, (_, at) => net(`m${at}`));
    const full = { ...start, ties: [], nets };
    expect(refusal(full, { kind: 'net.add', net: net('more'), at: 0 })).toBe(
      'a plan takes at most 2,000 nets',
    );
    expect(parsePlan('p', printPlan(full)).ok).toBe(true);
  });
});
