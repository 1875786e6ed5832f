import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan } from '@/testing/families';
import { frostGuard } from '@/testing/frost-guard';
import { wrongParts } from '@/testing/mutations';
import { ALL, fuzzBudget, randomOf } from '@/testing/random';
import { RandomEdits } from '@/testing/random-edits';
import { compileDevice } from '../device/compile/compile';
import type { Device } from '../device/device';
import { applyEdit } from '../plan/edits/edits';
import type { Plan } from '../plan/model/types';
import { type Derived, derive } from './derive';

/** All that is said of a plan, registers by their names. */
function told(derived: Derived, withRemedies: boolean): string {
  const { planned, lowered, proof, accessors, findings, counts, byPad, bySignal } = derived;
  const seen = (_key: string, value: unknown): unknown =>
    typeof value === 'object' && value !== null && 'storage' in value && 'name' in value
      ? (value as { name: string }).name
      : value instanceof Map
        ? [...value].map(([key, one]) => [typeof key === 'object' ? key.name : key, one])
        : value;
  const { list, shadows } = accessors;
  return JSON.stringify(
    {
      planned,
      operations: lowered.operations,
      image: lowered.image,
      clashes: lowered.clashes,
      decided: lowered.decided,
      proof,
      accessors: { list, shadows },
      findings: findings.map(({ remedies: _lazy, ...finding }) => finding),
      remedies: withRemedies ? findings.map((finding) => finding.remedies) : [],
      counts,
      byPad: [...byPad].map(([pad, nets]) => [pad, nets.map((one) => one.net.id)]),
      bySignal: [...bySignal].map(([signal, nets]) => [signal, nets.map((one) => one.net.id)]),
    },
    seen,
  );
}

/** Nothing of what was remembered for one part serves another that was compiled anew. */
const anew = (device: Device): Device => expectOk(compileDevice(device.original));

const copied = (plan: Plan): Plan => JSON.parse(JSON.stringify(plan));

/** Ten thousand with MAVREK_FUZZ=10. */
const EDITS = fuzzBudget(120);
/** A part that nothing is remembered of is compiled once for so many edits. */
const ROUND = 40;

/** A plan of a part, for a part that is nearly the same. */
const planFor = (device: Device, plan: Plan): Plan => ({ ...plan, deviceFingerprint: device.fingerprint });

const STARTS: [string, () => { device: Device; plan: Plan }][] = [
  ...FAMILIES.map((folder): [string, () => { device: Device; plan: Plan }] => [
    folder,
    () => ({ device: family(folder), plan: familyPlan(family(folder)) }),
  ]),
  // On parts whose recipe is wrong, what is shown of a pad hangs on what else is planned.
  ...FAMILIES.flatMap((folder, at) =>
    wrongParts(family(folder), ALL ? 3 : 1, 5 + at).map(
      ({ what, part }): [string, () => { device: Device; plan: Plan }] => [
        `${folder}, ${what}`,
        () => ({ device: part, plan: planFor(part, familyPlan(family(folder))) }),
      ],
    ),
  ),
  ['the frost guard', () => ({ device: family('corvane-c40'), plan: frostGuard() })],
];

test.each(STARTS)(
  `%s: what follows after an edit is what follows from scratch, over ${Math.ceil(EDITS / STARTS.length)} random edits`,
  (_name, start) => {
    const { device: shipped, plan: first } = start();
    const random = randomOf(11 + first.nets.length);
    const device = anew(shipped);
    const edits = new RandomEdits(device, random);
    let plan = first;
    let now = expectOk(derive(device, plan));
    let scratch = anew(shipped);
    let [made, reused] = [0, 0];
    for (let at = 0; made < EDITS / STARTS.length; at++) {
      if (at % ROUND === 0) scratch = anew(shipped);
      const next = applyEdit(plan, edits.edit(plan));
      if (!next.ok) continue;
      made++;
      plan = next.value;
      const before = now;
      now = expectOk(derive(device, plan, before));
      if (now.lowered === before.lowered) reused++;
      const remedies = at % 50 === 0;
      const whole = expectOk(derive(scratch, copied(plan)));
      const [quick, slow] = [told(now, remedies), told(whole, remedies)];
      // Texts of this size are compared by themselves first: the matcher shows where they differ, and takes its time.
      if (quick !== slow) expect({ made, told: JSON.parse(quick) }).toEqual({ made, told: JSON.parse(slow) });
    }
    // It is an answer about edits that change something only if many of them do.
    expect(reused).toBeLessThan(made);
    expect(now.plan.nets.length).toBeGreaterThan(0);
  },
);

test('an edit that changes nothing about pads leaves operations and proof the very same', () => {
  const device = family('corvane-c40');
  const plan = frostGuard();
  const before = expectOk(derive(device, plan));
  const [net] = plan.nets;
  const named = { ...plan, nets: plan.nets.map((one) => (one === net ? { ...one, name: 'OTHER' } : one)) };
  const after = expectOk(derive(device, named, before));
  expect(after.lowered).toBe(before.lowered);
  expect(after.proof).toBe(before.proof);
  expect(after.findings).not.toBe(before.findings);
});

test('what followed from another part, or in another package, is not taken over', () => {
  const plan = frostGuard();
  const device = family('corvane-c40');
  const before = expectOk(derive(device, plan));
  const smaller = { ...plan, package: 'q64' };
  expect(told(expectOk(derive(device, smaller, before)), true)).toEqual(
    told(expectOk(derive(anew(device), smaller)), true),
  );
  expect(told(expectOk(derive(anew(device), plan, before)), true)).toEqual(told(before, true));
});
