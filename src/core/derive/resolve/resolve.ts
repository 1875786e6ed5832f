import { identifierFrom } from '../../base/text/identifier';
import { defaultOf, meantBy, valuesMeaning } from '../../description/meanings';
import {
  isAsked,
  isOfLine,
  type Mode,
  type PadSettings,
  type SettingKey,
  settingKeysOf,
} from '../../description/settings';
import type { LineKind, Package, Pad, PadFunction, PinNumber } from '../../description/types';
import { splitSignal } from '../../description/types';
import { defaultOn, fitTogether, lackOf, valueFor, valuesOn } from '../../device/available';
import type { Device } from '../../device/device';
import { appliedKeys, canonical } from '../../device/fields/encode';
import { interruptLine } from '../../device/interrupt-lines';
import { offerOf } from '../../device/offers';
import type { PlannedPad } from '../../device/planned-pad';
import { onePlannedPad } from '../../device/planned-pad';
import {
  lineMatches,
  type Net,
  type NetSettings,
  type Plan,
  type Role,
  roleText,
} from '../../plan/model/types';
import { currentSide, demandedMilliamps, driveFor, speedFor, strongestDrive } from '../electrical/limits';

/** A wish of the net that its pad cannot fulfil. */
export interface UnmetSetting {
  key: SettingKey;
  wanted: string;
  why: string;
}

/** A net brought together with the pad it sits on. */
export interface ResolvedNet {
  net: Net;
  pad?: Pad;
  pins: PinNumber[];
  /** The function that carries the net's signal on this pad, if it needs one and the pad has it. */
  fn?: PadFunction;
  /** The pad can do what the role asks. */
  fits: boolean;
  /** What the pad shall be; absent when it cannot be said. */
  planned?: PlannedPad;
  /** Its settings in the trade's words, where the part has its own: `up` for a pull `up22k`. */
  meant?: Partial<Record<SettingKey, string>>;
  unmet: UnmetSetting[];
}

/** The functions of a pad in a package that would satisfy a role; empty for roles that need none, and when there are none. */
export const functionsFor = (device: Device, pkg: Package, role: Role, pad: Pad): PadFunction[] =>
  satisfying(device, role, offerOf(device, pkg).of(pad.id));

/** The function by which a net is on a pad: the one its placement names, else the first that its role can be. */
export function functionOf(device: Device, pkg: Package, net: Net, pad: Pad): PadFunction | undefined {
  const functions = functionsFor(device, pkg, net.role, pad);
  return functions.find((one) => one.signal === net.placement?.signal) ?? functions[0];
}

/** Whether a role wants an interrupt line of a pad that has none. */
export const lacksLine = (device: Device, role: Role, pad: Pad): boolean =>
  role.kind === 'interrupt' && interruptLine(device, pad) === 'none';

/** Of some functions those that a role can be. */
export function satisfying(device: Device, role: Role, functions: readonly PadFunction[]): PadFunction[] {
  switch (role.kind) {
    case 'input':
    case 'output':
    case 'bidirectional':
    case 'open-drain':
    case 'interrupt':
      return [];
    case 'analog':
      return functions.filter(
        (fn) => isAnalogFunction(fn) && isAnalogInput(device.kindOf(fn.signal)?.serves),
      );
    case 'analog-output':
      return functions.filter(
        (fn) => isAnalogFunction(fn) && device.kindOf(fn.signal)?.serves === 'analog out',
      );
    case 'signal':
      return functions.filter((fn) => fn.signal === role.signal);
    case 'open-signal':
      return functions.filter((fn) => fulfils(device, role, fn.signal));
  }
}

/** Reached through analog mode; what the peripheral takes by itself is none of it. */
export const isAnalogFunction = (fn: PadFunction): boolean => fn.mux === null && !fn.itself;

/** Whether a signal is of the peripheral kind and line that an open role asks for. */
function fulfils(device: Device, role: Extract<Role, { kind: 'open-signal' }>, signal: string): boolean {
  const kind = device.description.peripheralKinds[role.peripheral];
  return (
    kind !== undefined && device.kindOf(signal) === kind && lineMatches(role.line, splitSignal(signal)[1])
  );
}

/** Kinds that do not say what they serve may be inputs; the others say what else they are. */
const isAnalogInput = (serves: string | undefined): boolean =>
  serves === undefined || serves === 'analog in' || serves === 'comparator';

/** Roles that any digital pad can play. */
export const isPlain = (role: Role): boolean =>
  role.kind === 'input' ||
  role.kind === 'output' ||
  role.kind === 'bidirectional' ||
  role.kind === 'open-drain' ||
  role.kind === 'interrupt';

/** Roles for a converter's channel: nets may share the converter, and no mux code is needed. */
export const isAnalog = (role: Role): boolean => role.kind === 'analog' || role.kind === 'analog-output';

/** Whether a pad, considered alone, can be what a role asks; the reason when not. */
export function whyNot(device: Device, pkg: Package, role: Role, pad: Pad): string | undefined {
  if (pad.kind !== 'io') return `${pad.id} is a ${pad.kind} pad`;
  const functions = functionsFor(device, pkg, role, pad);
  const mode = padModeFor(role, functions[0]);
  if (!isPlain(role) && functions.length === 0) {
    const lost = satisfying(device, role, device.functionsByPad.get(pad.id) ?? [])[0];
    const note = lost && offerOf(device, pkg).removal(lost);
    if (note) return `${pad.id} does not have ${lost.signal} in ${pkg.name}: ${note.why}`;
    if (role.kind === 'analog') return `${pad.id} has no analog channel`;
    if (role.kind === 'analog-output') return `${pad.id} has no analog output`;
    return `${pad.id} does not offer ${role.kind === 'open-signal' ? `${role.peripheral} ${role.line.replace('*', '')}` : roleText(role)}`;
  }
  const lack = lackOf(device, pad, 'mode', mode);
  if (lack !== undefined || (role.kind !== 'bidirectional' && role.kind !== 'open-drain')) return lack;
  if (role.kind === 'bidirectional') return lackOf(device, pad, 'mode', 'output');
  return device.description.recipe.settings.outputType
    ? lackOf(device, pad, 'outputType', 'open-drain')
    : undefined;
}

function padModeFor(role: Role, fn: PadFunction | undefined): Mode {
  switch (role.kind) {
    case 'input':
    case 'output':
      return role.kind;
    // A line that goes both ways listens until the firmware speaks.
    case 'bidirectional':
    case 'interrupt':
      return 'input';
    case 'open-drain':
      return 'output';
    case 'analog':
    case 'analog-output':
      return 'analog';
    case 'signal':
    case 'open-signal':
      // The registers are left as for a plain input; the peripheral does the rest.
      if (fn?.itself) return 'input';
      return fn?.mux === null ? 'analog' : 'function';
  }
}

const resolvedNets = new WeakMap<Device, Map<string, WeakMap<Net, ResolvedNet>>>();

/** The same, remembered for as long as the net is: nets are never changed, edits make new ones. */
export function resolvedNet(device: Device, pkg: Package, net: Net): ResolvedNet {
  let packages = resolvedNets.get(device);
  if (!packages) {
    packages = new Map();
    resolvedNets.set(device, packages);
  }
  let known = packages.get(pkg.id);
  if (!known) {
    known = new WeakMap();
    packages.set(pkg.id, known);
  }
  let one = known.get(net);
  if (!one) {
    one = resolveNet(device, pkg, net);
    if (one.planned) one = { ...one, planned: onePlannedPad(device, one.planned) };
    known.set(net, one);
  }
  return one;
}

const resolvedRows = new WeakMap<Net, { device: Device; pkg: Package; fn: PadFunction; one: ResolvedNet }>();

/** A net on its pad by one of several rows of its signal; remembered as long as the net is. */
export function resolvedAs(device: Device, pkg: Package, net: Net, fn: PadFunction): ResolvedNet {
  const known = resolvedRows.get(net);
  if (known?.device === device && known.pkg === pkg && known.fn === fn) return known.one;
  let one = resolveNet(device, pkg, net, fn);
  if (one.planned) one = { ...one, planned: onePlannedPad(device, one.planned) };
  resolvedRows.set(net, { device, pkg, fn, one });
  return one;
}

/** Brings a net together with its pad. Total: what does not fit is told in the result. */
export function resolveNet(device: Device, pkg: Package, net: Net, row?: PadFunction): ResolvedNet {
  const pad = net.placement ? device.pads.get(net.placement.pad) : undefined;
  if (!pad) return { net, pins: [], fits: false, unmet: [] };
  const pins = device.pinsOf.get(pkg.id)?.get(pad.id) ?? [];
  const fn = row ?? functionOf(device, pkg, net, pad);
  const fits = whyNot(device, pkg, net.role, pad) === undefined;
  if (!fits || pad.port === undefined) return { net, pad, pins, fn, fits, unmet: [] };

  const mode = padModeFor(net.role, fn);
  const line = fn && !isAnalog(net.role) ? device.lineOf(fn.signal) : undefined;
  const { values, unmet } = settle(device, pad, mode, wishesOf(device, net, pad), line, fn);
  const settings = canonical(device.description.recipe, { values, ...device.selection(fn) }, line?.direction);
  return {
    net,
    pad,
    pins,
    fn,
    fits,
    unmet,
    planned: { pad, fn, settings },
    meant: meantIn(device, settings),
  };
}

function meantIn(device: Device, { values }: PadSettings): Partial<Record<SettingKey, string>> {
  const { recipe } = device.description;
  if (!recipe.meanings) return values;
  return Object.fromEntries(settingKeysOf(values).map((key) => [key, meantBy(recipe, key, values[key])]));
}

/** What a net asks of a pad: its own settings, then what its role, its demands and its far end ask for. */
export function wishesOf(device: Device, net: Net, pad: Pad): NetSettings {
  const { role, settings, demands } = net;
  const given: NetSettings = {};
  if (role.kind === 'open-drain') {
    if (device.description.recipe.settings.outputType) given.outputType = 'open-drain';
    // Letting go of the line is its idle state.
    given.active = 'low';
  }
  if (role.kind === 'interrupt') {
    const known = device.description.recipe.settings.trigger;
    const edge = settings.active === 'low' ? 'falling' : 'rising';
    if (known) {
      const none = defaultOf(device.description.recipe, 'trigger');
      given.trigger =
        valuesMeaning(device.description.recipe, 'trigger', edge)[0] ??
        known.find((one) => one !== none) ??
        edge;
    }
  }
  // An input whose level the far end holds needs no pull of its own; one that nothing holds rests at its inactive level.
  if ((role.kind === 'input' || role.kind === 'interrupt') && demands?.farPull) given.pull = 'none';
  // No stronger and no faster than it needs to be.
  const milliamps = demandedMilliamps(demands);
  if (milliamps !== undefined) {
    const side = currentSide(net);
    given.drive = driveFor(device, pad, side, milliamps) ?? strongestDrive(device, pad, side);
  }
  if (demands?.rateHertz !== undefined) given.speed = speedFor(device, pad, demands.rateHertz);
  return { ...given, ...settings };
}

/**
 * What a net needs of a pad although nobody says so: an output drives both levels, unless its role, its line or its settings say
 * otherwise. A pad that cannot (an open-drain-only one) would give something else without a word, so nothing is placed there by
 * itself. Placed there by hand, the rules look at what becomes of it.
 */
export function silentLack(
  device: Device,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
): UnmetSetting | undefined {
  const { role, settings } = net;
  const usual = defaultOf(device.description.recipe, 'outputType');
  if (usual === undefined || settings.outputType !== undefined) return undefined;
  const line = fn && !isAnalog(role) ? device.lineOf(fn.signal) : undefined;
  const drives =
    role.kind === 'output' || (line?.direction === 'out' && line.defaults?.outputType === undefined);
  if (!drives) return undefined;
  const why = lackOf(device, pad, 'outputType', usual, fn);
  return why === undefined ? undefined : { key: 'outputType', wanted: usual, why };
}

/** Circuit terms → the pad's own settings. Wishes that the pad cannot fulfil fall back to what it has. */
function settle(
  device: Device,
  pad: Pad,
  mode: Mode,
  wishes: NetSettings,
  line: LineKind | undefined,
  fn: PadFunction | undefined,
) {
  const { recipe } = device.description;
  const values: Partial<Record<SettingKey, string>> = { mode };
  const unmet: UnmetSetting[] = [];
  const wishedFor = new Map<SettingKey, string>();
  for (const key of appliedKeys(recipe, mode, line?.direction)) {
    const wanted = key === 'level' ? latchLevel(wishes) : wish(wishes, key, line);
    const value = wanted === undefined ? undefined : valueFor(device, pad, key, wanted, fn);
    if (wanted !== undefined && value !== undefined) {
      values[key] = value;
      wishedFor.set(key, wanted);
      continue;
    }
    if (wanted !== undefined)
      unmet.push({ key, wanted, why: lackOf(device, pad, key, wanted, fn) ?? 'the pad has no such value' });
    const fallback = defaultOn(device, pad, key, fn) ?? valuesOn(device, pad, key)[0];
    if (fallback !== undefined) values[key] = fallback;
  }
  const fit = fitTogether(device, pad, { mode, ...(fn ? { fn } : {}) }, values, new Set(wishedFor.keys()));
  for (const { key, why } of fit?.given ?? []) unmet.push({ key, wanted: wishedFor.get(key) ?? '', why });
  return { values: fit ? { ...values, ...fit.values } : values, unmet };
}

function wish(wishes: NetSettings, key: SettingKey, line: LineKind | undefined): string | undefined {
  if (!isAsked(key)) return undefined;
  return wishes[key] ?? (isOfLine(key) ? line?.defaults?.[key] : undefined);
}

/** "Asserted low, starts inactive" → latch high. */
export function latchLevel(settings: NetSettings): 'high' | 'low' {
  const asserted = settings.start === 'asserted';
  const activeHigh = settings.active !== 'low';
  return asserted === activeHigh ? 'high' : 'low';
}

/** The settings that mean something for a net, in the order people think of them. */
export function settingKeysFor(device: Device, resolved: Pick<ResolvedNet, 'net' | 'fn'>): SettingKey[] {
  const mode = padModeFor(resolved.net.role, resolved.fn);
  const line = resolved.fn && device.lineOf(resolved.fn.signal)?.direction;
  return appliedKeys(device.description.recipe, mode, line);
}

/** Stems that C's own headers build names from: `INT_MAX`, `UINT8_MAX`, `SIZE_MAX`. */
const TAKEN_STEM =
  /^(u?int(_?(least|fast)?\d*|ptr|max)?|size|ptrdiff|wchar|wint|sig(_atomic)?|u?char|schar|u?shrt|u?long|u?llong|bool|stdint|stdbool)$/;

/** A prefix for generated names: the option, or the plan's name as an identifier. */
export function prefixOf(plan: Plan): string {
  const name = identifierFrom(plan.code.prefix || plan.name, 48).toLowerCase() || 'plan';
  return TAKEN_STEM.test(name) ? `${name}_pins` : name;
}
