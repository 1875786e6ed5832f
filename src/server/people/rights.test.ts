import { RIGHTS, type Right, ROLES, type Role, roleMay, SCOPES } from '@/core/people/rights';
import { renameNet } from '@/core/plan/edits/make-edits';
import { expectOk } from '@/testing/expect-ok';
import { frostGuard, netOf } from '@/testing/frost-guard';
import { closeServer } from '../close';
import { query, transaction } from '../db';
import { appendEdit } from '../edit-log';
import { newId } from '../ids';
import { listPlans, readPlan, storePlan } from '../plans';
import { storeShippedHere } from '../shipped';
import { addMember, asMember, newPerson, newToken, newWorkspace, type TestPerson } from './testing';
import { asServer, runAs, type Who } from './who';

/** The second line: whatever the server's own check may let through, the database holds statements to people's rights. */

let here: string;
let there: string;
let plan: string;
/** One whose log takes rows that are no edits. */
let scratch: string;
const people = {} as Record<Role | 'outsider', TestPerson>;

beforeAll(async () => {
  here = await newWorkspace('Here');
  there = await newWorkspace('There');
  await asServer(() => storeShippedHere(), here);
  for (const role of ROLES) {
    people[role] = await newPerson(role);
    await addMember(here, people[role].id, role);
  }
  people.outsider = await newPerson('outsider');
  await addMember(there, people.outsider.id, 'owner');
  [plan, scratch] = await asServer(
    async () => [expectOk(await storePlan(frostGuard())), expectOk(await storePlan(frostGuard()))] as const,
    here,
  );
  // Something of each table, for those who look.
  await asServer(async () => {
    for (const what of ['a comment', 'a profile']) {
      const { text, values } = WRITES[what] as (typeof WRITES)[string];
      await query(text, [...values()]);
    }
    await query(
      `insert into revisions (plan_id, name, seq, note, author, plan, fingerprint, part_fingerprint, findings, files)
       values ($1, 'Z', 0, '', '', '{}', '', '', '[]', '[]')`,
      [plan],
    );
  });
});
afterAll(closeServer);

const as = (role: Role | 'outsider', workspace = here): Who => asMember(people[role], workspace);

/** What the database says: `rows` touched, or `refused`. */
async function attempt(who: Who, text: string, values: unknown[] = []): Promise<number | 'refused'> {
  try {
    return await runAs(who, () =>
      transaction(async (client) => {
        const { rowCount } = await client.query(text, values);
        return rowCount ?? 0;
      }),
    );
  } catch (error) {
    const { code } = error as { code?: string };
    // Not granted, or against a policy.
    if (code === '42501') return 'refused';
    throw error;
  }
}

test('the database and the server have one table of who may what', async () => {
  for (const role of ROLES)
    for (const right of [...RIGHTS, 'other' as Right])
      expect([
        role,
        right,
        (await query('select mavrek_role_may($1, $2) as may', [role, right]))[0]?.may,
      ]).toEqual([role, right, right !== ('other' as Right) && roleMay(role, right)]);
  for (const scope of SCOPES)
    for (const right of RIGHTS)
      expect([
        scope,
        right,
        (await query('select mavrek_scope_may($1, $2) as may', [scope, right]))[0]?.may,
      ]).toEqual([scope, right, roleMay('owner', right, scope)]);
});

/** Statements as a careless handler might make them, each with the right that it takes. */
const WRITES: Record<string, { needs: Right; text: string; values: () => unknown[] }> = {
  'a plan': {
    needs: 'edit',
    text: "insert into plans (id, workspace_id, name, revision, device, package) values ($1, $2, 'x', '', 'x', 'x')",
    values: () => [newId(), here],
  },
  "a plan's head": {
    needs: 'edit',
    text: 'update plans set nets = nets where id = $1',
    values: () => [scratch],
  },
  'an edit': {
    needs: 'edit',
    text: "insert into edits (plan_id, seq, edit_id, workspace_id, client, made_against, edit) values ($1, $2, $3, $4, 'x', 0, '{}')",
    values: () => [scratch, 1_000_000 + Math.floor(Math.random() * 1e9), newId(), here],
  },
  'a snapshot': {
    needs: 'edit',
    text: "insert into snapshots (plan_id, seq, plan) values ($1, $2, '{}')",
    values: () => [scratch, -1 - Math.floor(Math.random() * 1e9)],
  },
  'a comment': {
    needs: 'comment',
    text: "insert into comments (id, plan_id, subject, text, author) values ($1, $2, '{}', 'x', 'x')",
    values: () => [newId(), scratch],
  },
  'a profile': {
    needs: 'edit',
    text: "insert into board_profiles (id, workspace_id, name, device, package, nets, content) values ($1, $2, $1, 'x', 'x', 0, '{}')",
    values: () => [newId(), here],
  },
  'a document': {
    needs: 'edit',
    text: "insert into documents (sha256, name, content, workspace_id) values (encode(sha256($1::bytea), 'hex'), 'x', '', $2)",
    values: () => [newId(), here],
  },
  'a mapping': {
    needs: 'edit',
    text: "insert into table_mappings (signature, mapping, workspace_id) values ($1, '{}', $2)",
    values: () => [newId(), here],
  },
};

test.each(Object.keys(WRITES))('%s is written by who may, and by nobody else', async (what) => {
  const { needs, text, values } = WRITES[what] as (typeof WRITES)[string];
  for (const role of ROLES) {
    const done = await attempt(as(role), text, values());
    // An update of what one may not change finds nothing to change.
    expect([role, done]).toEqual([
      role,
      roleMay(role, needs) ? 1 : text.startsWith('update') ? 0 : 'refused',
    ]);
  }
  for (const who of [as('outsider'), { ...as('outsider'), principals: [] }])
    expect(await attempt(who, text, values())).toBe(text.startsWith('update') ? 0 : 'refused');
});

test('verdicts are a reviewer’s or an owner’s, whatever else they may', async () => {
  const text =
    "insert into verdicts (plan_id, revision, circuit, verdict, note, author, fingerprint) values ($1, 'Z', '', 'approved', '', 'x', 'x')";
  expect(await Promise.all(ROLES.map((role) => attempt(as(role), text, [plan])))).toEqual([
    'refused',
    1,
    'refused',
    1,
  ]);
});

const TABLES = [
  'plans',
  'parts',
  'part_versions',
  'snapshots',
  'edits',
  'comments',
  'revisions',
  'members',
  'board_profiles',
];

test('what belongs to a workspace is seen by its members only', async () => {
  await asServer(
    () =>
      appendEdit(plan, {
        editId: newId(),
        client: 't',
        madeAgainst: 0,
        edit: renameNet(netOf(frostGuard(), 'FAN_1'), 'FAN_A'),
      }),
    here,
  );
  for (const table of TABLES) {
    const seen = `select 1 from ${table} where ${
      ['snapshots', 'edits', 'comments', 'revisions'].includes(table) ? 'plan_id = $1' : 'workspace_id = $1'
    }`;
    const of = { snapshots: plan, edits: plan, comments: scratch, revisions: plan };
    const key = Object.hasOwn(of, table) ? of[table as 'edits'] : here;
    expect([table, await attempt(as('viewer'), seen, [key])]).not.toEqual([table, 0]);
    expect([table, await attempt(as('outsider'), seen, [key])]).toEqual([table, 0]);
    expect([table, await attempt({ ...as('viewer'), principals: [] }, seen, [key])]).toEqual([table, 0]);
  }
});

test('secrets are for nobody, not even their owners', async () => {
  for (const text of [
    'select digest from sessions',
    'select digest from tokens',
    'select digest from invitations',
    'select password from people',
    'select email from people',
    'select verifier from sign_ins',
    'delete from audit',
    "update members set role = 'owner'",
    "insert into audit (who, via, action, target, status) values ('x', 'x', 'x', 'x', 200)",
    "update revisions set note = 'x'",
    'delete from edits',
    'delete from plans',
  ])
    expect([text, await attempt(as('owner'), text)]).toEqual([text, 'refused']);
});

test('a token has what its scope and its maker’s role have together, while it lasts', async () => {
  const { text, values } = WRITES["a plan's head"] as (typeof WRITES)[string];
  const may = async (who: TestPerson, scope: 'read' | 'edit', days = 1) => {
    const id = await newToken(who, here, scope, days);
    const token: Who = { ...asMember(who, here), principals: [`t:${id}`] };
    return [
      await attempt(token, 'select 1 from plans where id = $1', [plan]),
      await attempt(token, text, values()),
    ];
  };
  expect(await may(people.owner, 'read')).toEqual([1, 0]);
  expect(await may(people.owner, 'edit')).toEqual([1, 1]);
  expect(await may(people.viewer, 'edit')).toEqual([1, 0]);
  expect(await may(people.owner, 'edit', -1)).toEqual([0, 0]);
  expect(await may(people.outsider, 'edit')).toEqual([0, 0]);
});

test('several together have only what all of them have', async () => {
  const both = (...roles: (Role | 'outsider')[]): Who => ({
    ...as(roles[0] as Role),
    principals: roles.map((role) => `p:${people[role].id}`),
  });
  const { text, values } = WRITES["a plan's head"] as (typeof WRITES)[string];
  expect(await attempt(both('owner', 'editor'), text, values())).toBe(1);
  expect(await attempt(both('owner', 'viewer'), text, values())).toBe(0);
  expect(await attempt(both('owner', 'outsider'), text, values())).toBe(0);
  await expect(
    attempt({ ...as('owner'), principals: ["p:x'; reset role; --"] }, text, values()),
  ).rejects.toThrow('a principal is none');
});

test('edits of several people at once are stored; those of one who may not are refused, and take nobody down', async () => {
  const demo = frostGuard();
  const id = await asServer(async () => expectOk(await storePlan(demo)), here);
  const names = demo.nets.slice(0, 30).map((net) => net.name);
  const results = await Promise.allSettled(
    names.map((name, at) =>
      runAs(as(at % 3 === 0 ? 'owner' : at % 3 === 1 ? 'editor' : 'viewer'), () =>
        appendEdit(id, {
          editId: newId(),
          client: 't',
          author: 'somebody else',
          madeAgainst: 0,
          edit: renameNet(netOf(demo, name), `${name}_X`),
        }),
      ),
    ),
  );
  const plans = (await asServer(() => readPlan(id), here))?.plan;
  for (const [at, name] of names.entries()) {
    const stored = plans?.nets.some((net) => net.name === `${name}_X`);
    expect([name, stored]).toEqual([name, at % 3 !== 2]);
    const said = results[at];
    if (at % 3 !== 2) expect(said).toMatchObject({ status: 'fulfilled', value: { status: 'saved' } });
    else
      expect(
        said?.status === 'rejected' || (said?.status === 'fulfilled' && said.value.status !== 'saved'),
      ).toBe(true);
  }
  // Whoever is signed in has their own name, whatever they send.
  const authors = await asServer(() =>
    query<{ author: string; person_id: string }>('select author, person_id from edits where plan_id = $1', [
      id,
    ]),
  );
  for (const { author, person_id } of authors)
    expect(author).toBe(Object.values(people).find((one) => one.id === person_id)?.name);
});

test('a new workspace has the shipped parts as another has them without corrections, at once', async () => {
  const [one, other] = [await newWorkspace(), await newWorkspace()];
  await asServer(() => storeShippedHere(), one);
  const parts = (workspace: string) =>
    query(
      `select p.id, p.revision, p.fingerprint, p.shipped, p.facts::text as facts, v.description::text as description
       from parts p join part_versions v on v.workspace_id = p.workspace_id and v.part_id = p.id and v.fingerprint = p.fingerprint
       where p.workspace_id = $1 order by p.id`,
      [workspace],
    );
  const there = await parts(one);
  expect(there.length).toBeGreaterThan(5);
  await asServer(() => storeShippedHere(), other);
  expect(await parts(other)).toEqual(there);
});

test('plans and parts of one workspace are not there in another, though they are called the same', async () => {
  const outside = as('outsider', there);
  expect(await runAs(outside, () => readPlan(plan))).toBeUndefined();
  expect(await runAs(outside, () => listPlans())).toEqual([]);
  expect(await runAs(as('viewer'), () => readPlan(plan))).toBeDefined();
  // A plan on a part that the workspace does not have is refused, though another has it.
  const stored = await runAs(outside, () => storePlan(frostGuard()));
  expect(stored).toMatchObject({ ok: false, problems: [{ place: 'device' }] });
});
