import { largest } from '../../base/lists';
import { classOf, currentLimit, pullOhmsOf } from '../../derive/electrical/limits';
import type { Bits, Machine } from '../../derive/machine/state';
import { fieldBits } from '../../derive/simulate/watch';
import { defaultOf, meantBy } from '../../description/meanings';
import type { LineWord } from '../../description/recipe';
import { type Mode, type SettingKey, settingKeysOf } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import type { Device } from '../../device/device';
import { type Slot, slotMask } from '../../device/fields/fields';
import { type FieldReading, readingsOf, type UseReading } from './readings';

/** What registers make of a pad at one moment. What they do not tell is `unknown`. */
export interface PadState {
  use: Mode | 'unknown';
  /** The function that is selected: the planned one where its code is, else the first of that code. */
  fn?: PadFunction;
  line?: LineWord;
  /** What the output stage is told. */
  output: 'off' | 'low' | 'high' | 'peripheral' | 'unknown';
  /** Which levels it drives. */
  stage: 'push-pull' | 'open-drain' | 'open-source' | 'unknown';
  /** What it drives with, to the supply and to ground, in ohms. */
  ohmsHigh: number;
  ohmsLow: number;
  pull: 'none' | 'up' | 'down' | 'keeper' | 'unknown';
  pullOhms: number;
  /** Its level can be read: the input buffer is not cut off. */
  reads: boolean;
  /** When it interrupts, in the trade's words. */
  trigger: string;
  /** Settings that mean something here, in the part's own words; undefined is not known. */
  settings: readonly { key: SettingKey; value: string | undefined }[];
}

/** An output that is loaded with the current it is made for is this far from its rail, in volts: how data sheets state it. */
const RATED_DROP_VOLTS = 0.4;
/** Where a part states no current. */
const USUAL_MILLIAMPS = 8;
/** Where a part states no pull resistance. */
const USUAL_PULL_OHMS = 40_000;

/**
 * Reads the pads of a part out of its registers. Equal bits give the very same object, so that whoever looks again sees at once
 * that nothing has changed.
 */
export interface PadReader {
  pad: Pad;
  /** Places in memory that say what the pad is. */
  slots: readonly Slot[];
  read(machine: Machine): PadState;
}

/** How many states of a pad are remembered. */
const MOST_REMEMBERED = 16;

/** `preferred` is the function that the plan has on the pad. */
export function padReader(device: Device, pad: Pad, preferred: PadFunction | undefined): PadReader {
  const uses = readingsOf(device, pad);
  const places = new Map<string, readonly Slot[]>();
  for (const { fields } of uses) {
    for (const { slots } of fields) places.set(placesText(slots), slots);
  }
  const latch = latchOf(device, pad, preferred);
  if (latch) places.set(placesText(latch), latch);
  const lists = [...places.values()];
  const slots = lists.flat();
  const words = [...new Set(slots.flatMap(({ register }) => register.storage?.word ?? []))];
  const masks = words.map((word) =>
    slots.reduce((mask, slot) => {
      const { storage } = slot.register;
      return storage?.word === word ? mask | (slotMask(slot) << storage.shift) : mask;
    }, 0),
  );
  // What it was lately comes first: most pads go back and forth between two states.
  const recent: { bits: Int32Array; state: PadState; text: string }[] = [];
  return {
    pad,
    slots,
    read(machine) {
      for (let at = 0; at < recent.length; at++) {
        const one = recent[at] as (typeof recent)[number];
        if (!isAs(machine, words, masks, one.bits)) continue;
        if (at > 1) {
          recent[at] = recent[0] as (typeof recent)[number];
          recent[0] = one;
        }
        return one.state;
      }
      const fresh = stateFrom(device, pad, preferred, uses, (list) => fieldBits(machine, list), latch);
      // Bits that make no difference, as of a latch that drives nothing, give the same object.
      const text = JSON.stringify(fresh);
      const state = recent.find((one) => one.text === text)?.state ?? fresh;
      if (recent.length >= MOST_REMEMBERED) recent.shift();
      recent.push({ bits: bitsNow(machine, words, masks), state, text });
      return state;
    },
  };
}

function bitsNow(machine: Machine, words: readonly number[], masks: readonly number[]): Int32Array {
  const bits = new Int32Array(words.length * 2);
  words.forEach((word, at) => {
    const mask = masks[at] as number;
    const known = (machine.known[word] as number) & mask;
    bits[at * 2] = known;
    bits[at * 2 + 1] = (machine.value[word] as number) & known;
  });
  return bits;
}

function isAs(
  machine: Machine,
  words: readonly number[],
  masks: readonly number[],
  bits: Int32Array,
): boolean {
  for (let at = 0; at < words.length; at++) {
    const word = words[at] as number;
    const known = (machine.known[word] as number) & (masks[at] as number);
    if (known !== bits[at * 2] || ((machine.value[word] as number) & known) !== bits[at * 2 + 1])
      return false;
  }
  return true;
}

const placesText = (slots: readonly Slot[]): string =>
  slots.map(({ register, low, bits, shift }) => `${register.index}.${low}.${bits}.${shift}`).join(' ');

/** Where the level is driven, for parts that have no setting for it. */
function latchOf(device: Device, pad: Pad, fn: PadFunction | undefined): readonly Slot[] | undefined {
  const { recipe } = device.description;
  const { latch } = recipe.access;
  if (latch === undefined || device.fields.get(latch)?.needsFunction) return undefined;
  const slots = device.slotsOf(latch, pad, fn);
  return slots.length > 0 ? slots : undefined;
}

type BitsOf = (slots: readonly Slot[]) => Bits;

/** Whether a field can hold a value. */
const canHold = (bits: Bits, value: number | 'anything'): boolean =>
  value === 'anything' || (bits.known & (bits.value ^ value)) === 0;

const tells = (field: FieldReading, bitsOf: BitsOf): boolean => {
  const bits = bitsOf(field.slots);
  return field.tuples.some(({ holds }) => canHold(bits, holds));
};

/** The uses that bits allow: those of which every field about the use tells; where there is none, those told by fields of the use alone. */
function usesIn(
  uses: readonly UseReading[],
  preferred: PadFunction | undefined,
  bitsOf: BitsOf,
): UseReading[] {
  const whole = uses.filter(({ fields }) => fields.every((one) => !one.aboutUse || tells(one, bitsOf)));
  const had = whole.filter((one) => !one.lacking);
  if (whole.length > 0) return had.length > 0 ? withoutListeners(had, preferred) : whole;
  if (!uses.some(({ fields }) => fields.some((one) => one.ofUse))) return [];
  return uses.filter(({ fields }) => fields.every((one) => !one.ofUse || tells(one, bitsOf)));
}

/** An input to which a peripheral happens to listen as well is an input, unless the plan has the function there. */
function withoutListeners(uses: readonly UseReading[], preferred: PadFunction | undefined): UseReading[] {
  if (preferred !== undefined || !uses.some((one) => one.mode === 'input')) return [...uses];
  return uses.filter((one) => one.mode !== 'function' || one.line !== 'in');
}

/** Of uses that the same bits allow, the one whose fields say most; several that say as much are all meant. */
function meant(
  uses: readonly UseReading[],
  preferred: PadFunction | undefined,
  bitsOf: BitsOf,
): UseReading[] {
  const definite = uses.map((use) => ({
    use,
    said: use.fields.filter(
      (one) =>
        one.aboutUse && !one.tuples.every(({ holds }) => holds === 'anything') && isKnown(bitsOf(one.slots)),
    ).length,
    own: preferred !== undefined && use.functions.includes(preferred) ? 1 : 0,
  }));
  const most = largest(definite.map((one) => one.said));
  const left = definite.filter((one) => one.said === most);
  const own = left.filter((one) => one.own === 1);
  return (own.length > 0 && left.every((one) => one.use.mode === 'function') ? own : left).map(
    (one) => one.use,
  );
}

const isKnown = (bits: Bits): boolean => bits.known !== 0;

/**
 * The values of a setting that the fields allow under a use. Where one value settles fields that another leaves alone, the one
 * that says more is meant.
 */
function valuesOf(device: Device, use: UseReading, key: SettingKey, bitsOf: BitsOf): string[] {
  let left = (device.description.recipe.settings[key] ?? []).map((value) => ({ value, said: 0 }));
  for (const { keys, slots, tuples } of use.fields) {
    if (!keys.includes(key)) continue;
    const bits = bitsOf(slots);
    const fitting = tuples.filter(({ holds }) => canHold(bits, holds));
    left = left.flatMap(({ value, said }) => {
      const own = fitting.filter((one) => one.values[key] === value);
      if (own.length === 0) return [];
      return [{ value, said: own.some(({ holds }) => holds !== 'anything') ? said + 1 : said }];
    });
  }
  const most = largest(left.map((one) => one.said));
  return left.filter((one) => one.said === most).map((one) => one.value);
}

function stateFrom(
  device: Device,
  pad: Pad,
  preferred: PadFunction | undefined,
  uses: readonly UseReading[],
  bitsOf: BitsOf,
  latch: readonly Slot[] | undefined,
): PadState {
  const possible = usesIn(uses, preferred, bitsOf);
  const chosen = meant(possible, preferred, bitsOf);
  const states = chosen.map((use) => stateOf(device, pad, preferred, use, bitsOf, latch));
  const [first, ...others] = states;
  if (!first) return { ...NOTHING };
  return others.length === 0 || others.every((one) => sameElectrically(one, first)) ? first : mixed(states);
}

/** Of bits that mean nothing. */
const NOTHING: PadState = {
  use: 'unknown',
  output: 'unknown',
  stage: 'unknown',
  ohmsHigh: (RATED_DROP_VOLTS / USUAL_MILLIAMPS) * 1000,
  ohmsLow: (RATED_DROP_VOLTS / USUAL_MILLIAMPS) * 1000,
  pull: 'unknown',
  pullOhms: USUAL_PULL_OHMS,
  reads: true,
  trigger: 'none',
  settings: [],
};

const sameElectrically = (a: PadState, b: PadState): boolean =>
  a.use === b.use &&
  a.output === b.output &&
  a.stage === b.stage &&
  a.pull === b.pull &&
  a.pullOhms === b.pullOhms &&
  a.ohmsHigh === b.ohmsHigh &&
  a.ohmsLow === b.ohmsLow &&
  a.trigger === b.trigger;

/** What several possible states have in common. */
function mixed(states: readonly PadState[]): PadState {
  const [first] = states as [PadState];
  const common = <Key extends keyof PadState>(key: Key): boolean =>
    states.every((one) => one[key] === first[key]);
  return {
    ...NOTHING,
    ...(common('use') ? { use: first.use } : {}),
    output: common('output') ? first.output : 'unknown',
    stage: common('stage') ? first.stage : 'unknown',
    ohmsHigh: first.ohmsHigh,
    ohmsLow: first.ohmsLow,
    pull: common('pull') ? first.pull : 'unknown',
    pullOhms: first.pullOhms,
    trigger: common('trigger') ? first.trigger : 'unknown',
  };
}

function stateOf(
  device: Device,
  pad: Pad,
  preferred: PadFunction | undefined,
  use: UseReading,
  bitsOf: BitsOf,
  latch: readonly Slot[] | undefined,
): PadState {
  const { recipe } = device.description;
  const { mode } = use;
  const fn = use.functions.find((one) => one === preferred) ?? use.functions[0];
  const line = fn ? device.lineOf(fn.signal)?.direction : undefined;
  const read = new Map<SettingKey, string | undefined>();
  for (const key of settingKeysOf(recipe.settings)) {
    if (key === 'mode' || !use.applies.has(key)) continue;
    const values = valuesOf(device, use, key, bitsOf);
    const meanings = new Set(values.map((value) => meantBy(recipe, key, value)));
    read.set(key, values.length === 1 || meanings.size === 1 ? values[0] : undefined);
  }
  const word = (key: SettingKey): string | undefined => {
    if (!recipe.settings[key]) return undefined;
    if (!read.has(key)) return meantBy(recipe, key, defaultOf(recipe, key));
    const value = read.get(key);
    return value === undefined ? 'unknown' : meantBy(recipe, key, value);
  };
  const drives =
    !use.lacking && (mode === 'output' || (mode === 'function' && (line === 'out' || line === 'both')));
  const pull = read.has('pull') ? (word('pull') ?? 'none') : 'none';
  return {
    use: mode,
    ...(fn ? { fn } : {}),
    ...(line ? { line } : {}),
    output: !drives
      ? 'off'
      : mode === 'function'
        ? 'peripheral'
        : recipe.settings.level
          ? levelWord(read.has('level') ? word('level') : latchLevel(latch, bitsOf))
          : levelWord(latchLevel(latch, bitsOf)),
    stage: stageWord(word('outputType')),
    ...outputOhms(device, pad, read.get('drive')),
    pull: pull === 'up' || pull === 'down' || pull === 'none' || pull === 'keeper' ? pull : 'unknown',
    pullOhms: pullOhmsOf(device, pad, read.get('pull')) ?? USUAL_PULL_OHMS,
    reads: mode !== 'analog',
    trigger: read.has('trigger') ? (word('trigger') ?? 'none') : 'none',
    settings: [...read].map(([key, value]) => ({ key, value })),
  };
}

function latchLevel(latch: readonly Slot[] | undefined, bitsOf: BitsOf): string | undefined {
  const bits = latch && bitsOf(latch);
  if (!bits || (bits.known & 1) === 0) return undefined;
  return (bits.value & 1) === 1 ? 'high' : 'low';
}

const levelWord = (word: string | undefined): PadState['output'] =>
  word === 'high' || word === 'low' ? word : 'unknown';

const stageWord = (word: string | undefined): PadState['stage'] =>
  word === undefined || word === 'push-pull'
    ? 'push-pull'
    : word === 'open-drain' || word === 'open-source'
      ? word
      : 'unknown';

/**
 * Resistance of an output stage, to the supply and to ground. A data sheet states the current at which an output is still within a
 * few tenths of a volt of its rail; the resistance is that voltage over that current.
 */
export function outputOhms(
  device: Device,
  pad: Pad,
  drive: string | undefined,
): { ohmsHigh: number; ohmsLow: number } {
  const ohms = (side: 'source' | 'sink'): number =>
    (RATED_DROP_VOLTS / (currentLimit(device, pad, side, drive) || USUAL_MILLIAMPS)) * 1000;
  return { ohmsHigh: ohms('source'), ohmsLow: ohms('sink') };
}

/** Whether a pad is sure to read a voltage as low or as high. */
export interface Thresholds {
  lowBelow: number;
  highAbove: number;
}

/** Where a part states no thresholds: the usual ones of CMOS inputs, as parts of the supply. */
const USUAL_LOW = 0.3;
const USUAL_HIGH = 0.7;

/** In volts, at a supply. */
export function thresholdsOf(device: Device, pad: Pad, supplyVolts: number): Thresholds {
  const own = classOf(device, pad);
  return {
    lowBelow: (own?.readsLowBelow ?? USUAL_LOW) * supplyVolts,
    highAbove: (own?.readsHighAbove ?? USUAL_HIGH) * supplyVolts,
  };
}
