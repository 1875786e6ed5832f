import { canonicalJson } from '../../base/fingerprint';
import { append } from '../../base/lists';
import type { BatchEdit, Edit } from '../edits/edits';
import { NET_FIELDS, netField } from '../edits/net-set';
import { PLAN_FIELDS, planField } from '../edits/plan-set';
import {
  entryOf,
  NET_SETTING_KEYS,
  type Net,
  type NetSettingKey,
  PLAN_TABLES,
  type Plan,
  tableOf,
} from '../model/types';
import { inSameOrder } from './order';

const same = (a: unknown, b: unknown): boolean => canonicalJson(a) === canonicalJson(b);

/**
 * The edit that makes one plan another: `apply(from, editBetween(from, to)) = to`, by as few steps as say it. It is used to bring
 * back an earlier state: as an edit it can be undone, and nothing that happened in between is lost from the log.
 */
export function editBetween(from: Plan, to: Plan, label: string): BatchEdit {
  const going = goingNets(from, to);
  return {
    kind: 'batch',
    label,
    edits: [
      ...ownEdits(from, to),
      ...takenOut(from, to, going),
      ...newCircuits(from, to),
      ...netEdits(from, to, going),
      ...circuitEdits(from, to),
      ...putIn(from, to, going),
      ...tableEdits(from, to),
      ...(same(from.schematic ?? null, to.schematic ?? null)
        ? []
        : [{ kind: 'schematic.set', from: from.schematic ?? null, to: to.schematic ?? null } as const]),
    ],
  };
}

function ownEdits(from: Plan, to: Plan): Edit[] {
  return PLAN_FIELDS.flatMap((field): Edit[] => {
    const [was, is] = [planField(from, field), planField(to, field)];
    return was === is ? [] : [{ kind: 'plan.set', field, from: was, to: is }];
  });
}

/** Nets that are taken out: those that are not in the other plan, and those that stand elsewhere in its list. */
function goingNets(from: Plan, to: Plan): Set<string> {
  const staying = inSameOrder(ids(from.nets), ids(to.nets));
  return new Set(from.nets.flatMap(({ id }) => (staying.has(id) ? [] : [id])));
}

const ids = (list: readonly { id: string }[]): string[] => list.map((one) => one.id);

const ITEMS = [
  { key: 'constraints', add: 'constraint.add', remove: 'constraint.remove', as: 'constraint' },
  { key: 'attachments', add: 'attachment.add', remove: 'attachment.remove', as: 'attachment' },
  { key: 'trials', add: 'trial.add', remove: 'trial.remove', as: 'trial' },
  { key: 'waivers', add: 'waiver.add', remove: 'waiver.remove', as: 'waiver' },
] as const;

type Item = { id: string; nets?: readonly string[] };

const itemsOf = (plan: Plan, key: (typeof ITEMS)[number]['key']): readonly Item[] =>
  (plan[key] ?? []) as readonly Item[];

/** Items that stay: equal in both, in one order, and about no net that is taken out meanwhile. */
function stayingItems(
  from: Plan,
  to: Plan,
  key: (typeof ITEMS)[number]['key'],
  going: ReadonlySet<string>,
): Set<string> {
  const [was, is] = [itemsOf(from, key), itemsOf(to, key)];
  const other = new Map(is.map((one) => [one.id, one]));
  const holdsNets = key === 'constraints' || key === 'attachments';
  const equal = was.filter(
    (one) => same(one, other.get(one.id)) && !(holdsNets && one.nets?.some((net) => going.has(net))),
  );
  return inSameOrder(ids(equal), ids(is));
}

function takenOut(from: Plan, to: Plan, going: ReadonlySet<string>): Edit[] {
  return ITEMS.flatMap(({ key, remove, as }) => {
    const staying = stayingItems(from, to, key, going);
    return itemsOf(from, key)
      .flatMap((one, at) => (staying.has(one.id) ? [] : [{ kind: remove, [as]: one, at } as unknown as Edit]))
      .reverse();
  });
}

function putIn(from: Plan, to: Plan, going: ReadonlySet<string>): Edit[] {
  return ITEMS.flatMap(({ key, add, as }) => {
    const staying = stayingItems(from, to, key, going);
    return itemsOf(to, key).flatMap((one, at) =>
      staying.has(one.id) ? [] : [{ kind: add, [as]: one, at } as unknown as Edit],
    );
  });
}

function newCircuits(from: Plan, to: Plan): Edit[] {
  const there = new Set(ids(from.circuits));
  const fresh = to.circuits.filter(({ id }) => !there.has(id));
  return fresh.map((circuit, index) => ({
    kind: 'circuit.add',
    circuit,
    at: from.circuits.length + index,
  }));
}

/** Names of circuits, those that are gone, and their order. */
function circuitEdits(from: Plan, to: Plan): Edit[] {
  const edits: Edit[] = [];
  const wanted = new Map(to.circuits.map((one) => [one.id, one]));
  const there = new Set(ids(from.circuits));
  const now = [...from.circuits, ...to.circuits.filter(({ id }) => !there.has(id))];
  for (const circuit of from.circuits) {
    const other = wanted.get(circuit.id);
    if (other && other.name !== circuit.name)
      edits.push({ kind: 'circuit.set', id: circuit.id, field: 'name', from: circuit.name, to: other.name });
  }
  for (const circuit of [...now].reverse()) {
    if (wanted.has(circuit.id)) continue;
    const at = now.indexOf(circuit);
    edits.push({ kind: 'circuit.remove', circuit, at });
    now.splice(at, 1);
  }
  to.circuits.forEach(({ id }, at) => {
    const current = now.findIndex((one) => one.id === id);
    if (current === at) return;
    edits.push({ kind: 'circuit.move', id, from: current, to: at });
    now.splice(at, 0, ...now.splice(current, 1));
  });
  return edits;
}

function netEdits(from: Plan, to: Plan, going: ReadonlySet<string>): Edit[] {
  const edits: Edit[] = [];
  const was = new Map(from.nets.map((net) => [net.id, net]));
  from.nets.forEach((net, at) => {
    if (going.has(net.id)) edits.push({ kind: 'net.remove', net, at });
  });
  edits.reverse();
  for (const net of to.nets) {
    const old = was.get(net.id);
    if (old && !going.has(net.id)) append(edits, changesOf(old, net));
  }
  to.nets.forEach((net, at) => {
    if (!was.has(net.id) || going.has(net.id)) edits.push({ kind: 'net.add', net, at });
  });
  return edits;
}

/** One net made another, field by field and setting by setting. */
function changesOf(from: Net, to: Net): Edit[] {
  const fields = NET_FIELDS.flatMap((field) => {
    const [was, is] = [netField(from, field), netField(to, field)];
    return same(was, is) ? [] : [{ kind: 'net.set', id: from.id, field, from: was, to: is } as Edit];
  });
  const keys = new Set<NetSettingKey>([
    ...NET_SETTING_KEYS,
    ...(Object.keys(from.settings) as NetSettingKey[]),
    ...(Object.keys(to.settings) as NetSettingKey[]),
  ]);
  const settings = [...keys].flatMap((key): Edit[] => {
    const [was, is] = [from.settings[key] ?? null, to.settings[key] ?? null];
    return was === is ? [] : [{ kind: 'net.setting', id: from.id, key, from: was, to: is }];
  });
  return [...fields, ...settings];
}

function tableEdits(from: Plan, to: Plan): Edit[] {
  return PLAN_TABLES.flatMap((table) => {
    const keys = new Set([...Object.keys(tableOf(from, table)), ...Object.keys(tableOf(to, table))]);
    return [...keys].flatMap((key): Edit[] => {
      const [was, is] = [entryOf(from, table, key) ?? null, entryOf(to, table, key) ?? null];
      return was === is ? [] : [{ kind: 'table.set', table, key, from: was, to: is }];
    });
  });
}
