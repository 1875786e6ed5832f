import { LIMITS } from '../../base/limits';
import { ok } from '../../base/result';
import { listed } from '../../base/text/listed';
import { planRef } from '../model/schema-parts';
import type { Circuit, CircuitId } from '../model/types';
import {
  change,
  changedMeanwhile,
  type EditKind,
  full,
  insertAt,
  POSITION,
  refuse,
  replace,
  shape,
  unsigned,
} from './kind';

export interface CircuitAddEdit {
  kind: 'circuit.add';
  circuit: Circuit;
  at: number;
}

export interface CircuitRemoveEdit extends Omit<CircuitAddEdit, 'kind'> {
  kind: 'circuit.remove';
}

export interface CircuitSetEdit {
  kind: 'circuit.set';
  id: CircuitId;
  field: 'name';
  from: string;
  to: string;
}

/** Puts a circuit at another place among the others. */
export interface CircuitMoveEdit {
  kind: 'circuit.move';
  id: CircuitId;
  from: number;
  to: number;
}

const whole = (kind: string) => shape(kind, { circuit: planRef('circuit'), at: POSITION });

export const circuitAdd: EditKind<CircuitAddEdit> = {
  signs: unsigned,
  apply(plan, { circuit, at }) {
    if (plan.circuits.some((one) => one.id === circuit.id))
      return refuse(`circuit ${circuit.name} is there already`);
    if (plan.circuits.length >= LIMITS.circuits) return full('circuits');
    return ok({ ...plan, circuits: insertAt(plan.circuits, circuit, at) });
  },
  invert: (edit) => ({ ...edit, kind: 'circuit.remove' }),
  describe: ({ circuit }) => `add circuit ${circuit.name}`,
  schemas: whole('circuit.add'),
};

export const circuitRemove: EditKind<CircuitRemoveEdit> = {
  signs: unsigned,
  apply(plan, { circuit }) {
    if (!plan.circuits.some((one) => one.id === circuit.id))
      return refuse(`circuit ${circuit.name} is gone already`);
    const inside = plan.nets.filter((net) => net.circuit === circuit.id).map((net) => net.name);
    if (inside.length > 0) return refuse(`circuit ${circuit.name} still holds ${listed(inside, 5)}`);
    return ok({ ...plan, circuits: plan.circuits.filter((one) => one.id !== circuit.id) });
  },
  invert: (edit) => ({ ...edit, kind: 'circuit.add' }),
  describe: ({ circuit }) => `remove circuit ${circuit.name}`,
  schemas: whole('circuit.remove'),
};

export const circuitMove: EditKind<CircuitMoveEdit> = {
  signs: unsigned,
  apply(plan, { id, from, to }) {
    const circuit = plan.circuits[from];
    if (circuit?.id !== id) return refuse('the order of circuits has changed meanwhile');
    const others = plan.circuits.filter((one) => one !== circuit);
    if (to > others.length) return refuse('there are not so many circuits');
    return ok({ ...plan, circuits: insertAt(others, circuit, to) });
  },
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ from, to }) => `move a circuit ${to < from ? 'up' : 'down'}`,
  schemas: shape('circuit.move', { id: planRef('id'), from: POSITION, to: POSITION }),
};

export const circuitSet: EditKind<CircuitSetEdit> = {
  signs: unsigned,
  apply(plan, { id, from, to }) {
    const circuit = plan.circuits.find((one) => one.id === id);
    if (!circuit) return refuse('that circuit is gone');
    if (circuit.name !== from) return changedMeanwhile(circuit.name, 'the name', circuit.name);
    return ok({ ...plan, circuits: replace(plan.circuits, circuit, { ...circuit, name: to }) });
  },
  again(plan, edit) {
    const circuit = plan.circuits.find((one) => one.id === edit.id);
    return circuit && { ...edit, from: circuit.name };
  },
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ from, to }) => `rename circuit ${from} to ${to}`,
  schemas: shape('circuit.set', {
    id: planRef('id'),
    field: { const: 'name' },
    ...change(planRef('title')),
  }),
};
