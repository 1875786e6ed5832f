import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { corvane, on, planOf, withNets } from '@/testing/frost-guard';
import type { Device } from '../../device/device';
import { placeReport } from '../../output/reports/reports';
import { applyEdit } from '../../plan/edits/edits';
import type { Constraint, Net, Plan } from '../../plan/model/types';
import type { Conflict } from '../model/answer';
import { placePlan } from '../place';
import { answerPlaceTask } from '../place-task';

const input = { kind: 'input' } as const;
const output = { kind: 'output' } as const;
const signal = (id: string) => ({ kind: 'signal', signal: id }) as const;
const any = (peripheral: string, line: string) => ({ kind: 'open-signal', peripheral, line }) as const;

const place = (plan: Plan, device: Device = corvane()) => {
  const pkg = device.packages.get(plan.package);
  if (!pkg) throw new Error(plan.package);
  return placePlan(device, pkg, plan);
};

function conflictOf(plan: Plan, device?: Device): Conflict {
  const { status, conflict } = place(plan, device);
  expect(status).toBe('infeasible');
  if (!conflict) throw new Error('no conflict');
  return conflict;
}

const words = (conflict: Conflict): string[] =>
  conflict.requirements.map((one) => one.words.replaceAll('`', ''));
const ways = (conflict: Conflict): string[] =>
  conflict.suggestions.map((one) => one.label.replaceAll('`', ''));

/** Each way out was said to work: it must. */
function everyWayWorks(plan: Plan, conflict: Conflict, device?: Device): void {
  for (const { label, edit } of conflict.suggestions) {
    const next = expectOk(applyEdit(plan, edit));
    expect([label, place(next, device).status]).toEqual([label, 'optimal']);
  }
}

describe('one net', () => {
  test('whose role no pad has', () => {
    const conflict = conflictOf(planOf([{ name: 'X', role: signal('UART9.TX') }]));
    expect(conflict.message).toBe('No pad of quad 100, 0.5 mm offers UART9.TX for `X`.');
    expect(ways(conflict)).toContain('leave out X');
  });
  test('that asks for too much at once: what exactly', () => {
    const plan = planOf([{ name: 'X', role: { kind: 'analog' }, demands: { farVolts: 5, side: 'left' } }]);
    const conflict = conflictOf(plan);
    // 5 V pads have no analog switch: the side does not matter.
    expect(words(conflict)).toEqual(['X needs a pad for analog input', 'X sees 5 V']);
    expect(ways(conflict)).toEqual(['give up that X sees 5 V', 'leave out X']);
    everyWayWorks(plan, conflict);
  });
  test('locked where its demand cannot be met', () => {
    const plan = planOf([
      { name: 'X', role: output, placement: { pad: 'A5', locked: true }, demands: { milliamps: 12 } },
    ]);
    const conflict = conflictOf(plan);
    expect(words(conflict)).toEqual(['X needs a pad for output', 'X is locked on pad A5', 'X wants 12 mA']);
    expect(ways(conflict)).toEqual(
      expect.arrayContaining(['unlock X from A5', 'give up that X wants 12 mA', 'leave out X']),
    );
    everyWayWorks(plan, conflict);
  });
  test('that wants a setting which its pads do not have', () => {
    const plan = planOf([{ name: 'X', role: output, settings: { drive: '12mA' }, demands: { farVolts: 5 } }]);
    const conflict = conflictOf(plan);
    expect(words(conflict)).toEqual(['X needs a pad for output', 'X wants drive 12mA', 'X sees 5 V']);
    expect(ways(conflict)).toContain('drop drive 12mA of X');
    everyWayWorks(plan, conflict);
  });
});

describe('several nets', () => {
  test('one pad, two locked nets', () => {
    const plan = planOf([
      { name: 'A', role: output, placement: { pad: 'B7', locked: true } },
      { name: 'B', role: input, placement: { pad: 'B7', locked: true } },
    ]);
    const conflict = conflictOf(plan);
    expect(words(conflict)).toHaveLength(4);
    expect(conflict.message).toBe('2 nets want the same 1 pad (`B7`).');
    expect(ways(conflict)).toEqual(expect.arrayContaining(['unlock A from B7', 'unlock B from B7']));
    everyWayWorks(plan, conflict);
  });
  test('one signal, two nets; the instance could be left open', () => {
    const plan = planOf([
      { name: 'A', role: signal('PACE3.Q1') },
      { name: 'B', role: signal('PACE3.Q1') },
    ]);
    const conflict = conflictOf(plan);
    expect(conflict.message).toBe('`PACE3.Q1` is one signal, and 2 nets want it.');
    expect(ways(conflict)).toContain('let B be any PACE · Q1');
    everyWayWorks(plan, conflict);
  });
  test('more circuits than instances', () => {
    const count = corvane().description.peripherals.filter((one) => one.kind === 'I2C').length;
    const circuits = Array.from({ length: count + 1 }, (_, at) => ({ id: `c${at}`, name: `Bus ${at}` }));
    const nets = circuits.flatMap(({ id }, at): Pick<Net, 'name' | 'role' | 'circuit'>[] => [
      { name: `SDA_${'abcdefgh'[at]}`, role: any('I2C', 'SDA'), circuit: id },
      { name: `SCL_${'abcdefgh'[at]}`, role: any('I2C', 'SCL'), circuit: id },
    ]);
    const plan = planOf(nets, { circuits });
    const conflict = conflictOf(plan);
    expect(conflict.message).toMatch(/circuits want I2C lines, and an instance serves one circuit/);
    expect(conflict.requirements.every((one) => one.kind === 'net')).toBe(true);
    expect(conflict.requirements.length).toBeGreaterThanOrEqual(count + 1);
  });
  test('nets beside it are not named', () => {
    const plan = planOf([
      { name: 'LAMP', role: output },
      { name: 'KEY', role: input },
      { name: 'A', role: signal('UART1.TX'), demands: { notPads: ['C4', 'D0', 'D4'] } },
    ]);
    const conflict = conflictOf(plan);
    expect(words(conflict)).toEqual(['A needs a pad for UART1.TX', 'A must not be on C4, D0, D4']);
    everyWayWorks(plan, conflict);
  });
  test('a bus longer than what is left of any port', () => {
    const names = Array.from({ length: 17 }, (_, at) => `D${'abcdefghijklmnopq'[at]}`);
    const bare = planOf(names.map((name) => ({ name, role: output })));
    const constraints: Constraint[] = [{ id: 't', kind: 'bus', nets: bare.nets.map((net) => net.id) }];
    const plan = { ...bare, constraints };
    const conflict = conflictOf(plan);
    expect(conflict.requirements.some((one) => one.kind === 'constraint')).toBe(true);
    expect(words(conflict).join()).toMatch(/\(17 nets\) shall be on consecutive bits of one port/);
    const constraint = conflict.suggestions.find((one) => one.edit.kind === 'constraint.remove');
    expect(constraint).toBeDefined();
    everyWayWorks(plan, { ...conflict, suggestions: constraint ? [constraint] : [] });
  });
  test('too many interrupts for the lines there are', () => {
    const device = family('ostrel-n5');
    const names = Array.from({ length: 9 }, (_, at) => `I${'abcdefghi'[at]}`);
    const plan = planOf(
      names.map((name) => ({ name, role: { kind: 'interrupt' as const } })),
      { device: device.description.id, package: 'q48' },
    );
    const conflict = conflictOf(plan, device);
    expect(conflict.requirements).toHaveLength(9);
    everyWayWorks(plan, conflict, device);
  });
  test('a crystal takes its second pad along', () => {
    const device = family('pellin-p8');
    const plan = planOf(
      [
        { name: 'XTAL', role: signal('OSC.XI') },
        { name: 'LAMP', role: output, placement: { pad: 'M4', locked: true } },
      ],
      { device: device.description.id, package: 'd28' },
    );
    const conflict = conflictOf(plan, device);
    expect(words(conflict)).toContain('LAMP is locked on pad M4');
    expect(ways(conflict)).toContain('unlock LAMP from M4');
    everyWayWorks(plan, conflict, device);
  });
  test('another package has the pads', () => {
    const plan = planOf([{ name: 'X', role: output, placement: { pad: 'G3', locked: true } }]);
    const conflict = conflictOf(plan);
    const larger = { ...plan, nets: plan.nets };
    expect(ways(conflict)).toEqual(expect.arrayContaining(['unlock X from G3']));
    everyWayWorks(larger, conflict);
    const only = planOf([{ name: 'X', role: signal('UART9.TX') }]);
    expect(ways(conflictOf(only))).toEqual(['leave out X']);
  });
  test('when one thing given up is not enough, several are named', () => {
    const plan = planOf([
      { name: 'A', role: signal('UART1.TX') },
      { name: 'B', role: signal('UART1.TX') },
      { name: 'C', role: signal('UART1.RX') },
      { name: 'D', role: signal('UART1.RX') },
    ]);
    const conflict = conflictOf(plan);
    expect(conflict.requirements).toHaveLength(2);
    expect(conflict.suggestions.length).toBeGreaterThan(0);
    everyWayWorks(plan, conflict);
  });
});

test('the report names nets, and tells those of one name apart', () => {
  const plan = planOf([
    { name: 'A', role: output },
    { name: 'A', role: output },
    { name: 'B', role: output },
  ]);
  const report = placeReport(plan, place(plan));
  expect(Object.keys(report.placements).sort()).toEqual(['A (n0)', 'A (n1)', 'B']);
  expect(report).toMatchObject({
    status: 'optimal',
    message: null,
    conflict: [],
    smallest: null,
    suggestions: [],
  });
  const stuck = planOf([
    { name: 'A', role: signal('PACE3.Q1') },
    { name: 'B', role: signal('PACE3.Q1') },
  ]);
  expect(placeReport(stuck, place(stuck))).toMatchObject({
    status: 'infeasible',
    objective: null,
    placements: {},
    smallest: true,
    conflict: [{ kind: 'net', message: 'A needs a pad for PACE3.Q1', nets: ['A'] }, { nets: ['B'] }],
  });
});

describe('the worker’s answer', () => {
  const plan = planOf([{ name: 'A', role: output }]);
  const task = { kind: 'place' as const, description: corvane().original, plan, options: {} };
  test('survives the way to the page', () => {
    const answer = answerPlaceTask(task, () => undefined);
    expect(structuredClone(answer)).toEqual(answer);
    expect(answer).toMatchObject({
      kind: 'done',
      placing: { status: 'optimal', moves: [{ net: { name: 'A' } }] },
    });
  });
  test('a package that is not there is told', () => {
    expect(answerPlaceTask({ ...task, plan: { ...plan, package: 'x9' } }, () => undefined)).toEqual({
      kind: 'failed',
      message: 'the part has no package x9',
    });
  });
  test('a search that is told to stop says what it has', () => {
    const pkg = corvane().packages.get('q100');
    if (!pkg) throw new Error('q100');
    const many = planOf(
      Array.from({ length: 40 }, (_, at) => ({
        name: `N${String.fromCharCode(65 + at)}`,
        role: at % 2 ? output : input,
      })),
    );
    const { status } = placePlan(corvane(), pkg, many, { progress: () => false });
    expect(['optimal', 'feasible']).toContain(status);
  });
});

test('weights of nought leave the demands in force', () => {
  const plan = withNets(planOf([{ name: 'A', role: output, demands: { side: 'top' } }]), {});
  const pkg = corvane().packages.get('q100');
  if (!pkg) throw new Error('q100');
  const none = { scarce: 0, complete: 0, near: 0, order: 0, special: 0, moves: 0 };
  const { placements, objective } = placePlan(corvane(), pkg, plan, { weights: none });
  expect(objective).toBe(0);
  expect(
    Number(
      corvane()
        .pinsOf.get('q100')
        ?.get(placements.n0 ?? '')?.[0],
    ),
  ).toBeGreaterThan(75);
  expect(on('B7')).toEqual({ pad: 'B7', locked: false });
});
