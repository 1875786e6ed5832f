import { LIMITS } from '../../base/limits';
import { planRef } from '../model/schema-parts';
import type { Constraint, Net, NetId } from '../model/types';
import { type EditKind, POSITION, refuse, shape, unsigned } from './kind';
import { addTo, takeFrom } from './listed';

export interface ConstraintAddEdit {
  kind: 'constraint.add';
  constraint: Constraint;
  at: number;
}

export interface ConstraintRemoveEdit extends Omit<ConstraintAddEdit, 'kind'> {
  kind: 'constraint.remove';
}

/** What is wrong with a constraint by itself: too few nets, too many, or one of them twice. */
export function constraintFault({ kind, nets }: Pick<Constraint, 'kind' | 'nets'>): string | undefined {
  if (new Set(nets).size < nets.length) return 'a net is in it twice';
  if (nets.length > LIMITS.constraintNets)
    return `it has ${nets.length} nets; a constraint takes at most ${LIMITS.constraintNets}`;
  if (kind === 'pair' ? nets.length !== 2 : nets.length < 2)
    return `a ${kind} constraint is on ${kind === 'pair' ? 'two' : 'two or more'} nets, not on ${nets.length}`;
  return undefined;
}

const netIds = new WeakMap<readonly Net[], ReadonlySet<NetId>>();

/** Ids of a list of nets, made once a list: no edit changes a net's id. */
function idsOf(nets: readonly Net[]): ReadonlySet<NetId> {
  let ids = netIds.get(nets);
  if (!ids) {
    ids = new Set(nets.map((net) => net.id));
    netIds.set(nets, ids);
  }
  return ids;
}

const whole = (kind: string) => shape(kind, { constraint: planRef('constraint'), at: POSITION });

export const constraintAdd: EditKind<ConstraintAddEdit> = {
  signs: unsigned,
  /** A constraint holds only while all its nets are there, so that every plan can be read back. */
  apply(plan, { constraint, at }) {
    const fault = constraintFault(constraint);
    if (fault) return refuse(`that constraint cannot be: ${fault}`);
    if (!constraint.nets.every((id) => idsOf(plan.nets).has(id)))
      return refuse('a net of that constraint is gone');
    return addTo(plan, 'constraints', constraint, at, 'that constraint');
  },
  invert: (edit) => ({ ...edit, kind: 'constraint.remove' }),
  describe: ({ constraint: { kind, nets } }, nameOf) =>
    `add a ${kind} constraint on ${nets.map(nameOf).join(', ')}`,
  schemas: whole('constraint.add'),
};

export const constraintRemove: EditKind<ConstraintRemoveEdit> = {
  signs: unsigned,
  apply: (plan, { constraint }) => takeFrom(plan, 'constraints', constraint, 'that constraint'),
  invert: (edit) => ({ ...edit, kind: 'constraint.add' }),
  describe: ({ constraint: { kind, nets } }, nameOf) =>
    `remove the ${kind} constraint on ${nets.map(nameOf).join(', ')}`,
  schemas: whole('constraint.remove'),
};
