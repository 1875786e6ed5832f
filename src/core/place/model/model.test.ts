import { FAMILIES, family } from '@/testing/families';
import { corvane, on, planOf } from '@/testing/frost-guard';
import { randomBoard } from '@/testing/instances';
import {
  belongTogether,
  instanceGroups,
  kindOfRole,
  lineOfRole,
  openRole,
} from '../../derive/candidates/groups';
import { DEFAULT_WEIGHTS, TERM_KEYS, weigh } from '../../derive/candidates/terms';
import type { Package } from '../../description/types';
import type { Device } from '../../device/device';
import { sharedFields } from '../../device/shared-fields';
import type { Net, Plan } from '../../plan/model/types';
import { compile } from '../compile/compile';
import { placePlan } from '../place';
import { solve } from '../solver/solve';
import { modelOf } from './build';

const output = { kind: 'output' } as const;
const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;
const any = (peripheral: string, line: string) => ({ kind: 'open-signal', peripheral, line }) as const;
const packageOf = (device: Device, id: string): Package => device.packages.get(id) as Package;
const model = (plan: Plan, device = corvane(), options = {}) =>
  modelOf(device, packageOf(device, plan.package), plan, options);

describe('what a plan asks for, as requirements that can be given up', () => {
  test('the net, where it is locked, its settings, its demands, its constraints', () => {
    const bare = planOf([
      {
        name: 'A',
        role: output,
        placement: { pad: 'B7', locked: true },
        settings: { drive: '4mA', active: 'low' },
        demands: { milliamps: 3, farVolts: 5, notPads: ['C0'] },
      },
      { name: 'B', role: output, placement: on('B8') },
    ]);
    const plan = { ...bare, constraints: [{ id: 't', kind: 'bus' as const, nets: ['n0', 'n1'] }] };
    expect(model(plan).requirements.map((one) => `${one.kind}: ${one.words.replaceAll('`', '')}`)).toEqual([
      'net: A needs a pad for output',
      'locked: A is locked on pad B7',
      'setting: A wants drive 4mA',
      'demand: A wants 3 mA',
      'demand: A sees 5 V',
      'demand: A must not be on C0',
      'net: B needs a pad for output',
      'constraint: A, B shall be on consecutive bits of one port',
    ]);
    const kept = model(plan, corvane(), { keep: true }).requirements.map((one) => one.words);
    expect(kept).toContain('`B` is kept on pad `B8`');
  });

  test('with a requirement given up, the pads it ruled out are there again', () => {
    const plan = planOf([{ name: 'A', role: output, demands: { farVolts: 5 } }]);
    const own = model(plan);
    const pads = (active?: ReadonlySet<number>) =>
      new Set(compile(own, active).meant[0]?.map((one) => one.choice.pad));
    expect(pads().has('A5')).toBe(false);
    expect(pads().has('B7')).toBe(true);
    expect(pads(new Set([0])).has('A5')).toBe(true);
    expect(compile(own, new Set()).items).toEqual([]);
  });

  test('what a line needs and a pad does not have is no choice at all', () => {
    // An input-only pad cannot be an open-drain line, whatever its table says.
    const plan = planOf([{ name: 'SDA', role: any('I2C', 'SDA') }]);
    const plain = model(plan, corvane());
    for (const { pad } of plain.items[0]?.choices ?? [])
      expect(corvane().pads.get(pad)?.class).not.toBe('inonly');
  });
});

describe('groups', () => {
  const nets = (roles: [string, Net['role']][]): { net: Net }[] =>
    planOf(roles.map(([name, role]) => ({ name, role }))).nets.map((net) => ({ net }));
  test('lines of one circuit share an instance; a line asked for twice begins another', () => {
    const groups = instanceGroups(
      corvane(),
      nets([
        ['A', any('UART', 'TX')],
        ['B', any('UART', 'RX')],
        ['C', any('UART', 'TX')],
        ['D', any('SPI', 'SCK')],
        ['E', any('PACE', 'Q1')],
        ['F', signal('UART1.RX')],
      ]),
    );
    expect(groups.map(({ kind, members }) => [kind, members.map((one) => one.net.name)])).toEqual([
      ['UART', ['A', 'B']],
      ['UART', ['C']],
      ['SPI', ['D']],
    ]);
  });
  test('kinds whose channels stand alone do not belong together', () => {
    expect(['UART', 'SPI', 'I2C'].every((kind) => belongTogether(corvane(), kind))).toBe(true);
    expect(['PACE', 'ADC', 'NONE'].some((kind) => belongTogether(corvane(), kind))).toBe(false);
  });
  test('roles tell their kind and line, and can be opened', () => {
    expect(kindOfRole(corvane(), signal('UART1.TX'))).toBe('UART');
    expect(kindOfRole(corvane(), output)).toBeUndefined();
    expect(lineOfRole(any('SPI', 'SCK'))).toBe('SCK');
    expect(openRole(corvane(), signal('PACE3.Q2'))).toEqual(any('PACE', 'Q2'));
    expect(openRole(corvane(), output)).toEqual(output);
    expect(openRole(corvane(), signal('NOBODY.TX'))).toEqual(signal('NOBODY.TX'));
  });
});

test.each(FAMILIES)(
  '%s: the objective is the sum of its terms, and the bound of the problem solved',
  (folder) => {
    const device = family(folder);
    const [pkg] = device.packages.values();
    if (!pkg) throw new Error(folder);
    for (const seed of [11, 12]) {
      const { terms, objective, bound, problem, status } = placePlan(
        device,
        pkg,
        randomBoard(device, pkg, 20, seed),
      );
      if (!terms || !problem) throw new Error(`${folder} ${seed}: ${status}`);
      expect(objective).toBe(weigh(DEFAULT_WEIGHTS, terms));
      expect(TERM_KEYS.every((term) => terms[term] >= 0)).toBe(true);
      const again = solve(problem, { nodes: 4000 });
      expect(again).toMatchObject({ status: 'optimal', bound, solution: { cost: objective } });
    }
  },
);

test('a larger weight never makes its term larger', () => {
  const plan = randomBoard(corvane(), packageOf(corvane(), 'q100'), 40, 3);
  const amount = (near: number): number =>
    placePlan(corvane(), packageOf(corvane(), 'q100'), plan, { weights: { near } }).terms?.near ?? -1;
  expect(amount(20)).toBeLessThanOrEqual(amount(0));
});

test('route groups: functions of one instance under different codes share bits with different values', () => {
  const device = family('ketter-k2');
  const modes = sharedFields(device, packageOf(device, 'q64'));
  const codes = new Map<number, Map<number, Set<string>>>();
  for (const [fn, list] of modes) {
    for (const { mode, value } of list) {
      const values = codes.get(mode) ?? new Map<number, Set<string>>();
      values.set(value, (values.get(value) ?? new Set()).add(fn.signal.split('.')[0] ?? ''));
      codes.set(mode, values);
    }
  }
  expect(codes.size).toBeGreaterThan(0);
  for (const values of codes.values()) {
    expect(values.size).toBeGreaterThan(1);
    // All signals that a group of bits moves are of one instance.
    expect(new Set([...values.values()].flatMap((one) => [...one])).size).toBe(1);
  }
  // A part with a code a pad has nothing of the kind.
  expect(sharedFields(corvane(), packageOf(corvane(), 'q100')).size).toBe(0);
});
