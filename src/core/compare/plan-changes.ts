import { canonicalJson } from '../base/fingerprint';
import type { Derived } from '../derive/derive';
import { factsOf, LIST_WORDS, LISTS, nameOf, type Thing } from '../plan/changes/facts';
import { fieldTitle } from '../plan/model/field-titles';
import { type Net, type Placement, type Plan, type Role, roleText } from '../plan/model/types';
import { type Aligned, alignNets } from './align';

/** What differs between two plans, in words: nets, and everything else that a plan says. */

/** One thing about a net, before and after. */
export interface FieldChange {
  what: string;
  from: string;
  to: string;
}

export interface NetLine {
  name: string;
  circuit: string;
  /** "B7, pin 27"; empty without a pad. */
  at: string;
  role: string;
}

export interface NetMove {
  name: string;
  circuit: string;
  from: string;
  to: string;
}

export interface NetChange {
  name: string;
  circuit: string;
  changes: FieldChange[];
}

export interface OtherChange {
  /** "constraint", "trial", "label of B7". */
  what: string;
  change: 'added' | 'gone' | 'changed';
  /** Circuits of the nets that it is about; empty where it is about the whole plan. */
  circuits: string[];
  from: string;
  to: string;
}

export interface PlanChanges {
  nets: { added: NetLine[]; gone: NetLine[]; moved: NetMove[]; changed: NetChange[] };
  others: OtherChange[];
}

const circuitIn = (plan: Plan, id: string): string => plan.circuits.find((one) => one.id === id)?.name ?? '';

const pinsOf = ({ device, pkg }: Derived, pad: string): string => {
  const pins = device.pinsOf.get(pkg.id)?.get(pad) ?? [];
  return pins.length > 0 ? `, pin ${pins.join(' and ')}` : '';
};

/** Where a net is: "B7, pin 27, locked". */
const placeText = (derived: Derived, placement: Placement | null): string =>
  placement === null
    ? ''
    : `${placement.pad}${pinsOf(derived, placement.pad)}${placement.signal ? ` as ${placement.signal}` : ''}`;

export function planChanges(
  from: Derived,
  to: Derived,
  aligned: Aligned = alignNets(from.plan, to.plan),
): PlanChanges {
  const line = (derived: Derived, net: Net): NetLine => ({
    name: net.name,
    circuit: circuitIn(derived.plan, net.circuit),
    at: placeText(derived, net.placement),
    role: roleText(net.role),
  });
  const moved: NetMove[] = [];
  const changed: NetChange[] = [];
  for (const [was, is] of aligned.both) {
    const circuit = circuitIn(to.plan, is.circuit);
    const [before, after] = [placeText(from, was.placement), placeText(to, is.placement)];
    if (before !== after) moved.push({ name: is.name, circuit, from: before, to: after });
    const changes = netChanges(from.plan, to.plan, was, is);
    if (changes.length > 0) changed.push({ name: is.name, circuit, changes });
  }
  return {
    nets: {
      added: aligned.added.map((net) => line(to, net)),
      gone: aligned.gone.map((net) => line(from, net)),
      moved,
      changed,
    },
    others: otherChanges(from.plan, to.plan, aligned),
  };
}

function netChanges(fromPlan: Plan, toPlan: Plan, was: Net, is: Net): FieldChange[] {
  const fields = (plan: Plan, net: Net): ReadonlyMap<string, unknown> =>
    factsOf({ ...plan, nets: [net] }).lists.nets[0]?.fields ?? new Map();
  const [before, after] = [fields(fromPlan, was), fields(toPlan, is)];
  const words = (plan: Plan, field: string, value: unknown): string =>
    field === 'circuit'
      ? circuitIn(plan, String(value))
      : field === 'role'
        ? roleText(value as Role)
        : valueText(value);
  const changes = [...new Set([...before.keys(), ...after.keys()])].flatMap((field): FieldChange[] => {
    if (field === 'placement') return [];
    const [from, to] = [words(fromPlan, field, before.get(field)), words(toPlan, field, after.get(field))];
    return from === to ? [] : [{ what: fieldTitle(field), from, to }];
  });
  const [locked, stays] = [was.placement?.locked === true, is.placement?.locked === true];
  if (locked !== stays && was.placement && is.placement)
    changes.push({ what: 'lock', from: locked ? 'locked' : '', to: stays ? 'locked' : '' });
  return changes;
}

/** A value for people; what is not said is empty. */
function valueText(value: unknown): string {
  if (value === undefined || value === null) return '';
  if (typeof value === 'string' || typeof value === 'number') return String(value);
  if (value === true) return 'yes';
  if (Array.isArray(value)) return value.map(valueText).join(', ');
  return Object.entries(value)
    .map(([key, one]) => `${key} ${valueText(one)}`)
    .join(', ');
}

/** Everything but nets: the plan's own fields, circuits, constraints, what is attached, trials, waivers, tables. */
function otherChanges(from: Plan, to: Plan, { idFrom }: Aligned): OtherChange[] {
  const [before, after] = [factsOf(from), factsOf(to)];
  const own = [...new Set([...before.own.keys(), ...after.own.keys()])].flatMap((key): OtherChange[] => {
    if (key === 'format') return [];
    const [was, is] = [before.own.get(key), after.own.get(key)];
    if (canonicalJson(was ?? null) === canonicalJson(is ?? null)) return [];
    const change = was === undefined ? 'added' : is === undefined ? 'gone' : 'changed';
    return [{ what: ownTitle(key), change, circuits: [], from: ownText(key, was), to: ownText(key, is) }];
  });
  const netName = new Map([...from.nets, ...to.nets].map((net) => [net.id, net.name]));
  const circuitsOf = (thing: Thing): string[] => {
    const nets = (thing.fields.get('nets') as string[] | undefined) ?? [];
    const lines = ((thing.fields.get('lines') as string[] | undefined) ?? []).join(' ');
    const found = [from, to].flatMap((plan) =>
      plan.nets.flatMap((net) =>
        nets.includes(net.id) || lines.includes(`{${net.id}}`) ? [circuitIn(plan, net.circuit)] : [],
      ),
    );
    return [...new Set(found)];
  };
  const lists = LISTS.filter((list) => list !== 'nets').flatMap((list): OtherChange[] => {
    const said = (thing: Thing): string => thingText(thing, netName);
    // Things of plans that were made apart are told by what they say, with nets as the first plan has them.
    const keyOf = (thing: Thing, ids: ReadonlyMap<string, string>): string =>
      canonicalJson({
        ...Object.fromEntries(thing.fields),
        nets: (thing.fields.get('nets') as string[] | undefined)?.map((id) => ids.get(id) ?? id),
      });
    const left = [...after.lists[list]];
    const changes: OtherChange[] = [];
    for (const thing of before.lists[list]) {
      const own = keyOf(thing, new Map());
      const at = left.findIndex((one) => one.id === thing.id);
      const found =
        at >= 0 ? at : left.findIndex((one) => keyOf(one, idFrom) === own || sameName(list, one, thing));
      const [other] = found >= 0 ? left.splice(found, 1) : [];
      if (!other)
        changes.push({
          what: LIST_WORDS[list],
          change: 'gone',
          circuits: circuitsOf(thing),
          from: said(thing),
          to: '',
        });
      else if (keyOf(other, idFrom) !== own)
        changes.push({
          what: LIST_WORDS[list],
          change: 'changed',
          circuits: circuitsOf(other),
          from: said(thing),
          to: said(other),
        });
    }
    for (const thing of left)
      changes.push({
        what: LIST_WORDS[list],
        change: 'added',
        circuits: circuitsOf(thing),
        from: '',
        to: said(thing),
      });
    return changes;
  });
  return [...own, ...lists];
}

const sameName = (list: (typeof LISTS)[number], a: Thing, b: Thing): boolean =>
  (list === 'circuits' || list === 'trials') &&
  nameOf(list, a).toLowerCase() === nameOf(list, b).toLowerCase();

function thingText({ fields }: Thing, netName: ReadonlyMap<string, string>): string {
  const nets = (fields.get('nets') as string[] | undefined)?.map((id) => netName.get(id) ?? id);
  const lines = fields.get('lines') as string[] | undefined;
  const head = ['name', 'rule', 'kind'].flatMap((key) => (fields.has(key) ? [String(fields.get(key))] : []));
  const figures = fields.get('figures');
  return [
    head.join(' '),
    ...(nets && nets.length > 0 ? [nets.join(', ')] : []),
    ...(figures ? [valueText(figures)] : []),
    ...(fields.has('reason') ? [`"${String(fields.get('reason'))}"`] : []),
    ...(lines
      ? [lines.map((line) => line.replaceAll(/\{([^}]+)\}/g, (_, id) => netName.get(id) ?? id)).join('; ')]
      : []),
  ].join(': ');
}

function ownTitle(key: string): string {
  const [head, table, ...rest] = key.split('.');
  if (head === 'tables') return `${table} of ${rest.join('.') === '*' ? 'all others' : rest.join('.')}`;
  if (key === 'deviceFingerprint') return 'description of the part';
  return head === 'code' ? `code: ${table}` : key;
}

const ownText = (key: string, value: unknown): string =>
  key === 'schematic' && value ? (value as { file: string }).file : valueText(value);
