import fc from 'fast-check';
import { family } from '@/testing/families';
import { corvane, planOf } from '@/testing/frost-guard';
import { randomOf } from '@/testing/random';
import { type Package, splitSignal } from '../../description/types';
import type { Device } from '../../device/device';
import type { Constraint, Net, Plan, Role } from '../../plan/model/types';
import { modelOf } from '../model/build';
import { placePlan } from '../place';
import { examine } from './examine';
import { leastThatHits } from './smallest';

describe('the fewest numbers that hit all sets', () => {
  test.each([
    [[], []],
    [[[3]], [3]],
    [
      [
        [1, 2],
        [2, 3],
        [3, 4],
      ],
      [2, 3],
    ],
    [
      [[1], [2], [1, 2, 3]],
      [1, 2],
    ],
  ])('%j: as few as %j', (sets, expected) => {
    expect(leastThatHits(sets)).toHaveLength(expected.length);
  });
  test('there are none for a set of nothing', () => {
    expect(leastThatHits([[1], []])).toBeUndefined();
  });
  test('as few as trying all of them finds', () => {
    const sets = fc.array(fc.uniqueArray(fc.nat({ max: 7 }), { minLength: 1, maxLength: 4 }), {
      maxLength: 7,
    });
    fc.assert(
      fc.property(sets, (all) => {
        const least = leastThatHits(all) ?? [];
        const hits = (chosen: readonly number[]): boolean =>
          all.every((one) => one.some((number) => chosen.includes(number)));
        expect(hits(least)).toBe(true);
        for (const chosen of subsets([0, 1, 2, 3, 4, 5, 6, 7], least.length - 1))
          expect(hits(chosen)).toBe(false);
      }),
      { numRuns: 60 },
    );
  });
});

function subsets(of: readonly number[], size: number): number[][] {
  if (size < 0) return [];
  if (size === 0) return [[]];
  return of.flatMap((first, at) => subsets(of.slice(at + 1), size - 1).map((rest) => [first, ...rest]));
}

const CIRCUITS = ['c0', 'c1'].map((id) => ({ id, name: id }));

/** A few nets on a few pads, with more wishes than there is room for. */
function crowd(device: Device, pkg: Package, seed: number): Plan {
  const next = randomOf(seed);
  const pick = <T>(items: readonly T[]): T => items[Math.floor(next() * items.length)] as T;
  const pads = device.description.pads
    .filter((pad) => pad.kind === 'io' && device.pinsOf.get(pkg.id)?.has(pad.id))
    .map((pad) => pad.id);
  const functions = device.description.functions.filter((fn) => fn.mux !== null && pads.includes(fn.pad));
  const roleOf = (kind: number): Role => {
    const { signal } = pick(functions);
    if (kind < 0.3) return { kind: 'signal', signal };
    if (kind > 0.6) return { kind: 'output' };
    const [instance, line] = splitSignal(signal);
    const peripheral = device.description.peripherals.find((one) => one.id === instance)?.kind ?? '';
    return { kind: 'open-signal', peripheral, line };
  };
  const nets = Array.from({ length: 5 }, (_, at): Partial<Net> & Pick<Net, 'name' | 'role'> => {
    const pad = pick(pads);
    return {
      name: `N${'ABCDE'[at]}`,
      role: roleOf(next()),
      // Lines of one peripheral in two circuits need two of it.
      circuit: next() < 0.5 ? 'c0' : 'c1',
      placement: next() < 0.35 ? { pad, locked: true } : null,
      ...(next() < 0.3 ? { demands: { notPads: pads.filter(() => next() < 0.6) } } : {}),
    };
  });
  const plan = planOf(nets, { device: device.description.id, package: pkg.id, circuits: CIRCUITS });
  const constraints: Constraint[] =
    next() < 0.5 ? [{ id: 't', kind: 'bus', nets: plan.nets.slice(0, 3).map((net) => net.id) }] : [];
  return { ...plan, constraints };
}

describe('conflicts', () => {
  test.each([
    ['pellin-p8', 'd14'],
    ['brask-b14', 'd14'],
    ['ketter-k2', 'q48'],
  ])('of %s in %s are smallest where they say so, by trying all that are smaller', (folder, id) => {
    const device = family(folder);
    const pkg = device.packages.get(id) as Package;
    let tried = 0;
    for (let seed = 1; seed <= 40; seed++) {
      const plan = crowd(device, pkg, seed);
      const { conflict } = placePlan(device, pkg, plan);
      if (!conflict) continue;
      tried++;
      expect([seed, conflict.smallest, conflict.rough]).toEqual([seed, true, false]);
      const model = modelOf(device, pkg, plan);
      const possible = (some: readonly number[]) => examine(model, new Set(some)).possible;
      expect(possible(conflict.requirements.map((one) => one.index))).toBe(false);
      const all = model.requirements.map((one) => one.index);
      for (let size = 0; size < conflict.requirements.length; size++)
        for (const some of subsets(all, size))
          if (possible(some) === false) throw new Error(`seed ${seed}: ${some}`);
    }
    expect(tried).toBeGreaterThan(8);
  });
  test('a pair of nets for one pad is named, not the eight that are too many elsewhere', () => {
    // Nine outputs want the eight pads of a port's bits 0 to 7, and two nets are locked on one pad of another.
    const port = ['C', 'D'].map((id) => corvane().description.pads.filter((pad) => pad.port === id));
    const others = corvane()
      .description.pads.map((pad) => pad.id)
      .filter((id) => !(port[0] ?? []).slice(0, 8).some((pad) => pad.id === id));
    const crowdOf = Array.from({ length: 9 }, (_, at) => ({
      name: `OUT_${'ABCDEFGHI'[at]}`,
      role: { kind: 'output' as const },
      demands: { notPads: others },
    }));
    const twice = ['X', 'Y'].map((name) => ({
      name,
      role: { kind: 'output' as const },
      placement: { pad: 'D4', locked: true },
    }));
    const plan = planOf([...crowdOf, ...twice]);
    const { conflict } = placePlan(corvane(), corvane().packages.get('q100') as Package, plan);
    expect(conflict?.smallest).toBe(true);
    expect(conflict?.requirements.map((one) => one.nets[0]?.name)).toEqual(['X', 'X', 'Y', 'Y']);
  });
});
