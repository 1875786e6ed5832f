import type { Derived } from '../derive/derive';
import { latchLevel, resolveNet } from '../derive/resolve/resolve';
import {
  isAsked,
  type Mode,
  type PadSettings,
  type SettingKey,
  sameSettings,
  settingKeysOf,
} from '../description/settings';
import type { Pad, PadFunction } from '../description/types';
import { titleOn } from '../device/available';
import { decodePad } from '../device/decode';
import type { Device } from '../device/device';
import { eachFieldPlace } from '../device/field-places';
import { appliedKeys } from '../device/fields/encode';
import { readField, slotMask } from '../device/fields/fields';
import { type PlannedPad, wantedOf } from '../device/planned-pad';
import { type Register, shownMask } from '../device/registers/types';
import type { Edit } from '../plan/edits/edits';
import { addNets, placeNet, setRole, setSetting } from '../plan/edits/make-edits';
import { CIRCUIT_SETTING_KEYS, type Circuit, type Net, type Role } from '../plan/model/types';

/** What registers are found to hold; undefined for one that nobody has read. */
export type Contents = (register: Register) => number | undefined;

/** What the bits of a pad mean, and the edit by which the plan would say the same. */
export interface Meaning {
  settings: PadSettings;
  /** The function they select. */
  fn?: PadFunction;
  /** "output, drive 4mA", "UART1.TX, pull up"; where the pad is still what was planned, "pull none instead of up". */
  text: string;
  edit: Edit;
  /** The plan after the edit gives these bits. */
  exact: boolean;
}

/** What is read of a pad, beside what the plan says of it. */
export interface PadReading {
  pad: string;
  pins: readonly string[];
  net?: Net;
  /**
   * `same` as planned; `differs`; `reset`: nobody planned it, and it is as after reset; `other`: nobody planned it, and it is not;
   * `meaningless`: no setting of the pad gives these bits.
   */
  state: 'same' | 'differs' | 'reset' | 'other' | 'meaningless';
  /** Registers that nobody has read; they are taken to be as planned. */
  missing: readonly Register[];
  /** What it can mean, the nearest to the plan first; several where the bits are ambiguous. */
  meanings: readonly Meaning[];
  /** As planned, what the bits mean as well: no bit tells a function that takes its pad by itself from an input. */
  equally: readonly string[];
}

/** Whether a pad is something else than planned, or than after reset where nobody planned it. */
export const isOther = ({ state }: PadReading): boolean => state !== 'same' && state !== 'reset';

/**
 * What registers hold, as a plan: each pad of the package with what its bits mean. Registers that nobody has read are taken to
 * be as planned, and named.
 */
export function readBack(derived: Derived, contents: Contents, newId: () => string): PadReading[] {
  const { device, pkg } = derived;
  const planned = new Map(derived.lowered.image.map((one) => [one.register, one.planned]));
  const pinsOf = device.pinsOf.get(pkg.id);
  return device.description.pads.flatMap((pad): PadReading[] => {
    const pins = pinsOf?.get(pad.id) ?? [];
    if (pad.kind !== 'io' || pad.port === undefined || pins.length === 0) return [];
    return [readPad(derived, pad, pins, contents, planned, newId)];
  });
}

function readPad(
  derived: Derived,
  pad: Pad,
  pins: readonly string[],
  contents: Contents,
  planned: ReadonlyMap<Register, number>,
  newId: () => string,
): PadReading {
  const { device } = derived;
  const missing = new Set<Register>();
  const held = (register: Register): number => {
    // Where bits are written in one register and take effect in another, what was written is what will be.
    const written = writtenIn(device).get(register);
    const read = contents(register) ?? (written && contents(written));
    if (read !== undefined) return read;
    missing.add(written ?? register);
    return planned.get(written ?? register) ?? register.reset;
  };
  const one = derived.byPad.get(pad.id)?.[0];
  const base = { pad: pad.id, pins, ...(one ? { net: one.net } : {}) };
  const wanted = one?.planned ?? derived.planned.find((it) => it.pad.id === pad.id);
  if (wanted) {
    const asPlanned = wantedOf(device, wanted).ends.every(
      ({ slots, value }) => readField(slots, held) === value,
    );
    if (asPlanned) {
      const equally = othersOf(device, pad, wanted, held);
      return { ...base, state: 'same', missing: [...missing], meanings: [], equally };
    }
  }
  const isReset = bitsOf(device, pad.id).every(
    ({ register, mask }) => ((held(register) ^ register.reset) & mask & ~register.unknownReset) === 0,
  );
  const found = decodePad(device, pad, held);
  const atReset = decodePad(device, pad, (register) => register.reset);
  // What pads share may say that somebody wants this one, whatever else is as after reset: an interrupt line that leads to it.
  const wanting = found.some((settings) => !atReset.some((other) => sameSettings(settings, other)));
  if (!one && !wanted && isReset && !wanting)
    return { ...base, state: 'reset', missing: [...missing], meanings: [], equally: [] };
  const meanings = found
    .flatMap((settings) => functionsOf(device, pad, settings).map((fn) => ({ settings, fn })))
    .map(({ settings, fn }) => meaningOf(derived, pad, settings, fn, newId));
  if (one && isReset && (meanings.length === 0 || !meanings.some((it) => it.exact))) {
    meanings.unshift({
      settings: found[0] ?? { values: {}, mux: null },
      text: 'as after reset: nothing has set it up',
      edit: placeNet(one.net, null),
      exact: true,
    });
  }
  const state = meanings.length === 0 ? 'meaningless' : one ? 'differs' : 'other';
  const nearest = nearestFirst(one?.net.role, meanings);
  return { ...base, state, missing: [...missing], meanings: nearest, equally: [] };
}

/** What bits that are as planned mean as well. */
function othersOf(
  device: Device,
  pad: Pad,
  planned: PlannedPad,
  held: (register: Register) => number,
): string[] {
  const itself = (device.functionsByPad.get(pad.id) ?? []).some((fn) => fn.itself);
  if (device.alike.length === 0 && !itself) return [];
  return decodePad(device, pad, held).flatMap((settings) =>
    functionsOf(device, pad, settings).flatMap((fn) =>
      sameSettings(settings, planned.settings) &&
      fn === (planned.fn?.mux === null && !planned.fn.itself ? undefined : planned.fn)
        ? []
        : [settingsText(device, settings, fn)],
    ),
  );
}

const writtenRegisters = new WeakMap<Device, Map<Register, Register>>();

/** For registers whose bits come from another one that is written: that one. */
function writtenIn(device: Device): ReadonlyMap<Register, Register> {
  let known = writtenRegisters.get(device);
  if (!known) {
    known = new Map();
    for (const { slot } of eachFieldPlace(device)) if (slot.through) known.set(slot.register, slot.through);
    writtenRegisters.set(device, known);
  }
  return known;
}

const padBits = new WeakMap<Device, Map<string, Map<Register, number>>>();

/**
 * The bits of registers that are a pad's alone, whatever it is; without those that only show what is outside. What pads share (an
 * interrupt line, the input of a peripheral) may be another's.
 */
function bitsOf(device: Device, pad: string): { register: Register; mask: number }[] {
  let pads = padBits.get(device);
  if (!pads) {
    pads = ownBits(device);
    padBits.set(device, pads);
  }
  return [...(pads.get(pad) ?? [])].map(([register, mask]) => ({ register, mask }));
}

function ownBits(device: Device): Map<string, Map<Register, number>> {
  const pads = new Map<string, Map<Register, number>>();
  for (const { pad, slot } of eachFieldPlace(device)) {
    if (slot.register.follows || slot.register.access.kind === 'read') continue;
    const own = pads.get(pad) ?? new Map<Register, number>();
    const mask = slotMask(slot) & ~shownMask(slot.register);
    own.set(slot.register, ((own.get(slot.register) ?? 0) | mask) >>> 0);
    pads.set(pad, own);
  }
  const once = new Map<Register, number>();
  const shared = new Map<Register, number>();
  for (const own of pads.values()) {
    for (const [register, mask] of own) {
      shared.set(register, (shared.get(register) ?? 0) | (mask & (once.get(register) ?? 0)));
      once.set(register, (once.get(register) ?? 0) | mask);
    }
  }
  for (const own of pads.values()) {
    for (const [register, mask] of own) own.set(register, (mask & ~(shared.get(register) ?? 0)) >>> 0);
  }
  return pads;
}

const nearestFirst = (role: Role | undefined, meanings: readonly Meaning[]): Meaning[] =>
  [...meanings].sort((a, b) => distance(role, a) - distance(role, b));

const distance = (role: Role | undefined, { fn, exact }: Meaning): number =>
  (exact ? 0 : 2) + (role?.kind === 'signal' && fn?.signal !== role.signal ? 1 : 0);

/**
 * The functions that settings can mean: several where they share a code. A plain input may as well be any function that takes
 * the pad by itself.
 */
function functionsOf(device: Device, pad: Pad, settings: PadSettings): (PadFunction | undefined)[] {
  const functions = device.functionsByPad.get(pad.id) ?? [];
  if (settings.values.mode === 'input') return [undefined, ...functions.filter((fn) => fn.itself)];
  if (settings.values.mode !== 'function') return [undefined];
  return functions.filter((fn) => {
    const chosen = device.selection(fn);
    return (
      chosen.mux === settings.mux && (settings.signal === undefined || chosen.signal === settings.signal)
    );
  });
}

/** What a pad with such settings is to the firmware. */
function roleFor(settings: PadSettings, fn: PadFunction | undefined): Role {
  if (fn?.itself) return { kind: 'signal', signal: fn.signal };
  switch (settings.values.mode) {
    case 'function':
      return fn ? { kind: 'signal', signal: fn.signal } : { kind: 'input' };
    case 'output':
      return { kind: 'output' };
    case 'analog':
      return { kind: 'analog' };
    default: {
      const trigger = settings.values.trigger;
      return { kind: trigger === undefined || trigger === 'none' ? 'input' : 'interrupt' };
    }
  }
}

function meaningOf(
  derived: Derived,
  pad: Pad,
  settings: PadSettings,
  fn: PadFunction | undefined,
  newId: () => string,
): Meaning {
  const one = derived.byPad.get(pad.id)?.[0];
  const now = one?.planned;
  const sameRole =
    one &&
    now &&
    now.settings.values.mode === settings.values.mode &&
    one.fn?.itself === fn?.itself &&
    (!fn || one.fn?.signal === fn.signal);
  const text =
    sameRole && now
      ? differenceText(derived.device, now.settings, settings, fn)
      : settingsText(derived.device, settings, fn);
  const role = sameRole ? one.net.role : roleFor(settings, fn);
  if (one) {
    const { net, exact } = fitted(derived, { ...one.net, role }, pad, settings);
    return { settings, ...(fn ? { fn } : {}), text, edit: changeOf(one.net, net, pad), exact };
  }
  const circuit = derived.plan.circuits.at(-1);
  const own: Circuit = circuit ?? { id: newId(), name: 'Read back' };
  const fresh: Net = {
    id: newId(),
    name: freshName(derived, pad, fn),
    circuit: own.id,
    role,
    placement: { pad: pad.id, locked: false },
    settings: {},
  };
  const { net, exact } = fitted(derived, fresh, pad, settings);
  const edit = addNets(derived.plan, circuit ? [] : [own], [net]);
  return { settings, ...(fn ? { fn } : {}), text, edit, exact };
}

/** A name for a net that nobody has named: after its signal, or its pad. */
function freshName(derived: Derived, pad: Pad, fn: PadFunction | undefined): string {
  const wanted = (fn?.signal ?? `PIN_${pad.id}`).replace(/[^A-Za-z0-9]+/g, '_').toUpperCase();
  const names = new Set(derived.plan.nets.map((net) => net.name));
  let name = wanted;
  for (let number = 2; names.has(name); number++) name = `${wanted}_${number}`;
  return name;
}

/** The net with the settings that its pad needs to come out like this, and whether it then does. */
function fitted(derived: Derived, net: Net, pad: Pad, settings: PadSettings): { net: Net; exact: boolean } {
  const { device, pkg } = derived;
  let fittedNet = net;
  const first = resolveNet(device, pkg, fittedNet).planned?.settings.values;
  for (const key of settingKeysOf(settings.values)) {
    const value = settings.values[key];
    if (value === undefined || key === 'mode' || first?.[key] === value) continue;
    fittedNet = { ...fittedNet, settings: withSetting(fittedNet, key, value) };
  }
  const planned = resolveNet(device, pkg, fittedNet).planned;
  const exact =
    planned !== undefined && planned.pad.id === pad.id && sameSettings(planned.settings, settings);
  return { net: fittedNet, exact };
}

function withSetting(net: Net, key: SettingKey, value: string): Net['settings'] {
  if (key !== 'level') return { ...net.settings, [key]: value };
  if (latchLevel(net.settings) === value) return net.settings;
  const start = (value === 'high') === (net.settings.active !== 'low') ? 'asserted' : 'inactive';
  return { ...net.settings, start };
}

/** The edit from a net to what it would be. */
function changeOf(net: Net, to: Net, pad: Pad): Edit {
  const edits: Edit[] = [];
  if (JSON.stringify(net.role) !== JSON.stringify(to.role)) edits.push(setRole(net, to.role));
  const asked = { ...net.settings, ...to.settings };
  const keys = [...CIRCUIT_SETTING_KEYS, ...settingKeysOf(asked).filter(isAsked)];
  for (const key of keys as (keyof Net['settings'])[]) {
    if (net.settings[key] !== to.settings[key]) edits.push(setSetting(net, key, to.settings[key] ?? null));
  }
  const [only] = edits;
  return edits.length === 1 && only
    ? only
    : { kind: 'batch', label: `${net.name} as read from the registers of ${pad.id}`, edits };
}

/** Where the pad is still what was planned: the settings that differ. */
function differenceText(
  device: Device,
  planned: PadSettings,
  read: PadSettings,
  fn: PadFunction | undefined,
): string {
  const line = fn && device.lineOf(fn.signal)?.direction;
  const keys = appliedKeys(device.description.recipe, (read.values.mode ?? 'input') as Mode, line);
  const said = keys.flatMap((key) =>
    planned.values[key] === read.values[key]
      ? []
      : [`${titleOn(device, key)} ${read.values[key] ?? 'none'} instead of ${planned.values[key] ?? 'none'}`],
  );
  return said.length > 0 ? said.join(', ') : settingsText(device, read, fn);
}

/** Settings in words: those that mean something in their mode. */
export function settingsText(device: Device, settings: PadSettings, fn?: PadFunction): string {
  const { values, mux } = settings;
  const mode = values.mode ?? 'input';
  const itself = fn?.itself ? `${fn.signal}, which takes the pad by itself` : mode;
  const first = mode === 'function' ? (fn?.signal ?? `code ${mux}`) : itself;
  const line = fn && device.lineOf(fn.signal)?.direction;
  const rest = appliedKeys(device.description.recipe, mode as Mode, line).flatMap((key) => {
    const value = values[key];
    const said = key !== 'mode' && value !== undefined && value !== 'none';
    return said ? [`${titleOn(device, key)} ${value}`] : [];
  });
  return [first, ...rest].join(', ');
}
