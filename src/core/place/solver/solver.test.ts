import fc from 'fast-check';
import { assignAll, copyAssignment, FAR, loosen, newAssignment, newWorkspace, total } from './assignment';
import type { ChoiceProblem } from './problem';
import { solve } from './solve';

/** Tries everything; for small problems only. */
function cheapest(problem: ChoiceProblem): number | undefined {
  let best: number | undefined;
  const chosen: number[] = [];
  const fits = (): boolean => {
    const options = chosen.map((option, item) => problem.items[item]?.options[option]);
    const slots = options.map((one) => one?.slot);
    if (new Set(slots).size < slots.length) return false;
    const resources = options.flatMap((one) => one?.resources ?? []);
    if (new Set(resources).size < resources.length) return false;
    const modes = new Map<number, number>();
    for (const { mode, value } of options.flatMap((one) => one?.modes ?? [])) {
      if ((modes.get(mode) ?? value) !== value) return false;
      modes.set(mode, value);
    }
    const keys = problem.equals.map(({ items, positions }) => {
      const own = items.map((item, at) => options[item]?.keys[positions[at] as number]);
      return own.every((key) => key === own[0]) ? own[0] : undefined;
    });
    if (keys.includes(undefined)) return false;
    if (problem.differs.some((members) => new Set(members.map((one) => keys[one])).size < members.length))
      return false;
    return problem.pairs.every(({ a, b, suits }) => suits(chosen[a] as number, chosen[b] as number));
  };
  const visit = (item: number, cost: number): void => {
    if (best !== undefined && cost >= best) return;
    if (item === problem.items.length) {
      if (fits()) best = cost;
      return;
    }
    for (const [at, option] of (problem.items[item]?.options ?? []).entries()) {
      chosen.push(at);
      visit(item + 1, cost + option.cost);
      chosen.pop();
    }
  };
  visit(0, 0);
  return best;
}

const KEYS = 3;
const problems: fc.Arbitrary<ChoiceProblem> = fc
  .record({
    slots: fc.integer({ min: 3, max: 7 }),
    items: fc.integer({ min: 1, max: 5 }),
    seed: fc.infiniteStream(fc.nat(999)),
    shape: fc.nat(31),
  })
  .map(({ slots, items, seed, shape }) => {
    const next = (below: number): number => (seed.next().value as number) % below;
    const grouped = Math.min(items, 4);
    const equals =
      shape & 1
        ? [
            { items: [...Array(Math.ceil(grouped / 2)).keys()], keys: KEYS, positions: [0, 0] },
            {
              items: [...Array(grouped).keys()].slice(Math.ceil(grouped / 2)),
              keys: KEYS,
              positions: [0, 0],
            },
          ].filter((one) => one.items.length > 0)
        : [];
    return {
      slots,
      resources: 3,
      items: Array.from({ length: items }, () => ({
        options: Array.from({ length: 1 + next(6) }, () => ({
          slot: next(slots),
          cost: next(20),
          resources: shape & 2 && next(3) === 0 ? [next(3)] : [],
          keys: [next(KEYS)],
          ...(shape & 16 && next(2) === 0 ? { modes: [{ mode: next(2), value: next(2) }] } : {}),
        })),
      })),
      equals,
      differs: shape & 4 && equals.length > 1 ? [[0, 1]] : [],
      pairs: shape & 8 && items > 1 ? [{ a: 0, b: items - 1, suits: (a, b) => Math.abs(a - b) === 1 }] : [],
    };
  });

test('finds what trying everything finds, and says so when there is nothing', () => {
  const seen = { optimal: 0, infeasible: 0 };
  fc.assert(
    fc.property(problems, (problem) => {
      const expected = cheapest(problem);
      const outcome = solve(problem, { nodes: 10_000 });
      if (expected === undefined) {
        seen.infeasible++;
        expect(outcome.status).toBe('infeasible');
        return;
      }
      seen.optimal++;
      expect(outcome).toMatchObject({ status: 'optimal', bound: expected, solution: { cost: expected } });
    }),
    { numRuns: 1500, seed: 11 },
  );
  expect(seen.optimal).toBeGreaterThan(200);
  expect(seen.infeasible).toBeGreaterThan(200);
});

test('the solution it names costs what it says', () => {
  fc.assert(
    fc.property(problems, (problem) => {
      const outcome = solve(problem, { nodes: 10_000 });
      if (outcome.status !== 'optimal') return;
      const { chosen, cost } = outcome.solution;
      const options = chosen.map((option, item) => problem.items[item]?.options[option]);
      expect(options.reduce((sum, one) => sum + (one?.cost ?? Number.NaN), 0)).toBe(cost);
    }),
    { numRuns: 300 },
  );
});

test('stopped early, it gives a bound that holds', () => {
  fc.assert(
    fc.property(problems, fc.integer({ min: 1, max: 4 }), (problem, nodes) => {
      const outcome = solve(problem, { nodes });
      const expected = cheapest(problem);
      if (outcome.status === 'infeasible') expect(expected).toBeUndefined();
      else if (expected !== undefined) expect(outcome.bound).toBeLessThanOrEqual(expected);
      if (outcome.status === 'optimal' || outcome.status === 'feasible')
        expect(outcome.solution.cost).toBeGreaterThanOrEqual(expected as number);
    }),
    { numRuns: 500 },
  );
});

describe('an assignment brought up to dearer costs', () => {
  const matrices = fc.record({
    rows: fc.integer({ min: 1, max: 6 }),
    spare: fc.integer({ min: 0, max: 3 }),
    seed: fc.infiniteStream(fc.nat(30)),
  });
  test('costs what one made from the start costs', () => {
    fc.assert(
      fc.property(matrices, ({ rows, spare, seed }) => {
        const columns = rows + spare;
        const work = newWorkspace(columns);
        const state = newAssignment(rows, columns);
        const roll = (): number => seed.next().value as number;
        for (let at = 0; at < state.costs.length; at++) state.costs[at] = roll() > 25 ? FAR : roll();
        if (assignAll(state, work)) return;
        for (let round = 0; round < 6; round++) {
          const row = roll() % rows;
          for (let column = 0; column < columns; column++) {
            const at = row * columns + column;
            if (roll() > 15)
              state.costs[at] = roll() > 20 ? FAR : Math.min(FAR, (state.costs[at] as number) + roll());
          }
          loosen(state, row);
          const fresh = { ...newAssignment(rows, columns), costs: state.costs.slice() };
          const [here, there] = [assignAll(state, work), assignAll(fresh, newWorkspace(columns))];
          expect(here === undefined).toBe(there === undefined);
          if (here) return;
          expect(total(state)).toBe(total(copyAssignment(fresh)));
          const sum = [...state.columnOf].reduce(
            (s, column, r) => s + (state.costs[r * columns + column] as number),
            0,
          );
          expect(sum).toBe(total(state));
        }
      }),
      { numRuns: 1000 },
    );
  });

  test('names rows that want too few columns', () => {
    const state = newAssignment(3, 4);
    state.costs.set([1, FAR, FAR, FAR, 2, FAR, FAR, FAR, 1, 1, 1, 1]);
    expect(assignAll(state, newWorkspace(4))?.sort()).toEqual([0, 1]);
  });
});
