import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { deriveOn } from '@/testing/frost-guard';
import { randomBoard } from '@/testing/instances';
import { randomOf } from '@/testing/random';
import { type Candidate, candidatesFor } from '../derive/candidates/candidates';
import { TERM_KEYS } from '../derive/candidates/terms';
import type { Package } from '../description/types';
import type { Device } from '../device/device';
import { applyEdit } from '../plan/edits/edits';
import type { Constraint, Demands, Net, Plan } from '../plan/model/types';
import { placingEdit } from './model/moves';
import { placePlan } from './place';

/** Nets of a board with an instance left open, interrupts, demands and constraints here and there. */
function demanding(plan: Plan, seed: number): Plan {
  const next = randomOf(seed);
  const nets = plan.nets.map((net): Net => {
    const bare: Net = { ...net, placement: net.placement?.locked ? net.placement : null };
    if (bare.role.kind === 'input' && next() < 0.3) return { ...bare, role: { kind: 'interrupt' } };
    if (next() < 0.2) return { ...bare, demands: pick<Demands>(next, DEMANDS) };
    return bare;
  });
  const constraints = KINDS.flatMap((kind, index): Constraint[] => {
    const own = [pick(next, nets), pick(next, nets)];
    return own[0] === own[1] ? [] : [{ id: `k${index}`, kind, nets: own.map((net) => net.id) }];
  });
  return { ...plan, nets, constraints };
}

const DEMANDS: Demands[] = [{ farVolts: 5 }, { side: 'left' }, { milliamps: 3 }, { beforeInit: 'low' }];
const KINDS: Constraint['kind'][] = ['apart', 'together', 'apart'];
const pick = <Item>(next: () => number, list: readonly Item[]): Item =>
  list[Math.floor(next() * list.length)] as Item;

const place = (device: Device, pkg: Package, plan: Plan) =>
  placePlan(device, pkg, plan, { keep: true, explain: false });

/** A board on which all nets have a pad, with ever fewer constraints; undefined where a net is locked on a pad that lacks something. */
function placedBoard(device: Device, pkg: Package, seed: number): Plan | undefined {
  const plain = randomBoard(device, pkg, 24, seed);
  const wanted = demanding(plain, seed);
  for (const plan of [wanted, { ...wanted, constraints: [] }, plain]) {
    const placing = place(device, pkg, plan);
    if (placing.status === 'optimal') return expectOk(applyEdit(plan, placingEdit(placing.moves, 'place')));
  }
  return undefined;
}

const without = (plan: Plan, net: Net, placement: Net['placement'] = null): Plan => ({
  ...plan,
  nets: plan.nets.map((one) => (one === net ? { ...net, placement } : one)),
});

const ROUNDS = Math.max(1, Math.round(Number(process.env.MAVREK_FUZZ ?? 1)));

test.each(
  FAMILIES.flatMap((folder) =>
    [...family(folder).packages.keys()].map((id) => [folder, id] as [string, string]),
  ),
)(
  '%s %s: the first pad of the list is what the placer takes, at the same cost, term by term',
  (folder, id) => {
    const device = family(folder);
    const pkg = device.packages.get(id) as Package;
    let boards = 0;
    for (let seed = 1; seed <= ROUNDS; seed++) {
      const next = randomOf(seed + 99);
      const board = placedBoard(device, pkg, seed);
      if (!board) continue;
      boards++;
      for (let turn = 0; turn < 12; turn++) {
        const net = pick(next, board.nets);
        const plan = without(board, net);
        const candidates = candidatesFor(
          deriveOn(plan, device).occupancy,
          plan.nets.find((one) => one.id === net.id) as Net,
        );
        const [first] = candidates;
        const placing = place(device, pkg, plan);
        const where = `${folder} ${id} seed ${seed}: ${net.name} ${JSON.stringify(net.role)}`;
        expect([where, placing.status]).toEqual([where, 'optimal']);
        const theirs = Object.fromEntries(
          TERM_KEYS.flatMap((term) => (placing.terms?.[term] ? [[term, placing.terms[term]]] : [])),
        );
        expect([where, placing.objective, first?.holds]).toEqual([where, first?.cost, true]);
        const same = candidates.filter((one) => one.cost === first?.cost);
        expect(same.map((one) => one.pad)).toContain(placing.placements[net.id]);
        expect(same.map((one) => one.terms)).toContainEqual(theirs);
        // What the list says does not hold there cannot be had there, and the other way round.
        const probe = pick<Candidate>(next, candidates);
        const there = without(board, net, {
          pad: probe.pad,
          locked: true,
          ...(net.role.kind === 'open-signal' && probe.fn ? { signal: probe.fn.signal } : {}),
        });
        expect([where, probe.pad, place(device, pkg, there).status, probe.reasons]).toEqual([
          where,
          probe.pad,
          probe.holds ? 'optimal' : 'infeasible',
          probe.reasons,
        ]);
      }
    }
    expect(boards).toBeGreaterThan(ROUNDS / 2);
  },
);
