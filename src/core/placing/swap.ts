import type { Package } from '../device/types';
import type { Net, Placement, Plan } from '../plan/types';
import type { Device } from '../recipe/device';
import type { Move } from './moves';
import { placePlan } from './place';

/** Longer searches than this are not waited for at a click. */
const NODES = 300;

/**
 * Room for a net on a pad that is taken: the fewest moves of nets that are not held, so that all placed nets, and this one, have a
 * pad. Undefined when there is no such chain. Nets that wait for a pad are left waiting.
 */
export function swapChain(
  device: Device,
  pkg: Package,
  plan: Plan,
  net: Net,
  to: Placement,
): Move[] | undefined {
  const nets = plan.nets.flatMap((one): Net[] => {
    if (one.id === net.id) return [{ ...net, placement: { ...to, held: true } }];
    return one.placement ? [one] : [];
  });
  const ids = new Set<string>(nets.map((one) => one.id));
  const ties = (plan.ties ?? []).filter((tie) => tie.nets.every((id) => ids.has(id)));
  const placing = placePlan(
    device,
    pkg,
    { ...plan, nets, ties },
    {
      nodes: NODES,
      explain: false,
      weights: { moves: 1000, special: 200, near: 1, scarce: 1, complete: 30, order: 0 },
    },
  );
  if (placing.status !== 'optimal' && placing.status !== 'feasible') return undefined;
  return placing.moves.filter((move) => move.net.id !== net.id);
}
