import { type Edit, netField } from './edit';
import {
  type Circuit,
  type Demands,
  entryOf,
  type FarEnd,
  type Net,
  type NetSettingKey,
  type Placement,
  type Plan,
  type PlanTable,
  type Role,
  roleText,
  type Tie,
  type Waiver,
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

export const addTie = (plan: Plan, tie: Tie): Edit => ({ kind: 'tie.add', tie, at: plan.ties?.length ?? 0 });
export const removeTie = (plan: Plan, tie: Tie): Edit => ({
  kind: 'tie.remove',
  tie,
  at: plan.ties?.indexOf(tie) ?? 0,
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

/** Takes a net out, its circuit with it when it was the last one in there, and its part in ties. */
export const removeNet = (plan: Plan, net: Net): Edit => removeNets(plan, [net]);

/** Takes nets out, circuits that are empty then, and their part in ties: a tie of one net ties nothing. */
export function removeNets(plan: Plan, nets: readonly Net[]): Edit {
  const going = new Set(nets.map((net) => net.id));
  const edits: Edit[] = [];
  for (const tie of plan.ties ?? []) {
    if (!tie.nets.some((id) => going.has(id))) continue;
    const at = plan.ties?.indexOf(tie) ?? 0;
    const left = tie.nets.filter((id) => !going.has(id));
    edits.push({ kind: 'tie.remove', tie, at });
    if (left.length > 1 && tie.kind !== 'pair')
      edits.push({ kind: 'tie.add', tie: { ...tie, nets: left }, at });
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
  ties: readonly Tie[] = [],
): Extract<Edit, { kind: 'batch' }> {
  const edits: Edit[] = circuits.map((circuit, position) => ({
    kind: 'circuit.add',
    circuit,
    at: plan.circuits.length + position,
  }));
  nets.forEach((net, position) => {
    edits.push({ kind: 'net.add', net, at: plan.nets.length + position });
  });
  ties.forEach((tie, position) => {
    edits.push({ kind: 'tie.add', tie, at: (plan.ties?.length ?? 0) + position });
  });
  const label = nets.length === 1 ? `add ${nets[0]?.name}` : `add ${nets.length} nets`;
  return { kind: 'batch', label, edits };
}

/**
 * A circuit once more under another name: its nets without their pads, its ties, and nothing named twice. Signals of one
 * instance cannot be had twice; `openRole` leaves the instance open.
 */
export function copyCircuit(
  plan: Plan,
  circuit: Circuit,
  newId: () => string,
  openRole: (role: Role) => Role,
): Edit {
  const names = new Set(plan.circuits.map((one) => one.name.toLowerCase()));
  const stem = circuit.name.replace(/ \d+$/, '');
  let number = 2;
  while (names.has(`${stem} ${number}`.toLowerCase())) number++;
  const copy: Circuit = { id: newId(), name: `${stem} ${number}` };
  const taken = new Set(plan.nets.map((net) => net.name.toLowerCase()));
  const ids = new Map<string, string>();
  const nets = plan.nets
    .filter((net) => net.circuit === circuit.id)
    .map((net): Net => {
      // FAN_1 → FAN2_1: the circuit's word gets the number, so that counting names still count.
      const [head = net.name, ...rest] = net.name.split('_');
      const base = [`${head.replace(/\d+$/, '')}${number}`, ...rest].join('_');
      let name = base;
      for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${base}_${n}`;
      taken.add(name.toLowerCase());
      const id = newId();
      ids.set(net.id, id);
      return { ...net, id, name, circuit: copy.id, role: openRole(net.role), placement: null };
    });
  const ties = (plan.ties ?? [])
    .filter((tie) => tie.nets.every((id) => ids.has(id)))
    .map((tie): Tie => ({ ...tie, id: newId(), nets: tie.nets.map((id) => ids.get(id) ?? id) }));
  return { ...addNets(plan, [copy], nets, ties), label: `copy ${circuit.name}` };
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
        case 'demands':
          return `change what ${nameOf(edit.id)} demands`;
        case 'far':
          return `change the far end of ${nameOf(edit.id)}`;
      }
      break;
    case 'tie.add':
      return `tie ${edit.tie.nets.map(nameOf).join(', ')}`;
    case 'tie.remove':
      return `untie ${edit.tie.nets.map(nameOf).join(', ')}`;
    case 'waiver.add':
      return `waive ${edit.waiver.rule}`;
    case 'waiver.remove':
      return `take back the waiver of ${edit.waiver.rule}`;
    case 'table.set':
      return `set ${edit.table} of ${edit.key === '*' ? 'all' : edit.key} to ${edit.to ?? 'the default'}`;
    case 'schematic.set':
      return edit.to ? `take in the netlist ${edit.to.file}` : 'drop the netlist';
    case 'batch':
      return edit.label;
  }
  return 'change';
}
