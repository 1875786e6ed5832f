import { profileOf } from '@/core/plan/profile';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, planOf, withNets } from '@/testing/frost-guard';
import { closeServer } from './close';
import { query } from './db';
import { workOnPart } from './parts';
import { planOnPart } from './plan-on-part';
import { readPlan, storePlan } from './plans';
import { createFromProfile, listProfiles, removeProfile, saveProfile } from './profiles';

/** Against the real PostgreSQL that the test launcher starts and names in DATABASE_URL. */
const demo = frostGuard();
const unique = (name: string): string => `${name} ${Date.now()} ${Math.round(performance.now() * 1000)}`;

afterAll(closeServer);

test('a profile holds what is locked, with its circuits and labels, and nothing else', () => {
  const profile = profileOf({ ...demo, waivers: [], schematic: { file: 'x', designator: 'U1', pins: [] } });
  expect(profile.nets.map((net) => net.name)).toEqual(['FAN_1', 'FAN_2', 'DBG_IO', 'DBG_CLK']);
  expect(profile.circuits.map((one) => one.id)).toEqual(['fans', 'debug']);
  expect(profile.tables?.label).toEqual(demo.tables?.label);
  // The valves' constraint is about nets that are not locked.
  expect(profile.constraints).toBeUndefined();
  expect(profile.waivers).toBeUndefined();
  expect(profile.schematic).toBeUndefined();
});

describe('board profiles', () => {
  test('are kept, listed, started from, and removed', async () => {
    const name = unique('Guard board');
    const id = expectOk(await saveProfile(name, profileOf(demo)));
    expect((await listProfiles()).find((one) => one.id === id)).toEqual({
      id,
      name,
      device: demo.device,
      package: demo.package,
      nets: 4,
    });
    const plan = (await readPlan(expectOk(await createFromProfile('Second board', id))))?.plan;
    expect(plan).toMatchObject({
      name: 'Second board',
      revision: 'A',
      device: demo.device,
      package: demo.package,
    });
    expect(plan?.nets.every((net) => net.placement?.locked)).toBe(true);
    expect(plan?.nets[0]?.far).toEqual(demo.nets[0]?.far);
    expect(await removeProfile(id)).toBe(true);
    expect(await removeProfile(id)).toBe(false);
    const gone = await createFromProfile('Third', id);
    expect(gone).toEqual({ ok: false, problems: [{ place: 'profile', message: 'that profile is gone' }] });
  });

  test('of one name for one part replace each other; plans that started from the old one stay', async () => {
    const name = unique('Twice');
    const first = expectOk(await saveProfile(name, profileOf(demo)));
    const planId = expectOk(await createFromProfile('On it', first));
    const more = withNets(demo, { FAN_3: { placement: { pad: 'E13', locked: true } } });
    expect(expectOk(await saveProfile(name, profileOf(more)))).toBe(first);
    expect((await listProfiles()).find((one) => one.id === first)?.nets).toBe(5);
    expect((await readPlan(planId))?.plan.nets).toHaveLength(4);
  });

  test('are refused without wiring, and for parts and packages that are not here', async () => {
    const count = async (): Promise<number> =>
      Number((await query<{ count: string }>('select count(*) from board_profiles'))[0]?.count);
    const before = await count();
    const nothing = await saveProfile(
      unique('x'),
      profileOf(planOf([{ name: 'A', role: { kind: 'input' } }])),
    );
    expect(nothing.ok ? '' : nothing.problems[0]?.message).toMatch(/no net is locked/);
    expect((await saveProfile(unique('x'), { ...demo, device: 'nobody' })).ok).toBe(false);
    expect((await saveProfile(unique('x'), { ...demo, package: 'q999' })).ok).toBe(false);
    expect(await count()).toBe(before);
  });

  test('names are text and nothing else', async () => {
    const name = unique("'); drop table board_profiles; --");
    const id = expectOk(await saveProfile(name, profileOf(demo)));
    expect((await listProfiles()).find((one) => one.id === id)?.name).toBe(name);
  });
});

test('a stored plan is worked on with the part it was made against; others are not there', async () => {
  const id = expectOk(await storePlan(demo));
  const found = await planOnPart(id);
  if (!found) throw new Error('is not there');
  expect(found.part).toMatchObject({ id: demo.device, fingerprint: demo.deviceFingerprint });
  expect(await workOnPart('counts', found.part, { plan: found.plan })).toEqual({ errors: 0, warnings: 0 });
  expect(await planOnPart('nobody')).toBeUndefined();
});
