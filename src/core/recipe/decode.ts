import type { Pad, PadFunction } from '../device/types';
import { type PadSettings, SETTING_KEYS, type SettingKey, USES, type Use } from '../settings';
import { type Device, valuesOn } from './device';
import { canonical, encodeSettings } from './encode';
import { readField } from './fields';
import type { Register } from './registers';

/** Every setting a pad can have, each once: canonical, with one entry per mux code for functions. */
export function* settingsOf(device: Device, pad: Pad): Generator<{ settings: PadSettings; fn?: PadFunction }> {
  const { recipe } = device.description;
  const uses = recipe.settings.use ? valuesOn(device, pad, 'use') : USES;
  for (const use of uses as Use[]) {
    const keys = SETTING_KEYS.filter((key) => key !== 'use' && recipe.applies[use]?.includes(key) && recipe.settings[key]);
    const functions = use === 'function' ? muxedFunctions(device, pad) : [undefined];
    for (const fn of functions) {
      for (const values of product(keys, (key) => valuesOn(device, pad, key))) {
        yield { settings: canonical(recipe, { values: { ...values, use }, mux: fn?.mux ?? null }), fn };
      }
    }
  }
}

/** The functions of a pad reached through the mux, one for each code. */
function muxedFunctions(device: Device, pad: Pad): PadFunction[] {
  const byCode = new Map<number, PadFunction>();
  for (const fn of device.functionsByPad.get(pad.id) ?? []) {
    if (fn.mux !== null && !byCode.has(fn.mux)) byCode.set(fn.mux, fn);
  }
  return [...byCode.values()];
}

function* product(
  keys: SettingKey[],
  valuesOf: (key: SettingKey) => string[],
): Generator<Partial<Record<SettingKey, string>>> {
  const [first, ...rest] = keys;
  if (first === undefined) {
    yield {};
    return;
  }
  for (const value of valuesOf(first)) {
    for (const others of product(rest, valuesOf)) yield { [first]: value, ...others };
  }
}

/** Settings that write the same set of fields, found by the values they give those fields. */
interface Group {
  fields: string[];
  /** Set when a field's place depends on the function. */
  fn?: PadFunction;
  byValues: Map<string, PadSettings[]>;
}

const indexes = new WeakMap<Device, Map<string, Group[]>>();

function indexFor(device: Device, pad: Pad): Group[] {
  let known = indexes.get(device);
  if (!known) {
    known = new Map();
    indexes.set(device, known);
  }
  const movable = [...device.fields.values()].some((field) => field.needsFunction);
  const codes = muxedFunctions(device, pad).map((fn) => fn.mux);
  const key = movable ? pad.id : `${pad.class} ${codes.join(' ')}`;
  let index = known.get(key);
  if (!index) {
    index = buildIndex(device, pad);
    known.set(key, index);
  }
  return index;
}

function buildIndex(device: Device, pad: Pad): Group[] {
  const groups = new Map<string, Group>();
  for (const { settings, fn } of settingsOf(device, pad)) {
    const encoded = encodeSettings(device.rules, settings, pad, fn, device.scopeOf);
    const fields = encoded.map(({ field }) => field);
    const dependsOnFunction = fields.some((id) => device.fields.get(id)?.needsFunction);
    const groupKey = `${fields.join(' ')}${dependsOnFunction ? ` @${fn?.signal} ${fn?.mux}` : ''}`;
    let group = groups.get(groupKey);
    if (!group) {
      group = { fields, fn: dependsOnFunction ? fn : undefined, byValues: new Map() };
      groups.set(groupKey, group);
    }
    const values = encoded.map(({ value }) => value).join(' ');
    const same = group.byValues.get(values);
    if (same) same.push(settings);
    else group.byValues.set(values, [settings]);
  }
  return [...groups.values()];
}

/**
 * Register contents → the settings of a pad that would give them, by the same tables as encoding: all of the pad's
 * finite settings whose fields equal what is read. Empty when the bits mean nothing; several when they are ambiguous.
 */
export function decodePad(device: Device, pad: Pad, valueOf: (register: Register) => number): PadSettings[] {
  const found: PadSettings[] = [];
  const read = new Map<string, number>();
  for (const group of indexFor(device, pad)) {
    const values: number[] = [];
    for (const id of group.fields) {
      const cached = group.fn ? undefined : read.get(id);
      const value = cached ?? readField(device.slotsOf(id, pad, group.fn), valueOf);
      if (!group.fn) read.set(id, value);
      values.push(value);
    }
    const match = group.byValues.get(values.join(' '));
    if (match) found.push(...match);
  }
  return found;
}

export function sameSettings(a: PadSettings, b: PadSettings): boolean {
  return a.mux === b.mux && SETTING_KEYS.every((key) => a.values[key] === b.values[key]);
}
