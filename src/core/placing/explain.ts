import type { Package } from '../device/types';
import type { Edit } from '../plan/edit';
import {
  placeNet,
  removeNet,
  removeNets,
  removeTie,
  setDemands,
  setRole,
  setSetting,
} from '../plan/make-edits';
import type { Demands, Net, Plan, Role } from '../plan/types';
import { roleText } from '../plan/types';
import type { Placements } from './compile';
import { kindOfRole, lineOfRole } from './groups';
import { type Element, type Model, modelOf } from './model';
import { type Answer, examine, type PlaceOptions } from './place';

/** What cannot hold together, none of it superfluous, and what could be given up. */
export interface Conflict {
  elements: Element[];
  /** One sentence about what stands against it. */
  message: string;
  suggestions: Suggestion[];
  /** The search gave up on some question: the conflict holds, but a smaller one may be in it. */
  rough: boolean;
}

/** Something to give up; each was tried, and the rest can then be placed. */
export interface Suggestion {
  label: string;
  edit: Edit;
}

/** Finds a conflict that cannot be made smaller, and ways out of it. */
export function explain(model: Model, options: PlaceOptions, stuck?: readonly number[]): Conflict {
  const all = model.elements.map((one) => one.index);
  const start = startOf(model, all, stuck);
  let rough = false;
  let best = shrink(model, start, orders(model, start)[0] ?? start, () => {
    rough = true;
  });
  for (const order of orders(model, start).slice(1)) {
    if (best.length <= 2) break;
    const other = shrink(model, start, order, () => {
      rough = true;
    });
    if (other.length < best.length) best = other;
  }
  const elements = best.map((index) => model.elements[index] as Element);
  return {
    elements,
    message: messageOf(model, elements),
    suggestions: suggestionsFor(model, elements, options),
    rough,
  };
}

/** Elements to begin with: those of the nets that the assignment could not seat, when they alone cannot be seated. */
function startOf(model: Model, all: readonly number[], stuck: readonly number[] | undefined): number[] {
  let start = [...all];
  let items = stuck;
  for (let round = 0; round < 4 && items && items.length > 0; round++) {
    const nets = new Set(items.map((at) => model.items[at]?.net));
    const fewer = start.filter((index) => model.elements[index]?.nets.every((net) => nets.has(net)));
    if (fewer.length >= start.length) break;
    const result = examine(model, new Set(fewer));
    if (result.possible !== false) break;
    start = fewer;
    items = result.stuck;
  }
  return start;
}

/** Orders in which elements are tried to be left out: what is least telling first. */
function orders(model: Model, start: readonly number[]): number[][] {
  const rank: Record<Element['kind'], number> = { tie: 1, setting: 2, demand: 3, held: 4, net: 0 };
  const byRank = [...start].sort(
    (a, b) => rank[model.elements[a]?.kind ?? 'net'] - rank[model.elements[b]?.kind ?? 'net'] || a - b,
  );
  const homes = (index: number): number => {
    const element = model.elements[index];
    return element?.kind === 'net'
      ? (model.items.find((one) => one.element === index)?.choices.length ?? 0)
      : 0;
  };
  const byHomes = [...start].sort((a, b) => homes(b) - homes(a) || a - b);
  return [byHomes, byRank, [...byRank].reverse()];
}

/** Leaves out what can be left out, in chunks first; what stays is needed, each and every one. */
function shrink(
  model: Model,
  start: readonly number[],
  order: readonly number[],
  gaveUp: () => void,
): number[] {
  const kept = new Set(start);
  const without = (some: readonly number[]): Set<number> => {
    const left = new Set(kept);
    for (const index of some) {
      left.delete(index);
      // What a net that is left out asks for goes with it.
      const element = model.elements[index];
      if (element?.kind !== 'net') continue;
      for (const other of kept) {
        const own = model.elements[other];
        if (own && own.kind !== 'tie' && own.nets[0] === element.nets[0]) left.delete(other);
      }
    }
    return left;
  };
  let size = Math.max(1, Math.floor(order.length / 2));
  let queue = [...order];
  for (;;) {
    const later: number[] = [];
    for (let at = 0; at < queue.length; at += size) {
      const chunk = queue.slice(at, at + size).filter((index) => kept.has(index));
      if (chunk.length === 0) continue;
      const left = without(chunk);
      const { possible } = examine(model, left);
      if (possible === undefined) gaveUp();
      if (possible === false) {
        for (const index of [...kept]) if (!left.has(index)) kept.delete(index);
      } else later.push(...chunk);
    }
    queue = later;
    if (size === 1) break;
    size = Math.max(1, Math.floor(size / 2));
  }
  return [...kept].sort((a, b) => a - b);
}

function messageOf(model: Model, elements: readonly Element[]): string {
  const nets = elements.filter((one) => one.kind === 'net').flatMap((one) => one.nets);
  const name = (net: Net): string => `\`${net.name}\``;
  if (nets.length === 1 && nets[0]) {
    const item = model.items.find((one) => one.net === nets[0]);
    if (elements.length === 1 && item?.choices.length === 0)
      return `No pad of ${model.pkg.name} offers ${roleText(nets[0].role)} for ${name(nets[0])}.`;
    return `No pad of ${model.pkg.name} is what ${name(nets[0])} asks for, all of it together.`;
  }
  const signals = new Set(nets.map((net) => (net.role.kind === 'signal' ? net.role.signal : '')));
  const [signal] = signals;
  if (nets.length > 1 && signals.size === 1 && signal)
    return `\`${signal}\` is one signal, and ${nets.length} nets want it.`;
  const ids = new Set(nets.map((net) => net.id));
  const pads = new Set(
    model.items
      .filter((item) => ids.has(item.net.id))
      .flatMap((item) =>
        item.choices.filter((one) => !forbidden(one.forbidden, elements)).map((one) => one.pad),
      ),
  );
  const list = [...pads]
    .slice(0, 6)
    .map((pad) => `\`${pad}\``)
    .join(', ');
  if (pads.size < nets.length)
    return `${nets.length} nets want the same ${pads.size} ${pads.size === 1 ? 'pad' : 'pads'} (${list}${pads.size > 6 ? ', …' : ''}).`;
  const kinds = new Set(nets.map((net) => kindOfRole(model.device, net.role)));
  const [kind] = kinds;
  if (kinds.size === 1 && kind !== undefined) {
    const instances = model.device.description.peripherals.filter((one) => one.kind === kind);
    const circuits = new Set(nets.map((net) => net.circuit)).size;
    if (circuits > 1)
      return `${circuits} circuits want ${kind} lines, and an instance serves one circuit; the part has ${instances.map((one) => one.id).join(', ')}, and not every one brings out all lines.`;
    return `No ${kind} instance has a free pad for all of ${nets.map((net) => lineOfRole(net.role) ?? net.name).join(', ')} at once.`;
  }
  return `${nets.length} nets cannot all have a pad: what they ask for leaves too few.`;
}

const forbidden = (by: readonly number[], elements: readonly Element[]): boolean =>
  by.some((index) => elements.some((one) => one.index === index));

/** What each element of a conflict would be given up by; only what was tried and works. */
function suggestionsFor(model: Model, elements: readonly Element[], options: PlaceOptions): Suggestion[] {
  const { plan } = model;
  const trial = new Trial(elements);
  const found: Suggestion[] = [];
  for (const element of elements) {
    const suggestion = giveUp(plan, element);
    if (suggestion && trial.works(model, allBut(model, element))) found.push(suggestion);
  }
  for (const suggestion of openings(model, elements, trial)) found.push(suggestion);
  if (found.length === 0) found.push(...together(model, elements));
  if (found.length === 0 || !found.some((one) => one.edit.kind !== 'net.remove'))
    found.push(...otherPackages(model, options));
  return found.sort((a, b) => rankOf(a) - rankOf(b));
}

/** Tries ways out of one conflict. They differ only in the nets of the conflict: where one works, the others' answers lie near. */
class Trial {
  private placements: Placements | undefined;
  private readonly but: ReadonlySet<string>;

  constructor(elements: readonly Element[]) {
    this.but = new Set(elements.flatMap((one) => one.nets.map((net) => net.id)));
  }

  works(model: Model, active: ReadonlySet<number> | undefined): boolean {
    const near = this.placements && { placements: this.placements, but: this.but };
    const answer: Answer = examine(model, active, { nodes: TRIAL_NODES, ...(near ? { near } : {}) });
    this.placements = answer.placements ?? this.placements;
    return answer.possible === true;
  }
}

/** A way out that takes longer to find than this is not offered. */
const TRIAL_NODES = 200;

/** All elements without one; giving up a net gives up what it asks for. */
function allBut(model: Model, element: Element, all: Iterable<number> = model.elements.keys()): Set<number> {
  const left = new Set(all);
  left.delete(element.index);
  if (element.kind === 'net')
    for (const other of model.elements)
      if (other.kind !== 'tie' && other.nets[0] === element.nets[0]) left.delete(other.index);
  return left;
}

const rankOf = ({ edit }: Suggestion): number =>
  edit.kind === 'net.remove' ? 2 : edit.kind === 'batch' ? 3 : 1;

function giveUp(plan: Plan, element: Element): Suggestion | undefined {
  const [net] = element.nets;
  switch (element.kind) {
    case 'held':
      return net?.placement
        ? {
            label: `release \`${net.name}\` from \`${net.placement.pad}\``,
            edit: placeNet(net, { ...net.placement, held: false }),
          }
        : undefined;
    case 'setting':
      return net && element.setting
        ? {
            label: `drop ${element.setting} ${net.settings[element.setting]} of \`${net.name}\``,
            edit: setSetting(net, element.setting, null),
          }
        : undefined;
    case 'demand':
      return net && element.demand
        ? {
            label: `give up that ${element.words}`,
            edit: setDemands(net, withoutDemand(net.demands ?? {}, element.demand)),
          }
        : undefined;
    case 'tie':
      return element.tie
        ? { label: `give up that ${element.words}`, edit: removeTie(plan, element.tie) }
        : undefined;
    case 'net':
      return net ? { label: `leave out \`${net.name}\``, edit: removeNet(plan, net) } : undefined;
  }
}

function withoutDemand(demands: Demands, key: string): Demands {
  const { [key as keyof Demands]: _gone, ...rest } = demands;
  // The current follows from the load; both go.
  if (key !== 'milliamps') return rest;
  const { load: _load, ...bare } = rest as Demands;
  return bare;
}

/** Roles that name an instance, with the instance left open. */
function openings(model: Model, elements: readonly Element[], trial: Trial): Suggestion[] {
  const { plan, device, pkg } = model;
  return elements.flatMap((element): Suggestion[] => {
    const [net] = element.nets;
    if (element.kind !== 'net' || net?.role.kind !== 'signal') return [];
    const kind = kindOfRole(device, net.role);
    const line = lineOfRole(net.role);
    if (kind === undefined || line === undefined) return [];
    const role: Role = { kind: 'open-signal', peripheral: kind, line };
    const next = { ...plan, nets: plan.nets.map((one) => (one === net ? { ...net, role } : one)) };
    if (!trial.works(modelOf(device, pkg, next), undefined)) return [];
    return [{ label: `let \`${net.name}\` be ${roleText(role)}`, edit: setRole(net, role) }];
  });
}

/** When giving up one thing is not enough: several, one conflict after the other. */
function together(model: Model, first: readonly Element[]): Suggestion[] {
  let left = new Set(model.elements.keys());
  const given: Element[] = [];
  let elements = first;
  for (let round = 0; round < 6; round++) {
    // The last net of a conflict goes: what was there first stays.
    const victim = elements.filter((one) => one.kind === 'net').at(-1) ?? elements.at(-1);
    if (!victim) return [];
    given.push(victim);
    left = allBut(model, victim, left);
    const result = examine(model, left);
    if (result.possible === true) {
      const nets = given.flatMap((one) => (one.kind === 'net' ? one.nets : []));
      if (nets.length < given.length) return [];
      const names = nets.map((net) => `\`${net.name}\``).join(', ');
      return [{ label: `leave out ${names}`, edit: removeNets(model.plan, nets) }];
    }
    if (result.possible === undefined) return [];
    const start = startOf(model, [...left], result.stuck);
    elements = shrink(model, start, start, () => undefined).map((index) => model.elements[index] as Element);
  }
  return [];
}

/** Other packages of the part in which everything finds a pad. */
function otherPackages(model: Model, options: PlaceOptions): Suggestion[] {
  const { device, plan, pkg } = model;
  const others: readonly Package[] = options.packages ?? device.description.packages;
  return others.flatMap((other): Suggestion[] => {
    if (other.id === pkg.id) return [];
    if (examine(modelOf(device, other, plan), undefined, { nodes: 300 }).possible !== true) return [];
    return [
      {
        label: `take the package ${other.name}`,
        edit: { kind: 'plan.set', field: 'package', from: plan.package, to: other.id },
      },
    ];
  });
}
