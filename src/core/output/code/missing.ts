import type { Derived } from '../../derive/derive';
import { roleText } from '../../plan/model/types';

/** Nets of the plan that the code does not know, and why; in the plan's order. */
export function missingNets(derived: Derived): { name: string; why: string }[] {
  return derived.resolved.flatMap(({ net, pad, planned, pins }) => {
    if (planned && pins.length > 0) return [];
    const why =
      net.placement === null
        ? 'has no pad'
        : !pad
          ? `there is no pad ${net.placement.pad}`
          : pins.length === 0
            ? `pad ${pad.id} is not in this package`
            : `pad ${pad.id} cannot be ${roleText(net.role)}`;
    return [{ name: net.name, why }];
  });
}
