import { smallest } from '../../base/lists';
import type { Package, Pad, PadFunction, PadId, SignalId } from '../../description/types';
import { splitSignal } from '../../description/types';
import type { Device } from '../../device/device';
import { distanceBetween, orderOf } from '../../device/geometry';
import { offerOf } from '../../device/offers';
import type { Net, NetId } from '../../plan/model/types';
import { isAnalog } from '../resolve/resolve';
import { belongTogether, namedInstance } from './groups';
import type { Term, Terms } from './terms';

/** A net that stays where it is. */
export interface Standing {
  net: Net;
  pad?: Pad;
  fn?: PadFunction;
}

/** A signal that loses a pad, and how many it has. */
interface Loss {
  signal: SignalId;
  alternatives: number;
}

interface Seat {
  net: Net;
  place: number;
}

/** Farther than this is simply far; in pins. */
const FARTHEST = 24;

/**
 * What a pad costs a net, given the nets that stay where they are: the terms of {@link TERMS}, for the list of pads and for the
 * placer alike. Moves and the order of numbered nets depend on what else moves, and are the placer's.
 */
export class PadTerms {
  private readonly takers = new Map<PadId, NetId[]>();
  private readonly carriers = new Map<SignalId, NetId[]>();
  private readonly seats = new Map<string, Seat[]>();
  private readonly named = new Map<string, Map<string, Net>>();
  private readonly free = new Map<SignalId, number>();
  private readonly losses = new Map<string, readonly Loss[]>();
  private readonly middles = new Map<NetId, Seat | undefined>();
  private readonly lacking = new Map<string, number>();
  private readonly anchors = new Map<string, number>();
  private readonly centres = new Map<string, number | undefined>();

  constructor(
    private readonly device: Device,
    private readonly pkg: Package,
    nets: readonly Net[],
    standing: readonly Standing[],
  ) {
    const order = orderOf(device, pkg);
    for (const { net, pad, fn } of standing) {
      if (!pad) continue;
      add(this.takers, pad.id, net.id);
      if (fn && !isAnalog(net.role)) add(this.carriers, fn.signal, net.id);
      const place = order.get(pad.id);
      if (place !== undefined) add(this.seats, net.circuit, { net, place });
    }
    for (const net of nets) {
      const names = namedInstance(device, net.role);
      if (!names) continue;
      const key = `${net.circuit}\n${names.kind}`;
      const instances = this.named.get(key) ?? new Map<string, Net>();
      instances.set(names.instance, net);
      this.named.set(key, instances);
    }
  }

  /** What a pad and function cost by themselves; distance is asked for apart, as it depends on where the circuit is to lie. */
  of(
    net: Net,
    pad: Pad,
    fn: PadFunction | undefined,
    instance = fn && !isAnalog(net.role) ? splitSignal(fn.signal)[0] : undefined,
  ): Terms {
    const terms: Partial<Record<Term, number>> = {};
    const { sixths } = this.scarcity(net, pad.id, fn);
    if (sixths > 0) terms.scarce = sixths;
    if (pad.boot && !(fn && pad.boot.signals?.includes(fn.signal))) terms.special = 1;
    if (instance !== undefined) {
      const lacking = this.lackingLines(instance);
      if (lacking > 0) terms.complete = lacking;
      if (this.apartFrom(net, instance)) terms.split = 1;
    }
    return terms;
  }

  /** The net by which the circuit names another instance of the peripheral a net asks for. */
  apartFrom({ circuit, role }: Net, instance: string): Net | undefined {
    if (role.kind !== 'open-signal') return undefined;
    const own = this.named.get(`${circuit}\n${role.peripheral}`);
    return own && !own.has(instance) ? own.values().next().value : undefined;
  }

  /** Whether a circuit names an instance of the kind a net asks for: then its terms are not those of other circuits. */
  namesInstance({ circuit, role }: Net): boolean {
    return role.kind === 'open-signal' && this.named.has(`${circuit}\n${role.peripheral}`);
  }

  /** What using a pad takes from signals that nobody carries yet: in sixths of a pad, and from whom it takes the most. */
  scarcity(net: Net, pad: PadId, fn: PadFunction | undefined): { sixths: number; most?: Loss } {
    let sum = 0;
    let most: Loss | undefined;
    for (const loss of this.lossesAt(net, pad)) {
      if (loss.signal === fn?.signal) continue;
      sum += 6 / loss.alternatives;
      if (!most || loss.alternatives < most.alternatives) most = loss;
    }
    return { sixths: Math.round(sum), ...(most ? { most } : {}) };
  }

  /** Signals that nobody carries and that have a pad less once this one is used. Nets that stand nowhere share the answer. */
  private lossesAt(net: Net, pad: PadId): readonly Loss[] {
    const stands = net.placement !== null && this.takers.get(net.placement.pad)?.includes(net.id) === true;
    const key = stands ? `${pad} ${net.id}` : pad;
    const known = this.losses.get(key);
    if (known) return known;
    const losses = offerOf(this.device, this.pkg)
      .of(pad)
      .flatMap(({ signal }): Loss[] => {
        if (this.isCarried(signal, net)) return [];
        const alternatives = this.freeAlternatives(signal, net);
        return alternatives === 0 ? [] : [{ signal, alternatives }];
      });
    this.losses.set(key, losses);
    return losses;
  }

  private isCarried(signal: SignalId, net: Net): boolean {
    return this.carriers.get(signal)?.some((one) => one !== net.id) === true;
  }

  /** Free pads of the package that offer a signal, the net's own pad counting as free. */
  private freeAlternatives(signal: SignalId, net: Net): number {
    const functions = offerOf(this.device, this.pkg).carrying(signal);
    let alternatives = this.free.get(signal);
    if (alternatives === undefined) {
      alternatives = functions.filter((fn) => !this.takers.has(fn.pad)).length;
      this.free.set(signal, alternatives);
    }
    const own = net.placement?.pad;
    const [first, ...more] = own === undefined ? [] : (this.takers.get(own) ?? []);
    const ownIsOne = first === net.id && more.length === 0 && functions.some((fn) => fn.pad === own);
    return ownIsOne ? alternatives + 1 : alternatives;
  }

  /** Lines an instance needs that this package does not bring out. */
  lackingLines(instance: string): number {
    let count = this.lacking.get(instance);
    if (count === undefined) {
      const needs = this.device.kindOf(`${instance}.`)?.needs ?? [];
      const offer = offerOf(this.device, this.pkg);
      count = needs.filter((line) => offer.carrying(`${instance}.${line}`).length === 0).length;
      this.lacking.set(instance, count);
    }
    return count;
  }

  /** Pins between two places, as far as it matters. */
  distance(a: number, b: number): number {
    return Math.min(FARTHEST, distanceBetween(this.pkg, a, b));
  }

  /** The place from which a net's distance counts: the middle of its circuit, or of the lines of the instance it begins. */
  centreFor(net: Net, fn: PadFunction | undefined): number | undefined {
    return this.middleSeat(net)?.place ?? (fn && this.anchorFor(net, splitSignal(fn.signal)[0]));
  }

  /** The middle of the lines of the instance that a net begins: it leaves room for those that may join it. */
  anchorFor({ role }: Net, instance: string | undefined): number | undefined {
    return instance !== undefined &&
      role.kind === 'open-signal' &&
      belongTogether(this.device, role.peripheral)
      ? this.anchorOf(instance)
      : undefined;
  }

  /** The net in the middle of those of a circuit that stay, but for the one that is looked at. */
  middleSeat(net: Net): Seat | undefined {
    if (!this.middles.has(net.id)) {
      const all = this.seatsOf(net);
      const place = this.mostCentral(all.map((one) => one.place));
      this.middles.set(
        net.id,
        all.find((one) => one.place === place),
      );
    }
    return this.middles.get(net.id);
  }

  /** Nets of a circuit that stay, but for the one that is looked at. */
  seatsOf({ circuit, id }: Net): readonly Seat[] {
    const all = this.seats.get(circuit) ?? [];
    return all.some((one) => one.net.id === id) ? all.filter((one) => one.net.id !== id) : all;
  }

  /** The middle of the nets of a circuit that stay. */
  centreOf(circuit: string): number | undefined {
    if (!this.centres.has(circuit))
      this.centres.set(circuit, this.mostCentral((this.seats.get(circuit) ?? []).map((one) => one.place)));
    return this.centres.get(circuit);
  }

  /** The place that is nearest to all of them; the first of several. */
  mostCentral(places: readonly number[]): number | undefined {
    return cheapest(places, (one) => places.reduce((sum, other) => sum + this.distance(one, other), 0));
  }

  /** The place that is nearest to one pad of each line of an instance. */
  private anchorOf(instance: string): number {
    let anchor = this.anchors.get(instance);
    if (anchor === undefined) {
      const order = orderOf(this.device, this.pkg);
      const offer = offerOf(this.device, this.pkg);
      const lines = Object.keys(this.device.kindOf(`${instance}.`)?.lines ?? {}).map((line) =>
        offer.carrying(`${instance}.${line}`).map((fn) => order.get(fn.pad) ?? 0),
      );
      const offered = lines.filter((one) => one.length > 0);
      anchor =
        cheapest(offered.flat(), (place) =>
          offered.reduce((sum, own) => sum + smallest(own.map((one) => this.distance(place, one))), 0),
        ) ?? 0;
      this.anchors.set(instance, anchor);
    }
    return anchor;
  }
}

/** The place that costs least; the first of several. */
function cheapest(places: readonly number[], costOf: (place: number) => number): number | undefined {
  let best: number | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const place of places) {
    const cost = costOf(place);
    if (cost < least) {
      least = cost;
      best = place;
    }
  }
  return best;
}

function add<Key, Value>(map: Map<Key, Value[]>, key: Key, value: Value): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
