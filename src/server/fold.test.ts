import { newId } from '@/core/base/text/new-id';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { placeNet, setSetting } from '@/core/plan/edits/make-edits';
import type { Plan } from '@/core/plan/model/types';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf } from '@/testing/frost-guard';
import { randomFrom } from '@/testing/random';
import { closeServer } from './close';
import { database, query } from './db';
import { appendEdit } from './edit-log';
import { editsAfter, loadPlan } from './edit-store';
import { foldOld, makePartitions } from './fold';
import { planAt, planHistory } from './history';
import { readPlan, storePlan } from './plans';

/** The log behind a number, as it is stored. */
const newEdits = (id: string, seq: number) => editsAfter(database, id, seq);

afterAll(closeServer);

/** A plan with so many edits, sent many at a time; their ids are their numbers. */
async function planWith(count: number): Promise<{ id: string; states: Plan[] }> {
  const demo = frostGuard();
  const id = expectOk(await storePlan(demo));
  const states = [demo];
  const random = randomFrom(5);
  let plan = demo;
  const edits: Edit[] = [];
  for (let n = 0; n < count; n++) {
    const net = netOf(plan, random.pick(['FAN_1', 'FAN_2', 'FAN_3', 'LAMP_RED']));
    const edit =
      random.int(3) === 0
        ? placeNet(net, { pad: net.placement?.pad ?? 'E8', locked: !net.placement?.locked })
        : setSetting(net, 'pull', net.settings.pull === 'up' ? 'down' : 'up');
    plan = expectOk(applyEdit(plan, edit));
    edits.push(edit);
    states.push(plan);
  }
  for (let n = 0; n < count; n += 40)
    await Promise.all(
      edits
        .slice(n, n + 40)
        .map((edit, at) =>
          appendEdit(id, { editId: `e${n + at + 1}`, client: 'test', author: 'Ada', madeAgainst: n, edit }),
        ),
    );
  return { id, states };
}

const rowsOf = async (id: string, table: string): Promise<number> =>
  (await query<{ count: number }>(`select count(*)::int as count from ${table} where plan_id = $1`, [id]))[0]
    ?.count ?? 0;

async function wholeHistory(id: string) {
  const all: { seq: number; text: string; author: string; at: string }[] = [];
  for (let before: number | undefined; ; before = all.at(-1)?.seq) {
    const page = await planHistory(id, before);
    all.push(...(page?.entries ?? []).map(({ seq, text, author, at }) => ({ seq, text, author, at })));
    if (!page?.more) return all;
  }
}

test('old edits fold into few rows, and nothing that can be asked for changes', async () => {
  const { id, states } = await planWith(1230);
  const before = {
    history: await wholeHistory(id),
    edits: await newEdits(id, 0),
    snapshots: await rowsOf(id, 'snapshots'),
  };
  expect(before.history).toHaveLength(1230);
  // Nothing is old yet.
  expect(await foldOld(1)).toBe(0);
  expect(await rowsOf(id, 'folded_edits')).toBe(0);
  let folded = 0;
  for (let more = await foldOld(0); more > 0; more = await foldOld(0)) folded += more;
  expect(folded).toBeGreaterThanOrEqual(1000);
  expect([await rowsOf(id, 'edits'), await rowsOf(id, 'folded_edits')]).toEqual([230, 2]);
  expect(await rowsOf(id, 'snapshots')).toBeLessThan(before.snapshots - 10);

  expect(await wholeHistory(id)).toEqual(
    // To the thousandth of a second, as it was.
    before.history.map((one) => ({
      ...one,
      at: expect.stringMatching(one.at.slice(0, 19)) as unknown as string,
    })),
  );
  expect(await newEdits(id, 0)).toEqual(before.edits);
  expect(await newEdits(id, 990)).toEqual(before.edits.slice(990));
  const random = randomFrom(9);
  for (const seq of [
    0,
    1,
    499,
    500,
    501,
    999,
    1000,
    1001,
    1230,
    ...Array.from({ length: 20 }, () => random.int(1231)),
  ])
    expect([seq, (await planAt(id, seq))?.plan]).toEqual([seq, states[seq]]);
  expect((await readPlan(id))?.seq).toBe(1230);

  // One that is sent again after very long is stored once, whether it would apply or not.
  for (const number of [1, 2, 3, 499, 500, 777]) {
    const edit = before.edits[number - 1]?.edit as Edit;
    const again = await appendEdit(id, { editId: `e${number}`, client: 'test', madeAgainst: 0, edit });
    expect(again).toMatchObject({ status: 'saved', seq: number });
  }
  expect((await loadPlan(database, id))?.seq).toBe(1230);
  // And it goes on.
  const net = netOf(states.at(-1) as Plan, 'FAN_1');
  const next = setSetting(net, 'pull', net.settings.pull === 'up' ? 'down' : 'up');
  expect(
    await appendEdit(id, { editId: newId(), client: 'test', madeAgainst: 1230, edit: next }),
  ).toMatchObject({
    status: 'saved',
    seq: 1231,
  });
});

test('folding by two at once folds once', async () => {
  const { id } = await planWith(520);
  await Promise.all([foldOld(0), foldOld(0), foldOld(0)]);
  while ((await foldOld(0)) > 0) {
    // What another one held.
  }
  expect([await rowsOf(id, 'edits'), await rowsOf(id, 'folded_edits')]).toEqual([20, 1]);
  expect((await newEdits(id, 0)).map(({ seq }) => seq)).toEqual(
    Array.from({ length: 520 }, (_, at) => at + 1),
  );
});

test('there are partitions for the months to come; an edit whose time is far off is not lost', async () => {
  await makePartitions();
  const rows = await query<{ name: string }>(
    "select relname as name from pg_class where relname like 'edits_w0_2%' order by relname",
  );
  const month = (ahead: number): string => {
    const at = new Date();
    return `edits_w0_${new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + ahead, 1)).toISOString().slice(0, 7).replace('-', '_')}`;
  };
  expect(rows.map(({ name }) => name)).toEqual(expect.arrayContaining([0, 1, 2, 3].map(month)));
  const id = expectOk(await storePlan(frostGuard()));
  await query(
    `insert into edits (workspace_id, plan_id, seq, edit_id, client, made_against, edit, at) values ('main', $1, 1, 'x', 'x', 0, '{}', '2099-01-01')`,
    [id],
  );
  expect(await rowsOf(id, 'edits')).toBe(1);
  await query('delete from edits where plan_id = $1', [id]);
});
