import type { Net, NetId, Plan } from '../plan/model/types';

/** Which net of one plan is which of another. */
export interface Aligned {
  /** Pairs, in the order of the first plan. */
  both: readonly (readonly [from: Net, to: Net])[];
  gone: readonly Net[];
  added: readonly Net[];
  /** Ids of the second plan's nets as the first plan has them; new ones stay as they are. */
  idFrom: ReadonlyMap<NetId, NetId>;
}

/** Nets are the same by their ids; of those left over, by their names: plans that were made apart have other ids. */
export function alignNets(from: Plan, to: Plan): Aligned {
  const left = new Map(to.nets.map((net) => [net.id, net]));
  const pairs = new Map<Net, Net>();
  for (const net of from.nets) {
    const other = left.get(net.id);
    if (!other) continue;
    pairs.set(net, other);
    left.delete(net.id);
  }
  const byName = new Map([...left.values()].map((net) => [net.name.toLowerCase(), net]));
  for (const net of from.nets) {
    const other = pairs.has(net) ? undefined : byName.get(net.name.toLowerCase());
    if (!other || !left.has(other.id)) continue;
    pairs.set(net, other);
    left.delete(other.id);
  }
  return {
    both: from.nets.flatMap((net) => {
      const other = pairs.get(net);
      return other ? [[net, other] as const] : [];
    }),
    gone: from.nets.filter((net) => !pairs.has(net)),
    added: to.nets.filter((net) => left.has(net.id)),
    idFrom: new Map([...pairs].map(([net, other]) => [other.id, net.id])),
  };
}
