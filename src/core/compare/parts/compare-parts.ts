import { hexText } from '../../base/text/hex';
import { lower } from '../../derive/lower/lower';
import { prove } from '../../derive/simulate/proof';
import { type Mode, type PadSettings, settingKeysOf } from '../../description/settings';
import type { Pad, PadFunction } from '../../description/types';
import { settingsOf } from '../../device/decode';
import type { Device } from '../../device/device';
import { appliedKeys } from '../../device/fields/encode';
import type { PlannedPad } from '../../device/planned-pad';
import { canRead, canWrite, type Register } from '../../device/registers/types';
import type { CodeStyle } from '../../plan/model/types';
import { loweredOn, NoSuchRegister } from './mapped';
import { compareWrites } from './write-trials';

/**
 * Two descriptions of one part, compared by what they mean: pads and functions by name, registers by address, and behaviour by having the
 * machine of each prove the code of the other. Two people who read one data sheet apart from each other rarely make the same mistake.
 */
export interface PartComparison {
  /** What one says and the other does not, or says otherwise. */
  differences: PartDifference[];
  /** Names that differ for what is the same: they mean nothing to the hardware. */
  names: string[];
  /** How many single writes were carried out on the machines of both, and left the same to be seen. */
  writes: number;
  behaviour: Behaviour;
}

export interface PartDifference {
  about: string;
  /** What each of them says; empty where it says nothing. */
  first: string;
  second: string;
}

export interface Behaviour {
  /** Settings of pads of which the code of both was shown right on both. */
  shown: number;
  /** Code that cannot be proven on the registers that it is for: nothing is said of it. */
  unproven: TriedSettings[];
  /** Code of one that is not right on the registers of the other. */
  wrong: TriedSettings[];
  /** Of both lists the first ones are kept; this many were left out. */
  more: number;
}

export interface TriedSettings {
  pad: string;
  settings: string;
  /** Whose code it is. */
  whose: 'first' | 'second';
  style: CodeStyle;
  message: string;
}

const MOST = 5_000;

export function compareParts(first: Device, second: Device): PartComparison {
  const differences: PartDifference[] = [];
  const names: string[] = [];
  const add = (about: string, a: string | undefined, b: string | undefined): void => {
    if (a !== b && differences.length < MOST) differences.push({ about, first: a ?? '', second: b ?? '' });
  };
  comparePackages(first, second, add);
  comparePads(first, second, add);
  compareSettings(first, second, add);
  compareRegisters(first, second, add, names);
  const writes = compareWrites(first, second);
  differences.push(...writes.differences);
  return { differences, names, writes: writes.tried, behaviour: compareBehaviour(first, second) };
}

/** Same: all was shown. Different: something differs. Open: nothing differs, and of some settings nothing was shown. */
export function verdictOf({ differences, behaviour }: PartComparison): 'same' | 'different' | 'open' {
  if (differences.length > 0 || behaviour.wrong.length > 0) return 'different';
  return behaviour.unproven.length > 0 ? 'open' : 'same';
}

type Add = (about: string, first: string | undefined, second: string | undefined) => void;

/** Everything that either has, by name. */
function paired<T>(
  first: ReadonlyMap<string, T>,
  second: ReadonlyMap<string, T>,
): [string, T | undefined, T | undefined][] {
  return [...new Set([...first.keys(), ...second.keys()])].map((name) => [
    name,
    first.get(name),
    second.get(name),
  ]);
}

function comparePackages(first: Device, second: Device, add: Add): void {
  for (const [id, a, b] of paired(first.packages, second.packages)) {
    add(`package ${id}`, a && 'is there', b && 'is there');
    if (!a || !b) continue;
    const pins = paired(new Map(Object.entries(a.pins)), new Map(Object.entries(b.pins)));
    for (const [pin, padA, padB] of pins) add(`package ${id}, pin ${pin}`, padA, padB);
  }
}

const padText = (pad: Pad): string =>
  [
    pad.kind,
    pad.port === undefined ? '' : `port ${pad.port} bit ${pad.bit}`,
    pad.supply ? `supply ${pad.supply}` : '',
  ]
    .filter(Boolean)
    .join(', ');

/** What a pad's class says of it: its name means nothing. */
function classText(device: Device, pad: Pad): string {
  const {
    title: _title,
    source: _source,
    lacks = [],
    ...facts
  } = device.description.padClasses[pad.class ?? ''] ?? { title: '' };
  const entries = Object.entries(facts).sort(([a], [b]) => (a < b ? -1 : 1));
  const lacking = lacks.flatMap(({ setting, values }) => values.map((value) => `${setting} ${value}`)).sort();
  return JSON.stringify({ ...Object.fromEntries(entries), lacking });
}

function comparePads(first: Device, second: Device, add: Add): void {
  for (const [id, a, b] of paired(first.pads, second.pads)) {
    add(`pad ${id}`, a && padText(a), b && padText(b));
    if (!a || !b) continue;
    add(`pad ${id}, what its class says`, classText(first, a), classText(second, b));
    const functionsOf = (device: Device): Map<string, string> => {
      const codes = new Map<string, string[]>();
      for (const { signal, mux, itself } of device.functionsByPad.get(id) ?? [])
        codes.set(signal, [
          ...(codes.get(signal) ?? []),
          mux === null ? (itself ? 'itself' : 'analog') : `code ${mux}`,
        ]);
      return new Map([...codes].map(([signal, all]) => [signal, all.sort().join(', ')]));
    };
    for (const [signal, codeA, codeB] of paired(functionsOf(first), functionsOf(second)))
      add(`${signal} on ${id}`, codeA, codeB);
  }
}

function compareSettings(first: Device, second: Device, add: Add): void {
  const [a, b] = [first.description.recipe.settings, second.description.recipe.settings];
  for (const key of settingKeysOf({ ...a, ...b }))
    add(`setting ${key}`, a[key]?.join(' '), b[key]?.join(' '));
}

const accessText = (register: Register): string =>
  [canRead(register) ? 'read' : '', canWrite(register) ? 'written' : ''].filter(Boolean).join(' and ') ||
  'neither';

const resetText = ({ reset, unknownReset, bits }: Register): string =>
  unknownReset === 0
    ? hexText(reset, bits)
    : `${hexText(reset, bits)}, unknown in ${hexText(unknownReset, bits)}`;

function compareRegisters(first: Device, second: Device, add: Add, names: string[]): void {
  const onBus = (device: Device): Map<string, Register[]> => {
    const places = new Map<string, Register[]>();
    for (const register of device.registers.all) {
      if (register.access.kind === 'internal' || register.pieces) continue;
      const place = hexText(register.address, 32);
      places.set(place, [...(places.get(place) ?? []), register]);
    }
    return places;
  };
  for (const [place, a, b] of paired(onBus(first), onBus(second))) {
    const say = (all: Register[] | undefined, text: (register: Register) => string): string | undefined =>
      all?.map(text).sort().join('; ');
    if (!a || !b) {
      add(
        `register at ${place}`,
        say(a, ({ name, bits }) => `${name}, ${bits} bits`),
        say(b, ({ name, bits }) => `${name}, ${bits} bits`),
      );
      continue;
    }
    add(
      `register at ${place}, width`,
      say(a, ({ bits }) => `${bits} bits`),
      say(b, ({ bits }) => `${bits} bits`),
    );
    add(`register at ${place}, is`, say(a, accessText), say(b, accessText));
    // What only writes reach has no value after reset that anybody sees.
    const read = (all: Register[]): Register[] =>
      all.filter((register) => register.storage && canRead(register));
    if (read(a).length > 0 && read(b).length > 0)
      add(
        `register at ${place} (${a[0]?.name}), after reset`,
        say(read(a), resetText),
        say(read(b), resetText),
      );
    const [nameA, nameB] = [say(a, ({ name }) => name), say(b, ({ name }) => name)];
    if (nameA !== nameB && names.length < MOST) names.push(`${place}: ${nameA} and ${nameB}`);
  }
}

/** `input (pull up)`, `UART1.TX (drive 2mA)`: what means something under that use. */
function settingsText(device: Device, { values, mux }: PadSettings, fn: PadFunction | undefined): string {
  const mode = values.mode as Mode;
  const line = fn && device.lineOf(fn.signal)?.direction;
  const applied = appliedKeys(device.description.recipe, mode, line);
  const words = applied.map((key) => `${key} ${values[key]}`);
  const use = fn?.signal ?? (mux === null ? mode : `code ${mux}`);
  return words.length === 0 ? use : `${use} (${words.join(', ')})`;
}

const keyOf = (settings: PadSettings, fn: PadFunction | undefined): string =>
  JSON.stringify([
    fn?.signal ?? null,
    settings.mux,
    settingKeysOf(settings.values).map((key) => [key, settings.values[key]]),
  ]);

/** All settings of a pad of a description, by what they are called. */
function settingsByKey(device: Device, pad: Pad): Map<string, PlannedPad> {
  const all = new Map<string, PlannedPad>();
  for (const { settings, fn } of settingsOf(device, pad))
    all.set(keyOf(settings, fn), { pad, ...(fn ? { fn } : {}), settings });
  return all;
}

/**
 * Settings of a pad: each use and each function once, and each value of each setting once under every mode, and under one function of each
 * direction.
 */
function* chosenOf(device: Device, pad: Pad): Generator<{ settings: PadSettings; fn?: PadFunction }> {
  const bases = new Map<string, PadSettings>();
  const varied = new Map<string, string>();
  for (const { settings, fn } of settingsOf(device, pad)) {
    const use = `${settings.values.mode} ${fn?.signal ?? ''} ${settings.mux}`;
    const kind = `${settings.values.mode} ${(fn && device.lineOf(fn.signal)?.direction) ?? ''}`;
    const base = bases.get(use);
    if (!base) {
      bases.set(use, settings);
      if (!varied.has(kind)) varied.set(kind, use);
    } else if (varied.get(kind) !== use || distance(settings, base) > 1) continue;
    yield { settings, ...(fn ? { fn } : {}) };
  }
}

/** In how many settings two differ. */
const distance = (a: PadSettings, b: PadSettings): number =>
  settingKeysOf(a.values).filter((key) => a.values[key] !== b.values[key]).length;

const STYLES: readonly CodeStyle[] = ['from-reset', 'preserving'];

/** Each pad alone, in both styles: the code of each description on the machine of each. */
function compareBehaviour(first: Device, second: Device): Behaviour {
  const behaviour: Behaviour = { shown: 0, unproven: [], wrong: [], more: 0 };
  const sides = [
    [first, second, 'first'],
    [second, first, 'second'],
  ] as const;
  /** How often settings were shown: on both sides is twice. */
  const shown = new Map<string, number>();
  for (const [device, counterpart, whose] of sides) {
    for (const pad of device.description.pads) {
      const there = counterpart.pads.get(pad.id);
      if (pad.kind !== 'io' || pad.port === undefined || !there) continue;
      const known = settingsByKey(counterpart, there);
      for (const { settings, fn } of chosenOf(device, pad)) {
        const same = known.get(keyOf(settings, fn));
        // What one has not is among the differences.
        if (!same) continue;
        const planned: PlannedPad = { pad, ...(fn ? { fn } : {}), settings };
        const name = { pad: pad.id, settings: settingsText(device, settings, fn), whose };
        let isShown = true;
        for (const style of STYLES) {
          const { kind, message } = cross(device, counterpart, planned, same, style);
          if (kind === 'shown') continue;
          isShown = false;
          const list = kind === 'wrong' ? behaviour.wrong : behaviour.unproven;
          if (list.length < MOST) list.push({ ...name, style, message });
          else behaviour.more++;
        }
        const key = `${pad.id} ${keyOf(settings, fn)}`;
        if (isShown) shown.set(key, (shown.get(key) ?? 0) + 1);
      }
    }
  }
  behaviour.shown = [...shown.values()].filter((times) => times === sides.length).length;
  return behaviour;
}

interface Outcome {
  kind: 'shown' | 'unproven' | 'wrong';
  message: string;
}

function cross(
  device: Device,
  counterpart: Device,
  planned: PlannedPad,
  there: PlannedPad,
  style: CodeStyle,
): Outcome {
  const lowered = lower(device, [planned], style);
  const [unproven] = prove(device, [planned], lowered).failures;
  if (unproven) return { kind: 'unproven', message: unproven.message };
  try {
    const [failure] = prove(counterpart, [there], loweredOn(counterpart, lowered)).failures;
    return failure ? { kind: 'wrong', message: failure.message } : { kind: 'shown', message: '' };
  } catch (error) {
    if (!(error instanceof NoSuchRegister)) throw error;
    return { kind: 'wrong', message: `there is no register for ${error.message}` };
  }
}
