import { type PadSettings, sameSettings } from '../description/settings';
import type { Pad, PadFunction } from '../description/types';
import { padSort, settingsOfVariant, type Variant, variantsOf } from './available';
import type { Device } from './device';
import { dependsOnPad, encodeSettings } from './fields/encode';
import { readField } from './fields/fields';
import type { Register } from './registers/types';

/** Every setting a pad can have, or in some variants of it, each once: canonical, with one entry per mux code for functions. */
export function* settingsOf(
  device: Device,
  pad: Pad,
  variants: readonly Variant[] = variantsOf(device, pad),
): Generator<{ settings: PadSettings; fn?: PadFunction }> {
  for (const variant of variants) {
    for (const settings of settingsOfVariant(device, pad, variant)) yield { settings, fn: variant.fn };
  }
}

/** Settings that write the same set of fields, found by the values they give those fields. */
interface Group {
  fields: string[];
  /** Which of the fields stand where the function says. */
  moves: boolean[];
  /** Set when a field's place depends on the function. */
  fn?: PadFunction;
  /** A register of the signal selects the pad, and drives it from there, whatever the port says. */
  takes: boolean;
  byValues: Map<string, PadSettings[]>;
  /** For each field the values it has in any of the settings: one that it never has rules the group out at once. */
  possible: Set<number>[];
}

/**
 * What is remembered for one device. A variant's settings encode alike on all pads of a class, unless positions or values
 * depend on more than the mux code; then they are kept for each pad.
 */
interface Memory {
  perPad: boolean;
  perSignal: boolean;
  fragments: Map<string, Group[]>;
  byPad: Map<string, Index>;
}

/** A pad's groups, and by the values of one field that all of them have and that stands still: a crossbar's code leaves few. */
interface Index {
  groups: readonly Group[];
  key?: string;
  byKey: Map<number, Group[]>;
}

const NO_GROUPS: readonly Group[] = [];

function indexed(groups: readonly Group[]): Index {
  const byKey = new Map<number, Group[]>();
  const key = groups[0]?.fields.find((id) =>
    groups.every(({ fields, moves }) => moves[fields.indexOf(id)] === false),
  );
  if (key === undefined) return { groups, byKey };
  for (const group of groups) {
    for (const value of group.possible[group.fields.indexOf(key)] ?? []) {
      const same = byKey.get(value);
      if (same) same.push(group);
      else byKey.set(value, [group]);
    }
  }
  return { groups, key, byKey };
}

const memories = new WeakMap<Device, Memory>();

function memoryOf(device: Device): Memory {
  let memory = memories.get(device);
  if (!memory) {
    const movable = [...device.fields.values()].some((field) => field.needsFunction);
    memory = {
      perPad: movable || device.rules.some(dependsOnPad),
      perSignal: device.tellsSignals || device.excludes.some((one) => one.signals),
      fragments: new Map(),
      byPad: new Map(),
    };
    memories.set(device, memory);
  }
  return memory;
}

function indexFor(device: Device, pad: Pad): Index {
  const memory = memoryOf(device);
  let index = memory.byPad.get(pad.id);
  if (!index) {
    const groups = variantsOf(device, pad).flatMap((variant) => {
      // What means something for a function may depend on the direction of its line.
      const key = `${memory.perPad ? pad.id : padSort(device, pad)} ${variant.mode} ${variant.fn?.mux} ${memory.perPad || memory.perSignal ? variant.fn?.signal : ''} ${variant.fn && device.lineOf(variant.fn.signal)?.direction}`;
      let groups = memory.fragments.get(key);
      if (!groups) {
        groups = indexVariant(device, pad, variant);
        memory.fragments.set(key, groups);
      }
      return groups;
    });
    index = indexed(groups);
    memory.byPad.set(pad.id, index);
  }
  return index;
}

function indexVariant(device: Device, pad: Pad, variant: Variant): Group[] {
  const groups = new Map<string, Group>();
  const lineOf = variant.fn && device.lineOf(variant.fn.signal)?.direction;
  for (const settings of settingsOfVariant(device, pad, variant)) {
    // A field that this signal does not have (an input number of a line that only drives) is neither written nor read.
    const encoded = encodeSettings(settings, pad, variant.fn, device).filter(
      ({ field }) => device.slotsOf(field, pad, variant.fn).length > 0,
    );
    const fields = encoded.map(({ field }) => field);
    const groupKey = fields.join(' ');
    let group = groups.get(groupKey);
    if (!group) {
      const moves = fields.map((id) => device.fields.get(id)?.needsFunction === true);
      const dependsOnFunction = moves.includes(true);
      group = {
        fields,
        moves,
        fn: dependsOnFunction ? variant.fn : undefined,
        takes: dependsOnFunction && ['out', 'both'].includes(lineOf ?? ''),
        byValues: new Map(),
        possible: fields.map(() => new Set()),
      };
      groups.set(groupKey, group);
    }
    encoded.forEach(({ value }, position) => {
      group?.possible[position]?.add(value);
    });
    const values = encoded.map(({ value }) => value).join(' ');
    const same = group.byValues.get(values);
    if (same) same.push(settings);
    else group.byValues.set(values, [settings]);
  }
  return [...groups.values()];
}

/**
 * Register contents → the settings of a pad that would give them, by the same tables as encoding: all of the pad's
 * finite settings whose fields equal what is read. Where one settles fields that another leaves alone (an interrupt line
 * that is somebody else's), the one that says more is meant. Empty when the bits mean nothing; several when ambiguous.
 */
export function decodePad(device: Device, pad: Pad, contents: (register: Register) => number): PadSettings[] {
  let matches: { group: Group; match: PadSettings[] }[] = [];
  const read = new Map<string, number>();
  const { groups, key, byKey } = indexFor(device, pad);
  const keyed = key === undefined ? undefined : readField(device.slotsOf(key, pad), contents);
  if (key !== undefined && keyed !== undefined) read.set(key, keyed);
  for (const group of keyed === undefined ? groups : (byKey.get(keyed) ?? NO_GROUPS)) {
    const values = valuesIn(device, pad, group, contents, read);
    if (values === undefined) continue;
    const match = group.byValues.get(values);
    if (match && !matches.some((earlier) => saysMore(earlier.group, group))) {
      matches = matches.filter((earlier) => !saysMore(group, earlier.group));
      matches.push({ group, match });
    }
  }
  const all = matches.flatMap(({ match }) => match);
  if (all.length <= 1) return all;
  // Lines of different directions may share a code and its bits.
  return all.filter((one, index) => all.findIndex((other) => sameSettings(one, other)) === index);
}

/** The values of a group's fields as its settings are listed by; undefined as soon as one is none of theirs. */
function valuesIn(
  device: Device,
  pad: Pad,
  group: Group,
  contents: (register: Register) => number,
  read: Map<string, number>,
): string | undefined {
  let values = '';
  for (let position = 0; position < group.fields.length; position++) {
    const id = group.fields[position] as string;
    const moves = group.moves[position];
    let value = moves ? undefined : read.get(id);
    if (value === undefined) {
      value = readField(device.slotsOf(id, pad, moves ? group.fn : undefined), contents);
      if (!moves) read.set(id, value);
    }
    if (!group.possible[position]?.has(value)) return undefined;
    values += position === 0 ? value : ` ${value}`;
  }
  return values;
}

/** One says all that the other says, and more; or it is a signal that has chosen the pad, which is then the signal's. */
const saysMore = (a: Group, b: Group): boolean =>
  (a.fields.length > b.fields.length && b.fields.every((field) => a.fields.includes(field))) ||
  (a.takes && !b.takes);
