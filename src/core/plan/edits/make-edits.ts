import { freeName, numberedName, takenBy } from '../../base/text/free-name';
import type { Attachment } from '../model/attachments';
import {
  type Circuit,
  type Constraint,
  type Demands,
  entryOf,
  type FarEnd,
  type Net,
  type NetSettingKey,
  type Placement,
  type Plan,
  type PlanTable,
  type Role,
  type Trial,
  type Waiver,
} from '../model/types';
import type { Edit } from './edits';
import { netField } from './net-set';

/** Builders of edits against the plan as it is now: they fill in `from`. */

export const placeNet = (net: Net, to: Placement | null): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'placement',
  from: net.placement,
  to,
});

export const renameNet = (net: Net, to: string): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'name',
  from: net.name,
  to,
});

export const setRole = (net: Net, to: Role): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'role',
  from: net.role,
  to,
});

export const setDemands = (net: Net, to: Demands): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'demands',
  from: netField(net, 'demands'),
  to: without(to),
});

export const setFar = (net: Net, to: FarEnd): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'far',
  from: netField(net, 'far'),
  to: without(to),
});

/** An object without its undefined entries: what JSON would make of it. */
const without = <T extends object>(value: T): T =>
  Object.fromEntries(Object.entries(value).filter(([, one]) => one !== undefined)) as T;

export const addConstraint = (plan: Plan, constraint: Constraint): Edit => ({
  kind: 'constraint.add',
  constraint,
  at: plan.constraints?.length ?? 0,
});
export const removeConstraint = (plan: Plan, constraint: Constraint): Edit => ({
  kind: 'constraint.remove',
  constraint,
  at: plan.constraints?.indexOf(constraint) ?? 0,
});
export const addWaiver = (plan: Plan, waiver: Waiver): Edit => ({
  kind: 'waiver.add',
  waiver,
  at: plan.waivers?.length ?? 0,
});
export const removeWaiver = (plan: Plan, waiver: Waiver): Edit => ({
  kind: 'waiver.remove',
  waiver,
  at: plan.waivers?.indexOf(waiver) ?? 0,
});

export const addAttachment = (plan: Plan, attachment: Attachment): Edit => ({
  kind: 'attachment.add',
  attachment,
  at: plan.attachments?.length ?? 0,
});
export const removeAttachment = (plan: Plan, attachment: Attachment): Edit => ({
  kind: 'attachment.remove',
  attachment,
  at: plan.attachments?.indexOf(attachment) ?? 0,
});
/** Something attached becomes something else, or gets other figures. */
export const changeAttachment = (plan: Plan, from: Attachment, to: Attachment): Edit => ({
  kind: 'batch',
  label: `change what is attached`,
  edits: [
    removeAttachment(plan, from),
    { kind: 'attachment.add', attachment: to, at: plan.attachments?.indexOf(from) ?? 0 },
  ],
});

export const addTrial = (plan: Plan, trial: Trial): Edit => ({
  kind: 'trial.add',
  trial,
  at: plan.trials?.length ?? 0,
});
export const removeTrial = (plan: Plan, trial: Trial): Edit => ({
  kind: 'trial.remove',
  trial,
  at: plan.trials?.indexOf(trial) ?? 0,
});
/** A trial gets other lines or another name. */
export const changeTrial = (plan: Plan, from: Trial, to: Trial): Edit => ({
  kind: 'batch',
  label: `change the trial ${to.name}`,
  edits: [removeTrial(plan, from), { kind: 'trial.add', trial: to, at: plan.trials?.indexOf(from) ?? 0 }],
});

export const setEntry = (plan: Plan, table: PlanTable, key: string, to: string | null): Edit => ({
  kind: 'table.set',
  table,
  key,
  from: entryOf(plan, table, key) ?? null,
  to,
});

export const setNote = (net: Net, to: string): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'note',
  from: net.note ?? '',
  to,
});

export const setCircuit = (net: Net, to: string): Edit => ({
  kind: 'net.set',
  id: net.id,
  field: 'circuit',
  from: net.circuit,
  to,
});

export const setSetting = (net: Net, key: NetSettingKey, to: string | null): Edit => ({
  kind: 'net.setting',
  id: net.id,
  key,
  from: net.settings[key] ?? null,
  to,
});

/** Takes a net out, its circuit with it when it was the last one in there, and its part in constraints. */
export const removeNet = (plan: Plan, net: Net): Edit => removeNets(plan, [net]);

/** Takes nets out, circuits that are empty then, and their part in constraints: a constraint on one net demands nothing. */
export function removeNets(plan: Plan, nets: readonly Net[]): Edit {
  const going = new Set(nets.map((net) => net.id));
  const edits: Edit[] = [];
  for (const constraint of plan.constraints ?? []) {
    if (!constraint.nets.some((id) => going.has(id))) continue;
    const at = plan.constraints?.indexOf(constraint) ?? 0;
    const left = constraint.nets.filter((id) => !going.has(id));
    edits.push({ kind: 'constraint.remove', constraint, at });
    if (left.length > 1 && constraint.kind !== 'pair')
      edits.push({ kind: 'constraint.add', constraint: { ...constraint, nets: left }, at });
  }
  for (const attachment of plan.attachments ?? []) {
    if (!attachment.nets.some((id) => going.has(id))) continue;
    const at = plan.attachments?.indexOf(attachment) ?? 0;
    edits.push({ kind: 'attachment.remove', attachment, at });
  }
  // From the last to the first, so that undo puts each back at its own place.
  for (const net of [...plan.nets].reverse())
    if (going.has(net.id)) edits.push({ kind: 'net.remove', net, at: plan.nets.indexOf(net) });
  for (const circuit of [...plan.circuits].reverse()) {
    const inside = plan.nets.filter((net) => net.circuit === circuit.id);
    if (inside.length > 0 && inside.every((net) => going.has(net.id)))
      edits.push({ kind: 'circuit.remove', circuit, at: plan.circuits.indexOf(circuit) });
  }
  const [only] = edits;
  const label = nets.length === 1 ? `remove ${nets[0]?.name}` : `remove ${nets.length} nets`;
  return edits.length === 1 && only ? only : { kind: 'batch', label, edits };
}

/** Adds nets at the end of their circuits, and the circuits that are new. */
export function addNets(
  plan: Plan,
  circuits: readonly Circuit[],
  nets: readonly Net[],
  constraints: readonly Constraint[] = [],
  attachments: readonly Attachment[] = [],
): Extract<Edit, { kind: 'batch' }> {
  const edits: Edit[] = circuits.map((circuit, position) => ({
    kind: 'circuit.add',
    circuit,
    at: plan.circuits.length + position,
  }));
  nets.forEach((net, position) => {
    edits.push({ kind: 'net.add', net, at: plan.nets.length + position });
  });
  constraints.forEach((constraint, position) => {
    edits.push({ kind: 'constraint.add', constraint, at: (plan.constraints?.length ?? 0) + position });
  });
  attachments.forEach((attachment, position) => {
    edits.push({ kind: 'attachment.add', attachment, at: (plan.attachments?.length ?? 0) + position });
  });
  const label = nets.length === 1 ? `add ${nets[0]?.name}` : `add ${nets.length} nets`;
  return { kind: 'batch', label, edits };
}

/**
 * A circuit once more under another name: its nets without their pads, its constraints, and nothing named twice. Signals of one
 * instance cannot be had twice; `openRole` leaves the instance open.
 */
export function copyCircuit(
  plan: Plan,
  circuit: Circuit,
  newId: () => string,
  openRole: (role: Role) => Role,
): Edit {
  const stem = circuit.name.replace(/ \d+$/, '');
  const copy: Circuit = { id: newId(), name: numberedName(stem, takenBy(plan.circuits), ' ') };
  const number = copy.name.slice(stem.length + 1);
  const taken = new Set(plan.nets.map((net) => net.name.toLowerCase()));
  const ids = new Map<string, string>();
  const nets = plan.nets
    .filter((net) => net.circuit === circuit.id)
    .map((net): Net => {
      // FAN_1 → FAN2_1: the circuit's word gets the number, so that counting names still count.
      const [head = net.name, ...rest] = net.name.split('_');
      const base = [`${head.replace(/\d+$/, '')}${number}`, ...rest].join('_');
      const name = freeName(base, (one) => taken.has(one.toLowerCase()));
      taken.add(name.toLowerCase());
      const id = newId();
      ids.set(net.id, id);
      return { ...net, id, name, circuit: copy.id, role: openRole(net.role), placement: null };
    });
  const constraints = (plan.constraints ?? [])
    .filter((constraint) => constraint.nets.every((id) => ids.has(id)))
    .map(
      (constraint): Constraint => ({
        ...constraint,
        id: newId(),
        nets: constraint.nets.map((id) => ids.get(id) ?? id),
      }),
    );
  const attachments = (plan.attachments ?? [])
    .filter((one) => one.nets.every((id) => ids.has(id)))
    .map((one): Attachment => ({ ...one, id: newId(), nets: one.nets.map((id) => ids.get(id) ?? id) }));
  return { ...addNets(plan, [copy], nets, constraints, attachments), label: `copy ${circuit.name}` };
}

/** One edit for several nets. */
export const forAll = (
  nets: readonly Net[],
  label: string,
  editOf: (net: Net) => Edit | undefined,
): Edit => ({
  kind: 'batch',
  label,
  edits: nets.flatMap((net) => editOf(net) ?? []),
});
