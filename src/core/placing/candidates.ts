import { distanceBetween, sideOf } from '../device/geometry';
import { offerOf, takenAlong } from '../device/offers';
import type { Package, Pad, PadFunction, PadId, SignalId, TerminalNo } from '../device/types';
import { splitSignal } from '../device/types';
import { shortfalls } from '../electrical/limits';
import {
  functionsFor,
  isAnalog,
  type ResolvedNet,
  resolveNet,
  silentLack,
  type UnmetSetting,
  whyNot,
} from '../plan/resolve';
import type { Net, NetId, Placement, Role, Tie } from '../plan/types';
import type { Device } from '../recipe/device';
import { SETTING_TITLES } from '../settings';
import { whyBroken } from './ties';

/** A pad that could carry a net, with what the choice costs. */
export interface Candidate {
  pad: PadId;
  terminals: TerminalNo[];
  fn?: PadFunction;
  /** Nets that sit there already. */
  takenBy: Net[];
  /** Lower is better; only for ranking. */
  cost: number;
  /** What speaks for and against it, most telling first. */
  reasons: string[];
  /** What of its settings, demands and ties the net would not get there, in words. */
  lacks: string[];
  /** Free, without a duty at boot, all settings to be had, and no peripheral torn apart: fit to be proposed as a move. */
  clean: boolean;
}

/** What is placed where, as candidates need it. */
export interface Occupancy {
  device: Device;
  pkg: Package;
  resolved: readonly ResolvedNet[];
  byNet: ReadonlyMap<NetId, ResolvedNet>;
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
  bySignal: ReadonlyMap<SignalId, readonly ResolvedNet[]>;
  terminalOrder: ReadonlyMap<PadId, number>;
  ties: readonly Tie[];
}

/** The placement a candidate stands for. */
export const placementAt = (net: Net, candidate: Candidate): Placement => ({
  pad: candidate.pad,
  held: false,
  ...(net.role.kind === 'open-signal' && candidate.fn ? { signal: candidate.fn.signal } : {}),
});

/**
 * All pads of the package that can carry a net, best first: pads that complete the peripheral its circuit already uses,
 * that lie beside the circuit's other nets, and that give up little; pads in use come last.
 */
export function candidatesFor(occupancy: Occupancy, net: Net): Candidate[] {
  const { device, pkg } = occupancy;
  const terminals = device.terminalsOf.get(pkg.id);
  const found: Candidate[] = [];
  if (!terminals) return found;
  const unmet = unmetFinder(occupancy, net);
  for (const [id, numbers] of terminals) {
    const pad = device.pads.get(id);
    if (!pad || whyNot(device, pkg, net.role, pad) !== undefined) continue;
    const functions = functionsFor(device, pkg, net.role, pad);
    const options = functions.length === 0 ? [undefined] : functions;
    const ranked = options
      .map((fn) => weigh(occupancy, net, pad, fn, unmet))
      .filter((one) => one !== undefined)
      .sort((a, b) => a.cost - b.cost);
    const best = ranked[0];
    if (best) found.push({ pad: id, terminals: numbers, ...best });
  }
  return found.sort(
    (a, b) =>
      a.cost - b.cost ||
      (occupancy.terminalOrder.get(a.pad) ?? 0) - (occupancy.terminalOrder.get(b.pad) ?? 0),
  );
}

/** The first wish of a net that a pad cannot fulfil. Pads of a class are alike in that. */
function unmetFinder({ device, pkg }: Occupancy, net: Net) {
  const known = new Map<string, UnmetSetting | undefined>();
  return (pad: Pad, fn: PadFunction | undefined): UnmetSetting | undefined => {
    const key = `${pad.class} ${fn?.signal ?? ''}`;
    if (!known.has(key)) {
      const placement = { pad: pad.id, held: false, ...(fn ? { signal: fn.signal } : {}) };
      const unmet = resolveNet(device, pkg, { ...net, placement }).unmet[0];
      known.set(key, unmet ?? silentLack(device, net, pad, fn));
    }
    return known.get(key);
  };
}

type Weighed = Pick<Candidate, 'fn' | 'takenBy' | 'cost' | 'reasons' | 'lacks' | 'clean'>;

interface Argument {
  cost: number;
  words?: string;
  /** Speaks against proposing the pad at all. */
  blemish?: true;
  /** What the net asks for would not hold. */
  lack?: true;
}

/** Cost and reasons of one pad and function; undefined when another net already carries the signal. */
function weigh(
  occupancy: Occupancy,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
  unmetOn: (pad: Pad, fn: PadFunction | undefined) => UnmetSetting | undefined,
): Weighed | undefined {
  const takenBy = (occupancy.byPad.get(pad.id) ?? [])
    .map((one) => one.net)
    .filter((other) => other.id !== net.id);
  const arguments_: Argument[] = [];
  if (takenBy.length > 0)
    arguments_.push({ cost: 200, words: `taken by ${takenBy.map((n) => n.name).join(', ')}`, blemish: true });
  if (fn && !isAnalog(net.role)) {
    const elsewhere = (occupancy.bySignal.get(fn.signal) ?? []).filter((one) => one.net.id !== net.id);
    if (elsewhere.length > 0) return undefined;
    arguments_.push(...peripheralArguments(occupancy, net, fn));
  }
  arguments_.push(...padArguments(occupancy, net, pad, fn));
  const unmet = unmetOn(pad, fn);
  if (unmet)
    arguments_.push({
      cost: 30,
      words: `no ${unmet.wanted} ${SETTING_TITLES[unmet.key]}`,
      blemish: true,
      lack: true,
    });
  const side = sideOf(
    occupancy.pkg,
    occupancy.device.terminalsOf.get(occupancy.pkg.id)?.get(pad.id)?.[0] ?? '',
  );
  for (const { why } of net.demands ? shortfalls(occupancy.device, occupancy.pkg, net, pad, fn, side) : [])
    arguments_.push({ cost: 120, words: why, blemish: true, lack: true });
  arguments_.push(...tieArguments(occupancy, net, pad, fn), ...lineArguments(occupancy, net, pad));
  const near = neighbourArgument(occupancy, net, pad);
  if (near) arguments_.push(near);
  const words = arguments_
    .filter((one) => one.words !== undefined)
    .sort((a, b) => Math.abs(b.cost) - Math.abs(a.cost))
    .map((one) => one.words as string);
  return {
    fn,
    takenBy,
    cost: arguments_.reduce((sum, one) => sum + one.cost, 0),
    reasons: words,
    lacks: arguments_.flatMap((one) => (one.lack && one.words ? [one.words] : [])),
    clean: !arguments_.some((one) => one.blemish),
  };
}

/** Same instance as the circuit's other nets of this peripheral, or an instance somebody else has begun. */
function peripheralArguments(occupancy: Occupancy, net: Net, fn: PadFunction): Argument[] {
  if (net.role.kind !== 'open-signal') return [];
  const [instance] = splitSignal(fn.signal);
  let mates = 0;
  let strangers = 0;
  let mateElsewhere: Net | undefined;
  for (const other of sharersOf(occupancy, net.role.peripheral)) {
    if (other.net.id === net.id || !other.fn) continue;
    const same = splitSignal(other.fn.signal)[0] === instance;
    if (other.net.circuit === net.circuit) {
      if (same) mates++;
      else mateElsewhere = other.net;
    } else if (same) strangers++;
  }
  if (mates > 0) return [{ cost: -60, words: `completes ${instance}` }];
  if (mateElsewhere) return [{ cost: 80, words: `apart from ${mateElsewhere.name}`, blemish: true }];
  if (strangers > 0) return [{ cost: 60, words: `${instance} serves another circuit` }];
  return [{ cost: 0.5, words: `begins ${instance}` }];
}

const sharers = new WeakMap<Occupancy, Map<string, ResolvedNet[]>>();

/** Placed nets that use a kind of peripheral. */
function sharersOf(occupancy: Occupancy, peripheral: string): ResolvedNet[] {
  let byKind = sharers.get(occupancy);
  if (!byKind) {
    byKind = new Map();
    sharers.set(occupancy, byKind);
  }
  let list = byKind.get(peripheral);
  if (!list) {
    const role: Role = { kind: 'open-signal', peripheral, line: '' };
    list = occupancy.resolved.filter(
      (one) => one.fn && sharesPeripheral(role, one.net.role, occupancy.device),
    );
    byKind.set(peripheral, list);
  }
  return list;
}

function sharesPeripheral(mine: Role, other: Role, device: Device): boolean {
  if (mine.kind !== 'open-signal') return false;
  if (other.kind === 'open-signal') return other.peripheral === mine.peripheral;
  return (
    other.kind === 'signal' &&
    device.kindOf(other.signal) === device.description.peripheralKinds[mine.peripheral]
  );
}

/** Demands on several nets that would not hold. */
function tieArguments(
  { device, pkg, byNet, ties }: Occupancy,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
): Argument[] {
  return ties.flatMap((tie): Argument[] => {
    if (!tie.nets.includes(net.id)) return [];
    const terminals = device.terminalsOf.get(pkg.id)?.get(pad.id) ?? [];
    const all = tie.nets.flatMap((id) =>
      id === net.id ? { net, pad, fn, terminals } : (byNet.get(id) ?? []),
    );
    if (whyBroken({ device, pkg }, tie, all) === undefined) return [];
    const others = all.filter((one) => one.net.id !== net.id).map((one) => one.net.name);
    return [
      { cost: 110, words: `not ${TIE_SHORT[tie.kind]} ${others.join(', ')}`, blemish: true, lack: true },
    ];
  });
}

const TIE_SHORT: Record<Tie['kind'], string> = {
  bus: 'in order with',
  pair: 'a pair with',
  'same-instance': 'on the instance of',
  'other-instances': 'on another instance than',
  together: 'on the side of',
  apart: 'apart from',
};

/** An interrupt line that pads of equal bit share. */
function lineArguments({ device, resolved }: Occupancy, net: Net, pad: Pad): Argument[] {
  const { interrupts } = device.description;
  if (net.role.kind !== 'interrupt' || interrupts?.lines !== 'bit') return [];
  if (interrupts.count !== undefined && (pad.bit ?? 0) >= interrupts.count)
    return [{ cost: 110, words: 'no interrupt line for its bit', blemish: true, lack: true }];
  const other = resolved.find(
    (one) => one.net.id !== net.id && one.net.role.kind === 'interrupt' && one.pad?.bit === pad.bit,
  );
  return other
    ? [{ cost: 110, words: `interrupt line ${pad.bit} is ${other.net.name}'s`, blemish: true, lack: true }]
    : [];
}

/** What the pad is otherwise good for. */
function padArguments(occupancy: Occupancy, net: Net, pad: Pad, fn: PadFunction | undefined): Argument[] {
  const found: Argument[] = [];
  if (pad.boot) {
    const own = fn && pad.boot.signals?.includes(fn.signal);
    if (!own) found.push({ cost: 50, words: `${pad.boot.kind} pad`, blemish: true });
  }
  const along = takenAlong(occupancy.device, pad.id, (signal, on) => carries(occupancy, signal, on))[0];
  if (along)
    found.push({ cost: 150, words: `taken along by ${along.signal} on ${along.pad}`, blemish: true });
  let spent = 0;
  let scarcest: { signal: string; homes: number } | undefined;
  for (const other of offerOf(occupancy.device, occupancy.pkg).of(pad.id)) {
    if (other === fn || occupancy.bySignal.has(other.signal)) continue;
    const homes = freeHomes(occupancy, other.signal, net);
    if (homes === 0) continue;
    spent += 6 / homes;
    if (!scarcest || homes < scarcest.homes) scarcest = { signal: other.signal, homes };
  }
  if (scarcest && scarcest.homes === 1)
    found.push({ cost: spent, words: `takes the last home of ${scarcest.signal}` });
  else if (scarcest)
    found.push({ cost: spent, words: `also ${scarcest.signal}, ${scarcest.homes} homes left` });
  else found.push({ cost: 0, words: 'gives nothing up' });
  return found;
}

/** Whether some net uses a signal on this very pad. */
export const carries = ({ bySignal }: Pick<Occupancy, 'bySignal'>, signal: SignalId, on: PadId): boolean =>
  bySignal.get(signal)?.some((one) => one.pad?.id === on) === true;

const homeCounts = new WeakMap<Occupancy, Map<SignalId, number>>();

/** Free pads of the package that offer a signal, the net's own pad counting as free. */
function freeHomes(occupancy: Occupancy, signal: SignalId, net: Net): number {
  let counts = homeCounts.get(occupancy);
  if (!counts) {
    counts = new Map();
    homeCounts.set(occupancy, counts);
  }
  const functions = offerOf(occupancy.device, occupancy.pkg).carrying(signal);
  let homes = counts.get(signal);
  if (homes === undefined) {
    homes = functions.filter((fn) => !occupancy.byPad.has(fn.pad)).length;
    counts.set(signal, homes);
  }
  const own = net.placement?.pad;
  const ownIsHome =
    own !== undefined && occupancy.byPad.get(own)?.length === 1 && functions.some((fn) => fn.pad === own);
  return ownIsHome ? homes + 1 : homes;
}

interface Seat {
  id: NetId;
  name: string;
  there: number;
}

const seats = new WeakMap<Occupancy, Map<string, Seat[]>>();

/** Where the nets of a circuit sit; worked out once, for every pad of every candidate asks. */
function seatsOf(occupancy: Occupancy, circuit: string): Seat[] {
  let byCircuit = seats.get(occupancy);
  if (!byCircuit) {
    byCircuit = new Map();
    for (const { net, pad } of occupancy.resolved) {
      const there = pad && occupancy.terminalOrder.get(pad.id);
      if (there === undefined) continue;
      const list = byCircuit.get(net.circuit);
      const seat = { id: net.id, name: net.name, there };
      if (list) list.push(seat);
      else byCircuit.set(net.circuit, [seat]);
    }
    seats.set(occupancy, byCircuit);
  }
  return byCircuit.get(circuit) ?? [];
}

const sideWords = ({ device, pkg }: Occupancy, pad: Pad): string => {
  const side = sideOf(pkg, device.terminalsOf.get(pkg.id)?.get(pad.id)?.[0] ?? '');
  return side === undefined ? '' : `${side} side, `;
};

/** How far along the package the circuit's nearest other net is. */
function neighbourArgument(occupancy: Occupancy, net: Net, pad: Pad): Argument | undefined {
  const here = occupancy.terminalOrder.get(pad.id);
  if (here === undefined) return undefined;
  let nearest: { name: string; distance: number } | undefined;
  for (const { id, name, there } of seatsOf(occupancy, net.circuit)) {
    if (id === net.id) continue;
    const distance = distanceBetween(occupancy.pkg, here, there);
    if (!nearest || distance < nearest.distance) nearest = { name, distance };
  }
  if (!nearest) return undefined;
  if (nearest.distance <= 1) return { cost: -8, words: `beside ${nearest.name}` };
  if (nearest.distance <= 4) return { cost: -8 + nearest.distance * 2, words: `near ${nearest.name}` };
  return {
    cost: Math.min(nearest.distance, 20) / 2,
    words: `${sideWords(occupancy, pad)}${nearest.distance} terminals from ${nearest.name}`,
  };
}
