import { newId } from '@/core/base/text/new-id';
import { renameNet } from '@/core/plan/edits/make-edits';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf, withNets } from '@/testing/frost-guard';
import { closeServer } from './close';
import { appendEdit } from './edit-log';
import { planHistory } from './history';
import { readPlan, setDeleted, storePlan } from './plans';
import { familyOf, reportOf, setFamily, takeOver } from './variants';

/** Against the real PostgreSQL that the test launcher starts and names in DATABASE_URL. */
const demo = frostGuard();
const circuits = demo.circuits.map(({ name }) => name);
const stored = async (change: Parameters<typeof withNets>[1] = {}, name = demo.name): Promise<string> =>
  expectOk(await storePlan({ ...withNets(demo, change), name, code: { ...demo.code, prefix: 'guard' } }));

afterAll(closeServer);

test('plans become variants of each other, one family each, and leave it again', async () => {
  const [a, b, c] = [await stored(), await stored({}, 'South'), await stored({}, 'East')] as [
    string,
    string,
    string,
  ];
  expect(await familyOf(a)).toBeUndefined();
  expectOk(await setFamily(a, { plans: [b], circuits: ['Fans'] }));
  expect(await familyOf(b)).toEqual({ plans: [b, a], circuits: ['Fans'] });
  // c takes b along: a is alone, which is no family.
  expectOk(await setFamily(c, { plans: [b], circuits }));
  expect(await familyOf(a)).toBeUndefined();
  expect((await familyOf(c))?.plans).toEqual([c, b]);
  await setDeleted(b, true);
  expect(await familyOf(c)).toBeUndefined();
  expect(await setFamily(a, { plans: ['nowhere'], circuits })).toMatchObject({
    ok: false,
    problems: [{ place: 'plans' }],
  });
  expect(expectOk(await setFamily(c, { plans: [], circuits }))).toBeNull();
});

test('what differs is told, and taken over by an edit that can be undone like any other', async () => {
  const fan = netOf(demo, 'FAN_1');
  const a = await stored();
  const b = await stored({ FAN_1: { settings: { ...fan.settings, active: 'high' } } }, 'South');
  expect(await reportOf(a)).toBeUndefined();
  expectOk(await setFamily(a, { plans: [b], circuits }));
  const before = expectOk((await reportOf(a)) as never) as {
    report: { differences: object[] };
    all: string[];
  };
  expect(before.report.differences).toMatchObject([
    { net: 'FAN_1', field: 'settings.active', values: ['low', 'high'] },
  ]);
  expect(before.all).toEqual(circuits);
  const place = { from: a, circuit: 'Fans', net: 'FAN_1', author: 'mk' };
  expectOk((await takeOver(b, { ...place, field: 'settings.active' })) as never);
  expect((expectOk((await reportOf(b)) as never) as typeof before).report.differences).toEqual([]);
  expect((await planHistory(b))?.entries).toMatchObject([
    { author: 'mk', text: 'take FAN_1 over from Frost guard' },
  ]);
  // A change in one is offered to the others: seen from either.
  await appendEdit(a, { editId: newId(), client: 'test', madeAgainst: 0, edit: renameNet(fan, 'FAN_A') });
  const after = expectOk((await reportOf(b)) as never) as {
    report: { lacks: object[]; differences: object[] };
  };
  expect(after.report.lacks).toEqual([]);
  expect(after.report.differences).toMatchObject([
    { net: 'FAN_1', field: 'name', values: ['FAN_1', 'FAN_A'] },
  ]);
  expectOk((await takeOver(b, { ...place, net: 'FAN_A' })) as never);
  expect((await readPlan(b))?.plan.nets.map(({ name }) => name)).toContain('FAN_A');
  expect(await takeOver('nowhere', place)).toBeUndefined();
  // Nothing is taken from a plan that is no variant.
  expect(await takeOver(b, { ...place, from: await stored({}, 'Stranger') })).toBeUndefined();
});
