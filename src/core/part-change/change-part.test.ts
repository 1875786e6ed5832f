import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { corvane, deriveOn, frostGuard, netOf, on, planOf } from '@/testing/frost-guard';
import { applyEdit, invertEdit } from '../plan/edits/edits';
import type { Plan, Role } from '../plan/model/types';
import { type CarryBy, type CarryPreview, previewChange } from './change-part';

const part = corvane();
const demo = frostGuard();
const change = (plan: Plan, pkg: string, by: CarryBy, to = part): CarryPreview => {
  const preview = previewChange(plan, part, to, pkg, by);
  if (!preview) throw new Error('no preview');
  return preview;
};
const rowOf = (preview: CarryPreview, name: string) => preview.rows.find((one) => one.net.name === name);

describe.each(['pad', 'signal', 'pin'] as const)('by %s', (by) => {
  test.each(['q64', 'q144', 'q100'])(
    'to %s: every net has a row, and one edit does and undoes it all',
    (pkg) => {
      const preview = change(demo, pkg, by);
      expect(preview.rows.map((one) => one.net.id)).toEqual(demo.nets.map((net) => net.id));
      const next = expectOk(applyEdit(demo, preview.edit));
      expect(next.package).toBe(pkg);
      for (const row of preview.rows) {
        const net = netOf(next, row.net.name);
        expect(net.placement?.pad).toBe(row.to?.pad);
        expect(net.placement?.locked ?? row.net.placement?.locked).toBe(row.net.placement?.locked);
        if (row.outcome === 'breaks') expect(row.why[0]).toMatch(/\w/);
        if (row.outcome === 'stays') expect(row.to?.pad).toBe(row.from?.pad);
      }
      expect(deriveOn(next).counts).toEqual(preview.after);
      expect(expectOk(applyEdit(next, invertEdit(preview.edit)))).toEqual(demo);
    },
  );
});

test('the same package changes nothing', () => {
  const preview = change(demo, 'q100', 'pad');
  expect(preview.rows.every((row) => row.outcome === 'stays')).toBe(true);
  expect(preview.after).toEqual(preview.before);
});

test('by pad name, pads that the small package lacks break, with the reason', () => {
  const preview = change(demo, 'q64', 'pad');
  const bonded = part.pinsOf.get('q64');
  for (const row of preview.rows)
    expect([row.net.name, row.outcome]).toEqual([
      row.net.name,
      bonded?.has(row.from?.pad ?? '') ? 'stays' : 'breaks',
    ]);
  const broken = preview.rows.filter((row) => row.outcome === 'breaks');
  expect(broken.length).toBeGreaterThan(3);
  expect(broken[0]?.why[0]).toMatch(/is not bonded in quad 64/);
});

test('by signal, a net finds another pad with its signal', () => {
  const plan = planOf([{ name: 'TX', role: { kind: 'signal', signal: 'UART1.TX' }, placement: on('D4') }]);
  const offers = part.functionsBySignal.get('UART1.TX')?.map((fn) => fn.pad) ?? [];
  const row = rowOf(change(plan, 'q64', 'signal'), 'TX');
  expect(row?.outcome === 'breaks' ? row.why[0] : offers.includes(row?.to?.pad ?? '')).toBe(true);
});

test('by signal, nets that can stay do, and plain ones find some pad while there is one', () => {
  const preview = change(demo, 'q64', 'signal');
  const stay = change(demo, 'q64', 'pad').rows.filter((row) => row.outcome === 'stays');
  for (const { net } of stay)
    expect([net.name, rowOf(preview, net.name)?.outcome]).toEqual([net.name, 'stays']);
  expect(rowOf(preview, 'FAN_2')).toMatchObject({ outcome: 'moves', why: [] });
  // The package has 48 I/O pads for 50 nets: what breaks does so because others sit where it could.
  const broken = preview.rows.filter((one) => one.outcome === 'breaks');
  expect(broken.length).toBeLessThanOrEqual(3);
  for (const row of broken) expect(row.why[0]).toMatch(/is taken by/);
});

describe('to another part', () => {
  const velm = family('velm-v3');
  const uart: Role[] = ['TX', 'RX'].map((line) => ({ kind: 'open-signal', peripheral: 'UART', line }));
  const plan = planOf([
    { name: 'TX', role: uart[0] as Role, placement: on('D6', 'UART3.TX') },
    { name: 'RX', role: uart[1] as Role, placement: on('D7', 'UART3.RX') },
    { name: 'LAMP', role: { kind: 'output' }, placement: on('B7') },
    { name: 'CAN', role: { kind: 'signal', signal: 'NOPE1.TX' }, placement: on('B8') },
    { name: 'LATER', role: { kind: 'input' } },
  ]);

  test('by signal: lines of one peripheral stay together, what the part lacks breaks', () => {
    const preview = change(plan, 'q100', 'signal', velm);
    const next = expectOk(applyEdit(plan, preview.edit));
    expect([next.device, next.package]).toEqual(['velm-v3-80', 'q100']);
    expect(next.deviceFingerprint).toBe(velm.fingerprint);
    const instances = ['TX', 'RX'].map((name) => netOf(next, name).placement?.signal?.split('.')[0]);
    expect(instances[0]).toBeDefined();
    expect(instances[0]).toBe(instances[1]);
    expect(rowOf(preview, 'CAN')).toMatchObject({
      outcome: 'breaks',
      why: [/NOPE1.TX/].map(expect.stringMatching),
    });
    expect(rowOf(preview, 'LATER')).toMatchObject({ outcome: 'unplaced', to: null });
    expect(expectOk(applyEdit(next, invertEdit(preview.edit)))).toEqual(plan);
  });

  test('by pin: the same number, whatever its pad is called', () => {
    const preview = change(plan, 'q100', 'pin', velm);
    const row = rowOf(preview, 'LAMP');
    const there = velm.packages.get('q100')?.pins[row?.from?.pins[0] ?? ''];
    if (row?.to) expect(row.to.pad).toBe(there);
    else expect(row?.why[0]).toContain(there);
  });

  test('two nets never end on one pad', () => {
    for (const by of ['pad', 'signal', 'pin'] as const) {
      const pads = change(demo, 'q64', by, velm).rows.flatMap((row) => row.to?.pad ?? []);
      expect(new Set(pads).size).toBe(pads.length);
    }
  });

  test('a package that the part does not have gives no preview', () => {
    expect(previewChange(demo, part, velm, 'q1000', 'pad')).toBeUndefined();
  });
});
