import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { placeNet, removeNet, renameNet } from '@/core/plan/edits/make-edits';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf } from '@/testing/frost-guard';
import {
  createPlanSession,
  type MetEdit,
  type PendingEdit,
  type SendResult,
  type ServerEdit,
  type SessionPorts,
} from './plan-session';

const demo = frostGuard();
const place = (pad: string): Edit => placeNet(netOf(demo, 'FAN_3'), { pad, locked: false });
const rename = (name: string, to: string): Edit => renameNet(netOf(demo, name), to);

/** A server in memory that can be switched off, and a clock that only moves when told. */
function world(start: { pending?: PendingEdit[]; met?: MetEdit[] } = {}) {
  let plan = demo;
  const log: ServerEdit[] = [];
  const later: (() => void)[] = [];
  const kept: PendingEdit[][] = [];
  const keptMet: MetEdit[][] = [];
  const state = { up: true, answerLost: false };
  let ids = 0;
  const commit = (editId: string, edit: Edit): SendResult => {
    if (!log.some((one) => one.editId === editId)) {
      const next = applyEdit(plan, edit);
      if (!next.ok) return { status: 'refused', edits: [], problems: next.problems };
      plan = next.value;
      log.push({ seq: log.length + 1, editId, edit });
    }
    return { status: 'saved', edits: [] };
  };
  const ports: SessionPorts = {
    async send({ editId, edit, madeAgainst }) {
      if (!state.up) return { status: 'unreachable' };
      const result = commit(editId, edit);
      if (state.answerLost) return { status: 'unreachable' };
      return 'edits' in result ? { ...result, edits: log.filter((one) => one.seq > madeAgainst) } : result;
    },
    keep: (pending, met) => {
      kept.push([...pending]);
      keptMet.push([...met]);
    },
    newEditId: () => `mine-${++ids}`,
    now: () => 1000,
    later: (_milliseconds, work) => later.push(work),
  };
  const session = createPlanSession({ plan: demo, seq: 0, ...start }, ports);
  const settle = () => new Promise((resolve) => setImmediate(resolve));
  return {
    session,
    state,
    log,
    kept,
    keptMet,
    settle,
    serverPlan: () => plan,
    elsewhere: (edit: Edit) => commit(`other-${log.length}`, edit),
    async runTimers() {
      for (const work of later.splice(0)) work();
      await settle();
    },
  };
}

const padOf = (session: ReturnType<typeof world>['session'], name: string) =>
  netOf(session.getState().plan, name).placement?.pad;

test('an edit shows at once, and is saved only when the server has it', async () => {
  const { session, settle, serverPlan, kept } = world();
  expect(session.getState().save).toEqual({ kind: 'saved', at: null });
  session.dispatch(place('E8'));
  expect(padOf(session, 'FAN_3')).toBe('E8');
  expect(session.getState().save.kind).toBe('saving');
  expect(kept.at(-1)).toHaveLength(1);
  await settle();
  expect(session.getState()).toMatchObject({ seq: 1, pending: [], save: { kind: 'saved', at: 1000 } });
  expect(kept.at(-1)).toEqual([]);
  expect(serverPlan()).toEqual(session.getState().plan);
});

test("that one's own edits are stored is no news to the views; an edit from elsewhere is", async () => {
  const { session, settle, serverPlan, elsewhere, log } = world();
  session.dispatch(place('E8'));
  session.dispatch(rename('FAN_3', 'FAN_C'));
  const { plan } = session.getState();
  await settle();
  expect(session.getState()).toMatchObject({ seq: 2, pending: [] });
  expect(session.getState().plan).toBe(plan);
  expect(serverPlan()).toEqual(plan);
  elsewhere(rename('FAN_4', 'FAN_D'));
  session.receive(log);
  expect(session.getState().plan).not.toBe(plan);
  expect(session.getState().plan).toEqual(serverPlan());
});

test('without a server it says so, keeps everything, and sends it in order when the server is back', async () => {
  const { session, state, settle, runTimers, log, kept } = world();
  state.up = false;
  session.dispatch(rename('FAN_1', 'FAN_A'));
  session.dispatch(rename('FAN_2', 'FAN_B'));
  await settle();
  expect(session.getState().save.kind).toBe('retrying');
  session.dispatch(place('E8'));
  await settle();
  expect(session.getState().save.kind).toBe('retrying');
  expect(kept.at(-1)).toHaveLength(3);
  state.up = true;
  const claims: boolean[] = [];
  session.subscribe(() => {
    const { save, pending } = session.getState();
    claims.push(save.kind === 'saved' && pending.length > 0);
  });
  await runTimers();
  // It never says "saved" while something is still on its way.
  expect(claims.length).toBeGreaterThan(2);
  expect(claims).not.toContain(true);
  expect(session.getState()).toMatchObject({ pending: [], seq: 3, save: { kind: 'saved' } });
  expect(log.map((one) => one.editId)).toEqual(['mine-1', 'mine-2', 'mine-3']);
});

test('an answer that gets lost does not store the edit twice', async () => {
  const { session, state, settle, runTimers, log } = world();
  state.answerLost = true;
  session.dispatch(place('E8'));
  await settle();
  expect(session.getState().save.kind).toBe('retrying');
  state.answerLost = false;
  await runTimers();
  expect(log).toHaveLength(1);
  expect(session.getState()).toMatchObject({ pending: [], save: { kind: 'saved' } });
});

test('what was left unsaved in a closed tab is sent by the next one', async () => {
  const left = [{ editId: 'left', edit: place('E8') }];
  const { session, settle, log } = world({ pending: left });
  expect(padOf(session, 'FAN_3')).toBe('E8');
  await settle();
  expect(log.map((one) => one.editId)).toEqual(['left']);
  expect(session.getState().pending).toEqual([]);
});

test('edits made elsewhere come in under the own ones', async () => {
  const { session, state, settle, elsewhere, log, runTimers, serverPlan } = world();
  state.up = false;
  session.dispatch(place('E8'));
  await settle();
  elsewhere(rename('FAN_1', 'FAN_A'));
  session.receive(log);
  expect(padOf(session, 'FAN_3')).toBe('E8');
  expect(session.getState().plan.nets.some((net) => net.name === 'FAN_A')).toBe(true);
  state.up = true;
  await runTimers();
  expect(serverPlan()).toEqual(session.getState().plan);
});

test('the own edit that lost a race falls out, with the reason, and cannot be undone', async () => {
  const { session, settle, elsewhere, serverPlan, log } = world();
  elsewhere(place('E9'));
  session.dispatch(place('E8'));
  await settle();
  session.receive(log);
  expect(session.getState().met).toMatchObject([
    { words: 'place FAN_3 on E8', why: 'FAN_3: placement was changed meanwhile (now on E9)' },
  ]);
  expect(session.getState()).toMatchObject({ pending: [], undo: [] });
  expect(session.getState().plan).toEqual(serverPlan());
});

test('the same news twice, or old news, changes nothing', async () => {
  const { session, elsewhere, log } = world();
  elsewhere(place('E9'));
  session.receive(log);
  const before = session.getState();
  session.receive(log);
  expect(session.getState()).toBe(before);
});

test('undo and redo walk back and forth, and a new edit ends redo', async () => {
  const { session, settle } = world();
  session.dispatch(place('E8'));
  session.dispatch(rename('FAN_1', 'FAN_A'));
  session.undo();
  session.undo();
  expect(session.getState().plan).toEqual(demo);
  session.redo();
  expect(padOf(session, 'FAN_3')).toBe('E8');
  session.dispatch(rename('FAN_2', 'FAN_B'));
  expect(session.getState().redo).toEqual([]);
  await settle();
  expect(session.getState().save.kind).toBe('saved');
  expect(session.getState().seq).toBe(6);
});

test('undo of something that somebody else changed waits for a decision, and is not lost', async () => {
  const { session, settle, elsewhere, log } = world();
  session.dispatch(place('E8'));
  await settle();
  const moved = expectOk(applyEdit(demo, place('E8')));
  elsewhere(placeNet(netOf(moved, 'FAN_3'), { pad: 'E10', locked: false }));
  session.receive(log);
  session.undo();
  expect(padOf(session, 'FAN_3')).toBe('E10');
  const [waiting] = session.getState().met;
  expect(waiting).toMatchObject({
    words: expect.stringMatching(/FAN_3/),
    why: expect.stringMatching(/now on E10/),
  });
  expect(session.getState()).toMatchObject({ undo: [], redo: [], notice: null });
  // Taken after all, it puts back what stood there before.
  expect(session.takeMine(waiting?.editId ?? '')).toBe(true);
  expect(padOf(session, 'FAN_3')).toBe(netOf(demo, 'FAN_3').placement?.pad);
  expect(session.getState().met).toEqual([]);
});

test('redo of something that somebody else changed waits for a decision too', async () => {
  const { session, settle, elsewhere, log, serverPlan } = world();
  session.dispatch(rename('FAN_1', 'FAN_A'));
  session.undo();
  await settle();
  elsewhere(renameNet(netOf(serverPlan(), 'FAN_1'), 'FAN_Z'));
  session.receive(log);
  session.redo();
  expect(session.getState().met).toMatchObject([{ words: 'rename FAN_1 to FAN_A' }]);
  expect(netOf(session.getState().plan, 'FAN_Z').name).toBe('FAN_Z');
});

test('while nothing can be sent, news still come: what they contradict waits, in the browser too, and is there after a reload', async () => {
  const { session, state, settle, elsewhere, log, keptMet } = world();
  state.up = false;
  session.dispatch(rename('FAN_2', 'FAN_B'));
  await settle();
  elsewhere(rename('FAN_2', 'FAN_Z'));
  session.receive(log);
  expect(session.getState()).toMatchObject({ pending: [], met: [{ words: 'rename FAN_2 to FAN_B' }] });
  expect(keptMet.at(-1)).toEqual(session.getState().met);
  const reloaded = world({ met: keptMet.at(-1) ?? [] });
  expect(reloaded.session.getState().met).toEqual(session.getState().met);
  expect(reloaded.keptMet.at(-1)).toEqual(session.getState().met);
  reloaded.session.leaveTheirs(session.getState().met[0]?.editId ?? '');
  expect(reloaded.keptMet.at(-1)).toEqual([]);
});

test('an edit whose answer was lost and that was stored is nothing to decide', async () => {
  const { session, state, settle, elsewhere, log } = world();
  state.answerLost = true;
  session.dispatch(rename('FAN_2', 'FAN_B'));
  await settle();
  const [mine] = log;
  elsewhere(renameNet(netOf(expectOk(applyEdit(demo, rename('FAN_2', 'FAN_B'))), 'FAN_B'), 'FAN_Z'));
  session.receive(log);
  expect([mine?.editId, session.getState().met]).toEqual(['mine-1', []]);
  expect(netOf(session.getState().plan, 'FAN_Z').name).toBe('FAN_Z');
});

test('a deleted plan stops sending and says where to get it back', async () => {
  const { session, settle } = world();
  const original = session.getState;
  expect(original().save.kind).toBe('saved');
  const gone = createPlanSession(
    { plan: demo, seq: 0 },
    {
      send: async () => ({ status: 'gone' }),
      keep: () => undefined,
      newEditId: () => 'x',
      now: () => 0,
      later: () => undefined,
    },
  );
  gone.dispatch(place('E8'));
  await settle();
  expect(gone.getState()).toMatchObject({
    save: { kind: 'gone' },
    notice: expect.stringContaining('deleted elsewhere'),
  });
});

describe('edits made while away that meet those of others', () => {
  /** Three edits here while the server is away, two of them on what others change meanwhile. */
  async function met() {
    const here = world();
    here.state.up = false;
    here.session.dispatch(place('E8'));
    here.session.dispatch(rename('FAN_1', 'FAN_A'));
    here.session.dispatch(rename('FAN_2', 'FAN_B'));
    await here.settle();
    here.elsewhere(place('E9'));
    here.elsewhere(rename('FAN_2', 'FAN_Z'));
    here.state.up = true;
    for (let n = 0; n < 4; n++) await here.runTimers();
    return here;
  }

  test('what nobody else touched is merged, and for the rest it is asked', async () => {
    const { session, serverPlan } = await met();
    expect(session.getState().pending).toEqual([]);
    expect(session.getState().plan).toEqual(serverPlan());
    expect(netOf(serverPlan(), 'FAN_A').name).toBe('FAN_A');
    expect(session.getState().met.map(({ words }) => words)).toEqual([
      'place FAN_3 on E8',
      'rename FAN_2 to FAN_B',
    ]);
  });

  test('mine is made over what stands there now, and can be undone to that; theirs stays', async () => {
    const { session, serverPlan, settle } = await met();
    const [first, second] = session.getState().met;
    expect(session.takeMine(first?.editId ?? '')).toBe(true);
    session.leaveTheirs(second?.editId ?? '');
    await settle();
    expect(session.getState().met).toEqual([]);
    expect(netOf(serverPlan(), 'FAN_3').placement?.pad).toBe('E8');
    expect(netOf(serverPlan(), 'FAN_Z').name).toBe('FAN_Z');
    session.undo();
    await settle();
    expect(netOf(serverPlan(), 'FAN_3').placement?.pad).toBe('E9');
  });

  test('what is gone meanwhile cannot be changed any more, and says so', async () => {
    const here = world();
    here.state.up = false;
    here.session.dispatch(rename('FAN_3', 'FAN_X'));
    await here.settle();
    here.elsewhere(removeNet(here.serverPlan(), netOf(here.serverPlan(), 'FAN_3')));
    here.state.up = true;
    for (let n = 0; n < 3; n++) await here.runTimers();
    const [one] = here.session.getState().met;
    expect(one?.why).toBe('that net is gone');
    expect(here.session.takeMine(one?.editId ?? '')).toBe(false);
    expect(here.session.getState()).toMatchObject({
      met: [],
      notice: expect.stringContaining('cannot be done any more'),
    });
  });
});
