import { canonicalJson } from '@/core/base/fingerprint';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf, readExample, withNets } from '@/testing/frost-guard';
import { changedByChance } from '@/testing/plan-changes';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { applyEdit, editAgain, invertEdit, stepsOf } from '../edits/edits';
import { parsePlan } from '../file/plan-file';
import { printPlan } from '../file/print-plan';
import { readEdit } from '../file/read-edit';
import type { Plan } from '../model/types';
import { editBetween } from './edit-between';
import { factsOf, planFrom } from './facts';
import { mergePlans } from './merge';
import { inSameOrder, joinedOrder } from './order';

const plan = frostGuard();
const pairs = (runs: number, work: (a: Plan, b: Plan, seed: number) => void): void => {
  for (let seed = 1; seed <= fuzzBudget(runs); seed++) {
    const random = randomFrom(seed);
    work(
      changedByChance(plan, random, 1 + random.int(12), 'a'),
      changedByChance(plan, random, 1 + random.int(12), 'b'),
      seed,
    );
  }
};

test('a plan is its facts', () => {
  expect(printPlan(planFrom(factsOf(plan)))).toBe(readExample('frost-guard.plan.json'));
  pairs(40, (a) => expect(printPlan(planFrom(factsOf(a)))).toBe(printPlan(a)));
});

describe('the edit between two plans', () => {
  test('makes one the other, can be sent, and is taken back by its inverse', () => {
    pairs(120, (a, b) => {
      const edit = editBetween(a, b, 'bring back');
      if (edit.edits.length > 0) expectOk(readEdit(JSON.parse(JSON.stringify(edit))));
      const made = expectOk(applyEdit(a, edit));
      expect(printPlan(made)).toBe(printPlan(b));
      expect(printPlan(expectOk(applyEdit(made, invertEdit(edit))))).toBe(printPlan(a));
    });
  });
  test('says no more than what differs', () => {
    expect(editBetween(plan, plan, '').edits).toEqual([]);
    const moved = withNets(plan, { FAN_1: { placement: { pad: 'B8', locked: false } } });
    expect(editBetween(plan, moved, '').edits).toMatchObject([{ kind: 'net.set', field: 'placement' }]);
    const nets = [...plan.nets];
    nets.push(...nets.splice(3, 1));
    // One net that stands elsewhere is taken out and put in, with what is about it.
    const other = { ...plan, nets };
    expect(stepsOf(editBetween(plan, other, ''))).toBeLessThan(8);
    expect(printPlan(expectOk(applyEdit(plan, editBetween(plan, other, ''))))).toBe(printPlan(other));
  });
});

test('an edit once more, over what others made: it makes what it was to make, and is taken back to theirs', () => {
  const done = { same: 0, over: 0, never: 0 };
  pairs(60, (a, b) => {
    for (const step of editBetween(plan, a, 'mine').edits) {
      const again = editAgain(b, step);
      if (!again) {
        // It was about something that is gone, or not as it was; never is a change dropped that could be made.
        expect(applyEdit(b, step).ok).toBe(false);
        done.never++;
        continue;
      }
      done[again === step ? 'same' : 'over']++;
      const made = expectOk(applyEdit(b, again));
      if (!('to' in step)) continue;
      expect(printPlan(expectOk(applyEdit(made, invertEdit(again))))).toBe(printPlan(b));
      expect('to' in again && again.to).toEqual(step.to);
      // Wished once more it changes nothing, since it stands there.
      const more = editAgain(made, step);
      if (more && 'from' in more) expect(canonicalJson(more.from)).toBe(canonicalJson(more.to));
    }
  });
  for (const count of Object.values(done)) expect(count).toBeGreaterThan(fuzzBudget(10));
});

describe('merging', () => {
  test('what one side changed is taken, whichever side it is; the same change is no conflict', () => {
    pairs(60, (a) => {
      for (const [ours, theirs] of [
        [a, plan],
        [plan, a],
        [a, a],
      ] as const) {
        const merged = mergePlans(plan, ours, theirs);
        expect(merged.conflicts).toEqual([]);
        expect(printPlan(merged.plan)).toBe(printPlan(a));
      }
    });
  });
  test('what both changed is a plan that can be read; without conflicts neither order matters for what it says', () => {
    let clean = 0;
    pairs(120, (a, b) => {
      const one = mergePlans(plan, a, b);
      const other = mergePlans(plan, b, a);
      expectOk(parsePlan('merged', printPlan(one.plan)));
      expect(one.conflicts.map(({ what }) => what).sort()).toEqual(
        other.conflicts.map(({ what }) => what).sort(),
      );
      if (one.conflicts.length > 0) return;
      clean++;
      const facts = (of: Plan) => {
        const { own, lists } = factsOf(of);
        const things = Object.entries(lists).map(([key, list]) => [
          key,
          list.map(({ id, fields }) => [id, Object.fromEntries(fields)]).sort(),
        ]);
        return [Object.fromEntries(own), things];
      };
      expect(facts(one.plan)).toEqual(facts(other.plan));
    });
    expect(clean).toBeGreaterThan(5);
  });
  test('fields of one net are merged one by one', () => {
    const fan = netOf(plan, 'FAN_1');
    const ours = withNets(plan, { FAN_1: { settings: { ...fan.settings, start: 'asserted' } } });
    const theirs = withNets(plan, {
      FAN_1: { settings: { ...fan.settings, active: 'high' }, placement: { pad: 'B8', locked: false } },
    });
    const { plan: merged, conflicts } = mergePlans(plan, ours, theirs);
    expect(conflicts).toEqual([]);
    expect(netOf(merged, 'FAN_1')).toMatchObject({
      placement: { pad: 'B8' },
      settings: { active: 'high', start: 'asserted' },
    });
  });
  const said = (ours: Plan, theirs: Plan): string[] =>
    mergePlans(plan, ours, theirs).conflicts.map(({ message }) => message);
  test.each<[string, Plan, Plan, RegExp]>([
    [
      'one pad, two places',
      withNets(plan, { FAN_1: { placement: { pad: 'B8', locked: false } } }),
      withNets(plan, { FAN_1: { placement: { pad: 'B9', locked: false } } }),
      /both sides changed placement of net FAN_1: ours to \{"locked":false,"pad":"B8"\}, theirs to .*B9.*; it was .*B7/,
    ],
    [
      'two nets on one pad',
      withNets(plan, { FAN_1: { placement: { pad: 'B11', locked: false } } }),
      withNets(plan, { FAN_2: { placement: { pad: 'B11', locked: false } } }),
      /^FAN_1 and FAN_2 are both on pad B11/,
    ],
    [
      'two of one name',
      withNets(plan, { FAN_1: { name: 'PUMP' } }),
      withNets(plan, { FAN_2: { name: 'pump' } }),
      /two nets are called alike: PUMP and pump/,
    ],
    [
      'removed and changed',
      { ...plan, nets: plan.nets.filter(({ name }) => name !== 'LAMP_RED') },
      withNets(plan, { LAMP_RED: { note: 'on the door' } }),
      /ours removed net LAMP_RED, theirs changed it; it stays/,
    ],
    [
      'a circuit that still holds a net',
      {
        ...plan,
        circuits: plan.circuits.filter(({ id }) => id !== netOf(plan, 'LAMP_RED').circuit),
        nets: plan.nets.filter(({ circuit }) => circuit !== netOf(plan, 'LAMP_RED').circuit),
      },
      withNets(plan, { FAN_1: { circuit: netOf(plan, 'LAMP_RED').circuit } }),
      /one side removed the circuit .*, the other has FAN_1 in it; it stays/,
    ],
  ])('names the conflict: %s', (_, ours, theirs, message) => {
    const list = said(ours, theirs);
    expect(list.some((one) => message.test(one))).toBe(true);
    // Seen from the other side it is one, too.
    expect(said(theirs, ours)).toHaveLength(list.length);
  });
});

test('orders: as many as possible stay, and two become one', () => {
  expect(inSameOrder(['a', 'b', 'c', 'd'], ['b', 'c', 'a', 'x', 'd'])).toEqual(new Set(['b', 'c', 'd']));
  expect(inSameOrder([], ['a'])).toEqual(new Set());
  expect(joinedOrder(['a', 'b'], ['x', 'a', 'y', 'b', 'z'])).toEqual(['x', 'a', 'y', 'b', 'z']);
});
