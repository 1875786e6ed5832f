import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { budget, randomFrom, rounds } from '@/testing/random';
import { demandingBoard } from '@/testing/random-demands';
import { RULES } from '../derive/check/catalogue';
import { derive } from '../derive/derive';
import type { Package } from '../description/types';
import type { Device } from '../device/device';
import { applyEdit } from '../plan/edits/edits';
import { emptyPlan, type Net, type Plan } from '../plan/model/types';
import { placingEdit } from './model/moves';
import { placePlan } from './place';

/** What is proposed breaks no rule that another placement would keep; every rule, and whatever a plan makes an error of. */
const LEAST = budget({ quick: 16, all: 800 });

const ioPads = (device: Device, pkg: Package): number =>
  [...(device.pinsOf.get(pkg.id)?.keys() ?? [])].filter((pad) => device.pads.get(pad)?.kind === 'io').length;

const errorsOf = (device: Device, plan: Plan): { key: string; nets: string[] }[] =>
  expectOk(derive(device, plan))
    .findings.filter(({ severity, waived, rule }) => severity === 'error' && !waived && rule !== 'unplaced')
    .map(({ rule, about, nets }) => ({ key: `${rule} ${about ?? ''} ${[...nets].sort().join(' ')}`, nets }));

/** Whether a net has an error on each pad on which it could lie at all, by itself. */
function isEverywhere(device: Device, pkg: Package, plan: Plan, key: string, id: string): boolean {
  const net = plan.nets.find((one) => one.id === id) as Net;
  const { constraints: _none, ...bare } = plan;
  const pads = [...(device.pinsOf.get(pkg.id)?.keys() ?? [])];
  const places = pads.flatMap((pad) => {
    const placement = { pad, locked: true };
    const alone = { ...bare, nets: [{ ...net, placement }] };
    const can = placePlan(device, pkg, alone, { explain: false });
    return can.status === 'infeasible' || can.status === 'stopped'
      ? []
      : [errorsOf(device, alone).some((one) => one.key === key)];
  });
  return places.length > 0 && places.every(Boolean);
}

test('random plans on every part, with rules made errors by chance', () => {
  const parts = FAMILIES.flatMap((name) => {
    const device = family(name);
    return device.description.packages.map((pkg) => ({ name, device, pkg }));
  });
  const seen = { placed: 0, not: 0 };
  for (const round of rounds('random plans placed', { seconds: 8, least: LEAST })) {
    const seed = round + 1;
    const random = randomFrom(seed);
    const { name, device, pkg } = parts[seed % parts.length] as (typeof parts)[number];
    const count = Math.max(2, Math.round(ioPads(device, pkg) * (0.2 + random.int(50) / 100)));
    const board = demandingBoard(device, pkg, Math.min(count, 60), seed);
    // Warnings and notes that depend on where nets are, made errors.
    const raised = RAISED.filter(() => random.int(3) === 0);
    const plan: Plan = {
      ...board,
      tables: { severity: Object.fromEntries(raised.map((rule) => [rule, 'error'])) },
    };
    const placing = placePlan(device, pkg, plan, { explain: false, nodes: 600 });
    if (placing.status === 'infeasible' || placing.status === 'stopped') {
      seen.not++;
      continue;
    }
    seen.placed++;
    const after =
      placing.moves.length > 0 ? expectOk(applyEdit(plan, placingEdit(placing.moves, 'x'))) : plan;
    const locked = new Set(plan.nets.filter((net) => net.placement?.locked).map(({ id }) => id));
    const bare = {
      ...plan,
      nets: plan.nets.map((net) => (locked.has(net.id) ? net : { ...net, placement: null })),
    };
    const inherent = new Set(errorsOf(device, bare).map(({ key }) => key));
    const wrong = errorsOf(device, after).filter(
      ({ key, nets }) =>
        !inherent.has(key) &&
        nets.some((id) => !locked.has(id)) &&
        !(nets.length === 1 && isEverywhere(device, pkg, plan, key, nets[0] ?? '')),
    );
    expect([seed, name, pkg.id, wrong]).toEqual([seed, name, pkg.id, []]);
  }
  process.stderr.write(
    `${seen.placed + seen.not} plans: ${seen.placed} placed, of ${seen.not} it was said that they cannot be\n`,
  );
  expect(seen.placed).toBeGreaterThan((seen.placed + seen.not) / 5);
}, 3_600_000);

const RAISED = [
  'interrupt-port-shared',
  'needless-pull',
  'before-init',
  'threshold-missed',
  'pad-reserved',
  'rate-off',
].filter((id) => RULES.some(({ meta }) => meta.id === id));

test('what is wrong with a net wherever it lies is no reason not to place it', () => {
  const device = family('corvane-c40');
  const pkg = device.description.packages[0] as Package;
  const plan: Plan = {
    ...emptyPlan('P', device.description.id, pkg.id, device.fingerprint),
    circuits: [{ id: 'c', name: 'C' }],
    nets: [
      {
        id: 'n',
        name: 'FAN',
        circuit: 'c',
        role: { kind: 'output' },
        placement: null,
        settings: {},
        demands: { farPull: 'driven' },
      },
      { id: 'm', name: 'FAN', circuit: 'c', role: { kind: 'output' }, placement: null, settings: {} },
    ],
  };
  const placing = placePlan(device, pkg, plan);
  expect([placing.status, placing.moves.length]).toEqual(['optimal', 2]);
  const after = expectOk(applyEdit(plan, placingEdit(placing.moves, 'x')));
  expect(errorsOf(device, after).map(({ key }) => key.split(' ')[0])).toContain('both-drive');
});

describe('a rule that the search knows nothing of', () => {
  const device = family('pellin-p8');
  const pkg = device.description.packages.at(-1) as Package;
  const ports = new Set(
    device.description.pads
      .filter((pad) => pad.kind === 'io' && device.pinsOf.get(pkg.id)?.has(pad.id))
      .map((pad) => pad.port),
  ).size;
  const asking = (count: number): Plan => ({
    ...emptyPlan('P', device.description.id, pkg.id, device.fingerprint),
    circuits: [{ id: 'c', name: 'C' }],
    nets: Array.from(
      { length: count },
      (_, at): Net => ({
        id: `n${at}`,
        name: `I${at}`,
        circuit: 'c',
        role: { kind: 'interrupt' },
        placement: null,
        settings: {},
      }),
    ),
    tables: { severity: { 'interrupt-port-shared': 'error' } },
  });

  test('is kept as long as it can be', () => {
    const placing = placePlan(device, pkg, asking(ports));
    const used = Object.values(placing.placements).map((pad) => device.pads.get(pad)?.port);
    expect([new Set(used).size, used.length]).toEqual([ports, ports]);
  });

  test('and where it cannot, that is said with the rule’s words', () => {
    const placing = placePlan(device, pkg, asking(ports + 1));
    expect(placing.status).toBe('infeasible');
    expect(placing.conflict?.message).toMatch(/a rule is broken.*share the interrupt of port/);
  });
});
