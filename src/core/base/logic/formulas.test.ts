import { randomFrom } from '@/testing/random';
import { FALSE, type Formula, Formulas, TRUE } from './formulas';

/** Formulas by chance beside the function that they are, tried on all values of five variables. */
test('a formula is true where its function is, and equal functions are equal formulas', () => {
  const random = randomFrom(26);
  const formulas = new Formulas();
  const byTable = new Map<number, Formula>();
  const VARIABLES = 5;
  const tableOf = (formula: Formula): number => {
    let table = 0;
    for (let state = 0; state < 2 ** VARIABLES; state++)
      if (formulas.evaluate(formula, (variable) => ((state >>> variable) & 1) === 1)) table |= 1 << state;
    return table >>> 0;
  };
  /** In a state, whether the table holds in all that differ from it in the variables from `limit` on only. */
  const always = (table: number, limit: number): number => {
    let left = 0;
    for (let state = 0; state < 2 ** VARIABLES; state++) {
      const below = state % 2 ** limit;
      let holds = true;
      for (let high = below; high < 2 ** VARIABLES; high += 2 ** limit)
        holds &&= ((table >>> high) & 1) === 1;
      if (holds) left |= 1 << state;
    }
    return left >>> 0;
  };
  const made: { formula: Formula; table: number }[] = [
    { formula: FALSE, table: 0 },
    { formula: TRUE, table: 0xffffffff },
    ...Array.from({ length: VARIABLES }, (_, variable) => {
      const formula = formulas.variable(variable);
      return { formula, table: tableOf(formula) };
    }),
  ];
  for (let turn = 0; turn < 3000; turn++) {
    const [a, b, c] = [random.pick(made), random.pick(made), random.pick(made)];
    const next = random.pick([
      () => ({ formula: formulas.and(a.formula, b.formula), table: a.table & b.table }),
      () => ({ formula: formulas.or(a.formula, b.formula), table: a.table | b.table }),
      () => ({ formula: formulas.xor(a.formula, b.formula), table: a.table ^ b.table }),
      () => ({ formula: formulas.not(a.formula), table: ~a.table }),
      () => {
        const limit = random.int(VARIABLES + 1);
        return { formula: formulas.always(a.formula, limit), table: always(a.table, limit) };
      },
      () => ({
        formula: formulas.choose(a.formula, b.formula, c.formula),
        table: (a.table & b.table) | (~a.table & c.table),
      }),
    ])();
    const table = next.table >>> 0;
    expect(tableOf(next.formula)).toBe(table);
    expect(byTable.get(table) ?? next.formula).toBe(next.formula);
    byTable.set(table, next.formula);
    made.push({ formula: next.formula, table });
  }
  expect(byTable.size).toBeGreaterThan(500);
});

test('literals are told from other formulas, with the variables that matter', () => {
  const formulas = new Formulas();
  const [a, b] = [formulas.variable(3), formulas.variable(7)];
  expect(formulas.literal(a)).toEqual({ variable: 3, inverted: false });
  expect(formulas.literal(formulas.not(b))).toEqual({ variable: 7, inverted: true });
  expect(formulas.literal(formulas.and(a, b))).toBeUndefined();
  expect(formulas.literal(TRUE)).toBeUndefined();
  expect(formulas.or(a, formulas.and(b, formulas.not(b)))).toBe(a);
  expect(formulas.xor(a, a)).toBe(FALSE);
});
