import { readdirSync, readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { ask, closeDb, db, newSomebody, newWorkspace, planOf, type Somebody, tokenOf } from './people';
import { PEOPLE } from './people-server';

/**
 * Every route, asked by everybody: what is answered is what this page says. Routes are found in the sources, not in the table that
 * the server looks into; one that is missing here fails.
 */
const GROUPS = {
  // Anybody at all.
  public: [
    'GET /api/health',
    'GET /api/live',
    'GET /api/openapi.json',
    'POST /api/sign-in',
    'POST /api/join',
    'GET /api/sign-in/elsewhere',
    'GET /api/sign-in/elsewhere/back',
  ],
  // Whoever has an account, or a token of theirs.
  'signed in': ['GET /api/account', 'GET /api/metrics'],
  // Whoever is signed in, but no token.
  session: [
    'POST /api/sign-out',
    'POST /api/join/here',
    'PATCH /api/account',
    'DELETE /api/account',
    'PUT /api/account/password',
    'GET /api/account/sessions',
    'DELETE /api/account/sessions',
    'DELETE /api/account/sessions/{session}',
    'GET /api/account/tokens',
    'POST /api/account/tokens',
    'DELETE /api/account/tokens/{token}',
    'PUT /api/account/workspace',
    'POST /api/workspaces',
  ],
  read: [
    'GET /api/plans',
    'GET /api/plans/{id}',
    'GET /api/plans/{id}/file',
    'GET /api/plans/{id}/namesakes',
    'GET /api/plans/{id}/events',
    'POST /api/plans/{id}/presence',
    'GET /api/plans/{id}/check',
    'GET /api/plans/{id}/code',
    'GET /api/plans/{id}/schedule',
    'POST /api/plans/{id}/check-code',
    'GET /api/plans/{id}/exports',
    'GET /api/plans/{id}/exports/history',
    'GET /api/plans/{id}/exports/{number}',
    'GET /api/compare',
    'GET /api/plans/{id}/history',
    'GET /api/plans/{id}/at/{seq}',
    'GET /api/plans/{id}/revisions',
    'GET /api/plans/{id}/revisions/{name}',
    'GET /api/plans/{id}/comments',
    'GET /api/plans/{id}/verdicts',
    'GET /api/plans/{id}/sign-off',
    'GET /api/plans/{id}/variants',
    'GET /api/profiles',
    'GET /api/devices',
    'GET /api/devices/{id}',
    'GET /api/devices/{id}/export',
    'GET /api/documents/{sha256}',
    'GET /api/mappings',
    'GET /api/members',
  ],
  comment: ['POST /api/plans/{id}/comments', 'PATCH /api/plans/{id}/comments/{comment}'],
  review: ['POST /api/plans/{id}/verdicts'],
  edit: [
    'POST /api/plans',
    'POST /api/plans/import',
    'POST /api/plans/{id}/edits',
    'POST /api/plans/{id}/restore',
    'POST /api/plans/{id}/duplicate',
    'POST /api/plans/{id}/place',
    'POST /api/plans/{id}/exports',
    'POST /api/plans/{id}/branch',
    'POST /api/plans/{id}/revisions',
    'PUT /api/plans/{id}/variants',
    'POST /api/plans/{id}/variants/take',
    'POST /api/profiles',
    'DELETE /api/profiles/{id}',
    'POST /api/devices',
    'DELETE /api/devices/{id}',
    'PUT /api/devices/{id}/corrections',
    'PUT /api/documents/{sha256}',
    'POST /api/files',
    'PUT /api/mappings',
    'DELETE /api/plans/{id}',
  ],
  manage: [
    'PATCH /api/workspace',
    'PATCH /api/members/{person}',
    'DELETE /api/members/{person}',
    'DELETE /api/people/{person}',
    'GET /api/invitations',
    'POST /api/invitations',
    'DELETE /api/invitations/{invitation}',
    'GET /api/audit',
  ],
} as const;
type Group = keyof typeof GROUPS;

/** Who may what, once more and by hand: groups that are answered; everything else is refused. */
const MAY: Record<string, readonly Group[]> = {
  viewer: ['public', 'signed in', 'session', 'read'],
  reviewer: ['public', 'signed in', 'session', 'read', 'comment', 'review'],
  editor: ['public', 'signed in', 'session', 'read', 'comment', 'edit'],
  owner: ['public', 'signed in', 'session', 'read', 'comment', 'review', 'edit', 'manage'],
  'a reading token of an owner': ['public', 'signed in', 'read'],
  'an editing token of an owner': ['public', 'signed in', 'read', 'comment', 'edit'],
  'an editing token of a viewer': ['public', 'signed in', 'read'],
};

const routesThere = (): string[] => [
  'GET /api/metrics',
  ...readdirSync('src/app/api', { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('route.ts'))
    .flatMap((file) => {
      const path = `/api/${file.replace(/\/route\.ts$/, '').replaceAll(/\[(\w+)\]/g, '{$1}')}`;
      return [
        ...readFileSync(`src/app/api/${file}`, 'utf8').matchAll(
          /^export const (GET|POST|PUT|PATCH|DELETE) =/gm,
        ),
      ].map(([, method]) => `${method} ${path}`);
    }),
];

test.describe.configure({ mode: 'parallel' });
test.setTimeout(180_000);
test.afterAll(closeDb);

test('this page has every route, once', () => {
  expect(Object.values(GROUPS).flat().sort()).toEqual(routesThere().sort());
});

const bodyFor = (name: string): unknown =>
  /^(POST|PUT|PATCH) /.test(name) && !name.includes('/documents/') ? {} : undefined;
const addressed = (name: string, plan: string): string =>
  name
    .replace('/api/plans/{id}', `/api/plans/${plan}`)
    .replace('{sha256}', '0'.repeat(64))
    .replace(/\{(number|seq)\}/, '0')
    .replace('{id}', 'corvane-c40-80')
    .replaceAll(/\{\w+\}/g, 'nobody');

test('nobody gets anything but what is for anybody', async () => {
  const workspace = await newWorkspace();
  const plan = await planOf(await newSomebody(workspace, 'owner'));
  const gone = await newSomebody(workspace, 'owner');
  await db("update sessions set expires_at = now() - interval '1 second' where person_id = $1", [gone.id]);
  const late = await tokenOf(await newSomebody(workspace, 'owner'), workspace, 'edit', -1);
  const removed = await newSomebody(workspace, 'owner');
  await db('update people set deleted_at = now() where id = $1', [removed.id]);
  const nobodies: Record<string, string>[] = [
    {},
    gone.headers,
    late,
    removed.headers,
    { cookie: 'mavrek-session=x' },
    { authorization: 'Bearer mvk_x' },
    // What is no token is no reason to look for a cookie.
    { ...(await newSomebody(workspace, 'owner')).headers, authorization: 'Basic eDp4' },
  ];
  for (const [group, names] of Object.entries(GROUPS))
    for (const name of names)
      for (const [at, headers] of nobodies.entries()) {
        const { status, place } = await ask(addressed(name, plan), headers, bodyFor(name));
        const let_in = !(status === 401 && place === 'sign-in');
        // Signing in with nothing is refused for what it is: a form with nothing in it.
        expect([name, at, let_in]).toEqual([name, at, group === 'public']);
      }
});

/** Somebody new of a kind each time: what they do may be to sign out, or to delete themselves. */
async function somebodyOf(kind: string, workspace: string): Promise<Record<string, string>> {
  const of = /token of an? (\w+)$/.exec(kind)?.[1];
  const one = await newSomebody(workspace, (of ?? kind) as 'owner');
  return of ? tokenOf(one, workspace, kind.includes('reading') ? 'read' : 'edit') : one.headers;
}

for (const [kind, may] of Object.entries(MAY))
  test(`${kind}: every route`, async () => {
    const workspace = await newWorkspace();
    const owner = await newSomebody(workspace, 'owner');
    let plan = await planOf(owner);
    for (const [group, names] of Object.entries(GROUPS) as [Group, readonly string[]][])
      for (const name of names) {
        const { status, place } = await ask(
          addressed(name, plan),
          await somebodyOf(kind, workspace),
          bodyFor(name),
        );
        const refused = status === 403 && place === 'rights';
        expect([
          name,
          refused ? 'refused' : status === 401 && place === 'sign-in' ? 'unknown' : 'let in',
        ]).toEqual([name, may.includes(group) ? 'let in' : 'refused']);
        // Failures of the server are no answer.
        expect([name, status < 500]).toEqual([name, true]);
        if (name === 'DELETE /api/plans/{id}' || name.includes('branch')) plan = await planOf(owner);
      }
  });

test('of plans of another workspace nobody is told anything, by any route', async () => {
  const [here, there] = [await newWorkspace(), await newWorkspace()];
  const plan = await planOf(await newSomebody(here, 'owner'));
  const outsiders: [string, Record<string, string>][] = [];
  const outsider: Somebody = await newSomebody(there, 'owner');
  outsiders.push(['owner elsewhere', outsider.headers]);
  outsiders.push(['named', { ...outsider.headers, 'x-mavrek-workspace': here }]);
  outsiders.push(['token elsewhere', await tokenOf(outsider, there, 'edit')]);
  outsiders.push(['in none', (await newSomebody()).headers]);
  for (const name of Object.values(GROUPS)
    .flat()
    .filter((one) => one.includes('/plans/{id}')))
    for (const [who, headers] of outsiders) {
      const asked = await ask(addressed(name, plan), headers, bodyFor(name));
      const never = await ask(addressed(name, 'zzzzzzzzzzzz'), headers, bodyFor(name));
      expect([name, who, asked.status, asked.place]).toEqual([name, who, 404, 'plan']);
      // A plan that is not there is answered the same.
      expect([name, who, asked.body]).toEqual([name, who, never.body]);
    }
  // Nor by its pages, which say the same as for a plan that never was.
  const page = async (path: string) => {
    const answer = await fetch(`${PEOPLE.url}${path}`, { headers: outsider.headers });
    return [answer.status, (await answer.text()).includes('Frost guard')];
  };
  for (const rest of ['', '/history', '/review', '/compare', '/variants', '/schedule', '/at/0'])
    expect([rest, await page(`/plans/${plan}${rest}`)]).toEqual([rest, [404, false]]);
  // Nor as one side of a comparison, a variant, or a file of a part that only the other has.
  const own = await planOf(outsider);
  expect((await ask(`GET /api/compare?from=${own}&to=${plan}`, outsider.headers)).status).toBe(404);
  expect((await ask(`GET /api/compare?from=${plan}~C&to=${own}`, outsider.headers)).status).toBe(404);
  expect(
    (await ask(`PUT /api/plans/${own}/variants`, outsider.headers, { plans: [plan], circuits: [] })).status,
  ).toBe(400);
  const { body } = await ask('GET /api/plans', outsider.headers);
  expect((body.plans as { id: string }[]).map(({ id }) => id)).toEqual([own]);
});

test('a plan is not deleted by an address that is written otherwise', async () => {
  const workspace = await newWorkspace();
  const owner = await newSomebody(workspace, 'owner');
  const viewer = await newSomebody(workspace, 'viewer');
  const plan = await planOf(owner);
  for (const path of [
    `/%61pi/plans/${plan}`,
    `/api/%70lans/${plan}`,
    `/api/plans/${plan}/`,
    `/api/plans/%${plan.charCodeAt(0).toString(16)}${plan.slice(1)}`,
    `//api/plans/${plan}`,
    `/x/..%2fapi/plans/${plan}`,
    `/API/plans/${plan}`,
  ]) {
    const { status } = await ask(`DELETE ${path}`, viewer.headers);
    expect([path, status >= 400]).toEqual([path, true]);
  }
  expect((await ask(`GET /api/plans/${plan}`, viewer.headers)).status).toBe(200);
  // What no role may see is not seen by going round, either.
  for (const path of [
    '/x/../api/invitations',
    '/%61pi/invitations',
    '/api//invitations',
    '/api/invitations/',
  ])
    expect([path, (await ask(`GET ${path}`, viewer.headers)).body.invitations]).toEqual([path, undefined]);
});

test('pages lead to the sign-in page and back; what is in no table is for nobody', async () => {
  for (const path of [
    '/',
    '/parts',
    '/people',
    '/account',
    '/plans/x/history?a=1',
    '/nothing',
    '/api/nothing',
  ]) {
    const answer = await fetch(`${PEOPLE.url}${path}`, { redirect: 'manual' });
    if (path.startsWith('/api/')) expect(answer.status).toBe(401);
    else {
      expect([path, answer.status]).toEqual([path, 303]);
      const wanted = path === '/' ? '/sign-in' : `/sign-in?next=${encodeURIComponent(path)}`;
      expect([path, answer.headers.get('location')]).toEqual([path, wanted]);
    }
  }
  for (const path of ['/sign-in', '/join/x', '/theme.js', '/icon.svg'])
    expect([path, (await fetch(`${PEOPLE.url}${path}`)).status]).toEqual([path, 200]);
});
