import type { Package } from '../description/types';
import type { Device } from '../device/device';
import type { Net, Placement, Plan } from '../plan/model/types';
import type { Move } from './model/moves';
import { placePlan } from './place';

/** Longer searches than this are not waited for at a click. */
const NODES = 300;

/**
 * Room for a net on a pad that is taken: the fewest moves of nets that are not locked, so that all placed nets, and this one, have a
 * pad. Undefined when there is no such chain. Unplaced nets stay unplaced.
 */
export function swapChain(
  device: Device,
  pkg: Package,
  plan: Plan,
  net: Net,
  to: Placement,
): Move[] | undefined {
  const nets = plan.nets.flatMap((one): Net[] => {
    if (one.id === net.id) return [{ ...net, placement: { ...to, locked: true } }];
    return one.placement ? [one] : [];
  });
  const ids = new Set<string>(nets.map((one) => one.id));
  const constraints = (plan.constraints ?? []).filter((constraint) =>
    constraint.nets.every((id) => ids.has(id)),
  );
  const placing = placePlan(
    device,
    pkg,
    { ...plan, nets, constraints },
    {
      nodes: NODES,
      explain: false,
      weights: { moves: 1000, special: 200, near: 1, scarce: 1, complete: 30, order: 0 },
    },
  );
  if (placing.status !== 'optimal' && placing.status !== 'feasible') return undefined;
  return placing.moves.filter((move) => move.net.id !== net.id);
}
