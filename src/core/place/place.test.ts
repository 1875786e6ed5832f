import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { corvane, deriveOn, frostGuard, netOf, on, planOf, withNets } from '@/testing/frost-guard';
import { impossibleBoard, randomBoard } from '@/testing/instances';
import { candidatesFor } from '../derive/candidates/candidates';
import type { Package } from '../description/types';
import { lackOf } from '../device/available';
import type { Device } from '../device/device';
import { applyEdit } from '../plan/edits/edits';
import { placeNet } from '../plan/edits/make-edits';
import { type Constraint, type Demands, emptyPlan, type Net, type Plan } from '../plan/model/types';
import { examine } from './conflict/examine';
import type { Placing } from './model/answer';
import { modelOf } from './model/build';
import { placingEdit } from './model/moves';
import { placePlan } from './place';
import { swapChain } from './swap';

const packageOf = (device: Device, plan: Plan): Package => device.packages.get(plan.package) as Package;
const place = (plan: Plan, device = corvane(), options = {}): Placing =>
  placePlan(device, packageOf(device, plan), plan, options);
const applied = (plan: Plan, placing: Placing): Plan =>
  expectOk(applyEdit(plan, placingEdit(placing.moves, 'place')));

const everyPackage = FAMILIES.flatMap((folder) =>
  [...family(folder).packages.values()].map((pkg) => [`${folder} ${pkg.id}`, folder, pkg.id] as const),
);
const countFor = (device: Device, pkg: Package): number => {
  const pads = [...(device.pinsOf.get(pkg.id)?.keys() ?? [])];
  return Math.min(60, Math.floor(pads.filter((pad) => device.pads.get(pad)?.kind === 'io').length * 0.6));
};

describe('random boards of every family and package', () => {
  test.each(everyPackage)(
    '%s: placed whole, without an error, locked nets where they were',
    (_, folder, id) => {
      const device = family(folder);
      const pkg = device.packages.get(id) as Package;
      for (const seed of [1, 2, 3]) {
        const plan = randomBoard(device, pkg, countFor(device, pkg), seed);
        const placing = place(plan, device);
        expect(placing.status).toBe('optimal');
        expect(placing.bound).toBe(placing.objective);
        const after = applied(plan, placing);
        expect(after.nets.filter((net) => net.placement === null)).toEqual([]);
        for (const net of plan.nets)
          if (net.placement?.locked)
            expect(after.nets.find((one) => one.id === net.id)?.placement).toEqual(net.placement);
        const { findings } = deriveOn(after, device);
        expect(findings.filter((one) => one.severity === 'error').map((one) => one.message)).toEqual([]);
        // The same question has the same answer.
        expect(place(plan, device).placements).toEqual(placing.placements);
      }
    },
  );

  test.each(everyPackage)(
    '%s: what cannot be done is explained by what cannot be left out, and each way out is one',
    (_, folder, id) => {
      const device = family(folder);
      const pkg = device.packages.get(id) as Package;
      const plan = impossibleBoard(device, pkg, countFor(device, pkg), 5);
      const placing = place(plan, device);
      expect(placing.status).toBe('infeasible');
      const { conflict } = placing;
      if (!conflict) throw new Error('no conflict');
      const model = modelOf(device, pkg, plan);
      const all = conflict.requirements.map((one) => one.index);
      expect(examine(model, new Set(all)).possible).toBe(false);
      for (const index of all)
        expect(examine(model, new Set(all.filter((one) => one !== index))).possible).toBe(true);
      expect(conflict.suggestions.length).toBeGreaterThan(0);
      for (const { edit } of conflict.suggestions) {
        const next = expectOk(applyEdit(plan, edit));
        expect(place(next, device).status).toBe('optimal');
      }
    },
  );
});

describe('demands are kept', () => {
  const output = { kind: 'output' } as const;
  const placedOn = (net: Partial<Net>, more: Partial<Plan> = {}): string | undefined =>
    place(planOf([{ name: 'X', role: output, ...net }], more)).placements.n0;
  const padOf = (id: string | undefined) => corvane().pads.get(id ?? '');
  const classOf = (id: string | undefined) => corvane().description.padClasses[padOf(id)?.class ?? ''];

  test.each([
    ['a side', { side: 'right' }, (pad: string) => Number(corvane().pinsOf.get('q100')?.get(pad)?.[0]) > 50],
    ['a current', { milliamps: 12 }, (pad: string) => (classOf(pad)?.sourceMilliamps ?? 0) >= 12],
    ['a voltage', { farVolts: 5 }, (pad: string) => (classOf(pad)?.toleratesVolts ?? 0) >= 5],
    ['a rate', { rateHertz: 50e6 }, (pad: string) => (classOf(pad)?.highestHertz ?? 0) >= 50e6],
  ] as [string, Demands, (pad: string) => boolean][])('%s', (_, demands, holds) => {
    const pad = placedOn({ demands });
    expect(pad && holds(pad)).toBe(true);
  });

  test('not on the pad it would have', () => {
    const first = placedOn({}) ?? '';
    expect(placedOn({ demands: { notPads: [first] } })).not.toBe(first);
  });

  test('a chosen setting', () => {
    const pad = placedOn({ settings: { drive: '12mA' } });
    expect(
      deriveOn(planOf([{ name: 'X', role: output, placement: on(pad ?? ''), settings: { drive: '12mA' } }]))
        .findings,
    ).toEqual([]);
  });

  const constrained = (kind: Constraint['kind'], nets: Partial<Net>[]): Placing => {
    const plan = planOf(nets.map((net, index) => ({ name: `N${index}X`, role: output, ...net })));
    const constraints: Constraint[] = [{ id: 't', kind, nets: plan.nets.map((net) => net.id) }];
    return place({ ...plan, constraints });
  };
  const bits = (placing: Placing): string[] =>
    Object.values(placing.placements).map((pad) => `${padOf(pad)?.port} ${padOf(pad)?.bit}`);

  test('a bus lies on consecutive bits of one port, in order', () => {
    const [port, first] = bits(constrained('bus', [{}, {}, {}, {}, {}, {}]))[0]?.split(' ') ?? [];
    expect(bits(constrained('bus', [{}, {}, {}, {}, {}, {}]))).toEqual(
      [0, 1, 2, 3, 4, 5].map((index) => `${port} ${Number(first) + index}`),
    );
  });

  const channel = { role: { kind: 'open-signal', peripheral: 'PACE', line: 'Q*' } } as const;
  const signals = (placing: Placing): string[] => placing.moves.map(({ to }) => to.signal ?? '');
  const instances = (placing: Placing): string[] => signals(placing).map((one) => one.split('.')[0] ?? '');

  test('channels of one timer, and of several', () => {
    expect(new Set(instances(constrained('same-instance', [channel, channel, channel]))).size).toBe(1);
    expect(new Set(instances(constrained('other-instances', [channel, channel, channel]))).size).toBe(3);
  });

  test('the two lines of one channel', () => {
    const [a, b] = signals(
      constrained('pair', [channel, { role: { kind: 'open-signal', peripheral: 'PACE', line: 'Q*B' } }]),
    );
    expect(b).toBe(`${a}B`);
  });

  test('neighbours, and anything but', () => {
    const pins = (placing: Placing): number[] =>
      Object.values(placing.placements).map((pad) => Number(corvane().pinsOf.get('q100')?.get(pad)?.[0]));
    const [a = 0, b = 0] = pins(constrained('pair', [{}, {}]));
    expect(Math.abs(a - b)).toBe(1);
    const sorted = pins(constrained('apart', [{}, {}, {}])).sort((x, y) => x - y);
    for (const [at, one] of sorted.slice(1).entries()) expect(one - (sorted[at] ?? 0)).toBeGreaterThan(1);
  });

  test('interrupts of equal bits do not meet on one line', () => {
    const plan = planOf(
      Array.from({ length: 12 }, (_, at) => ({
        name: `I${'abcdefghijkl'[at]}`,
        role: { kind: 'interrupt' } as const,
      })),
    );
    const placing = place(plan);
    expect(placing.status).toBe('optimal');
    const own = Object.values(placing.placements).map((pad) => padOf(pad)?.bit);
    expect(new Set(own).size).toBe(12);
  });

  test('numbered nets are in order when there is room', () => {
    const plan = planOf(['LED_0', 'LED_1', 'LED_2', 'LED_3'].map((name) => ({ name, role: output })));
    const placing = place(plan);
    expect(placing.terms?.order).toBe(0);
    const own = plan.nets.map((net) => padOf(placing.placements[net.id]));
    expect(own.map((pad) => (pad?.bit ?? 0) - (own[0]?.bit ?? 0))).toEqual([0, 1, 2, 3]);
    expect(new Set(own.map((pad) => pad?.port)).size).toBe(1);
  });
});

describe('today’s plan', () => {
  test('is left as it is when nothing is missing', () => {
    expect(place(frostGuard())).toMatchObject({ status: 'optimal', moves: [] });
  });

  test('a net that lost its pad gets one, the others stay', () => {
    const plan = withNets(frostGuard(), { FAN_2: { placement: null } });
    const { moves } = place(plan);
    expect(moves.map(({ net }) => net.name)).toEqual(['FAN_2']);
    expect(deriveOn(applied(plan, place(plan))).findings).toEqual([]);
  });

  test('kept placements stay, even where moving one would help', () => {
    const stuck = planOf([
      { name: 'A', role: { kind: 'output' }, placement: on('D4') },
      { name: 'B', role: { kind: 'signal', signal: 'UART1.TX' }, demands: { notPads: ['C4', 'D0'] } },
    ]);
    expect(place(stuck).moves.map(({ net }) => net.name)).toEqual(['A', 'B']);
    expect(place(stuck, corvane(), { keep: true }).status).toBe('infeasible');
  });

  test('another answer is another one', () => {
    const plan = planOf(['A', 'B', 'C'].map((name) => ({ name, role: { kind: 'output' } as const })));
    const first = place(plan);
    const second = place(plan, corvane(), { unlike: [first.placements] });
    for (const net of plan.nets) expect(second.placements[net.id]).not.toBe(first.placements[net.id]);
    expect(second.objective).toBeGreaterThanOrEqual(first.objective ?? 0);
  });

  test('weights decide what is minded', () => {
    const plan = planOf([{ name: 'A', role: { kind: 'output' }, placement: on('E3') }]);
    expect(place(plan).placements.n0).not.toBe('E3');
    expect(place(plan, corvane(), { weights: { special: 0 } }).placements.n0).toBe('E3');
  });
});

test('a net that no pad can carry is told from one whose demands are too many', () => {
  const nothing = place(planOf([{ name: 'X', role: { kind: 'signal', signal: 'UART9.TX' } }])).conflict;
  expect(nothing?.message).toMatch(/^No pad of .* offers UART9\.TX for `X`\.$/);
  const much = place(
    planOf([{ name: 'X', role: { kind: 'analog' }, demands: { farVolts: 5, side: 'left' } }]),
  ).conflict;
  expect(much?.requirements.map((one) => one.words)).toContain('`X` sees 5 V');
});

describe('a chain of moves that makes room', () => {
  const chainFor = (plan: Plan, name: string, pad: string, signal?: string) => {
    const net = netOf(plan, name);
    const pkg = packageOf(corvane(), plan);
    return swapChain(corvane(), pkg, plan, net, { pad, locked: false, ...(signal ? { signal } : {}) });
  };
  // UART1.TX is on C4, D0 and D4 only.
  const plan = planOf([
    { name: 'A', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('D4') },
    { name: 'B', role: { kind: 'output' }, placement: on('C4') },
    { name: 'C', role: { kind: 'output' }, placement: on('D0') },
    { name: 'D', role: { kind: 'output' } },
  ]);

  test('moves as few as it can, and leaves unplaced nets unplaced', () => {
    const chain = chainFor(plan, 'D', 'D4');
    // A has no free pad: one of the plain nets gives way to it.
    expect(chain).toHaveLength(2);
    const moved = new Map(chain?.map(({ net, to }) => [net.name, to.pad]));
    expect(['C4', 'D0']).toContain(moved.get('A'));
    const edits = [
      ...(chain ?? []).map(({ net, to }) => placeNet(net, to)),
      placeNet(netOf(plan, 'D'), on('D4')),
    ];
    const after = expectOk(applyEdit(plan, { kind: 'batch', label: 'x', edits }));
    expect(deriveOn(after).findings.filter((one) => one.severity === 'error')).toEqual([]);
  });
  test('locked nets make no room', () => {
    const locked = withNets(plan, {
      B: { placement: { pad: 'C4', locked: true } },
      C: { placement: { pad: 'D0', locked: true } },
    });
    expect(chainFor(locked, 'D', 'D4')).toBeUndefined();
  });
});

describe('pads that can only pull low', () => {
  const brask = family('brask-b14');
  const [pkg] = brask.description.packages;
  if (!pkg) throw new Error('no package');
  const low = brask.description.pads.filter(
    (pad) =>
      pad.kind === 'io' &&
      pad.port &&
      lackOf(brask, pad, 'outputType', 'push-pull') !== undefined &&
      brask.pinsOf.get(pkg.id)?.has(pad.id),
  );
  const outputs = (count: number, settings: Net['settings'] = {}): Plan => ({
    ...emptyPlan('P', brask.description.id, pkg.id, brask.fingerprint),
    circuits: [{ id: 'c', name: 'C' }],
    nets: Array.from({ length: count }, (_, at) => ({
      id: `n${at}`,
      name: `LAMP_${at}`,
      circuit: 'c',
      role: { kind: 'output' as const },
      placement: null,
      settings,
    })),
  });
  test('get no output that must drive both levels, and the placer warns about nothing it did', () => {
    expect(low.length).toBeGreaterThan(0);
    const plan = outputs(12);
    const placing = placePlan(brask, pkg, plan);
    expect(placing.status).toBe('optimal');
    const after = expectOk(applyEdit(plan, placingEdit(placing.moves, 'place')));
    for (const net of after.nets) expect(low.map((pad) => pad.id)).not.toContain(net.placement?.pad);
    expect(deriveOn(after, brask).findings.map((one) => one.rule)).not.toContain('open-drain-no-pull');
  });
  test('are there for outputs that ask for open drain', () => {
    const pads = new Set(low.map((pad) => pad.id));
    const { occupancy } = deriveOn(outputs(1), brask);
    const [plain, open] = [outputs(1).nets[0], outputs(1, { outputType: 'open-drain' }).nets[0]];
    if (!plain || !open) throw new Error('no net');
    const lacks = (net: Net) =>
      candidatesFor(occupancy, net)
        .filter((one) => pads.has(one.pad))
        .map((one) => one.lacks.length > 0);
    expect(new Set(lacks(plain))).toEqual(new Set([true]));
    expect(new Set(lacks(open))).toEqual(new Set([false]));
  });
});

test('a net without a pad is told how many pads really fit, and what the others lack', () => {
  const plan = (rateHertz: number): Plan =>
    planOf([{ name: 'FAST', role: { kind: 'output' }, demands: { rateHertz } }]);
  const message = (rateHertz: number): string =>
    deriveOn(plan(rateHertz)).findings.find((one) => one.rule === 'unplaced')?.message ?? '';
  const fitting = (rateHertz: number): number => {
    const derived = deriveOn(plan(rateHertz));
    const [net] = derived.plan.nets;
    return net
      ? candidatesFor(derived.occupancy, net).filter(
          (one) => one.takenBy.length === 0 && one.lacks.length === 0,
        ).length
      : 0;
  };
  for (const rate of [1e3, 30e6, 60e6])
    expect(message(rate)).toContain(`; ${fitting(rate)} free pads can take it.`);
  expect(fitting(60e6)).toBeLessThan(fitting(1e3));
  expect(fitting(500e6)).toBe(0);
  expect(message(500e6)).toMatch(
    /none of the \d+ free pads that offer it gives all it asks for: `\w+`: .*500 MHz are wanted/,
  );
});
