import type { Edit } from './edit';
import {
  type Circuit,
  type Net,
  type NetSettingKey,
  type Placement,
  type Plan,
  type Role,
  roleText,
} from './types';

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

/** Takes a net out, and its circuit with it when it was the last one in there. */
export function removeNet(plan: Plan, net: Net): Edit {
  const out: Edit = { kind: 'net.remove', net, at: plan.nets.indexOf(net) };
  const at = plan.circuits.findIndex((circuit) => circuit.id === net.circuit);
  const circuit = plan.circuits[at];
  const last = plan.nets.every((other) => other === net || other.circuit !== net.circuit);
  return last && circuit
    ? { kind: 'batch', label: `remove ${net.name}`, edits: [out, { kind: 'circuit.remove', circuit, at }] }
    : out;
}

/** Adds nets at the end of their circuits, and the circuits that are new. */
export function addNets(plan: Plan, circuits: readonly Circuit[], nets: readonly Net[]): Edit {
  const edits: Edit[] = circuits.map((circuit, position) => ({
    kind: 'circuit.add',
    circuit,
    at: plan.circuits.length + position,
  }));
  nets.forEach((net, position) => {
    edits.push({ kind: 'net.add', net, at: plan.nets.length + position });
  });
  const label = nets.length === 1 ? `add ${nets[0]?.name}` : `add ${nets.length} nets`;
  return { kind: 'batch', label, edits };
}

/** What an edit does, for the undo button and the history: "place FAN_1 on F6". */
export function describeEdit(plan: Plan, edit: Edit): string {
  const nameOf = (id: string): string => plan.nets.find((net) => net.id === id)?.name ?? 'net';
  switch (edit.kind) {
    case 'plan.set':
      if (edit.field === 'deviceFingerprint') return 'take over the changed part';
      return `set ${edit.field} to ${edit.to || 'the default'}`;
    case 'circuit.add':
      return `add circuit ${edit.circuit.name}`;
    case 'circuit.remove':
      return `remove circuit ${edit.circuit.name}`;
    case 'circuit.set':
      return `rename circuit ${edit.from} to ${edit.to}`;
    case 'net.add':
      return `add ${edit.net.name}`;
    case 'net.remove':
      return `remove ${edit.net.name}`;
    case 'net.setting':
      return `set ${edit.key} of ${nameOf(edit.id)} to ${edit.to ?? 'the default'}`;
    case 'net.set':
      switch (edit.field) {
        case 'name':
          return `rename ${edit.from} to ${edit.to}`;
        case 'placement':
          if (!edit.to) return `take ${nameOf(edit.id)} off ${edit.from?.pad}`;
          if (edit.from?.pad === edit.to.pad)
            return `${edit.to.held ? 'hold' : 'release'} ${nameOf(edit.id)}`;
          return `place ${nameOf(edit.id)} on ${edit.to.pad}`;
        case 'role':
          return `make ${nameOf(edit.id)} ${roleText(edit.to)}`;
        case 'circuit':
          return `move ${nameOf(edit.id)} to another circuit`;
        case 'note':
          return `note on ${nameOf(edit.id)}`;
      }
      break;
    case 'batch':
      return edit.label;
  }
  return 'change';
}
