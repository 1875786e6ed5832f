import { newId } from '@/core/base/text/new-id';
import { editBetween } from '@/core/plan/changes/edit-between';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { placeNet, renameNet, setSetting } from '@/core/plan/edits/make-edits';
import { printPlan } from '@/core/plan/file/print-plan';
import type { Plan } from '@/core/plan/model/types';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf, withNets } from '@/testing/frost-guard';
import { changedByChance } from '@/testing/plan-changes';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { closeServer } from './close';
import { compareStored } from './comparing';
import { query } from './db';
import { appendEdit } from './edit-log';
import { recordExport } from './exports';
import { branchPlan, keepRevision, listRevisions, planAt, planHistory, readRevision } from './history';
import { readPlan, setDeleted, storePlan } from './plans';

/** Against the real PostgreSQL that the test launcher starts and names in DATABASE_URL. */
const demo = frostGuard();
const send = async (id: string, edit: Edit, author = 'mk') => {
  const seq = (await readPlan(id))?.seq ?? 0;
  return appendEdit(id, { editId: newId(), client: `window-${author}`, author, madeAgainst: seq, edit });
};
/** A plan with edits enough for several snapshots, and what it was behind each. */
async function longPlan(count: number): Promise<{ id: string; states: Plan[] }> {
  const id = expectOk(await storePlan(demo));
  const states = [demo];
  for (let at = 0; at < count; at++) {
    const plan = states.at(-1) as Plan;
    const net = plan.nets[at % plan.nets.length] as Plan['nets'][number];
    const edit =
      at % 3 === 0
        ? renameNet(net, `${net.name.slice(0, 20)}_${at}`)
        : setSetting(net, 'pull', net.settings.pull === 'up' ? 'down' : 'up');
    await send(id, edit, at % 2 === 0 ? 'mk' : '');
    states.push(expectOk(applyEdit(plan, edit)));
  }
  return { id, states };
}

afterAll(closeServer);

describe('history', () => {
  test('every moment is there, before and behind each snapshot', async () => {
    const { id, states } = await longPlan(120);
    for (const seq of [0, 1, 49, 50, 51, 99, 100, 101, 120])
      expect(printPlan((await planAt(id, seq))?.plan as Plan)).toBe(printPlan(states[seq] as Plan));
    expect(await planAt(id, 121)).toBeUndefined();
    expect(await planAt('nowhere', 0)).toBeUndefined();
  });
  test('edits in words, as things were called then, with who made them; a page at a time', async () => {
    const { id, states } = await longPlan(230);
    const newest = await planHistory(id);
    expect(newest?.entries).toHaveLength(200);
    expect(newest?.more).toBe(true);
    expect(newest?.entries[0]).toMatchObject({ seq: 230, author: '', steps: 1, client: 'window-' });
    const older = await planHistory(id, newest?.entries.at(-1)?.seq);
    expect(older?.entries.map(({ seq }) => seq)).toEqual(Array.from({ length: 30 }, (_, at) => 30 - at));
    expect(older?.more).toBe(false);
    const first = states[0]?.nets[0]?.name ?? '';
    expect(older?.entries.at(-1)).toMatchObject({ text: `rename ${first} to ${first}_0`, author: 'mk' });
    // The 52nd edit is of the second net, which has been renamed by nobody before.
    expect(newest?.entries.find(({ seq }) => seq === 53)?.text).toContain(`of ${states[52]?.nets[2]?.name}`);
    expect(await planHistory('nowhere')).toBeUndefined();
  });
  test('what is brought back is as it was, by an edit that leaves the log whole', async () => {
    for (let seed = 1; seed <= fuzzBudget(6); seed++) {
      const then = changedByChance(demo, randomFrom(seed), 8, 'a');
      const id = expectOk(await storePlan(then));
      await send(id, editBetween(then, changedByChance(then, randomFrom(seed + 50), 10, 'b'), 'much'));
      const now = (await readPlan(id)) as { plan: Plan; seq: number };
      expect(await send(id, editBetween(now.plan, then, 'bring back edit 0'))).toMatchObject({
        status: 'saved',
      });
      expect(printPlan((await readPlan(id))?.plan as Plan)).toBe(printPlan(then));
      expect((await planHistory(id))?.entries.map(({ text }) => text)).toEqual(['bring back edit 0', 'much']);
      expect(printPlan((await planAt(id, 1))?.plan as Plan)).toBe(printPlan(now.plan));
    }
  });
  test('a branch begins as the plan was, and goes its own way', async () => {
    const { id, states } = await longPlan(5);
    const branch = expectOk((await branchPlan(id, 3)) as never) as string;
    const made = (await readPlan(branch))?.plan as Plan;
    expect(made.name).toMatch(/^Frost guard branch/);
    expect(printPlan({ ...made, name: demo.name })).toBe(printPlan(states[3] as Plan));
    await send(branch, renameNet(made.nets[0] as never, 'ONLY_HERE'));
    expect((await readPlan(id))?.plan.nets.some(({ name }) => name === 'ONLY_HERE')).toBe(false);
    expect(await branchPlan(id, 99)).toBeUndefined();
  });
});

describe('revisions', () => {
  const kept = async (id: string, seq = 0, note = 'first boards') =>
    keepRevision(id, { seq, note, author: 'mk' });
  test('are kept with findings and code, once under a name, and never change', async () => {
    const id = expectOk(await storePlan(withNets(demo, { SET_SCL: { placement: null } })));
    await recordExport(id, {
      seq: 0,
      target: 'rust',
      revision: 'C',
      fingerprint: '',
      options: {},
      files: [],
      image: {},
    });
    expect(expectOk((await kept(id)) as never)).toMatchObject({
      name: 'C',
      seq: 0,
      note: 'first boards',
      author: 'mk',
    });
    await send(
      id,
      placeNet({ ...netOf(demo, 'SET_SCL'), placement: null }, netOf(demo, 'SET_SCL').placement),
    );
    // The plan goes on; the revision stays what it was.
    const revision = await readRevision(id, 'C');
    expect(revision?.findings.some(({ rule }) => rule === 'unplaced')).toBe(true);
    expect(revision?.files.map(({ target }) => target).sort()).toEqual(['c', 'rust']);
    expect(revision?.files[0]?.files[0]?.text).toContain('frost_guard_init');
    expect(netOf(revision?.plan as Plan, 'SET_SCL').placement).toBeNull();
    expect((await kept(id, 1)) as never).toMatchObject({
      ok: false,
      problems: [{ message: expect.stringContaining('revision C is kept already') }],
    });
    for (const text of [
      'update revisions set note = $2 where plan_id = $1',
      'delete from revisions where plan_id = $1 and note <> $2',
    ])
      await expect(query(text, [id, 'other'])).rejects.toThrow('a revision never changes');
    expect(await listRevisions(id)).toMatchObject([
      { name: 'C', note: 'first boards', errors: expect.any(Number) },
    ]);
    // Where the plan itself goes for good, its revisions go along.
    await query('delete from plans where id = $1', [id]);
    expect(await listRevisions(id)).toEqual([]);
  });
  test('need a name and a moment', async () => {
    const id = expectOk(await storePlan({ ...demo, revision: '' }));
    expect(await kept(id)).toMatchObject({
      ok: false,
      problems: [{ message: expect.stringContaining('no revision') }],
    });
    expect(await kept(id, 7)).toBeUndefined();
  });
});

describe('comparing what is stored', () => {
  test('now, a moment, a revision, another package, another part', async () => {
    const id = expectOk(await storePlan(demo));
    expectOk((await keepRevision(id, { seq: 0, note: '', author: '' })) as never);
    await send(id, renameNet(netOf(demo, 'LAMP_RED'), 'LAMP_AMBER'));
    const between = async (from: string, to: string, more = {}) =>
      compareStored({ ref: from }, { ref: to, ...more }, 'c');
    for (const ref of [`${id}@0`, `${id}~C`])
      expect(expectOk(await between(ref, id))).toMatchObject({
        nets: { changed: [{ name: 'LAMP_AMBER', changes: [{ what: 'name', from: 'LAMP_RED' }] }] },
        application: { compiles: false },
      });
    expect(expectOk(await between(`${id}@1`, id)).same).toBe(true);
    const smaller = expectOk(await between(id, id, { package: 'q64' }));
    expect(smaller.to.package).toContain('64');
    expect(smaller.findings.fresh.length).toBeGreaterThan(0);
    const elsewhere = expectOk(await between(id, id, { part: 'pellin-p8-22', package: 'd28' }));
    expect(elsewhere.registers).toBeNull();
  });
  test('says which side is not there', async () => {
    const id = expectOk(await storePlan(demo));
    const said = async (from: string, to: string, more = {}) => {
      const result = await compareStored({ ref: from }, { ref: to, ...more }, 'c');
      return result.ok ? [] : result.problems;
    };
    expect(await said('nowhere', id)).toEqual([{ place: 'from', message: 'there is no plan "nowhere"' }]);
    expect(await said(id, `${id}~Z`)).toMatchObject([{ place: 'to' }]);
    expect(await said(id, `${id}@99`)).toMatchObject([{ place: 'to' }]);
    expect(await said(id, "x'; drop table plans; --")).toMatchObject([{ place: 'to' }]);
    expect(await said(id, id, { part: 'nothing' })).toMatchObject([
      { place: 'to', message: expect.stringContaining('there is no part') },
    ]);
    expect(await said(id, id, { package: 'nothing' })).toMatchObject([
      { place: expect.stringContaining('package') },
    ]);
    expectOk((await keepRevision(id, { seq: 0, note: '', author: '' })) as never);
    await setDeleted(id, true);
    expect(await said(`${id}~C`, `${id}~C`)).toMatchObject([{ place: 'from' }]);
  });
});
