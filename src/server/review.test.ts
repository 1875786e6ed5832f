import { newId } from '@/core/base/text/new-id';
import { renameNet } from '@/core/plan/edits/make-edits';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf } from '@/testing/frost-guard';
import { closeServer } from './close';
import { query } from './db';
import { appendEdit } from './edit-log';
import { keepRevision } from './history';
import { type News, watchPlan } from './live';
import { setDeleted, storePlan } from './plans';
import { addComment, addVerdict, listComments, listVerdicts, resolveComment } from './review';
import { reviewedRevision, signedRevision } from './reviewed';

/** Against the real PostgreSQL that the test launcher starts and names in DATABASE_URL. */
const demo = frostGuard();
const keep = async (id: string, seq = 0) =>
  expectOk((await keepRevision(id, { seq, note: '', author: 'mk' })) as never);
const comment = async (id: string, text: string, answers: string | null = null) =>
  addComment(id, { subject: { kind: 'net', net: 'fan-1' }, text, author: 'mk', answers });

afterAll(closeServer);

describe('comments', () => {
  test('are added, answered, resolved and opened again; watchers are told', async () => {
    const id = expectOk(await storePlan(demo));
    const news: News[] = [];
    const stop = watchPlan(id, (what) => news.push(what));
    const first = expectOk((await comment(id, "why not a pull? '; drop table comments; --")) as never) as {
      id: string;
    };
    const answer = expectOk((await comment(id, 'the driver has one', first.id)) as never) as { id: string };
    expect(await listComments(id)).toMatchObject([
      {
        id: first.id,
        text: "why not a pull? '; drop table comments; --",
        subject: { kind: 'net', net: 'fan-1' },
        resolvedAt: null,
      },
      { id: answer.id, answers: first.id },
    ]);
    expect(await resolveComment(id, first.id, { resolved: true, author: 'jo' })).toMatchObject({
      resolvedBy: 'jo',
    });
    expect(await resolveComment(id, first.id, { resolved: false, author: 'jo' })).toMatchObject({
      resolvedBy: null,
      resolvedAt: null,
    });
    stop();
    expect(news.filter((one) => one === 'comments').length).toBeGreaterThanOrEqual(4);
  });
  test('an answer is one to a comment of the same plan; answers are not resolved', async () => {
    const [id, other] = [expectOk(await storePlan(demo)), expectOk(await storePlan(demo))] as [
      string,
      string,
    ];
    const first = expectOk((await comment(id, 'one')) as never) as { id: string };
    const answer = expectOk((await comment(id, 'two', first.id)) as never) as { id: string };
    for (const [plan, to] of [
      [other, first.id],
      [id, answer.id],
      [id, 'nothing'],
    ] as const)
      expect(await comment(plan, 'three', to)).toMatchObject({ ok: false, problems: [{ place: 'answers' }] });
    expect(await resolveComment(id, answer.id, { resolved: true, author: '' })).toBeUndefined();
    expect(await resolveComment(other, first.id, { resolved: true, author: '' })).toBeUndefined();
    await setDeleted(other, true);
    expect(await comment(other, 'four')).toBeUndefined();
  });
});

describe('sign-off', () => {
  const say = async (
    id: string,
    author: string,
    circuit = '',
    verdict: 'approved' | 'changes' = 'approved',
  ) => addVerdict(id, { revision: 'C', circuit, verdict, note: '', author });
  test('a revision is signed circuit by circuit; it is void for the plan when that has changed', async () => {
    const id = expectOk(await storePlan(demo));
    const { fingerprint } = (await keep(id)) as { fingerprint: string };
    expect(await signedRevision(id)).toBeUndefined();
    for (const circuit of demo.circuits.slice(1)) await say(id, 'mk', circuit.id);
    expect((await reviewedRevision(id))?.review.state).toBe('open');
    await say(id, 'jo', demo.circuits[0]?.id ?? '');
    expect(await signedRevision(id)).toMatchObject({ revision: 'C', by: ['jo', 'mk'], fingerprint });
    expect((await reviewedRevision(id))?.signature).toMatchObject({ holds: true });
    const edit = renameNet(netOf(demo, 'FAN_1'), 'FAN_A');
    await appendEdit(id, { editId: newId(), client: 'test', madeAgainst: 0, edit });
    const after = await reviewedRevision(id, 'C');
    expect(after?.signature).toMatchObject({ holds: false, text: expect.stringContaining('void') });
    // Undone, the plan is what was signed again.
    await appendEdit(id, {
      editId: newId(),
      client: 'test',
      madeAgainst: 1,
      edit: renameNet({ ...netOf(demo, 'FAN_1'), name: 'FAN_A' }, 'FAN_1'),
    });
    expect((await reviewedRevision(id))?.signature?.holds).toBe(true);
    // Whoever asks for changes takes the sign-off away.
    await say(id, 'jo', demo.circuits[0]?.id ?? '', 'changes');
    expect(await signedRevision(id)).toBeUndefined();
    expect((await reviewedRevision(id))?.review.state).toBe('changes');
  });
  test('is said by somebody, of a circuit that is there, of a revision that is kept; and is never taken back', async () => {
    const id = expectOk(await storePlan(demo));
    expect(await say(id, 'mk')).toBeUndefined();
    await keep(id);
    expect(await say(id, '  ')).toMatchObject({ ok: false, problems: [{ place: 'author' }] });
    expect(await say(id, 'mk', 'nothing')).toMatchObject({ ok: false, problems: [{ place: 'circuit' }] });
    await say(id, 'mk');
    expect(await listVerdicts(id)).toHaveLength(1);
    for (const text of [
      'update verdicts set author = $2 where plan_id = $1',
      'delete from verdicts where plan_id = $1 and author <> $2',
    ])
      await expect(query(text, [id, 'x'])).rejects.toThrow('never changes');
  });
});
