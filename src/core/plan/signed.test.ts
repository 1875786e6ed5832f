import { corvane, frostGuard } from '@/testing/frost-guard';
import { fuzzBudget, randomOf } from '@/testing/random';
import { RandomEdits } from '@/testing/random-edits';
import { canonicalJson } from '../base/fingerprint';
import { applyEdit, type Edit, signedBy } from './edits/edits';
import type { Plan, Waiver } from './model/types';

/** Whatever an edit puts into a plan under a name, it says so: a kind that does not could be made for somebody else. */
const waiversOf = (plan: Plan): Set<string> => new Set((plan.waivers ?? []).map(canonicalJson));

test('waivers that are new in a plan are those that the edit signs, for edits of every sort', () => {
  const device = corvane();
  let signed = 0;
  for (let seed = 1; seed <= fuzzBudget(20); seed++) {
    const random = new RandomEdits(device, randomOf(seed));
    let plan = frostGuard();
    for (let step = 0; step < 150; step++) {
      const single = random.edit(plan);
      const edit: Edit = step % 5 === 0 ? { kind: 'batch', label: 'x', edits: [single] } : single;
      const next = applyEdit(plan, edit);
      if (!next.ok) continue;
      const known = waiversOf(plan);
      const fresh = [...waiversOf(next.value)].filter((text) => !known.has(text));
      const said = new Set(signedBy(edit).map((waiver: Waiver) => canonicalJson(waiver)));
      expect(fresh.filter((text) => !said.has(text))).toEqual([]);
      signed += fresh.length;
      plan = next.value;
    }
  }
  expect(signed).toBeGreaterThan(10);
});
