import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family, familyPlan } from '@/testing/families';
import { deriveOn, on, planOf } from '@/testing/frost-guard';
import { randomBoard } from '@/testing/instances';
import { fuzzBudget } from '@/testing/random';
import type { Derived } from '../derive/derive';
import { maskOf, type Register } from '../device/registers/types';
import { placingEdit } from '../place/model/moves';
import { placePlan } from '../place/place';
import { applyEdit } from '../plan/edits/edits';
import { emptyPlan, type Plan } from '../plan/model/types';
import { readBack } from './read-back';
import { joined } from './take-over';

let count = 0;
const newId = (): string => `n${++count}`;

const imageOf = (derived: Derived): Map<Register, number> =>
  new Map(derived.lowered.image.map((one) => [one.register, one.planned]));

/** What a plan's registers hold, as the plan that somebody else would read of them. */
function roundTrip(derived: Derived): void {
  const { device, plan } = derived;
  const image = imageOf(derived);
  const empty = emptyPlan('Read', plan.device, plan.package, plan.deviceFingerprint);
  const readings = readBack(deriveOn(empty, device), (register) => image.get(register), newId);
  expect(readings.filter((one) => one.state === 'meaningless').map((one) => one.pad)).toEqual([]);
  const edits = readings.flatMap((one) => one.meanings.slice(0, 1).map((meaning) => meaning.edit));
  const taken = expectOk(joined(empty, 'read back', edits));
  const again = deriveOn(taken.plan, device);
  const found = imageOf(again);
  // A net that leaves its pad as after reset is not to be seen, and nor is the clock that was opened for it.
  for (const { register, planned, owners } of derived.lowered.image) {
    const mask = owners.reduce((all, { low, bits }) => (all | maskOf(low, bits)) >>> 0, 0);
    const value = found.get(register) ?? register.reset;
    expect([register.name, (value & mask) >>> 0]).toEqual([register.name, (planned & mask) >>> 0]);
  }
}

const by = (plan: Plan, registers: Record<string, number>): ReturnType<typeof readBack> =>
  readBack(deriveOn(plan), (register) => registers[register.name], newId);

describe('a register of the demo with another value', () => {
  const plan = planOf([
    {
      name: 'FAN_1',
      role: { kind: 'output' },
      placement: on('B7'),
      settings: { active: 'low', drive: '4mA' },
    },
    { name: 'DOOR', role: { kind: 'input' }, placement: on('B9') },
  ]);
  const image = Object.fromEntries([...imageOf(deriveOn(plan))].map(([{ name }, value]) => [name, value]));

  test('a latch bit turned means another start', () => {
    const [reading] = by(plan, { ...image, 'PB.OUT': 0 }).filter(
      (one) => one.state !== 'reset' && one.state !== 'same',
    );
    expect(reading).toMatchObject({ pad: 'B7', state: 'differs', missing: [] });
    expect(reading?.meanings[0]).toMatchObject({ exact: true });
    const after = expectOk(applyEdit(plan, reading?.meanings[0]?.edit as never));
    expect(after.nets[0]?.settings).toEqual({ active: 'low', drive: '4mA', start: 'asserted' });
  });

  test('registers that nobody has read are taken as planned, and named', () => {
    const fan = by(plan, { 'PB.USE': image['PB.USE'] ?? 0 }).find((one) => one.pad === 'B7');
    expect(fan?.state).toBe('same');
    expect(fan?.missing.map((one) => one.name)).toEqual(expect.arrayContaining(['PB.FORCE', 'PB.OUT']));
  });

  test('a pad as after reset is taken from its net', () => {
    const fan = by(plan, { ...image, 'PB.USE': 0xffffffff, 'PB.OUT': 0, 'PB.FORCE': 0 }).find(
      (one) => one.pad === 'B7',
    );
    expect(fan?.meanings[0]?.text).toMatch(/after reset/);
    expect(expectOk(applyEdit(plan, fan?.meanings[0]?.edit as never)).nets[0]?.placement).toBeNull();
  });
});

describe.each(FAMILIES)('%s', (folder) => {
  const device = family(folder);

  test('what the registers of the example hold reads back as a plan with the same registers', () => {
    roundTrip(deriveOn(familyPlan(device), device));
  });

  test('random boards read back, too', () => {
    const pkg = [...device.packages.values()][0];
    if (!pkg) throw new Error('a part has packages');
    for (let seed = 1; seed <= fuzzBudget(4); seed++) {
      const board = randomBoard(device, pkg, 12, seed);
      const { moves } = placePlan(device, pkg, board);
      roundTrip(deriveOn(expectOk(applyEdit(board, placingEdit(moves, 'placed'))), device));
    }
  });

  test('read back into its own plan, every pad is the same', () => {
    const derived = deriveOn(familyPlan(device), device);
    const image = imageOf(derived);
    const readings = readBack(derived, (register) => image.get(register), newId);
    expect(readings.filter((one) => one.state !== 'same' && one.state !== 'reset')).toEqual([]);
  });
});
