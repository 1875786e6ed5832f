import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { budget, randomFrom, rounds } from '@/testing/random';
import { demandingBoard } from '@/testing/random-demands';
import { applyEdit } from '../../plan/edits/edits';
import type { Plan } from '../../plan/model/types';
import { derive } from '../derive';
import { errorKeys } from './harmless';

/** No remedy brings an error that was not there. */

test('on random plans of every part, badly placed', () => {
  let tried = 0;
  let plans = 0;
  for (const round of rounds('remedies of random plans', {
    seconds: 8,
    least: budget({ quick: 16, all: 700 }),
  })) {
    plans++;
    const seed = round + 1;
    const random = randomFrom(seed * 17);
    const device = family(FAMILIES[seed % FAMILIES.length] as string);
    const pkg = random.pick(device.description.packages);
    const pads = device.description.pads.filter(
      ({ kind, id }) => kind === 'io' && device.pinsOf.get(pkg.id)?.has(id),
    );
    const board = demandingBoard(device, pkg, 12, seed);
    // Anywhere: what is wrong then is what remedies are for.
    const plan: Plan = {
      ...board,
      nets: board.nets.map((net) =>
        random.int(3) > 0 ? { ...net, placement: { pad: random.pick(pads).id, locked: false } } : net,
      ),
    };
    const derived = expectOk(derive(device, plan));
    const before = errorKeys(derived.findings);
    for (const finding of derived.findings.slice(0, 12))
      for (const { label, edit } of finding.remedies) {
        tried++;
        const after = errorKeys(expectOk(derive(device, expectOk(applyEdit(plan, edit)))).findings);
        expect([seed, finding.rule, label, [...after].filter((key) => !before.has(key))]).toEqual([
          seed,
          finding.rule,
          label,
          [],
        ]);
      }
  }
  expect(tried).toBeGreaterThan(plans);
}, 3_600_000);
