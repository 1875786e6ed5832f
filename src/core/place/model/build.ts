import { belongTogether, namedInstance } from '../../derive/candidates/groups';
import { PadTerms, type Standing } from '../../derive/candidates/pad-terms';
import { DEFAULT_WEIGHTS, type Terms, type Weights, weigh } from '../../derive/candidates/terms';
import { shortfalls } from '../../derive/electrical/limits';
import { functionOf } from '../../derive/resolve/resolve';
import { type AskedKey, isAsked, settingKeysOf } from '../../description/settings';
import type { Package, Pad } from '../../description/types';
import type { Device } from '../../device/device';
import { type Net, netSettingTitle, type Plan, roleText } from '../../plan/model/types';
import { Choices, type PackageChoices, packageChoices } from './choices';
import type { Choice, Model, NetItem, Requirement, RequirementIndex } from './model';
import { constraintWords, demandWords } from './words';

export interface ModelOptions {
  weights?: Partial<Weights>;
  /** Nets that have a pad stay there, locked or not. */
  keep?: boolean;
}

/** What nets are looked at with. */
interface Question {
  device: Device;
  pkg: Package;
  weights: Weights;
  offered: PackageChoices;
  choices: Choices;
  /** Adds something the plan asks for; answers which it is. */
  require(requirement: Omit<Requirement, 'index'>): RequirementIndex;
}

export function modelOf(device: Device, pkg: Package, plan: Plan, options: ModelOptions = {}): Model {
  const weights = { ...DEFAULT_WEIGHTS, ...options.weights };
  const stays = (net: Net): boolean =>
    net.placement !== null && (net.placement.locked || options.keep === true);
  const offered = packageChoices(device, pkg);
  const terms = new PadTerms(
    device,
    pkg,
    plan.nets,
    plan.nets.filter(stays).map((net) => standing(device, pkg, net)),
  );
  const choices = new Choices(device, offered, terms, weights);
  const requirements: Requirement[] = [];
  const require: Question['require'] = (requirement) =>
    requirements.push({ ...requirement, index: requirements.length }) - 1;
  const items = plan.nets.map((net) =>
    itemOf({ device, pkg, weights, offered, choices, require }, net, stays(net)),
  );
  const nets = new Map(plan.nets.map((net) => [net.id, net]));
  const constraints = (plan.constraints ?? []).flatMap((constraint) => {
    const own = constraint.nets.flatMap((id) => nets.get(id) ?? []);
    if (own.length < 2) return [];
    const words = constraintWords(constraint, own);
    return [{ constraint, requirement: require({ kind: 'constraint', nets: own, constraint, words }) }];
  });
  return {
    device,
    pkg,
    plan,
    weights,
    slots: offered.slots,
    resources: choices.resources,
    requirements,
    items: withReserved(device, items),
    constraints,
    interrupts: interruptsOf(device, items),
    terms,
  };
}

function standing(device: Device, pkg: Package, net: Net): Standing {
  const pad = device.pads.get(net.placement?.pad ?? '');
  if (!pad) return { net };
  const fn = functionOf(device, pkg, net, pad);
  return { net, pad, ...(fn ? { fn } : {}) };
}

/** A net with what it asks for, and its choices with who of these forbids them. */
function itemOf(
  { device, pkg, weights, offered, choices: known, require }: Question,
  net: Net,
  stays: boolean,
): NetItem {
  const { placement } = net;
  const nets = [net];
  const name = `\`${net.name}\``;
  const requirement = require({ kind: 'net', nets, words: `${name} needs a pad for ${roleText(net.role)}` });
  const locked =
    stays &&
    require({
      kind: 'locked',
      nets,
      words: `${name} is ${placement?.locked ? 'locked' : 'kept'} on pad \`${placement?.pad}\``,
    });
  const settings = new Map(
    settingKeysOf(net.settings)
      .filter(isAsked)
      .map((key): [AskedKey, RequirementIndex] => {
        const words = `${name} wants ${netSettingTitle(key)} ${net.settings[key]}`;
        return [key, require({ kind: 'setting', nets, setting: key, words })];
      }),
  );
  const demands = new Map(
    demandWords(net).map(([demand, words]) => [demand, require({ kind: 'demand', nets, demand, words })]),
  );
  const isElsewhere = ({ pad, fn }: Choice): boolean =>
    placement !== null &&
    (pad !== placement.pad || (placement.signal !== undefined && placement.signal !== fn?.signal));
  const role = JSON.stringify(net.role);
  const all = known.of(net, role);
  const unmet = offered.unmetFor(net, role);
  const choices: Choice[] = [];
  for (let place = 0; place < all.length; place++) {
    const choice = all[place] as Choice;
    const { pad, slot, fn } = choice;
    const lacks = unmet[place] as readonly AskedKey[];
    // What the line needs, and nobody asked for, is not to be had here.
    if (lacks.some((key) => !settings.has(key))) continue;
    const elsewhere = isElsewhere(choice);
    const by = lacks.map((key) => settings.get(key) as RequirementIndex);
    if (locked !== false && elsewhere) by.unshift(locked);
    if (demands.size > 0) {
      const side = offered.slots[slot]?.side;
      for (const { demand } of shortfalls(device, pkg, net, device.pads.get(pad) as Pad, fn, side)) {
        const one = demands.get(demand);
        if (one !== undefined) by.push(one);
      }
    }
    const forbidden = by.length > 0 ? by : choice.forbidden;
    if (stays) choices.push(changed(choice, forbidden, NO_TERMS, 0));
    else if (elsewhere) {
      const terms = { ...choice.terms, moves: 1 };
      choices.push(changed(choice, forbidden, terms, weigh(weights, terms)));
    } else choices.push(by.length > 0 ? changed(choice, forbidden, choice.terms, choice.cost) : choice);
  }
  const open = net.role.kind === 'open-signal' ? net.role.peripheral : undefined;
  const kind = open !== undefined && belongTogether(device, open) ? open : undefined;
  return { net, requirement, choices, ...(kind === undefined ? {} : { kind }), locked: stays };
}

const NO_TERMS: Terms = {};

/** A choice of a role as one net has it; not shared. */
function changed(
  { pad, slot, fn, instance, modes, resources }: Choice,
  forbidden: readonly RequirementIndex[],
  terms: Terms,
  cost: number,
): Choice {
  return { pad, slot, fn, instance, modes, resources, forbidden, terms, cost, bare: undefined };
}

/** An instance that the plan names in one circuit is not there for the open roles of another. */
function withReserved(device: Device, items: readonly NetItem[]): NetItem[] {
  const named = new Map<string, NetItem[]>();
  for (const item of items) {
    const names = namedInstance(device, item.net.role);
    if (names) named.set(names.instance, [...(named.get(names.instance) ?? []), item]);
  }
  if (named.size === 0) return [...items];
  return items.map((item) => {
    if (item.kind === undefined) return item;
    const choices = item.choices.map((choice) => {
      const others = (named.get(choice.instance ?? '') ?? []).filter(
        (other) => other.net.circuit !== item.net.circuit,
      );
      if (others.length === 0) return choice;
      const forbidden = [...choice.forbidden, ...others.map((other) => other.requirement)];
      return changed(choice, forbidden, choice.terms, choice.cost);
    });
    return { ...item, choices };
  });
}

function interruptsOf(device: Device, items: readonly NetItem[]): Model['interrupts'] {
  const { interrupts } = device.description;
  return interrupts?.lines === 'pad' && interrupts.count !== undefined
    ? { items: items.filter(({ net }) => net.role.kind === 'interrupt'), lines: interrupts.count }
    : { items: [], lines: Number.POSITIVE_INFINITY };
}
