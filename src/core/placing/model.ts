import { orderOf, sideOf } from '../device/geometry';
import { hertzText, offerOf } from '../device/offers';
import type { Package, Pad, PadFunction, PadId } from '../device/types';
import { splitSignal } from '../device/types';
import { currentText, demandedMilliamps, shortfalls, voltsText } from '../electrical/limits';
import { functionsFor, isAnalog, resolveNet, silentLack, whyNot } from '../plan/resolve';
import {
  type Net,
  type NetSettingKey,
  openPart,
  type Plan,
  type Role,
  roleText,
  type Tie,
} from '../plan/types';
import type { Device } from '../recipe/device';
import { belongTogether, kindOfRole } from './groups';
import { type Mode, sharedFields } from './shared-fields';
import type { Option } from './solver/problem';
import { TIE_WORDS } from './ties';
import { DEFAULT_WEIGHTS, type Term, type Weights, weigh } from './weights';

/** Something the plan asks for that can be given up: what an explanation is made of, and what a suggestion takes away. */
export interface Element {
  index: number;
  kind: 'net' | 'held' | 'setting' | 'demand' | 'tie';
  /** In words, with names between backticks. */
  words: string;
  nets: Net[];
  setting?: NetSettingKey;
  demand?: string;
  tie?: Tie;
}

/**
 * One pad and function that could carry a net, with what it would cost and who forbids it. Nets of one role share those that
 * nothing of their own bears on.
 */
export interface Choice {
  pad: PadId;
  slot: number;
  fn?: PadFunction;
  instance?: string;
  /** Elements that rule it out when they are in force. */
  forbidden: readonly number[];
  resources: readonly number[];
  modes?: Mode[];
  terms: Readonly<Partial<Record<Term, number>>>;
  /** Weighted sum of the terms. */
  cost: number;
  /** What the solver gets when costs do not matter; made when first needed. */
  bare?: Option;
}

export interface Item {
  net: Net;
  element: number;
  choices: Choice[];
  /** Kind of the peripheral whose lines need each other, for the nets it concerns. */
  kind?: string;
  held: boolean;
}

/** A plan as a question: which choice for which net. Everything that does not depend on what is in force is worked out. */
export interface Model {
  device: Device;
  pkg: Package;
  plan: Plan;
  weights: Weights;
  pads: PadId[];
  position: number[];
  side: (string | undefined)[];
  resources: number;
  elements: Element[];
  items: Item[];
  ties: { tie: Tie; element: number }[];
  /** Nets that want an interrupt line of which there are only so many. */
  interruptItems: { items: number[]; lines: number };
}

export interface ModelOptions {
  weights?: Partial<Weights>;
  /** Nets that have a pad stay there, held or not. */
  keep?: boolean;
}

export function modelOf(device: Device, pkg: Package, plan: Plan, options: ModelOptions = {}): Model {
  const weights = { ...DEFAULT_WEIGHTS, ...options.weights };
  const bonded = device.terminalsOf.get(pkg.id) ?? new Map();
  const order = orderOf(device, pkg);
  const pads = device.description.pads.filter((pad) => pad.kind === 'io' && bonded.has(pad.id));
  const model: Model = {
    device,
    pkg,
    plan,
    weights,
    pads: pads.map((pad) => pad.id),
    position: pads.map((pad) => order.get(pad.id) ?? 0),
    side: pads.map((pad) => sideOf(pkg, bonded.get(pad.id)?.[0] ?? '')),
    resources: 0,
    elements: [],
    items: [],
    ties: [],
    interruptItems: { items: [], lines: Number.POSITIVE_INFINITY },
  };
  new Builder(model, options.keep === true).build();
  return model;
}

const NOBODY: readonly number[] = [];
const SETTING_KEYS: readonly NetSettingKey[] = ['buffer', 'pull', 'drive', 'slew', 'threshold', 'trigger'];

class Builder {
  private readonly slotOf: Map<PadId, number>;
  private readonly resourceOf = new Map<string, number>();
  private readonly byRole = new Map<string, Choice[]>();
  private readonly scarcity = new Map<PadId, Map<PadFunction | undefined, number>>();
  private readonly unmet = new Map<string, Map<string, Map<string, NetSettingKey[]>>>();
  private readonly taken = new Set<PadId>();
  private readonly modes: Map<PadFunction, Mode[]>;
  private readonly lacking = new Map<string, number>();

  constructor(
    private readonly model: Model,
    private readonly keep: boolean,
  ) {
    this.modes = sharedFields(model.device, model.pkg);
    this.slotOf = new Map(model.pads.map((pad, slot) => [pad, slot]));
    for (const one of model.device.description.forced ?? []) for (const pad of one.takes) this.taken.add(pad);
  }

  build(): void {
    const { model } = this;
    for (const net of model.plan.nets) this.addNet(net);
    this.reserveInstances();
    for (const tie of model.plan.ties ?? []) {
      const nets = tie.nets.flatMap((id) => model.plan.nets.find((net) => net.id === id) ?? []);
      if (nets.length < 2) continue;
      const element = this.addElement({ kind: 'tie', nets, tie, words: tieWords(tie, nets) });
      model.ties.push({ tie, element });
    }
    const { interrupts } = model.device.description;
    if (interrupts?.lines === 'pad' && interrupts.count !== undefined) {
      const items = model.items.flatMap(({ net }, at) => (net.role.kind === 'interrupt' ? [at] : []));
      model.interruptItems = { items, lines: interrupts.count };
    }
    model.resources = this.resourceOf.size;
  }

  private addElement(element: Omit<Element, 'index'>): number {
    const index = this.model.elements.length;
    this.model.elements.push({ ...element, index });
    return index;
  }

  private addNet(net: Net): void {
    const { model } = this;
    const { device, pkg } = model;
    const element = this.addElement({
      kind: 'net',
      nets: [net],
      words: `\`${net.name}\` needs a pad for ${roleText(net.role)}`,
    });
    const kept = net.placement !== null && (net.placement.held || this.keep);
    const held = kept
      ? this.addElement({
          kind: 'held',
          nets: [net],
          words: `\`${net.name}\` is ${net.placement?.held ? 'held' : 'kept'} on pad \`${net.placement?.pad}\``,
        })
      : -1;
    const settings = new Map(
      SETTING_KEYS.filter((key) => net.settings[key] !== undefined).map((key) => [
        key,
        this.addElement({
          kind: 'setting',
          nets: [net],
          setting: key,
          words: `\`${net.name}\` wants ${key} ${net.settings[key]}`,
        }),
      ]),
    );
    const demands = new Map(
      demandWords(net).map(([demand, words]) => [
        demand,
        this.addElement({ kind: 'demand', nets: [net], demand, words }),
      ]),
    );
    const kind = kindOfRole(device, net.role);
    const together = kind !== undefined && net.role.kind === 'open-signal' && belongTogether(device, kind);
    const unmetOn = this.unmetFinder(net);
    const demanding = demands.size > 0;
    const choices: Choice[] = [];
    for (const bare of this.basic(net)) {
      const { pad: id, slot, fn } = bare;
      const pad = device.pads.get(id) as Pad;
      let forbidden = NOBODY;
      if (
        held >= 0 &&
        (id !== net.placement?.pad || (net.placement.signal && fn?.signal !== net.placement.signal))
      )
        forbidden = [held];
      if (settings.size > 0 || fn || net.role.kind === 'output') {
        const unmet = unmetOn(pad.class, id, fn);
        // What the line needs, and nobody asked for, is not to be had here.
        if (unmet.some((key) => !settings.has(key))) continue;
        if (unmet.length > 0) forbidden = [...forbidden, ...unmet.map((key) => settings.get(key) as number)];
      }
      if (demanding) {
        const short = shortfalls(device, pkg, net, pad, fn, model.side[slot]);
        if (short.length > 0)
          forbidden = [...forbidden, ...short.flatMap(({ demand }) => demands.get(demand) ?? [])];
      }
      const { placement } = net;
      const moves =
        placement !== null && (placement.pad !== id || (placement.signal && placement.signal !== fn?.signal));
      if (kept) choices.push({ ...bare, forbidden, terms: {}, cost: 0 });
      else if (moves) {
        const terms = { ...bare.terms, moves: 1 };
        choices.push({ ...bare, forbidden, terms, cost: weigh(model.weights, terms) });
      } else choices.push(forbidden.length > 0 ? { ...bare, forbidden } : bare);
    }
    model.items.push({ net, element, choices, kind: together ? kind : undefined, held: held >= 0 });
  }

  /** Pads and functions for a role, and what using them takes; the same for all nets of that role. */
  private basic({ role }: Net): Choice[] {
    const key = JSON.stringify(role);
    let list = this.byRole.get(key);
    if (!list) {
      list = this.placesFor(role).map(({ slot, fn }): Choice => {
        const pad = this.model.pads[slot] as PadId;
        const terms = this.termsOf(role, pad, fn);
        const modes = fn && this.modes.get(fn);
        return {
          pad,
          slot,
          fn,
          instance: fn && !isAnalog(role) ? splitSignal(fn.signal)[0] : undefined,
          forbidden: NOBODY,
          resources: this.resourcesOf(role, pad, fn),
          terms,
          cost: weigh(this.model.weights, terms),
          ...(modes ? { modes } : {}),
        };
      });
      this.byRole.set(key, list);
    }
    return list;
  }

  private placesFor(role: Role): { slot: number; fn?: PadFunction }[] {
    const { device, pkg, pads } = this.model;
    const list: { slot: number; fn?: PadFunction }[] = [];
    if (role.kind === 'signal' || role.kind === 'open-signal') {
      const { peripherals, peripheralKinds } = device.description;
      const signals =
        role.kind === 'signal'
          ? [role.signal]
          : peripherals
              .filter((one) => one.kind === role.peripheral)
              .flatMap((one) =>
                Object.keys(peripheralKinds[one.kind]?.lines ?? {})
                  .filter((line) => openPart(role.line, line) !== undefined)
                  .map((line) => `${one.id}.${line}`),
              );
      for (const signal of signals) {
        const one: Role = { kind: 'signal', signal };
        for (const fn of offerOf(device, pkg).carrying(signal)) {
          const slot = this.slotOf.get(fn.pad);
          const pad = device.pads.get(fn.pad);
          if (slot !== undefined && pad && whyNot(device, pkg, one, pad) === undefined)
            list.push({ slot, fn });
        }
      }
    } else {
      for (const [slot, id] of pads.entries()) {
        const pad = device.pads.get(id);
        if (!pad || whyNot(device, pkg, role, pad) !== undefined) continue;
        const fns = functionsFor(device, pkg, role, pad);
        list.push(fns[0] ? { slot, fn: fns[0] } : { slot });
      }
    }
    return list;
  }

  /** Finds chosen settings, and those a line needs, that pads do not have; pads of a class are alike in that. */
  private unmetFinder(
    net: Net,
  ): (padClass: string | undefined, pad: PadId, fn?: PadFunction) => NetSettingKey[] {
    const { device, pkg } = this.model;
    const prefix = `${SETTING_KEYS.map((one) => net.settings[one] ?? '').join()} ${JSON.stringify(net.role)}`;
    let own = this.unmet.get(prefix);
    if (!own) {
      own = new Map();
      this.unmet.set(prefix, own);
    }
    const known = own;
    return (padClass = '', pad, fn) => {
      let byClass = known.get(padClass);
      if (!byClass) {
        byClass = new Map();
        known.set(padClass, byClass);
      }
      let list = byClass.get(fn?.signal ?? '');
      if (!list) {
        const placement = { pad, held: false, ...(fn ? { signal: fn.signal } : {}) };
        const bare = { ...net, demands: undefined, placement } as unknown as Net;
        list = resolveNet(device, pkg, bare).unmet.map((one) => one.key as NetSettingKey);
        if (silentLack(device, bare, device.pads.get(pad) as Pad, fn)) list.push('buffer');
        byClass.set(fn?.signal ?? '', list);
      }
      return list;
    };
  }

  private resource(name: string): number {
    let index = this.resourceOf.get(name);
    if (index === undefined) {
      index = this.resourceOf.size;
      this.resourceOf.set(name, index);
    }
    return index;
  }

  private resourcesOf(role: Role, id: PadId, fn: PadFunction | undefined): number[] {
    const { device } = this.model;
    const found: number[] = [];
    if (fn && !isAnalog(role)) found.push(this.resource(`signal ${fn.signal}`));
    if (this.taken.has(id)) found.push(this.resource(`pad ${id}`));
    if (fn)
      for (const one of device.description.forced ?? [])
        if (one.signal === fn.signal && one.pad === id)
          for (const pad of one.takes) found.push(this.resource(`pad ${pad}`));
    const { interrupts } = device.description;
    if (role.kind === 'interrupt' && interrupts?.lines === 'bit')
      found.push(this.resource(`line ${device.pads.get(id)?.bit}`));
    return found;
  }

  /** What a choice costs any net of the role; that it is a move is added for the net. */
  private termsOf(role: Role, id: PadId, fn: PadFunction | undefined): Choice['terms'] {
    const { device } = this.model;
    const terms: Partial<Record<Term, number>> = {};
    const scarce = this.scarcityOf(id, fn);
    if (scarce > 0) terms.scarce = scarce;
    const boot = device.pads.get(id)?.boot;
    if (boot && !(fn && boot.signals?.includes(fn.signal))) terms.special = 1;
    if (fn && !isAnalog(role)) {
      const lacking = this.lackingLines(splitSignal(fn.signal)[0]);
      if (lacking > 0) terms.complete = lacking;
    }
    return terms;
  }

  /** What using a pad takes from others: for each signal it offers, more the fewer homes that signal has. */
  private scarcityOf(pad: PadId, fn: PadFunction | undefined): number {
    let byFn = this.scarcity.get(pad);
    if (!byFn) {
      byFn = new Map();
      this.scarcity.set(pad, byFn);
    }
    let sum = byFn.get(fn);
    if (sum === undefined) {
      const offer = offerOf(this.model.device, this.model.pkg);
      sum = 0;
      for (const other of offer.of(pad))
        if (other.signal !== fn?.signal) sum += 6 / Math.max(1, offer.carrying(other.signal).length);
      sum = Math.round(sum);
      byFn.set(fn, sum);
    }
    return sum;
  }

  /** Lines an instance needs that this package does not bring out. */
  private lackingLines(instance: string): number {
    let count = this.lacking.get(instance);
    if (count === undefined) {
      const { device, pkg } = this.model;
      const needs = device.kindOf(`${instance}.`)?.needs ?? [];
      count = needs.filter(
        (line) => offerOf(device, pkg).carrying(`${instance}.${line}`).length === 0,
      ).length;
      this.lacking.set(instance, count);
    }
    return count;
  }

  /** An instance that the plan names in one circuit is not there for the open roles of another. */
  private reserveInstances(): void {
    const { items, device } = this.model;
    const named = new Map<string, Item[]>();
    for (const item of items) {
      const { role } = item.net;
      if (role.kind !== 'signal') continue;
      const kind = kindOfRole(device, role);
      if (kind === undefined || !belongTogether(device, kind)) continue;
      const [instance] = splitSignal(role.signal);
      named.set(instance, [...(named.get(instance) ?? []), item]);
    }
    if (named.size === 0) return;
    for (const item of items) {
      if (item.kind === undefined) continue;
      item.choices = item.choices.map((choice) => {
        const others = (named.get(choice.instance ?? '') ?? []).filter(
          (other) => other.net.circuit !== item.net.circuit,
        );
        if (others.length === 0) return choice;
        return { ...choice, forbidden: [...choice.forbidden, ...others.map((other) => other.element)] };
      });
    }
  }
}

function demandWords(net: Net): [string, string][] {
  const { demands } = net;
  if (!demands) return [];
  const found: [string, string][] = [];
  const name = `\`${net.name}\``;
  const milliamps = demandedMilliamps(demands);
  if (demands.rateHertz !== undefined)
    found.push(['rateHertz', `${name} wants ${hertzText(demands.rateHertz)}`]);
  if (milliamps !== undefined) found.push(['milliamps', `${name} wants ${currentText(milliamps)}`]);
  if (demands.farVolts !== undefined) found.push(['farVolts', `${name} sees ${voltsText(demands.farVolts)}`]);
  if (demands.before !== undefined)
    found.push(['before', `${name} must be ${demands.before} before initialisation`]);
  if (demands.side !== undefined) found.push(['side', `${name} shall be on the ${demands.side} side`]);
  if (demands.notPads && demands.notPads.length > 0)
    found.push([
      'notPads',
      `${name} must not be on ${demands.notPads.map((pad) => `\`${pad}\``).join(', ')}`,
    ]);
  return found;
}

function tieWords(tie: Tie, nets: readonly Net[]): string {
  const names = nets.length > 4 ? [...nets.slice(0, 3), nets.at(-1)] : nets;
  const list = names.map((net) => `\`${net?.name}\``).join(', ');
  return `${list}${nets.length > 4 ? ` (${nets.length} nets)` : ''} shall be ${TIE_WORDS[tie.kind]}`;
}
