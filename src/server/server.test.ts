import { newId } from '@/core/base/text/new-id';
import { applyEdit, invertEdit } from '@/core/plan/edits/edits';
import { placeNet, renameNet, setSetting } from '@/core/plan/edits/make-edits';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf } from '@/testing/frost-guard';
import { closeServer } from './close';
import { database, query } from './db';
import { appendEdit } from './edit-log';
import { editsAfter } from './edit-store';
import { exportHistory, lastExport, oneExport, recordExport } from './exports';
import { watchPlan } from './live';
import { createPlan, duplicatePlan, listPlans, readPlan, setDeleted, storePlan } from './plans';
import { seedDemo } from './seed';

/** Against the real PostgreSQL that the test launcher starts and names in DATABASE_URL. */
const demo = frostGuard();
const freshPlan = async (): Promise<string> => expectOk(await storePlan(demo));
const current = async (id: string) => {
  const found = await readPlan(id);
  if (!found) throw new Error(`plan ${id} is gone`);
  return found;
};
const send = (id: string, edit: Parameters<typeof applyEdit>[1], madeAgainst = 0, editId = newId()) =>
  appendEdit(id, { editId, client: 'test', madeAgainst, edit });

/** The log behind a number, as it is stored. */
const newEdits = (id: string, seq: number) => editsAfter(database, id, seq);

afterAll(closeServer);

describe('the edit log', () => {
  test('stores an edit, numbers it, and replays it', async () => {
    const id = await freshPlan();
    const edit = placeNet(netOf(demo, 'FAN_3'), { pad: 'E8', locked: false });
    expect(await send(id, edit)).toMatchObject({ status: 'saved', seq: 1 });
    const { plan, seq } = await current(id);
    expect(seq).toBe(1);
    expect(plan).toEqual(expectOk(applyEdit(demo, edit)));
  });

  test('stores an edit that is sent twice once', async () => {
    const id = await freshPlan();
    const edit = renameNet(netOf(demo, 'FAN_3'), 'FAN_C');
    await send(id, edit, 0, 'same');
    expect(await send(id, edit, 0, 'same')).toMatchObject({ status: 'saved', seq: 1 });
    expect((await current(id)).seq).toBe(1);
  });

  test('an edit that is sent again after many others, when it does not apply any more, is saved and not refused', async () => {
    const id = await freshPlan();
    const first = renameNet(netOf(demo, 'FAN_3'), 'FAN_C');
    await send(id, first, 0, 'first');
    let plan = expectOk(applyEdit(demo, first));
    // More than a server remembers, as if it were another one.
    for (let n = 0; n < 210; n++) {
      const edit = setSetting(netOf(plan, 'FAN_1'), 'pull', n % 2 ? null : 'up');
      plan = expectOk(applyEdit(plan, edit));
      expect((await send(id, edit, n)).status).toBe('saved');
    }
    expect(await send(id, first, 0, 'first')).toMatchObject({ status: 'saved', seq: 1 });
    expect((await current(id)).seq).toBe(211);
  });

  test('keeps the edits of two people to different pins, sent at the same time against the same state', async () => {
    const id = await freshPlan();
    const pulls = demo.nets.map((net) => setSetting(net, 'pull', net.settings.pull === 'up' ? 'down' : 'up'));
    const results = await Promise.all(pulls.map((edit) => send(id, edit)));
    expect(results.map((one) => one.status)).toEqual(demo.nets.map(() => 'saved'));
    const { plan, seq } = await current(id);
    expect(seq).toBe(demo.nets.length);
    expect(plan.nets.every((net) => net.settings.pull !== netOf(demo, net.name).settings.pull)).toBe(true);
    expect((await newEdits(id, 0)).map((one) => one.seq)).toEqual(demo.nets.map((_, index) => index + 1));
  });

  test('refuses the second of two edits of one thing, says why, and hands over the first', async () => {
    const id = await freshPlan();
    const net = netOf(demo, 'FAN_3');
    await send(id, placeNet(net, { pad: 'E8', locked: false }));
    const late = await send(id, placeNet(net, { pad: 'E9', locked: false }));
    expect(late).toMatchObject({
      status: 'refused',
      problems: [{ message: expect.stringContaining('now on E8') }],
      edits: [{ seq: 1 }],
    });
    expect((await current(id)).seq).toBe(1);
  });

  test('replays the same plan over many snapshots, and back again by inverses', async () => {
    const id = await freshPlan();
    let plan = demo;
    for (let n = 0; n < 60; n++) {
      const net = netOf(plan, 'FAN_3');
      const edit = placeNet(
        net,
        net.placement?.pad === 'E8' ? { pad: 'E9', locked: false } : { pad: 'E8', locked: false },
      );
      expect((await send(id, edit)).status).toBe('saved');
      plan = expectOk(applyEdit(plan, edit));
    }
    expect(await current(id)).toEqual({ plan, seq: 60 });
    const snapshots = await query<{ seq: number }>(
      'select seq from snapshots where plan_id = $1 order by seq',
      [id],
    );
    expect(snapshots.map((one) => one.seq)).toEqual([0, 50]);
    for (const logged of (await newEdits(id, 0)).reverse()) await send(id, invertEdit(logged.edit));
    expect((await current(id)).plan).toEqual(demo);
  });

  test('a batch of thousands of steps is stored at once, and a snapshot with it', async () => {
    const id = await freshPlan();
    const steps: Parameters<typeof applyEdit>[1][] = demo.nets.flatMap((net) => [
      setSetting(net, 'pull', 'up'),
      { kind: 'net.setting' as const, id: net.id, key: 'pull' as const, from: 'up', to: 'down' },
    ]);
    const batch = { kind: 'batch' as const, label: 'many', edits: steps };
    expect(steps.length).toBeGreaterThanOrEqual(100);
    expect((await send(id, batch)).status).toBe('saved');
    expect(await current(id)).toEqual({ plan: expectOk(applyEdit(demo, batch)), seq: 1 });
    const snapshots = await query<{ seq: number }>(
      'select seq from snapshots where plan_id = $1 order by seq',
      [id],
    );
    expect(snapshots.map((one) => one.seq)).toEqual([0, 1]);
    // It does not apply a second time: each pull is another one by now.
    expect(await send(id, batch)).toMatchObject({ status: 'refused' });
    expect((await current(id)).seq).toBe(1);
  });

  test('a transaction that fails leaves nothing behind', async () => {
    const id = await freshPlan();
    const nul = renameNet(netOf(demo, 'FAN_3'), 'a\u0000b');
    await expect(send(id, nul)).rejects.toMatchObject({ code: expect.stringMatching(/^22/) });
    expect(await current(id)).toEqual({ plan: demo, seq: 0 });
  });

  test('text that looks like SQL is only text', async () => {
    const name = "'; drop table plans; --";
    const id = expectOk(await storePlan({ ...demo, name }));
    await send(id, renameNet(netOf(demo, 'FAN_3'), name));
    expect((await current(id)).plan.nets.find((net) => net.id === 'fan-3')?.name).toBe(name);
    expect((await listPlans()).some((plan) => plan.name === name)).toBe(true);
  });

  test('an edit of a deleted plan is not stored', async () => {
    const id = await freshPlan();
    await setDeleted(id, true);
    expect(await send(id, renameNet(netOf(demo, 'FAN_3'), 'X'))).toEqual({ status: 'gone' });
  });
});

describe('plans', () => {
  test('are created empty, for a part and package that exist', async () => {
    const id = expectOk(await createPlan('New board', 'corvane-c40-80', 'q64'));
    expect((await current(id)).plan).toMatchObject({
      name: 'New board',
      package: 'q64',
      nets: [],
      circuits: [],
    });
    expect(await createPlan('x', 'velm-v3', 'q64')).toMatchObject({
      ok: false,
      problems: [{ place: 'device' }],
    });
    expect(await createPlan('x', 'corvane-c40-80', 'q65')).toMatchObject({
      ok: false,
      problems: [{ message: expect.stringContaining('q100, q144, q64') }],
    });
  });

  test('are duplicated with a history of their own, deleted, and brought back', async () => {
    const id = await freshPlan();
    await send(id, renameNet(netOf(demo, 'FAN_3'), 'FAN_C'));
    const copy = await duplicatePlan(id);
    const copyId = copy ? expectOk(copy) : '';
    expect((await current(copyId)).plan.nets).toEqual((await current(id)).plan.nets);
    expect((await current(copyId)).plan.name).toMatch(/^Frost guard copy/);
    expect((await current(copyId)).seq).toBe(0);
    expect(await setDeleted(id, true)).toBe(true);
    expect(await readPlan(id)).toBeUndefined();
    expect(await setDeleted(id, true)).toBe(false);
    expect(await setDeleted(id, false)).toBe(true);
    expect((await current(id)).seq).toBe(1);
  });

  test('are listed with what matters about them, kept up to date by every edit', async () => {
    const id = await freshPlan();
    await send(id, placeNet(netOf(demo, 'FAN_3'), { pad: 'F7', locked: false }));
    // Errors and warnings follow after the edit is stored.
    const lineOf = async () => (await listPlans()).find((plan) => plan.id === id);
    for (let wait = 0; wait < 200 && (await lineOf())?.errors === 0; wait++)
      await new Promise((resolve) => setTimeout(resolve, 50));
    expect(await lineOf()).toMatchObject({
      name: 'Frost guard',
      nets: 50,
      placed: 50,
      errors: 1,
      warnings: 0,
      deletedAt: null,
    });
  });

  test('the demo is seeded once, and not again after it was deleted', async () => {
    await setDeleted('frost-guard', true);
    await seedDemo();
    expect(await readPlan('frost-guard')).toBeUndefined();
    await setDeleted('frost-guard', false);
  });
});

const afterThis: (() => void)[] = [];

test('live updates: a watcher is woken by an edit of its plan and of no other', async () => {
  const id = await freshPlan();
  const other = await freshPlan();
  let woken = 0;
  let strangers = 0;
  const connected = new Promise<void>((resolve) => {
    const stop = watchPlan(id, () => {
      woken++;
      resolve();
    });
    afterThis.push(stop);
  });
  afterThis.push(watchPlan(other, () => strangers++));
  await connected;
  const before = woken;
  const strangersBefore = strangers;
  await send(id, renameNet(netOf(demo, 'FAN_3'), 'FAN_C'));
  for (let wait = 0; wait < 100 && woken === before; wait++)
    await new Promise((resolve) => setTimeout(resolve, 20));
  expect(woken).toBeGreaterThan(before);
  expect(strangers).toBe(strangersBefore);
  for (const stop of afterThis) stop();
});

test('exports are kept, the last one of each target at hand, and each as it was', async () => {
  const id = await freshPlan();
  expect(await lastExport(id, 'c')).toBeUndefined();
  const record = (target: string, text: string, image: Record<string, number> = {}) =>
    recordExport(id, {
      seq: 0,
      target,
      revision: 'B',
      options: { style: 'from-reset', hooks: true },
      fingerprint: 'f',
      files: [{ path: 'a.c', text }],
      image,
    });
  for (const text of ['one', 'two']) await record('c', text);
  expect(await lastExport(id, 'c')).toMatchObject({ files: [{ path: 'a.c', text: 'two' }] });
  expect(await lastExport(id, 'asm')).toBeUndefined();
  await record('rust', 'three', { 'PA.USE': 7 });
  const history = await exportHistory(id);
  expect(history.map((one) => one.target)).toEqual(['rust', 'c', 'c']);
  expect(history[0]).not.toHaveProperty('files');
  expect(history[0]?.options).toEqual({ style: 'from-reset', hooks: true });
  expect(await oneExport(id, history[2]?.id ?? 0)).toMatchObject({ files: [{ path: 'a.c', text: 'one' }] });
  expect(await oneExport('another', history[2]?.id ?? 0)).toBeUndefined();
});
