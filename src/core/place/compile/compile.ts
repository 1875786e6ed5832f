import type { IndexOf } from '../../base/index-of';
import { instanceGroups } from '../../derive/candidates/groups';
import type { PadId } from '../../description/types';
import type { NetId } from '../../plan/model/types';
import type { Choice, Model, NetItem, RequirementIndex } from '../model/model';
import type { ChoiceProblem, Equal, Never, Option, Pair } from '../solver/problem';
import { COUPLINGS, type Coupling, laneOf, type Member } from './couplings';
import { seriesOf, wholeLanes } from './series';

/** What a solver's option stands for. */
export interface Meant {
  choice: Choice;
  /** Terms beside the choice's own: distance from the middle of its circuit, and 1 where a series is out of order. */
  near: number;
  order: number;
}

export interface Compiled {
  problem: ChoiceProblem;
  /** What the items of the problem are. */
  items: readonly NetItem[];
  meant: Meant[][];
  /** Where the nets lie by a solution. */
  placementsOf(chosen: readonly number[]): Placements;
}

/** Where nets lie, and as what. */
export type Placements = ReadonlyMap<NetId, { pad: PadId; signal?: string }>;

/** Requirements that are in force; all when absent. */
export type Active = ReadonlySet<RequirementIndex> | undefined;

/** What is wished beside what must be. */
export interface Wishes {
  /** Where circuits lie, as positions of the package. */
  centres?: ReadonlyMap<string, number>;
  extraCost?(item: NetItem, choice: Choice): number;
  /** Nothing costs anything: only whether it can be done is asked. */
  free?: true;
  /** Nets that lie there and nowhere else. */
  fixed?: Placements;
  /** Places that these nets must not have all at once. */
  never?: readonly Placements[];
}

type RowIndex = IndexOf<'rows'>;
type EqualIndex = IndexOf<'equals'>;

/** A net that is in force, on its way to an item of the problem. */
interface Row {
  index: RowIndex;
  item: NetItem;
  choices: Choice[];
  keys: KeyOf[];
  /** Pins from the place where its circuit shall lie. */
  near?: (choice: Choice) => number;
}

/** The key of a choice in one equal, or the two under which it may be taken (−1 for none such). */
type KeyOf = (choice: Choice) => number | { inOrder: number; anywhere: number };

/** Rows whose chosen options have the same key. Those that must differ number their keys alike. */
interface Group {
  members: { row: RowIndex; position: number }[];
  names: Map<string, number>;
}

const NO_KEYS: readonly number[] = [];

/** Puts a model into the solver's terms, with only some of its requirements in force. */
export function compile(model: Model, active: Active, wishes: Wishes = {}): Compiled {
  const rows = rowsOf(model, active, wishes);
  const couplings = new Couplings();
  shareInstances(model, rows, couplings);
  if (!wishes.free) gather(model, active, wishes, rows, couplings);
  const byNet = new Map(rows.map((row) => [row.item.net.id, row]));
  for (const { constraint, requirement } of model.constraints) {
    if (active && !active.has(requirement)) continue;
    const members = constraint.nets.flatMap((id, place) => {
      const row = byNet.get(id);
      return row ? [{ row, item: row.item, place }] : [];
    });
    // A pair or a bus of which a part is left out constrains nothing any more.
    if (members.length >= 2) couplings.add(COUPLINGS[constraint.kind](model, members), members);
  }
  return finish(model, wishes, rows, couplings);
}

function rowsOf(model: Model, active: Active, wishes: Wishes): Row[] {
  const rows: Row[] = [];
  for (const item of model.items) {
    if (active && !active.has(item.requirement)) continue;
    const fixed = wishes.fixed?.get(item.net.id);
    const choices = item.choices.filter(
      ({ forbidden, pad, fn }) =>
        (fixed === undefined || (pad === fixed.pad && fn?.signal === fixed.signal)) &&
        (active ? !forbidden.some((one) => active.has(one)) : forbidden.length === 0),
    );
    rows.push({ index: rows.length, item, choices, keys: [] });
  }
  return rows;
}

/** What choices of several rows must be together. */
class Couplings {
  readonly equals: Group[] = [];
  readonly differs: EqualIndex[][] = [];
  readonly pairs: { a: RowIndex; b: RowIndex; suits: (a: Choice, b: Choice) => boolean }[] = [];

  newEqual(names = new Map<string, number>()): EqualIndex {
    return this.equals.push({ members: [], names }) - 1;
  }

  number(equal: EqualIndex, name: string): number {
    const { names } = this.equals[equal] as Group;
    let key = names.get(name);
    if (key === undefined) {
      key = names.size;
      names.set(name, key);
    }
    return key;
  }

  join(row: Row, equal: EqualIndex, keyOf: KeyOf): void {
    this.equals[equal]?.members.push({ row: row.index, position: row.keys.length });
    row.keys.push(keyOf);
  }

  add(coupling: Coupling, members: readonly (Member & { row: Row })[]): void {
    switch (coupling.kind) {
      case 'same key': {
        const equal = this.newEqual();
        for (const member of members) this.joinByKey(member, equal, coupling.keyOf);
        return;
      }
      case 'different keys': {
        const names = new Map<string, number>();
        this.differs.push(
          members.map((member) => {
            const equal = this.newEqual(names);
            this.joinByKey(member, equal, coupling.keyOf);
            return equal;
          }),
        );
        return;
      }
      case 'every two':
      case 'the first two': {
        const { suits } = coupling;
        const some = coupling.kind === 'every two' ? members : members.slice(0, 2);
        for (const [at, a] of some.entries())
          for (const b of some.slice(at + 1)) this.pairs.push({ a: a.row.index, b: b.row.index, suits });
      }
    }
  }

  private joinByKey(
    member: Member & { row: Row },
    equal: EqualIndex,
    keyOf: (choice: Choice, member: Member) => string | undefined,
  ): void {
    const { row } = member;
    row.choices = row.choices.filter((choice) => keyOf(choice, member) !== undefined);
    this.join(row, equal, (choice) => this.number(equal, keyOf(choice, member) ?? ''));
  }

  /** As the solver asks for them. */
  problem(meant: readonly (readonly Meant[])[]): Pick<ChoiceProblem, 'equals' | 'differs' | 'pairs'> {
    const choiceOf = (row: RowIndex, option: number): Choice => meant[row]?.[option]?.choice as Choice;
    return {
      equals: this.equals.map(
        ({ members, names }): Equal => ({
          items: members.map((one) => one.row),
          positions: members.map((one) => one.position),
          keys: Math.max(1, names.size),
        }),
      ),
      differs: this.differs,
      pairs: this.pairs.map(
        ({ a, b, suits }): Pair => ({
          a,
          b,
          suits: (one, other) => suits(choiceOf(a, one), choiceOf(b, other)),
        }),
      ),
    };
  }

  /** The rows on whose options somebody looks in pairs. */
  get hasPairs(): boolean {
    return this.pairs.length > 0;
  }
}

/** Lines of one circuit share an instance, and those of two do not. */
function shareInstances(model: Model, rows: readonly Row[], couplings: Couplings): void {
  const members = rows.map((row) => ({ net: row.item.net, row }));
  const names = new Map<string, Map<string, number>>();
  const byKind = new Map<string, EqualIndex[]>();
  for (const group of instanceGroups(model.device, members)) {
    const shared = names.get(group.kind) ?? new Map<string, number>();
    names.set(group.kind, shared);
    const equal = couplings.newEqual(shared);
    byKind.set(group.kind, [...(byKind.get(group.kind) ?? []), equal]);
    for (const { row } of group.members)
      couplings.join(row, equal, (choice) => couplings.number(equal, choice.instance ?? ''));
  }
  for (const list of byKind.values()) if (list.length > 1) couplings.differs.push(list);
}

/** What is near what, and numbered nets on consecutive bits: wishes, which cost where they do not come true. */
function gather(
  model: Model,
  active: Active,
  wishes: Wishes,
  rows: readonly Row[],
  couplings: Couplings,
): void {
  const { terms, slots } = model;
  const buses = new Set(
    model.constraints.flatMap(({ constraint, requirement }) =>
      constraint.kind === 'bus' && (!active || active.has(requirement)) ? constraint.nets : [],
    ),
  );
  const tables = new Map<number, Int32Array>();
  const distance = (from: number, { slot }: Choice): number => {
    let table = tables.get(from);
    if (!table) {
      table = Int32Array.from(slots, ({ place }) => terms.distance(place, from));
      tables.set(from, table);
    }
    return table[slot] as number;
  };
  const circuits = new Map<string, Row[]>();
  for (const row of rows) {
    if (row.item.locked) continue;
    const { circuit } = row.item.net;
    circuits.set(circuit, [...(circuits.get(circuit) ?? []), row]);
  }
  for (const [circuit, free] of circuits) {
    for (const series of seriesOf(free.filter(({ item }) => !buses.has(item.net.id))))
      addSeries(model, series, couplings);
    const centre = wishes.centres?.get(circuit) ?? terms.centreOf(circuit);
    for (const row of free)
      row.near = (choice) => {
        const from = centre ?? terms.anchorFor(row.item.net, choice.instance);
        return from === undefined ? 0 : distance(from, choice);
      };
  }
}

/** Numbered nets lie on consecutive bits, or pay for it. */
function addSeries({ device }: Model, series: readonly Row[], couplings: Couplings): void {
  const whole = wholeLanes(device, series);
  if (whole.size === 0) return;
  const equal = couplings.newEqual();
  for (const [place, row] of series.entries())
    couplings.join(row, equal, (choice) => {
      const lane = laneOf(device, choice, place);
      const anywhere = couplings.number(equal, 'anywhere');
      const fits = lane !== undefined && whole.has(lane);
      return { inOrder: fits ? couplings.number(equal, lane) : -1, anywhere };
    });
}

function finish(model: Model, wishes: Wishes, rows: readonly Row[], couplings: Couplings): Compiled {
  const meant: Meant[][] = [];
  const items = rows.map((row) => {
    const { options, own } =
      wishes.free && row.keys.length === 0
        ? bareOptions(row, couplings.hasPairs)
        : weighedOptions(model, wishes, row);
    meant.push(own);
    return { options };
  });
  const never = neverOf(wishes.never ?? [], rows, meant);
  return {
    problem: {
      slots: model.slots.length,
      resources: model.resources,
      items,
      ...couplings.problem(meant),
      ...(never.length > 0 ? { never } : {}),
    },
    items: rows.map((row) => row.item),
    meant,
    placementsOf: (chosen) =>
      new Map(
        chosen.map((option, at) => {
          // Options that are the same every time are in the order of the choices.
          const row = rows[at] as Row;
          const { pad, fn } = meant[at]?.[option]?.choice ?? (row.choices[option] as Choice);
          return [row.item.net.id, { pad, ...(fn === undefined ? {} : { signal: fn.signal }) }];
        }),
      ),
  };
}

/** Combinations of places in the solver's terms; those of nets that are not in force, or cannot lie there, are none. */
function neverOf(
  all: readonly Placements[],
  rows: readonly Row[],
  meant: readonly (readonly Meant[])[],
): Never[] {
  if (all.length === 0) return [];
  const rowOf = new Map(rows.map((row) => [row.item.net.id, row]));
  return all.flatMap((places): Never[] => {
    const parts = [...places].map(([id, place]) => {
      const row = rowOf.get(id);
      const options = (row ? (meant[row.index] ?? []) : []).flatMap(({ choice }, option) =>
        isAt(choice, place) ? [option] : [],
      );
      return { item: row?.index ?? -1, options };
    });
    return parts.every(({ options }) => options.length > 0) ? [{ parts }] : [];
  });
}

const isAt = ({ pad, fn }: Choice, place: { pad: PadId; signal?: string }): boolean =>
  pad === place.pad && (place.signal === undefined || fn?.signal === place.signal);

interface Options {
  options: Option[];
  own: Meant[];
}

/** The same options every time somebody asks only whether it can be done. */
function bareOptions({ choices }: Row, told: boolean): Options {
  const options = choices.map((choice) => {
    const { slot, resources, modes } = choice;
    choice.bare ??= { slot, cost: 0, resources, modes, keys: NO_KEYS };
    return choice.bare;
  });
  return { options, own: told ? choices.map((choice) => ({ choice, near: 0, order: 0 })) : [] };
}

function weighedOptions({ weights }: Model, wishes: Wishes, row: Row): Options {
  const { item, choices } = row;
  const [first, ...others] = row.keys;
  const options: Option[] = [];
  const own: Meant[] = [];
  const add = (choice: Choice, near: number, cost: number, keys: readonly number[], order: number): void => {
    const { slot, resources, modes } = choice;
    own.push({ choice, near, order });
    options.push({ slot, cost, resources, modes, keys });
  };
  for (const choice of choices) {
    const near = item.locked || !row.near ? 0 : row.near(choice);
    const cost = wishes.free
      ? 0
      : choice.cost + weights.near * near + (wishes.extraCost?.(item, choice) ?? 0);
    if (!first) {
      add(choice, near, cost, NO_KEYS, 0);
      continue;
    }
    const key = first(choice);
    const rest = others.map((keyOf) => keyOf(choice) as number);
    if (typeof key === 'number') add(choice, near, cost, [key, ...rest], 0);
    else {
      if (key.inOrder >= 0) add(choice, near, cost, [key.inOrder, ...rest], 0);
      add(choice, near, wishes.free ? 0 : cost + weights.order, [key.anywhere, ...rest], 1);
    }
  }
  return { options, own };
}
