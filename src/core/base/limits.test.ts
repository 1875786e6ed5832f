import { readFileSync } from 'node:fs';
import { expectOk } from '@/testing/expect-ok';
import { corvane, frostGuard } from '@/testing/frost-guard';
import deviceSchema from '../../../docs/schema/mavrek-device-3.schema.json';
import { derive } from '../derive/derive';
import { printDevice } from '../description/print-device';
import type { DeviceDescription } from '../description/types';
import { loadDevice } from '../device/compile/load';
import { parseDevice } from '../import/compose/device-files';
import { parsePlan } from '../plan/file/plan-file';
import { printPlan } from '../plan/file/print-plan';
import { grouped, LIMITS, limitRows, limitText } from './limits';
import { boundProblems, collectProblems } from './problems';

const problemsOf = (result: { ok: boolean; problems?: { place: string; message: string }[] }): string[] =>
  result.ok ? [] : (result.problems ?? []).map((one) => `${one.place}: ${one.message}`);

test('the page of limits is the table', () => {
  const page = readFileSync('docs/limits.md', 'utf8');
  for (const { what, value, unit } of limitRows())
    expect(page).toContain(`| ${what} | ${grouped(value)} ${unit} |`);
});

test('the published schemas have the same limits', () => {
  expect(deviceSchema.properties.pads.maxItems).toBe(LIMITS.pads);
  expect(deviceSchema.properties.functions.maxItems).toBe(LIMITS.functions);
  expect(deviceSchema.properties.packages.maxItems).toBe(LIMITS.packages);
});

describe('lists of problems', () => {
  const many = Array.from({ length: 362 }, (_, at) => ({ place: `x:${at}:1`, message: 'is wrong' }));
  test('are cut, and say how many more there are', () => {
    expect(boundProblems(many).at(-1)).toEqual({ place: 'x', message: '… and 312 more' });
    const collected = collectProblems();
    collected.push(...many);
    expect(collected.list()).toHaveLength(LIMITS.problems + 1);
    expect(collected.length).toBe(362);
  });
  test.each([
    ['nets that are none', { nets: Array.from({ length: 450_000 }, () => 1) }],
    ['empty nets', { nets: Array.from({ length: 60_000 }, () => ({})) }],
    ['one id for all nets', { nets: Array.from({ length: 2000 }, () => frostGuard().nets[0]) }],
    [
      'labels of everything',
      { tables: { label: Object.fromEntries(Array.from({ length: 40_000 }, (_, at) => [`p${at}`, 1])) } },
    ],
  ])('of a plan with %s', (_name, change) => {
    const problems = problemsOf(parsePlan('x', JSON.stringify({ ...frostGuard(), ...change })));
    expect(problems.length).toBeGreaterThan(0);
    expect(problems.length).toBeLessThanOrEqual(LIMITS.problems + 1);
    for (const problem of problems) expect(problem.length).toBeLessThan(400);
  });
});

describe('a part', () => {
  const part = (change: (part: DeviceDescription) => void): DeviceDescription => {
    const made = structuredClone(JSON.parse(JSON.stringify(corvane().original))) as DeviceDescription;
    change(made);
    return made;
  };
  const block = (each: 'pad' | undefined, count: number, access?: string) => ({
    id: 'ZZ',
    ...(each ? { each } : {}),
    base: each ? '0x60000000 + n * 0x10000' : '0x60000000',
    registers: [{ id: 'R', offset: '4*i', bits: 32 as const, count, ...(access ? { access } : {}) }],
  });
  test.each<[string, (part: DeviceDescription) => void, RegExp]>([
    [
      'registers for each pad',
      ({ recipe }) => recipe.registers.blocks.push(block('pad', 1024)),
      /has [\d,]+; at most 65,536 registers/,
    ],
    [
      'registers',
      ({ recipe }) => recipe.registers.blocks.push(block(undefined, 65_536)),
      /at most 65,536 registers/,
    ],
    [
      'keys that open all',
      ({ recipe }) => recipe.registers.blocks.push(block(undefined, 1024, 'key 1 opens ZZ.*')),
      /at most 262,144 pairs/,
    ],
    [
      'pads',
      ({ pads }) =>
        pads.push(...Array.from({ length: 30_000 }, (_, at) => ({ id: `X${at}`, kind: 'io' as const }))),
      /has 30,112|at most 4,000 pads/,
    ],
    [
      'combinations of settings',
      ({ recipe }) => {
        for (const values of Object.values(recipe.settings))
          if (values && values.length > 2) values.push(...Array.from({ length: 60 }, (_, at) => `v${at}`));
      },
      /at most 100,000 tuples/,
    ],
  ])('with too many %s is refused before it is built', (_name, change, message) => {
    expect(problemsOf(loadDevice(part(change))).join()).toMatch(message);
  });
  test('of 60,000 registers, 2,000 balls and 20,000 functions is within the limits', () => {
    const large = part(({ recipe, pads, packages, functions }) => {
      recipe.registers.blocks.push(block(undefined, 60_000));
      for (let at = 0; at < 1900; at++) pads.push({ id: `Y${at}`, kind: 'ground' });
      const [first] = packages;
      for (let at = 0; first && at < 1900; at++) first.pins[`X${at}`] = `Y${at}`;
      const [fn] = functions;
      for (let at = 0; fn && at < 19_000; at++)
        functions.push({ ...fn, pad: `Y${at % 1900}`, mux: (at % 900) + 20 });
    });
    expectOk(parseDevice('x', printDevice(large)));
    expectOk(loadDevice(large));
  });
});

test('findings of one rule are bounded, and none is lost without a word', () => {
  const [net] = frostGuard().nets;
  const nets = Array.from({ length: 2000 }, (_, at) => ({
    ...net,
    id: `n${at}`,
    name: `N${at}`,
    placement: null,
  }));
  const plan = { ...frostGuard(), constraints: [], nets: nets as never[] };
  const { findings } = expectOk(derive(corvane(), plan));
  const unplaced = findings.filter((one) => one.rule === 'unplaced');
  expect(unplaced).toHaveLength(LIMITS.findings + 1);
  expect(unplaced.some((one) => one.message === '… and 1500 more of these.')).toBe(true);
  expect(parsePlan('x', printPlan(plan)).ok).toBe(true);
});

test('limits read as people say them', () => {
  expect([limitText('planBytes'), limitText('nets')]).toEqual(['2 MB', '2,000 nets']);
});
