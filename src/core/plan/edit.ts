import { canonicalJson } from '../fingerprint';
import { LIMITS, type Limit, limitText } from '../limits';
import type { CodeStyle } from '../recipe/operations';
import { fail, ok, type Result, unreachable } from '../result';
import { listed } from '../text/listed';
import {
  type Circuit,
  type CircuitId,
  entryOf,
  type Net,
  type NetId,
  type NetSettingKey,
  type Plan,
  type PlanTable,
  type Schematic,
  type Tie,
  tableOf,
  type Waiver,
} from './types';

/**
 * A change to a plan: small, serialisable, invertible. A step says what it found (`from`) as well as what it makes (`to`),
 * so that it either applies to exactly what its author saw or says why not; edits of different things never get in each
 * other's way.
 */
export type Edit =
  | SetEdit<'plan.set', PlanField, string>
  | { kind: 'circuit.add'; circuit: Circuit; at: number }
  | { kind: 'circuit.remove'; circuit: Circuit; at: number }
  | { kind: 'circuit.set'; id: CircuitId; field: 'name'; from: string; to: string }
  | { kind: 'net.add'; net: Net; at: number }
  | { kind: 'net.remove'; net: Net; at: number }
  | NetSetEdit
  | { kind: 'net.setting'; id: NetId; key: NetSettingKey; from: string | null; to: string | null }
  | { kind: 'tie.add'; tie: Tie; at: number }
  | { kind: 'tie.remove'; tie: Tie; at: number }
  | { kind: 'waiver.add'; waiver: Waiver; at: number }
  | { kind: 'waiver.remove'; waiver: Waiver; at: number }
  | { kind: 'table.set'; table: PlanTable; key: string; from: string | null; to: string | null }
  | { kind: 'schematic.set'; from: Schematic | null; to: Schematic | null }
  | { kind: 'batch'; label: string; edits: Edit[] };

interface SetEdit<Kind, Field, Value> {
  kind: Kind;
  field: Field;
  from: Value;
  to: Value;
}

export type PlanField =
  | 'name'
  | 'revision'
  | 'device'
  | 'package'
  | 'deviceFingerprint'
  | 'code.prefix'
  | 'code.style'
  | 'code.incomplete';

type NetField = 'name' | 'circuit' | 'role' | 'placement' | 'note' | 'demands' | 'far';
export type NetSetEdit = {
  [Field in NetField]: {
    kind: 'net.set';
    id: NetId;
    field: Field;
    from: NetValue<Field>;
    to: NetValue<Field>;
  };
}[NetField];
type NetValue<Field extends NetField> = Field extends 'note'
  ? string
  : NonNullable<Net[Field]> | NullOf<Field>;
type NullOf<Field extends NetField> = Field extends 'placement' ? null : never;

const nameOf = (plan: Plan, id: NetId): string => plan.nets.find((net) => net.id === id)?.name ?? id;

const full = (limit: Limit): Result<never> => refuse(`a plan takes at most ${limitText(limit)}`);

const refuse = (message: string): Result<never> => fail({ place: 'edit', message });

/** Applies an edit. On refusal the plan is untouched and the problem says, for a person, why. */
export function applyEdit(plan: Plan, edit: Edit): Result<Plan> {
  switch (edit.kind) {
    case 'plan.set':
      return setPlanField(plan, edit.field, edit.from, edit.to);
    case 'circuit.add':
      if (plan.circuits.some((circuit) => circuit.id === edit.circuit.id)) {
        return refuse(`circuit ${edit.circuit.name} is there already`);
      }
      if (plan.circuits.length >= LIMITS.circuits) return full('circuits');
      return ok({ ...plan, circuits: insertAt(plan.circuits, edit.circuit, edit.at) });
    case 'circuit.remove': {
      if (!plan.circuits.some((circuit) => circuit.id === edit.circuit.id)) {
        return refuse(`circuit ${edit.circuit.name} is gone already`);
      }
      const inside = plan.nets.filter((net) => net.circuit === edit.circuit.id);
      if (inside.length > 0) {
        return refuse(
          `circuit ${edit.circuit.name} still holds ${listed(
            inside.map((net) => net.name),
            5,
          )}`,
        );
      }
      return ok({ ...plan, circuits: plan.circuits.filter((circuit) => circuit.id !== edit.circuit.id) });
    }
    case 'circuit.set': {
      const circuit = plan.circuits.find((one) => one.id === edit.id);
      if (!circuit) return refuse('that circuit is gone');
      if (circuit.name !== edit.from) return changedMeanwhile(circuit.name, 'the name', circuit.name);
      return ok({ ...plan, circuits: replace(plan.circuits, circuit, { ...circuit, name: edit.to }) });
    }
    case 'net.add':
      return addNet(plan, edit.net, edit.at);
    case 'net.remove': {
      const net = plan.nets.find((one) => one.id === edit.net.id);
      if (!net) return refuse(`${edit.net.name} is gone already`);
      // The removed net travels in the edit so that undo brings all of it back; a stale copy would lose newer changes.
      if (canonicalJson(net) !== canonicalJson(edit.net))
        return refuse(`${net.name} was changed meanwhile; it stays`);
      const tied = plan.ties?.find((tie) => tie.nets.includes(net.id));
      if (tied) {
        const others = tied.nets.filter((id) => id !== net.id).map((id) => nameOf(plan, id));
        return refuse(
          `${net.name} is tied (${tied.kind}) to ${listed(others, 5)}; it stays until it is untied`,
        );
      }
      return ok({ ...plan, nets: plan.nets.filter((one) => one !== net) });
    }
    case 'net.set':
      return setNetField(plan, edit);
    case 'net.setting':
      return setNetSetting(plan, edit);
    case 'tie.add':
      return addTie(plan, edit.tie, edit.at);
    case 'tie.remove':
      return takeFrom(plan, 'ties', edit.tie, 'that tie');
    case 'waiver.add':
      return addTo(plan, 'waivers', edit.waiver, edit.at, 'that waiver');
    case 'waiver.remove':
      return takeFrom(plan, 'waivers', edit.waiver, 'that waiver');
    case 'table.set':
      return setEntry(plan, edit);
    case 'schematic.set': {
      const now = plan.schematic ?? null;
      if (canonicalJson(now) !== canonicalJson(edit.from))
        return changedMeanwhile('the plan', 'the netlist', now ? now.file : 'none');
      const { schematic: _old, ...rest } = plan;
      return ok(edit.to === null ? rest : { ...rest, schematic: edit.to });
    }
    case 'batch':
      return applyBatch(plan, edit.edits);
    default:
      return unreachable(edit);
  }
}

/** The edit that takes an applied edit back: `apply(apply(p, e), invert(e)) = p`. */
export function invertEdit(edit: Edit): Edit {
  switch (edit.kind) {
    case 'plan.set':
    case 'circuit.set':
    case 'net.setting':
    case 'table.set':
    case 'schematic.set':
      return { ...edit, from: edit.to, to: edit.from } as Edit;
    case 'net.set':
      return { ...edit, from: edit.to, to: edit.from } as NetSetEdit;
    case 'circuit.add':
      return { ...edit, kind: 'circuit.remove' };
    case 'circuit.remove':
      return { ...edit, kind: 'circuit.add' };
    case 'net.add':
      return { ...edit, kind: 'net.remove' };
    case 'net.remove':
      return { ...edit, kind: 'net.add' };
    case 'tie.add':
      return { ...edit, kind: 'tie.remove' };
    case 'tie.remove':
      return { ...edit, kind: 'tie.add' };
    case 'waiver.add':
      return { ...edit, kind: 'waiver.remove' };
    case 'waiver.remove':
      return { ...edit, kind: 'waiver.add' };
    case 'batch':
      return { ...edit, edits: edit.edits.map(invertEdit).reverse() };
    default:
      return unreachable(edit);
  }
}

function setPlanField(plan: Plan, field: PlanField, from: string, to: string): Result<Plan> {
  const now = planField(plan, field);
  if (now !== from) return changedMeanwhile('the plan', field, now);
  switch (field) {
    case 'code.prefix':
      return ok({ ...plan, code: { ...plan.code, prefix: to } });
    case 'code.style':
      return ok({ ...plan, code: { ...plan.code, style: to as CodeStyle } });
    case 'code.incomplete': {
      const { incomplete: _old, ...rest } = plan.code;
      return ok({ ...plan, code: to === 'refuse' ? { ...rest, incomplete: to } : rest });
    }
    default:
      return ok({ ...plan, [field]: to });
  }
}

export function planField(plan: Plan, field: PlanField): string {
  switch (field) {
    case 'name':
    case 'revision':
    case 'device':
    case 'package':
    case 'deviceFingerprint':
      return plan[field];
    case 'code.prefix':
      return plan.code.prefix;
    case 'code.style':
      return plan.code.style;
    case 'code.incomplete':
      return plan.code.incomplete ?? 'allow';
  }
}

function addNet(plan: Plan, net: Net, at: number): Result<Plan> {
  if (plan.nets.length >= LIMITS.nets) return full('nets');
  if (plan.nets.some((one) => one.id === net.id)) return refuse(`${net.name} is there already`);
  if (!plan.circuits.some((circuit) => circuit.id === net.circuit)) {
    return refuse(`the circuit that ${net.name} belongs to is gone`);
  }
  return ok({ ...plan, nets: insertAt(plan.nets, net, at) });
}

/**
 * One step after the other; all or nothing. Changes of nets, which are most of large batches, are made in one copy of the list of
 * nets, found by their ids: ten thousand of them take time in proportion, not times two thousand.
 */
function applyBatch(plan: Plan, edits: readonly Edit[]): Result<Plan> {
  let current = plan;
  let own: { nets: Net[]; places: Map<NetId, number> } | undefined;
  for (const step of edits) {
    if (step.kind === 'net.set' || step.kind === 'net.setting') {
      if (!own) {
        own = { nets: [...current.nets], places: new Map(current.nets.map((net, at) => [net.id, at])) };
        current = { ...current, nets: own.nets };
      }
      const at = own.places.get(step.id);
      const net = at === undefined ? undefined : own.nets[at];
      if (at === undefined || !net) return refuse('that net is gone');
      const next = step.kind === 'net.set' ? withField(current, net, step) : withSetting(net, step);
      if (!next.ok) return next;
      own.nets[at] = next.value;
    } else {
      own = undefined;
      const next = applyEdit(current, step);
      if (!next.ok) return next;
      current = next.value;
    }
  }
  return ok(current);
}

/** How many steps an edit is, batches opened. */
export const stepsOf = (edit: Edit): number =>
  edit.kind === 'batch' ? edit.edits.reduce((sum, step) => sum + stepsOf(step), 0) : 1;

function setNetField(plan: Plan, edit: NetSetEdit): Result<Plan> {
  const net = plan.nets.find((one) => one.id === edit.id);
  if (!net) return refuse('that net is gone');
  const next = withField(plan, net, edit);
  return next.ok ? ok({ ...plan, nets: replace(plan.nets, net, next.value) }) : next;
}

function withField(plan: Plan, net: Net, edit: NetSetEdit): Result<Net> {
  const now = netField(net, edit.field);
  if (canonicalJson(now) !== canonicalJson(edit.from)) {
    return changedMeanwhile(net.name, edit.field, typeof now === 'string' ? now : describeValue(now));
  }
  if (edit.field === 'circuit' && !plan.circuits.some((circuit) => circuit.id === edit.to)) {
    return refuse(`the circuit that ${net.name} should move to is gone`);
  }
  const next: Net = { ...net, [edit.field]: edit.to };
  // What says nothing leaves no trace in the plan.
  if (OPTIONAL.includes(edit.field as 'note') && isEmpty(edit.to)) delete next[edit.field as 'note'];
  return ok(next);
}

const OPTIONAL = ['note', 'demands', 'far'] as const;
const isEmpty = (value: unknown): boolean =>
  value === '' || (typeof value === 'object' && value !== null && Object.keys(value).length === 0);

/** The value of a net's field as edits speak of it. */
export function netField<Field extends NetField>(net: Net, field: Field): NetValue<Field> {
  const empty = field === 'note' ? '' : {};
  return (field === 'placement' ? net.placement : (net[field] ?? empty)) as NetValue<Field>;
}

function describeValue(value: object | null): string {
  if (value === null) return 'not placed';
  if ('pad' in value) return `on ${value.pad}${'held' in value && value.held ? ', held' : ''}`;
  return 'kind' in value ? String(value.kind) : 'other than it was';
}

/** What is wrong with a tie by itself: too few nets, too many, or one of them twice. */
export function tieFault({ kind, nets }: Pick<Tie, 'kind' | 'nets'>): string | undefined {
  if (new Set(nets).size < nets.length) return 'a net is in it twice';
  if (nets.length > LIMITS.tieNets)
    return `it has ${nets.length} nets; at most ${LIMITS.tieNets} can be tied`;
  if (kind === 'pair' ? nets.length !== 2 : nets.length < 2)
    return `a ${kind} tie is of ${kind === 'pair' ? 'two' : 'two or more'} nets, not of ${nets.length}`;
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

/** A tie holds only while all its nets are there, so that every plan can be read back. */
function addTie(plan: Plan, tie: Tie, at: number): Result<Plan> {
  const fault = tieFault(tie);
  if (fault) return refuse(`that tie cannot be: ${fault}`);
  if (!tie.nets.every((id) => idsOf(plan.nets).has(id))) return refuse('a net of that tie is gone');
  return addTo(plan, 'ties', tie, at, 'that tie');
}

type Listed = { ties: Tie; waivers: Waiver };

function addTo<Key extends keyof Listed>(
  plan: Plan,
  key: Key,
  item: Listed[Key],
  at: number,
  what: string,
): Result<Plan> {
  const list = (plan[key] ?? []) as Listed[Key][];
  if (list.some((one) => one.id === item.id)) return refuse(`${what} is there already`);
  if (list.length >= LIMITS[key]) return full(key);
  return ok({ ...plan, [key]: insertAt(list, item, at) });
}

function takeFrom<Key extends keyof Listed>(
  plan: Plan,
  key: Key,
  item: Listed[Key],
  what: string,
): Result<Plan> {
  const list = (plan[key] ?? []) as Listed[Key][];
  const found = list.find((one) => one.id === item.id);
  if (!found) return refuse(`${what} is gone already`);
  if (canonicalJson(found) !== canonicalJson(item)) return refuse(`${what} was changed meanwhile; it stays`);
  const left = list.filter((one) => one !== found);
  const { [key]: _old, ...rest } = plan;
  return ok(left.length === 0 ? (rest as Plan) : { ...plan, [key]: left });
}

function setEntry(plan: Plan, edit: Extract<Edit, { kind: 'table.set' }>): Result<Plan> {
  const entries = tableOf(plan, edit.table);
  const now = entryOf(plan, edit.table, edit.key) ?? null;
  if (now !== edit.from) return changedMeanwhile(`${edit.table} of ${edit.key}`, 'it', now ?? 'not set');
  const { [edit.key]: _old, ...others } = entries;
  const next = edit.to === null ? others : { ...others, [edit.key]: edit.to };
  if (Object.keys(next).length > LIMITS.tableEntries) return full('tableEntries');
  const { [edit.table]: _table, ...rest } = plan.tables ?? {};
  const tables = Object.keys(next).length === 0 ? rest : { ...rest, [edit.table]: next };
  const { tables: _tables, ...bare } = plan;
  return ok(Object.keys(tables).length === 0 ? bare : { ...bare, tables });
}

function setNetSetting(plan: Plan, edit: NetSettingEdit): Result<Plan> {
  const net = plan.nets.find((one) => one.id === edit.id);
  if (!net) return refuse('that net is gone');
  const next = withSetting(net, edit);
  return next.ok ? ok({ ...plan, nets: replace(plan.nets, net, next.value) }) : next;
}

type NetSettingEdit = Extract<Edit, { kind: 'net.setting' }>;

function withSetting(net: Net, edit: NetSettingEdit): Result<Net> {
  const now = net.settings[edit.key] ?? null;
  if (now !== edit.from) return changedMeanwhile(net.name, edit.key, now ?? 'the default');
  const { [edit.key]: _old, ...others } = net.settings;
  const settings = edit.to === null ? others : { ...others, [edit.key]: edit.to };
  return ok({ ...net, settings });
}

const changedMeanwhile = (what: string, field: string, now: string): Result<never> =>
  refuse(`${what}: ${field} was changed meanwhile (now ${now === '' ? 'empty' : now})`);

const insertAt = <T>(items: readonly T[], item: T, at: number): T[] => {
  const position = Math.max(0, Math.min(at, items.length));
  return [...items.slice(0, position), item, ...items.slice(position)];
};

const replace = <T>(items: readonly T[], old: T, next: T): T[] =>
  items.map((item) => (item === old ? next : item));
