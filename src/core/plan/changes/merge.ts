import { canonicalJson } from '../../base/fingerprint';
import { append } from '../../base/lists';
import type { Plan } from '../model/types';
import {
  factsOf,
  LIST_WORDS,
  LISTS,
  type ListKey,
  nameOf,
  type PlanFacts,
  planFrom,
  type Thing,
} from './facts';
import { joinedOrder } from './order';

/** Something that both sides changed, each in its own way: nobody but a person can say what is meant. */
export interface Conflict {
  /** "net FAN_1, placement". */
  what: string;
  /** Why, in a sentence. */
  message: string;
  base?: unknown;
  ours?: unknown;
  theirs?: unknown;
}

export interface Merged {
  /** With our side wherever both changed the same. */
  plan: Plan;
  conflicts: Conflict[];
}

const same = (a: unknown, b: unknown): boolean => canonicalJson(a ?? null) === canonicalJson(b ?? null);

/**
 * Merges what two sides made of a plan, by meaning: each field of each net by itself, whatever lines of a file it stands on. What
 * only one side changed is taken; where both changed the same thing differently, ours is kept and the conflict named. So are
 * things that only together are wrong: two nets on one pad, two of one name, a constraint on a net that is gone.
 */
export function mergePlans(base: Plan | undefined, ours: Plan, theirs: Plan): Merged {
  const conflicts: Conflict[] = [];
  const [b, o, t] = [base ? factsOf(base) : nothing(), factsOf(ours), factsOf(theirs)];
  const facts: PlanFacts = {
    own: mergeFields('the plan', b.own, o.own, t.own, conflicts),
    lists: Object.fromEntries(
      LISTS.map((list) => [list, mergeList(list, b.lists[list], o.lists[list], t.lists[list], conflicts)]),
    ) as unknown as PlanFacts['lists'],
  };
  mendReferences(facts, [o, t], conflicts);
  append(conflicts, together(facts, b, o, t));
  return { plan: planFrom(facts), conflicts };
}

/** Where both sides are new. */
const nothing = (): PlanFacts => ({
  own: new Map(),
  lists: Object.fromEntries(LISTS.map((list) => [list, []])) as unknown as PlanFacts['lists'],
});

function mergeFields(
  whose: string,
  base: ReadonlyMap<string, unknown>,
  ours: ReadonlyMap<string, unknown>,
  theirs: ReadonlyMap<string, unknown>,
  conflicts: Conflict[],
): Map<string, unknown> {
  const result = new Map<string, unknown>();
  for (const key of new Set([...base.keys(), ...ours.keys(), ...theirs.keys()])) {
    const [was, own, other] = [base.get(key), ours.get(key), theirs.get(key)];
    const value = same(own, was) ? other : own;
    if (!same(own, other) && !same(own, was) && !same(other, was))
      conflicts.push({
        what: `${whose}, ${key}`,
        message: `both sides changed ${key} of ${whose}: ours to ${text(own)}, theirs to ${text(other)}; it was ${text(was)}`,
        base: was,
        ours: own,
        theirs: other,
      });
    if (value !== undefined) result.set(key, value);
  }
  return result;
}

/** A value for people. */
const text = (value: unknown): string =>
  value === undefined || value === null
    ? 'nothing'
    : typeof value === 'string'
      ? `"${value}"`
      : canonicalJson(value);

const byId = (list: readonly Thing[]): Map<string, Thing> => new Map(list.map((one) => [one.id, one]));
const sameThing = (a: Thing, b: Thing): boolean =>
  same(Object.fromEntries(a.fields), Object.fromEntries(b.fields));

function mergeList(
  list: ListKey,
  base: readonly Thing[],
  ours: readonly Thing[],
  theirs: readonly Thing[],
  conflicts: Conflict[],
): Thing[] {
  const [b, o, t] = [byId(base), byId(ours), byId(theirs)];
  const result = new Map<string, Thing>();
  for (const id of new Set([...o.keys(), ...t.keys()])) {
    const [was, own, other] = [b.get(id), o.get(id), t.get(id)];
    const whose = `${LIST_WORDS[list]} ${nameOf(list, (was ?? own ?? other) as Thing)}`;
    if (own && other) {
      result.set(id, {
        id,
        fields: mergeFields(whose, was?.fields ?? new Map(), own.fields, other.fields, conflicts),
      });
      continue;
    }
    const left = (own ?? other) as Thing;
    // New on one side; or taken out on one side: what the other has changed since stays, and that is said.
    if (!was) result.set(id, left);
    else if (!sameThing(was, left)) {
      result.set(id, left);
      conflicts.push({
        what: whose,
        message: `${own ? 'theirs' : 'ours'} removed ${whose}, ${own ? 'ours' : 'theirs'} changed it; it stays`,
        base: Object.fromEntries(was.fields),
        ours: own && Object.fromEntries(own.fields),
        theirs: other && Object.fromEntries(other.fields),
      });
    }
  }
  const order = (of: readonly Thing[]): string[] =>
    of.flatMap(({ id }) => (b.has(id) && result.has(id) ? [id] : []));
  // Where only they have put things into another order, theirs is the one.
  const moved = !same(
    order(base).filter((id) => o.has(id)),
    order(ours),
  );
  const [main, rest] = moved ? [ours, theirs] : [theirs, ours];
  return joinedOrder(
    main.map(({ id }) => id),
    rest.map(({ id }) => id),
  ).flatMap((id) => result.get(id) ?? []);
}

/** What refers to something that one side took out: a net keeps its circuit; constraints and attached parts let their nets go. */
function mendReferences({ lists }: PlanFacts, sides: readonly PlanFacts[], conflicts: Conflict[]): void {
  const circuits = new Set(lists.circuits.map(({ id }) => id));
  for (const net of lists.nets) {
    const circuit = String(net.fields.get('circuit'));
    if (circuits.has(circuit)) continue;
    const kept = sides.flatMap((side) => side.lists.circuits).find((one) => one.id === circuit);
    if (!kept) continue;
    lists.circuits.push(kept);
    circuits.add(circuit);
    conflicts.push({
      what: `circuit ${nameOf('circuits', kept)}`,
      message: `one side removed the circuit ${nameOf('circuits', kept)}, the other has ${nameOf('nets', net)} in it; it stays`,
    });
  }
  const nets = new Set(lists.nets.map(({ id }) => id));
  for (const list of ['constraints', 'attachments'] as const)
    lists[list] = lists[list].filter((one) => {
      const members = one.fields.get('nets') as string[];
      if (members.every((id) => nets.has(id))) return true;
      conflicts.push({
        what: `${LIST_WORDS[list]} ${nameOf(list, one)}`,
        message: `one side removed a net that the ${LIST_WORDS[list]} ${nameOf(list, one)} of the other needs; it is left out`,
      });
      return false;
    });
}

/** What is right on each side and wrong together. */
function together(facts: PlanFacts, ...[base, ours, theirs]: [PlanFacts, PlanFacts, PlanFacts]): Conflict[] {
  const found: Conflict[] = [];
  const clash = (
    list: ListKey,
    keyOf: (thing: Thing) => string | undefined,
    say: (names: string, key: string) => string,
  ): void => {
    const groups = groupedBy(facts.lists[list], keyOf);
    for (const [key, things] of groups) {
      if (things.length < 2) continue;
      const isNew = ![base, ours, theirs].some((side) => {
        const there = groupedBy(side.lists[list], keyOf).get(key) ?? [];
        return things.every(({ id }) => there.some((one) => one.id === id));
      });
      if (!isNew) continue;
      const names = things.map((one) => nameOf(list, one)).join(' and ');
      found.push({ what: `${LIST_WORDS[list]} ${names}`, message: say(names, key) });
    }
  };
  const pad = (thing: Thing): string | undefined =>
    (thing.fields.get('placement') as { pad?: string } | null | undefined)?.pad;
  clash('nets', pad, (names, key) => `${names} are both on pad ${key}: each side put one of them there`);
  const name = (thing: Thing): string => String(thing.fields.get('name')).toLowerCase();
  clash('nets', name, (names) => `two nets are called alike: ${names}`);
  clash('circuits', name, (names) => `two circuits are called alike: ${names}`);
  return found;
}

function groupedBy(
  things: readonly Thing[],
  keyOf: (thing: Thing) => string | undefined,
): Map<string, Thing[]> {
  const groups = new Map<string, Thing[]>();
  for (const thing of things) {
    const key = keyOf(thing);
    if (key !== undefined) groups.set(key, [...(groups.get(key) ?? []), thing]);
  }
  return groups;
}
