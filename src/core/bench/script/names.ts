import { type Accessor, interrupts } from '../../derive/accessors/accessors';
import type { Derived } from '../../derive/derive';
import type { Plan } from '../../plan/model/types';
import { attachmentsOf } from '../attached/defaults';
import { KEPT_WORDS, type NetSort } from './forms';
import { isPlainName } from './words';

/** A net, or several that are read and driven together, as scripts name them. */
export interface Target {
  /** The net's, the bus's or the circuit's. */
  id: string;
  /** By which plans keep it: the id of a net; `bus:…`, `circuit:…` of several, which may have the same id as a net. */
  ref: string;
  name: string;
  nets: readonly string[];
  driven: boolean;
  read: boolean;
  /** Several nets. */
  group: boolean;
}

/** What scripts can name in a plan. */
export interface Names {
  targets: readonly Target[];
  byName: ReadonlyMap<string, Target>;
  byId: ReadonlyMap<string, Target>;
  /** Nets by what can be done at their far end. */
  sorts: ReadonlyMap<string, ReadonlySet<NetSort>>;
  stages: readonly string[];
  routines: readonly string[];
  trials: readonly { id: string; name: string }[];
  registers: ReadonlyMap<string, number>;
}

const known = new WeakMap<Derived, Names>();

export function namesIn(derived: Derived): Names {
  let names = known.get(derived);
  if (!names) {
    names = collect(derived);
    known.set(derived, names);
  }
  return names;
}

function collect(derived: Derived): Names {
  const { plan, device } = derived;
  const { list } = derived.accessors;
  const groups = new Map<string, Accessor[]>();
  const single = new Map<string, Accessor[]>();
  for (const one of list) {
    if (one.group) groups.set(one.group.id, [...(groups.get(one.group.id) ?? []), one]);
    else single.set(one.nets[0] ?? '', [...(single.get(one.nets[0] ?? '') ?? []), one]);
  }
  const targets: Target[] = [
    ...plan.nets.map((net): Target => {
      const own = single.get(net.id) ?? [];
      return {
        id: net.id,
        ref: net.id,
        name: net.name,
        nets: [net.id],
        driven: own.some((one) => one.action === 'set'),
        read: own.some((one) => one.action === 'read'),
        group: false,
      };
    }),
    ...[...groups].map(
      ([id, own]): Target => ({
        id,
        ref: `${own[0]?.group?.kind ?? 'bus'}:${id}`,
        name: groupName(own[0]?.group, plan),
        nets: own[0]?.nets ?? [],
        driven: own.some((one) => one.action === 'write'),
        read: own.some((one) => one.action === 'read'),
        group: true,
      }),
    ),
  ];
  const byName = new Map<string, Target>();
  // As it is written comes before as it is written otherwise.
  for (const one of targets) if (!byName.has(one.name)) byName.set(one.name, one);
  for (const one of targets) if (!byName.has(one.name.toLowerCase())) byName.set(one.name.toLowerCase(), one);
  const circuitOf = new Map(plan.nets.map((net) => [net.id, net.circuit]));
  // A circuit whose outputs are a bus is that bus, and has its own name all the same.
  for (const circuit of plan.circuits) {
    const driven = targets
      .filter((one) => one.driven && !one.group && circuitOf.get(one.id) === circuit.id)
      .map((one) => one.id);
    const same = targets.find(
      (one) => one.group && one.nets.length === driven.length && driven.every((id) => one.nets.includes(id)),
    );
    for (const name of [circuit.name, circuit.name.toLowerCase()])
      if (same && !byName.has(name)) byName.set(name, same);
  }
  const byId = new Map<string, Target>();
  // A net comes before others of its id, which then have only their whole names.
  for (const one of [...targets].reverse()) byId.set(one.id, one);
  for (const one of targets) byId.set(one.ref, one);
  const sorts = new Map<string, Set<NetSort>>();
  const add = (net: string, sort: NetSort): void => {
    sorts.set(net, (sorts.get(net) ?? new Set<NetSort>()).add(sort));
  };
  for (const { kind, nets } of attachmentsOf(device, plan, derived.byNet)) {
    for (const net of nets) {
      if (kind === 'button' || kind === 'tipping-contact' || kind === 'keypad') {
        add(net, 'contact');
        add(net, 'button');
      } else if (kind === 'driven-line' || kind === 'bus-partner') add(net, 'contact');
      else if (kind === 'encoder') add(net, 'encoder');
      else if (kind === 'analog-source' || kind === 'potentiometer') add(net, 'analog');
    }
  }
  for (const { net, planned } of derived.resolved) {
    if (planned && interrupts(device, planned)) add(net.id, 'interrupt');
    if (net.role.kind === 'signal' && device.kindOf(net.role.signal)?.serves === 'wake-up')
      add(net.id, 'wake');
  }
  return {
    targets,
    byName,
    byId,
    sorts,
    stages: [...new Set(derived.lowered.operations.map((one) => one.stage))],
    routines: derived.routines.flatMap(({ kind }) => (kind === 'circuit' ? [] : [kind])),
    trials: (plan.trials ?? []).map(({ id, name }) => ({ id, name })),
    registers: new Map(
      device.registers.all.flatMap((one) => (one.storage ? [[one.name, one.bits] as const] : [])),
    ),
  };
}

/** A circuit is called as it is in the plan, unless a net has that name. */
function groupName(group: Accessor['group'], { circuits, nets }: Plan): string {
  const circuit = group?.kind === 'circuit' ? circuits.find((one) => one.id === group.id) : undefined;
  const taken = (name: string): boolean => nets.some((net) => net.name.toLowerCase() === name.toLowerCase());
  return circuit && !taken(circuit.name) ? circuit.name : (group?.name ?? '');
}

/** The target that a word names; undefined when there is none. */
export function targetOf(names: Names, text: string, byId: boolean): Target | undefined {
  if (byId) return names.byId.get(text);
  return names.byName.get(text) ?? names.byName.get(text.toLowerCase());
}

/** A name as it is written in a script. */
export const nameText = (name: string): string =>
  isPlainName(name) && !KEPT_WORDS.has(name.toLowerCase()) ? name : `"${name.replaceAll('"', '')}"`;
