import { distanceBetween } from '../device/geometry';
import { offerOf } from '../device/offers';
import { type PadId, splitSignal } from '../device/types';
import { isPlain } from '../plan/resolve';
import type { NetId, Tie } from '../plan/types';
import { instanceGroups, lineOfRole } from './groups';
import type { Choice, Item, Model } from './model';
import type { Equal, Option, Pair, Problem } from './solver/problem';

/** What a solver's option stands for. */
export interface Meant {
  choice: Choice;
  /** Terms beside the choice's own: distance from the middle of its circuit, and 1 where a series is out of order. */
  near: number;
  order: number;
}

export interface Compiled {
  problem: Problem;
  /** Items of the problem, as indices into the model's. */
  items: number[];
  meant: Meant[][];
  /** Where the nets lie by a solution. */
  placementsOf(chosen: readonly number[]): Placements;
}

/** Where nets lie, and as what. */
export type Placements = ReadonlyMap<NetId, { pad: PadId; signal?: string }>;

/** Something that gives an item's options a key. */
interface Dimension {
  equal: number;
  /** The key of a choice, or the two it may be taken under (−1 for no such key). */
  keysOf(choice: Choice): Keys;
}
type Keys = number | { inOrder: number; anywhere: number };

/** Which elements are in force; all when absent. */
export type Active = ReadonlySet<number> | undefined;

/** Puts a model into the solver's terms, with only some of its elements in force. */
export const compile = (model: Model, active: Active, wishes: Wishes = {}): Compiled =>
  new Compiler(model, active, wishes).run();

/** What is wished beside what must be. */
export interface Wishes {
  /** Where circuits lie, as positions of the package. */
  centres?: ReadonlyMap<string, number>;
  extraCost?(item: Item, choice: Choice): number;
  /** Nothing costs anything: only whether it can be done is asked. */
  free?: true;
  /** Nets that lie there and nowhere else. */
  fixed?: Placements;
}

/** Farther than this is simply far. */
const NEAR_CAP = 24;
const NO_KEYS: readonly number[] = [];

class Compiler {
  private readonly items: number[] = [];
  private readonly at = new Map<string, number>();
  private readonly dimensions: Dimension[][] = [];
  private readonly equals: {
    items: number[];
    keys: number;
    positions: number[];
    names: Map<string, number>;
  }[] = [];
  private readonly differs: number[][] = [];
  private readonly pairs: { a: number; b: number; suits: (a: Choice, b: Choice) => boolean }[] = [];
  private readonly choices: Choice[][] = [];
  private readonly near: (((choice: Choice) => number) | undefined)[] = [];
  private readonly anchors = new Map<string, number>();

  constructor(
    private readonly model: Model,
    private readonly active: Active,
    private readonly wishes: Wishes,
  ) {}

  private inForce = (element: number): boolean => this.active === undefined || this.active.has(element);

  run(): Compiled {
    const { model } = this;
    for (const [index, item] of model.items.entries()) {
      if (!this.inForce(item.element)) continue;
      this.at.set(item.net.id, this.items.length);
      this.items.push(index);
      this.choices.push(this.choicesOf(item));
      this.dimensions.push([]);
      this.near.push(undefined);
    }
    this.addGroups();
    for (const { tie, element } of model.ties) if (this.inForce(element)) this.addTie(tie);
    return this.finish();
  }

  private choicesOf({ net, choices }: Item): Choice[] {
    const fixed = this.wishes.fixed?.get(net.id);
    return choices.filter(
      ({ forbidden, pad, fn }) =>
        (fixed === undefined || (pad === fixed.pad && fn?.signal === fixed.signal)) &&
        (this.active === undefined ? forbidden.length === 0 : !forbidden.some(this.inForce)),
    );
  }

  private item(at: number): Item {
    return this.model.items[this.items[at] as number] as Item;
  }

  private newEqual(names = new Map<string, number>()): number {
    this.equals.push({ items: [], keys: 0, positions: [], names });
    return this.equals.length - 1;
  }

  private keyIn(equal: number, name: string): number {
    const { names } = this.equals[equal] as { names: Map<string, number> };
    let key = names.get(name);
    if (key === undefined) {
      key = names.size;
      names.set(name, key);
    }
    return key;
  }

  private join(at: number, equal: number, keysOf: Dimension['keysOf']): void {
    const own = this.dimensions[at] as Dimension[];
    const target = this.equals[equal];
    target?.items.push(at);
    target?.positions.push(own.length);
    own.push({ equal, keysOf });
  }

  /** Lines that share an instance, what stays near them, and numbered nets. */
  private addGroups(): void {
    const { model } = this;
    const members = this.items.map((index, at) => ({ net: (model.items[index] as Item).net, at }));
    const groups = instanceGroups(model.device, members);
    const names = new Map<string, Map<string, number>>();
    const byKind = new Map<string, number[]>();
    for (const group of groups) {
      const shared = names.get(group.kind) ?? new Map<string, number>();
      names.set(group.kind, shared);
      const equal = this.newEqual(shared);
      byKind.set(group.kind, [...(byKind.get(group.kind) ?? []), equal]);
      for (const { at } of group.members)
        this.join(at, equal, (choice) => this.keyIn(equal, choice.instance ?? ''));
    }
    for (const list of byKind.values()) if (list.length > 1) this.differs.push(list);

    const circuits = new Map<string, number[]>();
    for (const { net, at } of members) circuits.set(net.circuit, [...(circuits.get(net.circuit) ?? []), at]);
    for (const [circuit, all] of circuits) this.addNearness(circuit, all);
  }

  private addNearness(circuit: string, all: readonly number[]): void {
    if (this.wishes.free) return;
    const free = all.filter((at) => !this.item(at).held);
    for (const series of this.seriesOf(free)) this.addSeries(series);
    const centre = this.wishes.centres?.get(circuit) ?? this.centreOf(all.filter((at) => this.item(at).held));
    for (const at of free) {
      if (centre !== undefined) {
        const table = this.tableFor(centre);
        this.near[at] = (choice) => table[choice.slot] as number;
      } else if (this.item(at).kind !== undefined) {
        this.near[at] = (choice) =>
          this.tableFor(this.anchorOf(choice.instance ?? ''))[choice.slot] as number;
      }
    }
  }

  private distance(a: number, b: number): number {
    return Math.min(NEAR_CAP, distanceBetween(this.model.pkg, a, b));
  }

  private readonly tables = new Map<number, Int32Array>();

  /** Distance of each slot from a place. */
  private tableFor(place: number): Int32Array {
    let table = this.tables.get(place);
    if (!table) {
      table = Int32Array.from(this.model.position, (one) => this.distance(one, place));
      this.tables.set(place, table);
    }
    return table;
  }

  private centreOf(fixed: readonly number[]): number | undefined {
    const places = fixed.flatMap((at) => {
      const slot = this.choices[at]?.[0]?.slot;
      return slot === undefined ? [] : [this.model.position[slot] as number];
    });
    return mostCentral(places, (one) => places.reduce((sum, other) => sum + this.distance(one, other), 0));
  }

  /** The place that is nearest to one home of each line of an instance. */
  private anchorOf(instance: string): number {
    let anchor = this.anchors.get(instance);
    if (anchor === undefined) {
      const { device, pkg, pads, position } = this.model;
      const slots = new Map(pads.map((pad, slot) => [pad, slot]));
      const lines = Object.keys(device.kindOf(`${instance}.`)?.lines ?? {}).map((line) =>
        offerOf(device, pkg)
          .carrying(`${instance}.${line}`)
          .flatMap((fn) => {
            const slot = slots.get(fn.pad);
            return slot === undefined ? [] : [position[slot] as number];
          }),
      );
      const homes = lines.filter((one) => one.length > 0);
      anchor =
        mostCentral(homes.flat(), (place) =>
          homes.reduce((sum, own) => sum + Math.min(...own.map((one) => this.distance(place, one))), 0),
        ) ?? 0;
      this.anchors.set(instance, anchor);
    }
    return anchor;
  }

  /** Free nets of equal role whose names count up: LED_0, LED_1, LED_2. */
  private seriesOf(free: readonly number[]): number[][] {
    const byStem = new Map<string, { number: number; at: number }[]>();
    for (const at of free) {
      const { net } = this.item(at);
      const match = /^(.*?)(\d{1,3})$/.exec(net.name);
      if (!match || !isPlain(net.role) || this.inBus(net.id)) continue;
      const key = `${match[1]} ${net.role.kind}`;
      byStem.set(key, [...(byStem.get(key) ?? []), { number: Number(match[2]), at }]);
    }
    return [...byStem.values()].flatMap((list) => {
      const sorted = list.sort((a, b) => a.number - b.number);
      const first = sorted[0]?.number ?? 0;
      const counts = sorted.every((one, index) => one.number === first + index);
      return sorted.length >= 3 && sorted.length <= 32 && counts ? [sorted.map((one) => one.at)] : [];
    });
  }

  private inBus(id: string): boolean {
    return this.model.ties.some(
      ({ tie, element }) => tie.kind === 'bus' && this.inForce(element) && tie.nets.includes(id),
    );
  }

  private bitOf(choice: Choice): { port: string; bit: number } | undefined {
    const pad = this.model.device.pads.get(choice.pad);
    return pad?.port === undefined || pad.bit === undefined ? undefined : { port: pad.port, bit: pad.bit };
  }

  /** Numbered nets lie on consecutive bits, or pay for it. */
  private addSeries(series: readonly number[]): void {
    const lanes = new Map<string, number>();
    for (const [index, at] of series.entries()) {
      for (const choice of this.choices[at] as Choice[]) {
        const where = this.bitOf(choice);
        if (!where) continue;
        const lane = `${where.port} ${where.bit - index}`;
        if (lanes.get(lane) === index || index === 0) lanes.set(lane, index + 1);
      }
    }
    const whole = new Set([...lanes].filter(([, count]) => count === series.length).map(([lane]) => lane));
    if (whole.size === 0) return;
    const equal = this.newEqual();
    for (const [index, at] of series.entries()) {
      this.join(at, equal, (choice) => {
        const where = this.bitOf(choice);
        const lane = where && `${where.port} ${where.bit - index}`;
        const anywhere = this.keyIn(equal, 'anywhere');
        const fits = lane !== undefined && whole.has(lane);
        return { inOrder: fits ? this.keyIn(equal, lane) : -1, anywhere };
      });
    }
  }

  private addTie(tie: Tie): void {
    const members = tie.nets.flatMap((id) => this.at.get(id) ?? []);
    // A pair or a bus of which a part is left out ties nothing any more.
    if (members.length < 2) return;
    const sameKey = (keyOf: (choice: Choice, index: number) => string | undefined): void => {
      const equal = this.newEqual();
      for (const [index, at] of members.entries()) {
        this.keepOnly(at, (choice) => keyOf(choice, index) !== undefined);
        this.join(at, equal, (choice) => this.keyIn(equal, keyOf(choice, index) ?? ''));
      }
    };
    switch (tie.kind) {
      case 'bus': {
        const order = tie.nets.filter((id) => this.at.has(id));
        const place = (index: number): number => tie.nets.indexOf(order[index] ?? '');
        sameKey((choice, index) => {
          const where = this.bitOf(choice);
          return where && `${where.port} ${where.bit - place(index)}`;
        });
        return;
      }
      case 'together':
        sameKey((choice) => this.model.side[choice.slot]);
        return;
      case 'same-instance':
        sameKey((choice) => choice.instance);
        return;
      case 'other-instances': {
        const names = new Map<string, number>();
        const own = members.map((at) => {
          const equal = this.newEqual(names);
          this.keepOnly(at, (choice) => choice.instance !== undefined);
          this.join(at, equal, (choice) => this.keyIn(equal, choice.instance ?? ''));
          return equal;
        });
        this.differs.push(own);
        return;
      }
      case 'apart':
        for (const [index, a] of members.entries())
          for (const b of members.slice(index + 1))
            this.pairs.push({ a, b, suits: (one, other) => this.between(one, other) > 1 });
        return;
      case 'pair': {
        const signals = members.every((at) => lineOfRole(this.item(at).net.role) !== undefined);
        if (signals) {
          sameKey(pairKey);
          return;
        }
        const [a, b] = members;
        if (a !== undefined && b !== undefined)
          this.pairs.push({ a, b, suits: (one, other) => this.between(one, other) === 1 });
      }
    }
  }

  private between(a: Choice, b: Choice): number {
    const { position, pkg } = this.model;
    return distanceBetween(pkg, position[a.slot] as number, position[b.slot] as number);
  }

  private keepOnly(at: number, keeps: (choice: Choice) => boolean): void {
    this.choices[at] = (this.choices[at] as Choice[]).filter(keeps);
  }

  private finish(): Compiled {
    const { model } = this;
    const { free } = this.wishes;
    const { near: nearWeight, order: orderWeight } = model.weights;
    const meant: Meant[][] = [];
    const items = this.items.map((_, at) => {
      const own: Meant[] = [];
      const options: Option[] = [];
      const item = this.item(at);
      const dimensions = this.dimensions[at] as Dimension[];
      const nearOf = item.held ? undefined : this.near[at];
      if (free && dimensions.length === 0) {
        // The same options every time somebody asks only whether it can be done.
        for (const choice of this.choices[at] as Choice[]) {
          choice.bare ??= {
            slot: choice.slot,
            cost: 0,
            resources: choice.resources,
            modes: choice.modes,
            keys: NO_KEYS,
          };
          options.push(choice.bare);
          if (this.pairs.length > 0) own.push({ choice, near: 0, order: 0 });
        }
        meant.push(own);
        return { options };
      }
      for (const choice of this.choices[at] as Choice[]) {
        const near = nearOf ? nearOf(choice) : 0;
        const extra = this.wishes.extraCost?.(item, choice) ?? 0;
        const cost = free ? 0 : choice.cost + nearWeight * near + extra;
        const { slot, resources, modes } = choice;
        const add = (keys: readonly number[], order: number): void => {
          own.push({ choice, near, order });
          options.push({ slot, resources, modes, keys, cost: free ? 0 : cost + orderWeight * order });
        };
        const [first] = dimensions;
        const keys = first?.keysOf(choice);
        if (keys === undefined) add(NO_KEYS, 0);
        else {
          const rest = dimensions.slice(1).map((one) => one.keysOf(choice) as number);
          if (typeof keys === 'number') add([keys, ...rest], 0);
          else {
            if (keys.inOrder >= 0) add([keys.inOrder, ...rest], 0);
            add([keys.anywhere, ...rest], 1);
          }
        }
      }
      meant.push(own);
      return { options };
    });
    const equals = this.equals.map(
      ({ items: members, positions, names }): Equal => ({
        items: members,
        positions,
        keys: Math.max(1, names.size),
      }),
    );
    const pairs = this.pairs.map(
      ({ a, b, suits }): Pair => ({
        a,
        b,
        suits: (one, other) => suits(meantBy(meant, a, one), meantBy(meant, b, other)),
      }),
    );
    return {
      problem: {
        slots: model.pads.length,
        resources: model.resources,
        items,
        equals,
        differs: this.differs,
        pairs,
      },
      items: this.items,
      meant,
      placementsOf: (chosen) => this.placementsOf(meant, chosen),
    };
  }

  private placementsOf(meant: readonly Meant[][], chosen: readonly number[]): Placements {
    return new Map(
      chosen.map((option, at) => {
        // Options that are the same every time are in the order of the choices.
        const choice = meant[at]?.[option]?.choice ?? (this.choices[at]?.[option] as Choice);
        const signal = choice.fn?.signal;
        return [this.item(at).net.id, { pad: choice.pad, ...(signal === undefined ? {} : { signal }) }];
      }),
    );
  }
}

const meantBy = (meant: readonly Meant[][], item: number, option: number): Choice =>
  (meant[item] as Meant[])[option]?.choice as Choice;

/** The place that costs least; the first of several. */
export function mostCentral(
  places: readonly number[],
  costOf: (place: number) => number,
): number | undefined {
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

/** Instance and number of a line, so that CH3 and CH3N, or P and N of one instance, are a pair. */
function pairKey({ fn }: Choice): string | undefined {
  if (!fn) return undefined;
  const [instance, line] = splitSignal(fn.signal);
  return `${instance} ${/\d+/.exec(line)?.[0] ?? ''}`;
}
