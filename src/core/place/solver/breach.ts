import type { Assignment } from './assignment';
import { chosenOptions, type Layout } from './layout';
import { boundWith, type Prices, regret } from './prices';

/** Something an assignment does not keep to, split into cases of which each solution falls into exactly one. */
export interface Breach {
  cases: { bound: number; apply(allowed: Uint8Array, changed: Set<number>): void }[];
}

/** The breach that is best split first, or nothing when the assignment is a solution. */
export function findBreach(
  layout: Layout,
  allowed: Uint8Array,
  assignment: Assignment,
  prices?: Prices,
): Breach | undefined {
  const chosen = chosenOptions(layout, allowed, assignment);
  return (
    unequal(layout, allowed, chosen, prices) ??
    notDifferent(layout, allowed, chosen, prices) ??
    disagreeing(layout, allowed, chosen) ??
    overused(layout, chosen) ??
    illPaired(layout, chosen) ??
    combined(layout, chosen)
  );
}

/** Groups whose items did not choose one key: split by key, the most telling group first. */
function unequal(
  layout: Layout,
  allowed: Uint8Array,
  chosen: readonly number[],
  prices: Prices | undefined,
): Breach | undefined {
  let found = -1;
  let mostTelling = Number.NEGATIVE_INFINITY;
  for (const [index, { items, positions }] of layout.problem.equals.entries()) {
    const keys = items.map((item, at) => layout.keyAt(chosen[item] as number, positions[at] as number));
    if (keys.every((key) => key === keys[0])) continue;
    const telling = prices ? regret(prices, index) : items.length;
    if (telling > mostTelling) {
      mostTelling = telling;
      found = index;
    }
  }
  return found < 0 ? undefined : splitByKey(layout, allowed, found, prices);
}

/** Groups that chose the key of another they must differ from: the larger is split by key. */
function notDifferent(
  layout: Layout,
  allowed: Uint8Array,
  chosen: readonly number[],
  prices: Prices | undefined,
): Breach | undefined {
  for (const members of layout.problem.differs) {
    const seen = new Map<number, number>();
    for (const index of members) {
      const equal = layout.problem.equals[index];
      const item = equal?.items[0];
      if (!equal || item === undefined) continue;
      const key = layout.keyAt(chosen[item] as number, equal.positions[0] as number);
      const other = seen.get(key);
      if (other !== undefined) {
        const larger = (layout.problem.equals[other]?.items.length ?? 0) > equal.items.length ? other : index;
        return splitByKey(layout, allowed, larger, prices);
      }
      seen.set(key, index);
    }
  }
  return undefined;
}

function splitByKey(layout: Layout, allowed: Uint8Array, index: number, prices: Prices | undefined): Breach {
  const equal = layout.problem.equals[index];
  const items = equal?.items ?? [];
  const positions = equal?.positions ?? [];
  const keys = new Set<number>();
  const first = items[0] ?? 0;
  for (let option = layout.start[first] as number; option < (layout.start[first + 1] as number); option++)
    if (allowed[option] === 1) keys.add(layout.keyAt(option, positions[0] as number));
  const cases = [...keys].map((key) => ({
    bound: prices ? boundWith(prices, index, key) : Number.NEGATIVE_INFINITY,
    apply: (now: Uint8Array, changed: Set<number>): void => {
      for (const [at, item] of items.entries()) {
        for (
          let option = layout.start[item] as number;
          option < (layout.start[item + 1] as number);
          option++
        ) {
          if (now[option] === 0 || layout.keyAt(option, positions[at] as number) === key) continue;
          now[option] = 0;
          changed.add(item);
        }
      }
    },
  }));
  return { cases: cases.sort((a, b) => a.bound - b.bound) };
}

/** A mode that chosen options want at different values: one case for each value. */
function disagreeing(layout: Layout, allowed: Uint8Array, chosen: readonly number[]): Breach | undefined {
  const wanted = new Map<number, number>();
  for (const option of chosen) {
    for (const { mode, value } of layout.modesOf(option)) {
      const other = wanted.get(mode);
      if (other === undefined) {
        wanted.set(mode, value);
        continue;
      }
      if (other === value) continue;
      const all = layout.modes[mode] ?? [];
      const values = new Set(all.filter((one) => allowed[one.option] === 1).map((one) => one.value));
      return {
        cases: [...values].map((only) => ({
          bound: Number.NEGATIVE_INFINITY,
          apply(now: Uint8Array, changed: Set<number>): void {
            for (const one of all) {
              if (one.value === only || now[one.option] === 0) continue;
              now[one.option] = 0;
              changed.add(layout.item[one.option] as number);
            }
          },
        })),
      };
    }
  }
  return undefined;
}

/** A resource that two chosen options use: the first does without it, or has it and all others do without. */
function overused(layout: Layout, chosen: readonly number[]): Breach | undefined {
  const seen = new Map<number, number>();
  for (const [item, option] of chosen.entries()) {
    for (
      let at = layout.resourceStart[option] as number;
      at < (layout.resourceStart[option + 1] as number);
      at++
    ) {
      const resource = layout.resource[at] as number;
      const other = seen.get(resource);
      if (other === undefined) {
        seen.set(resource, item);
        continue;
      }
      const uses = new Set(layout.users[resource]);
      return twoWays(
        layout,
        (one, who) => who === other && uses.has(one),
        (one, who) => (who === other ? !uses.has(one) : uses.has(one)),
      );
    }
  }
  return undefined;
}

/** Two items whose options do not suit: the first leaves its option, or stays and the second takes one that suits. */
function illPaired(layout: Layout, chosen: readonly number[]): Breach | undefined {
  for (const { a, b, suits } of layout.problem.pairs) {
    const optionOfA = chosen[a] as number;
    const startA = layout.start[a] as number;
    const startB = layout.start[b] as number;
    if (suits(optionOfA - startA, (chosen[b] as number) - startB)) continue;
    return twoWays(
      layout,
      (one, who) => who === a && one === optionOfA,
      (one, who) =>
        (who === a && one !== optionOfA) || (who === b && !suits(optionOfA - startA, one - startB)),
    );
  }
  return undefined;
}

/** A combination that must not be: the first item leaves it, or stays in it and the second leaves, and so on. */
function combined(layout: Layout, chosen: readonly number[]): Breach | undefined {
  for (const { parts } of layout.problem.never ?? []) {
    const within = parts.map(({ item, options }) => {
      const start = layout.start[item] as number;
      return { item, options: new Set(options.map((option) => start + option)) };
    });
    if (!within.every(({ item, options }) => options.has(chosen[item] as number))) continue;
    return ways(
      layout,
      within.map((leaves, at): Strikes => {
        const stay = within.slice(0, at);
        return (option, who) =>
          who === leaves.item
            ? leaves.options.has(option)
            : stay.some((one) => one.item === who && !one.options.has(option));
      }),
    );
  }
  return undefined;
}

type Strikes = (option: number, item: number) => boolean;

const twoWays = (layout: Layout, ...two: [Strikes, Strikes]): Breach => ways(layout, two);

function ways(layout: Layout, all: readonly Strikes[]): Breach {
  return {
    cases: all.map((strikes) => ({
      bound: Number.NEGATIVE_INFINITY,
      apply(allowed: Uint8Array, changed: Set<number>): void {
        for (let option = 0; option < layout.options; option++) {
          const item = layout.item[option] as number;
          if (allowed[option] === 0 || !strikes(option, item)) continue;
          allowed[option] = 0;
          changed.add(item);
        }
      },
    })),
  };
}
