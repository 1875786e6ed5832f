import { append } from '../../base/lists';
import type { PadTerms } from '../../derive/candidates/pad-terms';
import { type Weights, weigh } from '../../derive/candidates/terms';
import {
  functionsFor,
  isAnalog,
  lacksLine,
  resolveNet,
  silentLack,
  whyNot,
} from '../../derive/resolve/resolve';
import { type AskedKey, settingKeysOf } from '../../description/settings';
import { type Package, type Pad, type PadFunction, type PadId, splitSignal } from '../../description/types';
import { padSort } from '../../device/available';
import type { Device } from '../../device/device';
import { orderOf, sideOf } from '../../device/geometry';
import { exclusiveLine } from '../../device/interrupt-lines';
import { offerOf } from '../../device/offers';
import { type Mode, sharedFields } from '../../device/shared-fields';
import { type Net, openPart, type Role } from '../../plan/model/types';
import type { Choice, RequirementIndex, Slot, SlotIndex } from './model';

const NOBODY: readonly RequirementIndex[] = [];
const NOTHING: readonly number[] = [];

/** A pad and function that a role can have, and what taking it takes, by name: the same in every plan. */
interface Place extends Pick<Choice, 'pad' | 'slot' | 'fn' | 'instance' | 'modes'> {
  takes: readonly string[];
}

/** What a package has for roles; worked out once a part and package. */
export class PackageChoices {
  readonly slots: readonly Slot[];
  private readonly slotOf: Map<PadId, SlotIndex>;
  private readonly places = new Map<string, Place[]>();
  private readonly unmet = new Map<string, readonly (readonly AskedKey[])[]>();
  private readonly modes: Map<PadFunction, Mode[]>;
  /** Pads that some function takes along. */
  private readonly taken: ReadonlySet<PadId>;

  constructor(
    private readonly device: Device,
    private readonly pkg: Package,
  ) {
    this.slots = slotsOf(device, pkg);
    this.modes = sharedFields(device, pkg);
    this.slotOf = new Map(this.slots.map(({ pad }, slot) => [pad, slot]));
    this.taken = new Set((device.description.forced ?? []).flatMap((one) => one.takes));
  }

  /** Where nets of a role can be. `key` is the role's, as text. */
  placesFor(role: Role, key: string): readonly Place[] {
    let list = this.places.get(key);
    if (!list) {
      list = this.findPlaces(role).map(({ slot, fn }): Place => {
        const { pad } = this.slots[slot] as Slot;
        return {
          pad,
          slot,
          fn,
          instance: fn && !isAnalog(role) ? splitSignal(fn.signal)[0] : undefined,
          takes: this.takenBy(role, pad, fn),
          modes: fn && this.modes.get(fn),
        };
      });
      this.places.set(key, list);
    }
    return list;
  }

  private findPlaces(role: Role): { slot: SlotIndex; fn?: PadFunction }[] {
    const { device, pkg } = this;
    if (role.kind === 'signal' || role.kind === 'open-signal')
      return this.signalsOf(role).flatMap((signal) => {
        const one: Role = { kind: 'signal', signal };
        return offerOf(device, pkg)
          .carrying(signal)
          .flatMap((fn) => {
            const slot = this.slotOf.get(fn.pad);
            const pad = device.pads.get(fn.pad);
            return slot !== undefined && pad && whyNot(device, pkg, one, pad) === undefined
              ? [{ slot, fn }]
              : [];
          });
      });
    return this.slots.flatMap(({ pad: id }, slot) => {
      const pad = device.pads.get(id);
      if (!pad || whyNot(device, pkg, role, pad) !== undefined || lacksLine(device, role, pad)) return [];
      const [fn] = functionsFor(device, pkg, role, pad);
      return [fn ? { slot, fn } : { slot }];
    });
  }

  private signalsOf(role: Role & { kind: 'signal' | 'open-signal' }): string[] {
    if (role.kind === 'signal') return [role.signal];
    const { peripherals, peripheralKinds } = this.device.description;
    const lines = Object.keys(peripheralKinds[role.peripheral]?.lines ?? {}).filter(
      (line) => openPart(role.line, line) !== undefined,
    );
    return peripherals
      .filter((one) => one.kind === role.peripheral)
      .flatMap((one) => lines.map((line) => `${one.id}.${line}`));
  }

  /** For each place of a role, chosen settings and those a line needs that the pad does not have. */
  unmetFor(net: Net, key: string): readonly (readonly AskedKey[])[] {
    const wishes = settingKeysOf(net.settings).map((one) => `${one}=${net.settings[one as AskedKey]}`);
    const own = `${wishes.join()} ${net.settings.active ?? ''} ${net.settings.start ?? ''} ${key}`;
    let list = this.unmet.get(own);
    if (!list) {
      if (this.unmet.size >= MOST_KNOWN) this.unmet.clear();
      list = this.findUnmet(net, key);
      this.unmet.set(own, list);
    }
    return list;
  }

  /** Pads of a class are alike in what they lack. */
  private findUnmet(net: Net, key: string): (readonly AskedKey[])[] {
    const { device, pkg } = this;
    const byClass = new Map<string, readonly AskedKey[]>();
    return this.placesFor(net.role, key).map(({ pad: id, fn }) => {
      const pad = device.pads.get(id) as Pad;
      const alike = `${padSort(device, pad)} ${fn?.signal ?? ''}`;
      let list = byClass.get(alike);
      if (!list) {
        const placement = { pad: id, locked: false, ...(fn ? { signal: fn.signal } : {}) };
        const { demands: _own, ...bare } = { ...net, placement };
        const unmet = resolveNet(device, pkg, bare).unmet.map((one) => one.key as AskedKey);
        list = silentLack(device, bare, pad, fn) ? [...unmet, 'outputType'] : unmet;
        byClass.set(alike, list);
      }
      return list;
    });
  }

  private takenBy(role: Role, id: PadId, fn: PadFunction | undefined): string[] {
    const { forced } = this.device.description;
    const names: string[] = [];
    if (fn && !isAnalog(role)) names.push(`signal ${fn.signal}`);
    if (this.taken.has(id)) names.push(`pad ${id}`);
    for (const one of (fn && forced) ?? [])
      if (one.signal === fn?.signal && one.pad === id)
        append(
          names,
          one.takes.map((pad) => `pad ${pad}`),
        );
    const line = role.kind === 'interrupt' ? exclusiveLine(this.device, this.device.pads.get(id)) : undefined;
    if (line !== undefined) names.push(`line ${line}`);
    return names;
  }
}

/** Combinations of settings and role that are remembered; plans have far fewer. */
const MOST_KNOWN = 4096;

const known = new WeakMap<Device, Map<string, PackageChoices>>();

export function packageChoices(device: Device, pkg: Package): PackageChoices {
  const packages = known.get(device) ?? new Map<string, PackageChoices>();
  known.set(device, packages);
  const choices = packages.get(pkg.id) ?? new PackageChoices(device, pkg);
  packages.set(pkg.id, choices);
  return choices;
}

function slotsOf(device: Device, pkg: Package): Slot[] {
  const pins = device.pinsOf.get(pkg.id);
  const order = orderOf(device, pkg);
  return device.description.pads.flatMap(({ id, kind }): Slot[] => {
    const own = pins?.get(id);
    if (kind !== 'io' || !own) return [];
    return [{ pad: id, place: order.get(id) ?? 0, side: sideOf(pkg, own[0] ?? '') }];
  });
}

/** The choices of a plan's nets, with what they cost there; worked out once for all nets that ask for the same. */
export class Choices {
  private readonly known = new Map<string, Choice[]>();
  /** Numbered anew in every plan, so that an answer does not depend on the plans before it. */
  private readonly numbers = new Map<string, number>();

  constructor(
    private readonly device: Device,
    private readonly offered: PackageChoices,
    private readonly terms: PadTerms,
    private readonly weights: Weights,
  ) {}

  /**
   * What nets of a role can choose, in the order of the package's places, before what the net itself asks for. `role` is the
   * role as text.
   */
  of(net: Net, role: string): Choice[] {
    // Lines of a peripheral cost more where the circuit names another instance of it.
    const key = this.terms.namesInstance(net) ? `${role}${net.circuit}` : role;
    let list = this.known.get(key);
    if (!list) {
      // Shared by all nets of the role: none of them is the one that stands somewhere already.
      const anyOfThem: Net = { ...net, id: '', placement: null };
      list = this.offered.placesFor(net.role, role).map((place): Choice => {
        const { pad, slot, fn, instance, modes } = place;
        const terms = this.terms.of(anyOfThem, this.device.pads.get(pad) as Pad, fn, instance);
        const resources = place.takes.length === 0 ? NOTHING : place.takes.map((name) => this.numberOf(name));
        const cost = weigh(this.weights, terms);
        return { pad, slot, fn, instance, modes, resources, forbidden: NOBODY, terms, cost, bare: undefined };
      });
      this.known.set(key, list);
    }
    return list;
  }

  /** How many things there are that only one choice may use. */
  get resources(): number {
    return this.numbers.size;
  }

  private numberOf(name: string): number {
    let number = this.numbers.get(name);
    if (number === undefined) {
      number = this.numbers.size;
      this.numbers.set(name, number);
    }
    return number;
  }
}
