import { canonicalJson } from '../../base/fingerprint';
import { LIMITS } from '../../base/limits';
import { ok } from '../../base/result';
import { listed } from '../../base/text/listed';
import { planRef } from '../model/schema-parts';
import type { Net, NetId, Plan } from '../model/types';
import { type EditKind, full, insertAt, POSITION, refuse, shape, unsigned } from './kind';

export interface NetAddEdit {
  kind: 'net.add';
  net: Net;
  at: number;
}

export interface NetRemoveEdit extends Omit<NetAddEdit, 'kind'> {
  kind: 'net.remove';
}

const whole = (kind: string) => shape(kind, { net: planRef('net'), at: POSITION });

export const nameIn = (plan: Plan, id: NetId): string => plan.nets.find((net) => net.id === id)?.name ?? id;

export const netAdd: EditKind<NetAddEdit> = {
  signs: unsigned,
  apply(plan, { net, at }) {
    if (plan.nets.length >= LIMITS.nets) return full('nets');
    if (plan.nets.some((one) => one.id === net.id)) return refuse(`${net.name} is there already`);
    if (!plan.circuits.some((circuit) => circuit.id === net.circuit))
      return refuse(`the circuit that ${net.name} belongs to is gone`);
    return ok({ ...plan, nets: insertAt(plan.nets, net, at) });
  },
  invert: (edit) => ({ ...edit, kind: 'net.remove' }),
  describe: ({ net }) => `add ${net.name}`,
  schemas: whole('net.add'),
};

export const netRemove: EditKind<NetRemoveEdit> = {
  signs: unsigned,
  apply(plan, edit) {
    const net = plan.nets.find((one) => one.id === edit.net.id);
    if (!net) return refuse(`${edit.net.name} is gone already`);
    // The removed net travels in the edit so that undo brings all of it back; a stale copy would lose newer changes.
    if (canonicalJson(net) !== canonicalJson(edit.net))
      return refuse(`${net.name} was changed meanwhile; it stays`);
    const constraint = plan.constraints?.find((one) => one.nets.includes(net.id));
    if (constraint) {
      const others = constraint.nets.filter((id) => id !== net.id).map((id) => nameIn(plan, id));
      return refuse(
        `${net.name} is in a ${constraint.kind} constraint with ${listed(others, 5)}; it stays until that is removed`,
      );
    }
    if (plan.attachments?.some((one) => one.nets.includes(net.id)))
      return refuse(`something is attached to ${net.name}; it stays until that is taken off`);
    return ok({ ...plan, nets: plan.nets.filter((one) => one !== net) });
  },
  invert: (edit) => ({ ...edit, kind: 'net.add' }),
  describe: ({ net }) => `remove ${net.name}`,
  schemas: whole('net.remove'),
};
