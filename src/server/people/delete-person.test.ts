import { expectOk } from '@/testing/expect-ok';
import { frostGuard } from '@/testing/frost-guard';
import { closeServer } from '../close';
import { query } from '../db';
import { appendEdit } from '../edit-log';
import { keepRevision } from '../history';
import { newId } from '../ids';
import { readPlan, storePlan } from '../plans';
import { addComment, addVerdict } from '../review';
import { storeShippedHere } from '../shipped';
import { note } from './audit';
import { deletePerson } from './delete-person';
import { addMember, asMember, newPerson, newWorkspace } from './testing';
import { asServer, runAs } from './who';

afterAll(closeServer);

test('who is deleted is renamed in everything that is kept, and the name is nowhere any more', async () => {
  const workspace = await newWorkspace();
  await asServer(() => storeShippedHere(), workspace);
  // A name that has to be escaped wherever it stands.
  const leaver = await newPerson('Leo "the pear" O\'Medlar \\ äö');
  const owner = await newPerson('Olga');
  await addMember(workspace, leaver.id, 'owner');
  await addMember(workspace, owner.id, 'owner');
  const as = asMember(leaver, workspace, 'owner');
  const waiver = {
    id: 'w',
    rule: 'unused-pad',
    nets: [],
    pads: ['A1'],
    reason: 'as agreed',
    author: leaver.name,
    date: '2026-11-27',
  };
  const id = await runAs(as, async () => {
    const plan = expectOk(await storePlan({ ...frostGuard(), waivers: [waiver] }));
    await appendEdit(plan, {
      editId: newId(),
      client: 't',
      madeAgainst: 0,
      edit: { kind: 'waiver.remove', waiver, at: 0 },
    });
    await appendEdit(plan, {
      editId: newId(),
      client: 't',
      madeAgainst: 1,
      edit: { kind: 'batch', label: 'two', edits: [{ kind: 'waiver.add', waiver, at: 0 }] },
    });
    await addComment(plan, { subject: { kind: 'plan' }, text: 'well', author: 'x', answers: null });
    expectOk((await keepRevision(plan, { seq: 2, note: '', author: '' })) ?? { ok: false, problems: [] });
    await addVerdict(plan, { revision: 'C', circuit: '', verdict: 'approved', note: '', author: '' });
    return plan;
  });
  const before = await runAs(as, () => readPlan(id));
  const pseudonym = expectOk(await deletePerson(leaver.id));
  const after = await asServer(() => readPlan(id), workspace);
  expect(after?.plan).toEqual({ ...before?.plan, waivers: [{ ...waiver, author: pseudonym }] });
  const tables = await query<{ name: string }>(
    "select tablename as name from pg_tables where schemaname = 'public'",
  );
  for (const { name } of tables)
    expect([
      name,
      await query(`select 1 from "${name}" t where row_to_json(t)::text like $1`, ['%the pear%Medlar%']),
    ]).toEqual([name, []]);
  // What is kept for good still changes in nothing else.
  await expect(query("update revisions set note = 'x' where plan_id = $1", [id])).rejects.toThrow(
    'a revision never changes',
  );
  await expect(query("update revisions set author = 'x' where plan_id = $1", [id])).rejects.toThrow(
    'a revision never changes',
  );
  note({ workspace, person: owner, via: 'session' }, { action: 'x', target: '', status: 200 });
  while ((await query('select 1 from audit where workspace_id = $1', [workspace])).length === 0) {
    // It is written when it is written.
  }
  for (const text of ["update audit set action = 'y'", "update audit set who = 'y'", 'delete from audit'])
    await expect(query(`${text} where workspace_id = $1`, [workspace])).rejects.toThrow(
      'the audit log never changes',
    );
});
