import {
  type Forced,
  type Package,
  type PadFunction,
  type PadId,
  type Removal,
  type SignalId,
  splitSignal,
} from '../description/types';
import type { Device } from './device';
import { matchesLine } from './fields/excludes';

/**
 * What a package leaves of a part: its functions without those that package notes take away, and the rates that notes limit.
 * Looked up once a device and package.
 */
export interface Offer {
  /** Functions of a pad that this package has. */
  of(pad: PadId): readonly PadFunction[];
  /** Pads that carry a signal in this package, by its functions. */
  carrying(signal: SignalId): readonly PadFunction[];
  /** The note that takes a function away; undefined when it is there. */
  removal(fn: Pick<PadFunction, 'pad' | 'signal'>): Removal | undefined;
  /** Notes that limit the rate of a signal on a pad. */
  limits(fn: Pick<PadFunction, 'pad' | 'signal'>): readonly Removal[];
}

const known = new WeakMap<Device, Map<string, Offer>>();
const NONE: readonly PadFunction[] = [];

export function offerOf(device: Device, pkg: Package): Offer {
  let offers = known.get(device);
  if (!offers) {
    offers = new Map();
    known.set(device, offers);
  }
  let offer = offers.get(pkg.id);
  if (!offer) {
    offer = makeOffer(device, pkg);
    offers.set(pkg.id, offer);
  }
  return offer;
}

function makeOffer(device: Device, pkg: Package): Offer {
  const all = pkg.removes ?? [];
  const gone = all.filter((one) => one.highestHertz === undefined);
  const limited = all.filter((one) => one.highestHertz !== undefined);
  const bonded = device.pinsOf.get(pkg.id);
  const byPad = new Map<PadId, PadFunction[]>();
  const bySignal = new Map<SignalId, PadFunction[]>();
  for (const fn of device.description.functions) {
    if (gone.some((one) => concerns(one, fn))) continue;
    add(byPad, fn.pad, fn);
    if (bonded?.has(fn.pad)) add(bySignal, fn.signal, fn);
  }
  return {
    of: (pad) => byPad.get(pad) ?? NONE,
    carrying: (signal) => bySignal.get(signal) ?? NONE,
    removal: (fn) => gone.find((one) => concerns(one, fn)),
    limits: (fn) => limited.filter((one) => concerns(one, fn)),
  };
}

function add<Key>(map: Map<Key, PadFunction[]>, key: Key, fn: PadFunction): void {
  const list = map.get(key);
  if (list) list.push(fn);
  else map.set(key, [fn]);
}

/** A note that names neither speaks of nothing. */
export const concerns = (note: Removal, fn: Pick<PadFunction, 'pad' | 'signal'>): boolean =>
  (note.pads !== undefined || note.signals !== undefined) &&
  (note.pads === undefined || note.pads.includes(fn.pad)) &&
  (note.signals === undefined || note.signals.some((pattern) => matchesLine(pattern, fn.signal)));

/** The functions in use that take a pad along, given which pad carries which signal. */
export const takenAlong = (
  device: Device,
  pad: PadId,
  carries: (signal: SignalId, on: PadId) => boolean,
): Forced[] =>
  (device.description.forced ?? []).filter((one) => one.takes.includes(pad) && carries(one.signal, one.pad));

/** The highest rate of a signal on a pad in a package, in hertz, and who says so; undefined when nobody does. */
export function highestRate(
  device: Device,
  pkg: Package,
  fn: Pick<PadFunction, 'pad' | 'signal'>,
): { hertz: number; why: string } | undefined {
  const [instance] = splitSignal(fn.signal);
  const own = device.description.peripherals.find((one) => one.id === instance)?.highestHertz;
  const limits = offerOf(device, pkg)
    .limits(fn)
    .map((one) => ({ hertz: one.highestHertz ?? 0, why: one.why }));
  if (own !== undefined) limits.push({ hertz: own, why: `${instance} runs at ${hertzText(own)} at most` });
  return limits.sort((a, b) => a.hertz - b.hertz)[0];
}

/** 66000000 → "66 MHz". */
export function hertzText(hertz: number): string {
  const units: [number, string][] = [
    [1e9, 'GHz'],
    [1e6, 'MHz'],
    [1e3, 'kHz'],
  ];
  const [size, unit] = units.find(([one]) => hertz >= one) ?? [1, 'Hz'];
  return `${Number((hertz / size).toPrecision(4))} ${unit}`;
}
