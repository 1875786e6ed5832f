import type { BrowserContext, Page } from '@playwright/test';
import { expect, expectAccessible, expectLegible, LONG, listen, netRow, openPlan, test } from './fixtures';
import { ask, closeDb, db, newSomebody, newWorkspace, planOf, type Somebody } from './people';
import { PEOPLE } from './people-server';
import { type Provider, startProvider } from './provider';

test.use({ baseURL: PEOPLE.url });
test.afterAll(closeDb);

const PASSWORD = 'buds open in April';

/** Opens pages as somebody who is signed in. */
async function signedIn(context: BrowserContext, one: Somebody): Promise<void> {
  await context.addCookies([
    { name: 'mavrek-session', value: one.session, url: PEOPLE.url, httpOnly: true, sameSite: 'Lax' },
  ]);
}

async function invite(owner: Somebody, role: string): Promise<{ email: string; link: string }> {
  const email = `n${Math.random().toString(36).slice(2)}@guard.example`;
  const { status, body } = await ask('POST /api/invitations', owner.headers, { email, role });
  expect(status).toBe(201);
  return { email, link: String(body.link) };
}

async function signInWith(page: Page, email: string, password: string): Promise<void> {
  await page.getByLabel('E-mail address').fill(email);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
}

test('invited, joined, signed out, signed in: back at the page that was asked for', async ({
  page,
  browser,
  noise,
}) => {
  const workspace = await newWorkspace();
  const owner = await newSomebody(workspace, 'owner', 'Olga Frost');
  const id = await planOf(owner);
  await signedIn(page.context(), owner);
  await page.goto('/people');
  await page.getByLabel('Address to invite').fill('Bo@Guard.example');
  await page.getByLabel('Role to invite as').selectOption('editor');
  await page.getByRole('button', { name: 'Make a link' }).click();
  const link = (await page.getByTestId('invitation-link').textContent()) ?? '';
  await expectAccessible(page);
  const email = `${workspace.toLowerCase()}@guard.example`;
  await db('update invitations set email = $2 where workspace_id = $1', [workspace, email]);

  const other = await (await browser.newContext({ baseURL: PEOPLE.url })).newPage();
  listen(other, noise);
  await other.goto(link);
  await expectAccessible(other);
  await expect(other.getByRole('heading', { name: /^Join Orchard/ })).toBeVisible();
  await other.getByLabel('Your name').fill(`Bo ${workspace}`);
  await other.getByLabel('Password').fill('short');
  await other.getByRole('button', { name: 'Make the account' }).click();
  await expect(other.getByRole('main').getByRole('alert')).toContainText('at least 12 characters');
  await other.getByLabel('Password').fill(PASSWORD);
  await other.getByRole('button', { name: 'Make the account' }).click();
  await expect(other.getByRole('link', { name: 'Frost guard', exact: true })).toBeVisible();
  // The link is used up.
  await page.goto(link);
  await expect(page.getByRole('heading', { name: 'This link is not good any more' })).toBeVisible();

  await other.getByRole('button', { name: 'Account' }).click();
  await other.getByRole('menuitem', { name: 'Sign out' }).click();
  await expect(other.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await expectAccessible(other);
  await other.goto(`/plans/${id}?view=registers`);
  await expect(other.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await signInWith(other, email, 'not that one at all');
  await expect(other.getByRole('main').getByRole('alert')).toHaveText(
    'The address or the password is wrong.',
  );
  // The browser tells of the refused request by itself.
  await signInWith(other, email.toUpperCase(), PASSWORD);
  await expect(other).toHaveURL(`/plans/${id}?view=registers`);
  // What Bo does bears Bo's name, and nobody asks for it.
  await netRow(other, 'FAN_1').click();
  await other.getByLabel('A comment', { exact: true }).fill('Which fan is this?');
  await expect(other.getByLabel('Your name')).toHaveCount(0);
  await other.getByRole('button', { name: 'Say', exact: true }).click();
  await expect(other.getByRole('article').filter({ hasText: `Bo ${workspace}` })).toBeVisible();
  await other.close();
});

test('a viewer looks at everything and changes nothing; a new role counts at once', async ({
  page,
  browser,
}) => {
  const workspace = await newWorkspace();
  const owner = await newSomebody(workspace, 'owner');
  const viewer = await newSomebody(workspace, 'viewer', 'Vera Plum');
  const id = await planOf(owner);
  await signedIn(page.context(), viewer);
  await page.goto('/');
  await expect(page.getByRole('link', { name: 'Frost guard', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'New plan' })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Delete Frost guard' })).toHaveCount(0);
  await expectAccessible(page);
  await openPlan(page, id);
  await expect(page.getByRole('status').filter({ hasText: 'read only' })).toBeVisible();
  await netRow(page, 'FAN_1').click();
  const name = page.getByLabel('Net name');
  await name.fill('FAN_X');
  await name.press('Enter');
  await expect(page.getByText('an editor changes plans')).toBeVisible();
  await expect(netRow(page, 'FAN_1')).toBeVisible();
  await expect(page.getByLabel('A comment', { exact: true })).toHaveCount(0);
  // What others do is seen all the same.
  await ask(`POST /api/plans/${id}/edits`, owner.headers, {
    editId: 'one',
    client: 'x',
    madeAgainst: 0,
    edit: { kind: 'plan.set', field: 'name', from: 'Frost guard', to: 'Frost guard two' },
  });
  await expect(page.getByRole('heading', { name: /Frost guard two/ })).toBeVisible();
  // An owner makes Vera an editor: the page as it is opened next offers it.
  const other = await (await browser.newContext({ baseURL: PEOPLE.url })).newPage();
  await signedIn(other.context(), owner);
  await other.goto('/people');
  await other.getByLabel(`Role of ${viewer.name}`).selectOption('editor');
  await expect(other.getByRole('row').filter({ hasText: 'Gives somebody another role' })).toBeVisible();
  await page.reload();
  await netRow(page, 'FAN_1').click();
  await name.fill('FAN_X');
  await name.press('Enter');
  await expect(netRow(page, 'FAN_X')).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /^saved/ })).toBeVisible();
  // Out of the workspace, the plan is not there any more, and the stream of events ends.
  await other.getByRole('button', { name: `Remove ${viewer.name}` }).click();
  await other.getByRole('button', { name: 'Take out of the workspace' }).click();
  await expect(other.getByRole('row').filter({ hasText: viewer.email })).toHaveCount(0);
  expect((await ask(`GET /api/plans/${id}`, viewer.headers)).status).toBe(404);
  await other.close();
});

test('reviews are signed by reviewers: the circuit is approved under the name of the account', async ({
  page,
}) => {
  const workspace = await newWorkspace();
  const [owner, reviewer, editor] = [
    await newSomebody(workspace, 'owner'),
    await newSomebody(workspace, 'reviewer', 'Rita Quince'),
    await newSomebody(workspace, 'editor', 'Edwin Pear'),
  ];
  const id = await planOf(owner);
  const kept = await ask(`POST /api/plans/${id}/revisions`, editor.headers, {
    seq: 0,
    note: '',
    author: 'Rita Quince',
  });
  expect((kept.body.revision as { author: string }).author).toBe(editor.name);
  await signedIn(page.context(), editor);
  await page.goto(`/plans/${id}/review`);
  await expect(page.getByRole('button', { name: /^Approve/ })).toHaveCount(0);
  await signedIn(page.context(), reviewer);
  await page.goto(`/plans/${id}/review`);
  await page.getByRole('button', { name: 'Approve all of it' }).click();
  await expect(page.getByTestId('review-state')).toContainText(`${reviewer.name}`);
  // Nobody says it for somebody else.
  const said = await ask(`POST /api/plans/${id}/verdicts`, reviewer.headers, {
    revision: 'C',
    circuit: '',
    verdict: 'changes',
    note: '',
    author: owner.name,
  });
  expect((said.body.verdicts as { author: string }[]).map(({ author }) => author)).toEqual([
    reviewer.name,
    reviewer.name,
  ]);
});

test('tokens: made in the account, shown once, good for what their scope says, and withdrawn', async ({
  page,
}) => {
  const workspace = await newWorkspace();
  const owner = await newSomebody(workspace, 'owner');
  const id = await planOf(owner);
  await signedIn(page.context(), owner);
  await page.goto('/account');
  await expectAccessible(page);
  await page.getByLabel('What the token is for').fill('build server');
  await page.getByRole('button', { name: 'Make a token' }).click();
  const token = (await page.getByTestId('token').textContent()) ?? '';
  const headers = { authorization: `Bearer ${token}` };
  expect((await ask(`GET /api/plans/${id}/check`, headers)).status).toBe(200);
  expect(await ask(`DELETE /api/plans/${id}`, headers)).toMatchObject({ status: 403, place: 'rights' });
  // It is nowhere in the database.
  const [row] = await db<{ text: string }>(
    'select row_to_json(t)::text as text from tokens t where person_id = $1',
    [owner.id],
  );
  expect(row?.text).not.toContain(token.slice(4, 20));
  await page.getByRole('button', { name: 'Withdraw build server' }).click();
  await expect(page.locator('[data-token="build server"]')).toHaveCount(0);
  expect((await ask(`GET /api/plans/${id}/check`, headers)).status).toBe(401);
  const viewer = await newSomebody(workspace, 'viewer');
  expect(
    await ask('POST /api/account/tokens', viewer.headers, { name: 'x', scope: 'edit', days: 1 }),
  ).toMatchObject({ status: 403 });
  expect(
    (await ask('POST /api/account/tokens', owner.headers, { name: 'x', scope: 'read', days: 367 })).status,
  ).toBe(400);
});

test('signed out everywhere, no session is good any more; a new password ends the others', async () => {
  const owner = await newSomebody(await newWorkspace(), 'owner');
  const { email, link } = await invite(owner, 'editor');
  const joined = await ask(
    'POST /api/join',
    {},
    { key: link.split('/').at(-1), name: `P ${email}`, password: PASSWORD },
  );
  expect(joined.status).toBe(201);
  const cookieOf = (answer: { headers: Headers }) => ({
    cookie: (answer.headers.get('set-cookie') ?? '').split(';')[0] ?? '',
  });
  expect(joined.headers.get('set-cookie')).toMatch(/; HttpOnly; SameSite=Lax$/);
  const signIn = async (password = PASSWORD) => ask('POST /api/sign-in', {}, { email, password });
  const [one, two, three] = [cookieOf(joined), cookieOf(await signIn()), cookieOf(await signIn())];
  for (const session of [one, two, three]) expect((await ask('GET /api/account', session)).status).toBe(200);
  expect(
    (await ask('PUT /api/account/password', one, { now: 'x', next: 'pears in the evening' })).status,
  ).toBe(400);
  expect(
    (await ask('PUT /api/account/password', one, { now: PASSWORD, next: 'pears in the evening' })).status,
  ).toBe(200);
  const known = async (...all: Record<string, string>[]) =>
    Promise.all(all.map(async (headers) => (await ask('GET /api/account', headers)).status));
  expect(await known(one, two, three)).toEqual([200, 401, 401]);
  expect((await signIn()).body.id).toBeNull();
  const four = cookieOf(await signIn('pears in the evening'));
  expect((await ask('DELETE /api/account/sessions', four)).status).toBe(200);
  expect(await known(one, four)).toEqual([401, 401]);
  // Only digests are kept, and the password as argon2id.
  const [person] = await db<{ password: string }>('select password from people where email = $1', [email]);
  expect(person?.password).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/);
});

test('passwords are tried ten times, then the account waits, right or wrong; another account does not', async () => {
  const owner = await newSomebody(await newWorkspace(), 'owner');
  const people = await Promise.all(
    [1, 2].map(async (n) => {
      const { email, link } = await invite(owner, 'editor');
      const key = link.split('/').at(-1);
      expect(
        (await ask('POST /api/join', {}, { key, name: `R${n} ${email}`, password: PASSWORD })).status,
      ).toBe(201);
      return email;
    }),
  );
  const [email, other] = people;
  // Many at once count as many.
  const tried = await Promise.all(
    Array.from({ length: 14 }, () => ask('POST /api/sign-in', {}, { email, password: 'wrong wrong wrong' })),
  );
  expect(tried.filter(({ status, body }) => status === 200 && body.id === null).length).toBe(10);
  expect(tried.filter(({ status }) => status === 429).length).toBe(4);
  const late = await ask('POST /api/sign-in', {}, { email, password: PASSWORD });
  expect([late.status, JSON.stringify(late.body)]).toEqual([
    429,
    expect.stringMatching(/was tried too often; try again in 1[45] minutes/),
  ]);
  expect((await ask('POST /api/sign-in', {}, { email: other, password: PASSWORD })).status).toBe(200);
  // Whether there is such an account is not told.
  const nobody = await ask(
    'POST /api/sign-in',
    {},
    { email: 'no-such@guard.example', password: 'wrong wrong wrong' },
  );
  expect([nobody.status, nobody.body]).toEqual([200, tried.find(({ status }) => status === 200)?.body]);
  await db("delete from attempts where key like 'address%'");
});

test('who is deleted stays in every history under a pseudonym, and nowhere by name', async ({ page }) => {
  const workspace = await newWorkspace();
  const owner = await newSomebody(workspace, 'owner');
  const leaver = await newSomebody(workspace, 'owner', 'Leo Medlar');
  const id = await planOf(leaver);
  const edit = (editId: string, one: object) =>
    ask(`POST /api/plans/${id}/edits`, leaver.headers, { editId, client: 'x', madeAgainst: 9, edit: one });
  await edit('a', { kind: 'plan.set', field: 'name', from: 'Frost guard', to: 'Frost guard of Leo' });
  const waiver = {
    id: 'w1',
    rule: 'unused-pad',
    nets: [],
    pads: ['A1'],
    reason: 'test',
    author: leaver.name,
    date: '2026-11-27',
  };
  expect((await edit('b', { kind: 'waiver.add', waiver, at: 0 })).body.status).toBe('saved');
  await ask(`POST /api/plans/${id}/comments`, leaver.headers, {
    subject: { kind: 'plan' },
    text: 'well',
    author: '',
    answers: null,
  });
  await ask(`POST /api/plans/${id}/revisions`, leaver.headers, { seq: 2, note: '', author: '' });
  await ask(`POST /api/plans/${id}/verdicts`, leaver.headers, {
    revision: 'C',
    circuit: '',
    verdict: 'approved',
    note: '',
    author: '',
  });
  const signed = await ask(`GET /api/plans/${id}/sign-off`, owner.headers);
  await signedIn(page.context(), leaver);
  await page.goto('/account');
  await page.getByRole('button', { name: 'Delete my account …' }).click();
  await page.getByRole('button', { name: 'Yes, delete it' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  expect((await ask('GET /api/account', leaver.headers)).status).toBe(401);
  const pseudonym = `former member ${leaver.id.slice(0, 6)}`;
  for (const route of [
    'history',
    'comments',
    'revisions',
    'verdicts',
    'file',
    'revisions/C',
    'sign-off',
    'at/2',
  ]) {
    const answer = await fetch(`${PEOPLE.url}/api/plans/${id}/${route}`, { headers: owner.headers });
    const text = await answer.text();
    expect([route, answer.status, text.includes(pseudonym), text.includes(leaver.name)]).toEqual([
      route,
      200,
      true,
      false,
    ]);
  }
  // The name is in no row of no table; the sign-off is of the same content as before.
  const tables = await db<{ name: string }>(
    "select tablename as name from pg_tables where schemaname = 'public'",
  );
  for (const { name } of tables) {
    const [found] = await db<{ count: number }>(
      `select count(*)::int as count from "${name}" t where row_to_json(t)::text like $1`,
      [`%${leaver.name}%`],
    );
    expect([name, found?.count]).toEqual([name, 0]);
  }
  const after = await ask(`GET /api/plans/${id}/sign-off`, owner.headers);
  const print = ({ body }: typeof after) => (body.signed as { fingerprint: string }).fingerprint;
  expect(print(after)).toBe(print(signed));
  // Going on with the plan does not bring the name back.
  await ask(`POST /api/plans/${id}/edits`, owner.headers, {
    editId: 'c',
    client: 'x',
    madeAgainst: 2,
    edit: { kind: 'plan.set', field: 'name', from: 'Frost guard of Leo', to: 'Frost guard' },
  });
  const file = await fetch(`${PEOPLE.url}/api/plans/${id}/file`, { headers: owner.headers });
  expect(await file.text()).not.toContain(leaver.name);
  // The last owner stays.
  await newSomebody(workspace, 'viewer');
  expect(await ask('DELETE /api/account', owner.headers)).toMatchObject({ status: 409, place: 'person' });
  expect(await ask(`PATCH /api/members/${owner.id}`, owner.headers, { role: 'viewer' })).toMatchObject({
    status: 409,
  });
});

test('a waiver bears the name of whoever adds it', async () => {
  const workspace = await newWorkspace();
  const [owner, editor] = [await newSomebody(workspace, 'owner'), await newSomebody(workspace, 'editor')];
  const id = await planOf(owner);
  const add = (who: Somebody, editId: string, author: string, more: object = {}) => {
    const waiver = {
      id: `w${editId}`,
      rule: 'unused-pad',
      nets: [],
      pads: ['A1'],
      reason: 'r',
      author,
      date: '2026-11-27',
      ...more,
    };
    return ask(`POST /api/plans/${id}/edits`, who.headers, {
      editId,
      client: 'x',
      madeAgainst: 9,
      edit: { kind: 'waiver.add', waiver, at: 0 },
    });
  };
  expect((await add(editor, 'a', owner.name)).body).toMatchObject({
    status: 'refused',
    problems: [{ place: 'waiver' }],
  });
  expect((await add(owner, 'b', owner.name)).body.status).toBe('saved');
  // Taken back by another, and brought back as it was by undoing that.
  const remove = await ask(`POST /api/plans/${id}/edits`, editor.headers, {
    editId: 'c',
    client: 'x',
    madeAgainst: 9,
    edit: {
      kind: 'waiver.remove',
      at: 0,
      waiver: {
        id: 'wb',
        rule: 'unused-pad',
        nets: [],
        pads: ['A1'],
        reason: 'r',
        author: owner.name,
        date: '2026-11-27',
      },
    },
  });
  expect(remove.body.status).toBe('saved');
  expect((await add(editor, 'd', owner.name, { id: 'wb' })).body.status).toBe('saved');
});

test('several workspaces: what is in one is not seen in another; one is entered from the menu', async ({
  page,
}) => {
  const [first, second] = [await newWorkspace(), await newWorkspace()];
  const one = await newSomebody(first, 'owner');
  await db("insert into members (workspace_id, person_id, role) values ($1, $2, 'viewer')", [second, one.id]);
  const other = await planOf(await newSomebody(second, 'owner'));
  await signedIn(page.context(), one);
  await page.goto('/');
  await expect(page.getByText('No plans yet')).toBeVisible();
  await page.getByRole('button', { name: 'Account' }).click();
  await page.getByRole('menuitem', { name: /^Go to Orchard/ }).click();
  await expect(page.getByRole('link', { name: 'Frost guard', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'New plan' })).toHaveCount(0);
  await openPlan(page, other);
  await expect(page.getByRole('status').filter({ hasText: 'read only' })).toBeVisible();
  // A workspace of one's own, with the shipped parts.
  await page.goto('/account');
  await page.getByLabel('Name of a new workspace').fill('Plum trials');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText('No plans yet')).toBeVisible({ timeout: 30_000 });
  await page.getByRole('link', { name: 'Parts', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Corvane C40-80' })).toBeVisible();
});

test.describe('by another service', () => {
  test.describe.configure({ mode: 'serial' });
  let provider: Provider;
  test.beforeAll(async () => {
    provider = await startProvider(PEOPLE.provider, {
      sub: 'none',
      email: 'none@guard.example',
      email_verified: true,
    });
  });
  test.afterAll(() => provider.close());

  async function come(page: Page): Promise<void> {
    await page.goto('/sign-in?next=/parts');
    await page.getByRole('link', { name: 'Sign in with Orchard Directory' }).click();
  }

  test('who is invited comes in by it, and again; who is not, does not', async ({ page }) => {
    const owner = await newSomebody(await newWorkspace(), 'owner');
    const { email } = await invite(owner, 'editor');
    provider.person = { sub: `s-${email}`, email, email_verified: true, name: `Ines ${email}` };
    await come(page);
    await expect(page).toHaveURL('/parts');
    await expect(page.getByText(`Ines ${email}`)).toBeVisible();
    await page.context().clearCookies();
    await come(page);
    await expect(page).toHaveURL('/parts');
    // The address may change at the service; who it is does not.
    provider.person = { ...provider.person, email: 'changed@guard.example' };
    await page.context().clearCookies();
    await come(page);
    await expect(page.getByText(`Ines ${email}`)).toBeVisible();
    await page.context().clearCookies();
    provider.person = { sub: 'stranger', email: 'stranger@guard.example', email_verified: true };
    await come(page);
    await expect(page.getByRole('main').getByRole('alert')).toContainText('is not invited here');
    await expectAccessible(page);
    // PKCE was used each time.
    expect(provider.asked.every((form) => (form.get('code_verifier') ?? '').length >= 43)).toBe(true);
  });

  test('an address that is not verified opens no account of that address', async ({ page }) => {
    const owner = await newSomebody(await newWorkspace(), 'owner');
    for (const verified of [false, undefined]) {
      provider.person = {
        sub: `bad-${owner.id}`,
        email: owner.email,
        ...(verified === undefined ? {} : { email_verified: verified }),
      };
      await come(page);
      await expect(page.getByRole('main').getByRole('alert')).toContainText(
        'did not tell a verified address',
      );
    }
    // Whoever made the account for that address, perhaps somebody else, has no way into it any more.
    await db("update people set password = 'x' where id = $1", [owner.id]);
    // Verified, it is the account with that address; somebody else with it at the service is not, ever after.
    provider.person = { sub: `good-${owner.id}`, email: owner.email, email_verified: true };
    await come(page);
    await expect(page).toHaveURL('/parts');
    expect((await ask('GET /api/account', owner.headers)).status).toBe(401);
    expect(await db('select password from people where id = $1', [owner.id])).toEqual([{ password: null }]);
    await page.context().clearCookies();
    provider.person = { sub: `another-${owner.id}`, email: owner.email, email_verified: true };
    await come(page);
    await expect(page.getByRole('main').getByRole('alert')).toContainText('belongs to another account');
  });

  test('answers that are forged, for somebody else, old, or begun in another browser are refused', async ({
    page,
    browser,
  }) => {
    const owner = await newSomebody(await newWorkspace(), 'owner');
    provider.person = { sub: owner.id, email: owner.email, email_verified: true };
    for (const spoil of ['signature', 'audience', 'issuer', 'nonce', 'expired'] as const) {
      provider.spoil = spoil;
      await come(page);
      await expect(page.getByRole('main').getByRole('alert'), spoil).toContainText(
        'was not confirmed by the service',
      );
    }
    delete provider.spoil;
    // The answer to what another browser began.
    const begun = await fetch(`${PEOPLE.url}/api/sign-in/elsewhere`, { redirect: 'manual' });
    const sent = await fetch(begun.headers.get('location') ?? '', { redirect: 'manual' });
    const back = sent.headers.get('location') ?? '';
    const victim = await (await browser.newContext({ baseURL: PEOPLE.url })).newPage();
    await victim.goto(back);
    await expect(victim.getByRole('main').getByRole('alert')).toContainText('was not begun in this browser');
    // In the browser that began it, it is good once.
    const cookie = (begun.headers.get('set-cookie') ?? '').split(';')[0] ?? '';
    const first = await fetch(back, { redirect: 'manual', headers: { cookie } });
    expect(first.headers.get('set-cookie')).toContain('mavrek-session=');
    const again = await fetch(back, { redirect: 'manual', headers: { cookie } });
    expect(again.headers.get('set-cookie')).not.toContain('mavrek-session=');
    await victim.close();
  });
});

for (const dark of [false, true])
  test(
    `pages of people are legible in a narrow window${dark ? ', in the dark' : ''}`,
    dark ? LONG : {},
    async ({ page }) => {
      const workspace = await newWorkspace();
      const owner = await newSomebody(
        workspace,
        'owner',
        'A person with a rather long name that does not end soon',
      );
      await invite(owner, 'reviewer');
      await page.setViewportSize({ width: 820, height: 800 });
      await page.addInitScript(
        (theme) => localStorage.setItem('mavrek:theme', theme),
        dark ? 'dark' : 'light',
      );
      await page.goto('/sign-in');
      await expectLegible(page);
      await signedIn(page.context(), owner);
      for (const path of ['/people', '/account', '/', '/parts']) {
        await page.goto(path);
        await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
        await expectLegible(page);
      }
    },
  );
