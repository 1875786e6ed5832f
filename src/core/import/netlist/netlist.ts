/**
 * A netlist of a whole board, whichever form it was read from: which net is on which pin of which part. One part of it is matched
 * with the planned package by the numbers of its pins, then by the names of its pads.
 */
import { LIMITS, overLimit } from '../../base/limits';
import type { DeviceDescription, Package, PinNumber } from '../../description/types';

export interface NetlistPin {
  /** The pin's number, or its name where the file gives no number. */
  pin: PinNumber;
  /** Empty for a pin that is on no net. */
  net: string;
  /** The pin's name, where the file gives it beside a number. */
  name?: string;
  /** Line of the file, from 1. */
  line: number;
}

export interface Netlist {
  file: string;
  /** Designator → its pins, in the order of the file. */
  parts: Map<string, NetlistPin[]>;
}

/** Collects pins of parts. `add` is false, and `problem` says why, from the first pin on that is too many. */
export class NetlistPins {
  readonly parts = new Map<string, NetlistPin[]>();
  problem: string | undefined;
  private count = 0;

  add(part: string, pin: NetlistPin): boolean {
    if (++this.count > LIMITS.netlistPins) this.problem = overLimit('netlistPins', this.count);
    if (this.problem !== undefined) return false;
    const pins = this.parts.get(part);
    if (pins) pins.push(pin);
    else this.parts.set(part, [pin]);
    return true;
  }
}

/** A part of a netlist, seen as the planned package. */
export interface MatchedPart {
  designator: string;
  /** Pins of the package that are on a net, each once, in the order of the file; `alone`: nothing else in the file is on the net. */
  pins: { pin: PinNumber; net: string; alone?: true }[];
  /** Pins of the part that the package has not, as the file writes them. */
  unknown: string[];
  /** Why it cannot be taken, each with its line: a pin that is on two nets, a name that a plan cannot hold. */
  problems: string[];
}

/** The pins of one part of a netlist as pins of a package; undefined when the netlist has no part of that designator. */
export function matchPart(
  netlist: Netlist,
  designator: string,
  device: Pick<DeviceDescription, 'pads'>,
  pkg: Package,
): MatchedPart | undefined {
  const pins = netlist.parts.get(designator);
  return pins && matchPins(designator, pins, pinFinder(device, pkg), pinsByNet(netlist));
}

/** Parts of a netlist that could be the one in a package, likeliest first: most pins that the package has, fewest that it has not. */
export function likelyParts(
  netlist: Netlist,
  device: Pick<DeviceDescription, 'pads'>,
  pkg: Package,
): MatchedPart[] {
  const find = pinFinder(device, pkg);
  const counts = pinsByNet(netlist);
  return [...netlist.parts]
    .map(([designator, pins]) => matchPins(designator, pins, find, counts))
    .filter((part) => part.pins.length > 0)
    .sort((a, b) => likelihood(b) - likelihood(a) || a.designator.localeCompare(b.designator));
}

const likelihood = ({ pins, unknown }: MatchedPart): number => pins.length - 2 * unknown.length;

/** Net → number of pins on it; undefined when the file lists a single part, which says nothing about what is at the far end. */
function pinsByNet({ parts }: Netlist): ReadonlyMap<string, number> | undefined {
  if (parts.size < 2) return undefined;
  const counts = new Map<string, number>();
  for (const pins of parts.values()) for (const { net } of pins) counts.set(net, (counts.get(net) ?? 0) + 1);
  return counts;
}

function matchPins(
  designator: string,
  listed: readonly NetlistPin[],
  find: PinFinder,
  counts: ReadonlyMap<string, number> | undefined,
): MatchedPart {
  const nets = new Map<PinNumber, string>();
  const unknown: string[] = [];
  const problems = new Set<string>();
  if (!isStorable(designator, 40))
    problems.add(`the designator "${designator.slice(0, 40)}" is too long or holds control characters`);
  for (const { pin, net, name, line } of listed) {
    const numbers = find(pin, name);
    if (numbers.length === 0) unknown.push(pin);
    for (const number of numbers) {
      const before = nets.get(number);
      if (before !== undefined && before !== net)
        problems.add(
          `line ${line}: ${designator}-${number} is on two nets, ${before || 'none'} and ${net || 'none'}`,
        );
      else nets.set(number, net);
    }
    if (net !== '' && !isStorable(net, 120))
      problems.add(`line ${line}: the net "${net.slice(0, 40)}" is too long or holds control characters`);
  }
  return {
    designator,
    pins: [...nets]
      .filter(([, net]) => net !== '')
      .map(([pin, net]) => ({ pin, net, ...(counts?.get(net) === 1 ? { alone: true as const } : {}) })),
    unknown,
    problems: [...problems],
  };
}

/** Whether a plan can hold the text: `title` and `shortText` of its schema. */
const isStorable = (text: string, length: number): boolean =>
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
  text.length > 0 && text.length <= length && !/[\u0000-\u001f\ud800-\udfff]/.test(text);

/** Pin numbers of a package that a netlist's pin means; several when it is the name of a pad with several pins. */
type PinFinder = (pin: string, name: string | undefined) => readonly PinNumber[];

/** By number as printed, then in another case or with leading zeros, then by the name of the pad or an alias. */
function pinFinder(device: Pick<DeviceDescription, 'pads'>, pkg: Package): PinFinder {
  const byNumber = new Map<string, PinNumber[]>();
  const byName = new Map<string, PinNumber[]>();
  const put = (map: Map<string, PinNumber[]>, key: string, pin: PinNumber): void => {
    const pins = map.get(key);
    if (!pins) map.set(key, [pin]);
    else if (!pins.includes(pin)) pins.push(pin);
  };
  const aliases = new Map(device.pads.map((pad) => [pad.id, pad.aliases]));
  for (const [pin, padId] of Object.entries(pkg.pins)) {
    put(byNumber, plainPin(pin), pin);
    for (const name of [padId, ...(aliases.get(padId) ?? [])]) put(byName, name.toUpperCase(), pin);
  }
  return (pin, name) => {
    if (Object.hasOwn(pkg.pins, pin)) return [pin];
    return (
      byNumber.get(plainPin(pin)) ??
      byName.get(pin.toUpperCase()) ??
      (name === undefined ? undefined : byName.get(name.toUpperCase())) ??
      []
    );
  };
}

/** `a07`, `A7` and `A07` are one ball. */
const plainPin = (pin: string): string => pin.toUpperCase().replace(/(^|[A-Z])0+(?=\d)/, '$1');
