import { newId } from '@/core/base/text/new-id';
import { type Served, serveBuilt, sessionFor } from '@/server/testing/served';
import { closeServer } from '../close';
import { query } from '../db';
import { RIGHT_MS } from '../stream';
import { MOMENT_MS } from './access-cache';
import { hashPassword } from './passwords';
import { digestOf, newSecret } from './secrets';
import { addMember, newPerson, newWorkspace } from './testing';
import { asServer, everythingIsLocal, whoNow } from './who';

/** What a right lets in ends with the right; against the built server with accounts. */
const PASSWORD = 'seven larch ladders climb north';

let served: Served;
beforeAll(async () => {
  served = await serveBuilt({ MAVREK_AUTH: 'on', MAVREK_PROXY: 'on' });
}, 120_000);
afterAll(async () => {
  await served.stop();
  await closeServer();
});

const sql = (text: string, values: unknown[]) => asServer(() => query(text, values));
const later = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds));

let machines = 0;
const machine = (): string => `10.77.${++machines >> 8}.${machines & 255}`;

async function send(
  method: string,
  path: string,
  headers: Record<string, string>,
  body?: object,
): Promise<Response> {
  return fetch(served.url(path), {
    method,
    headers: { 'content-type': 'application/json', ...headers },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
}

/** A person with a password and a plan in a workspace of their own. */
async function gardener() {
  const workspace = await newWorkspace();
  const person = await newPerson();
  await addMember(workspace, person.id, 'owner');
  await sql('update people set password = $2 where id = $1', [person.id, await hashPassword(PASSWORD)]);
  const plan = newId().toLowerCase();
  await sql(
    `insert into plans (id, workspace_id, name, revision, device, package, nets, placed, device_fingerprint, seq)
     values ($1, $2, 'Guard', 'A', 'corvane-c40-80', 'q100', 0, 0, '', 0)`,
    [plan, workspace],
  );
  return { workspace, person, plan };
}

/** Opens the stream of a plan's events; collects what comes, and when it ends. */
function listen(plan: string, headers: Record<string, string>) {
  const heard = { text: '', status: 0, ended: false };
  const done = (async () => {
    const answer = await fetch(served.url(`/api/plans/${plan}/events?after=0`), { headers });
    heard.status = answer.status;
    const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader();
    for (let piece = await reader?.read(); piece && !piece.done; piece = await reader?.read())
      heard.text += piece.value;
    heard.ended = true;
  })().catch(() => {
    heard.ended = true;
  });
  return { heard, done };
}
const until = async (is: () => boolean, milliseconds: number): Promise<boolean> => {
  for (const end = Date.now() + milliseconds; Date.now() < end && !is(); ) await later(20);
  return is();
};

describe('a stream of events', () => {
  test('ends at the latest two seconds after a right does: it asks so often, and answers are remembered so long', () => {
    expect(RIGHT_MS + MOMENT_MS).toBeLessThanOrEqual(2000);
  });

  test.each<
    [string, (at: { session: string; person: string; workspace: string; cookie: string }) => Promise<unknown>]
  >([
    ['signing out', ({ cookie }) => send('POST', '/api/sign-out', { cookie })],
    // As another server would do it: this one is not told.
    ['the session is ended elsewhere', ({ session }) => sql('delete from sessions where id = $1', [session])],
    [
      'being taken out of the workspace',
      ({ person, workspace }) =>
        sql('delete from members where person_id = $1 and workspace_id = $2', [person, workspace]),
    ],
  ])(
    'ends after %s, and nothing more is told on it',
    async (_how, withdraw) => {
      const { workspace, person, plan } = await gardener();
      const { cookie, id: session } = await sessionFor(person.id, workspace);
      const stays = await newPerson();
      await addMember(workspace, stays.id, 'owner');
      const other = await sessionFor(stays.id, workspace);
      const { heard } = listen(plan, { cookie });
      expect(await until(() => heard.text.includes('event: presence'), 30_000)).toBe(true);
      await withdraw({ session, person: person.id, workspace, cookie });
      // Access is remembered for a moment; after it nothing is told, whatever happens meanwhile.
      const ended = until(() => heard.ended, 20_000);
      await ended;
      const before = heard.text;
      const present = { client: 'c', author: 'x', selection: '', view: 'package', left: false };
      expect(
        (await send('POST', `/api/plans/${plan}/presence`, { cookie: other.cookie }, present)).status,
      ).toBe(200);
      await later(300);
      expect([heard.ended, heard.text]).toEqual([true, before]);
    },
    60_000,
  );

  test('goes on for whoever may see it', async () => {
    const { workspace, person, plan } = await gardener();
    const { cookie } = await sessionFor(person.id, workspace);
    const { heard } = listen(plan, { cookie });
    expect(await until(() => heard.text.includes('event: presence'), 30_000)).toBe(true);
    const first = heard.text.length;
    await later(3000);
    await send(
      'POST',
      `/api/plans/${plan}/presence`,
      { cookie },
      { client: 'c', author: 'x', selection: 'n', view: 'package', left: false },
    );
    expect(await until(() => heard.text.length > first, 30_000)).toBe(true);
    expect(heard.ended).toBe(false);
  }, 90_000);
});

test('access tokens and other sessions end with a change of the password', async () => {
  const { workspace, person } = await gardener();
  const here = await sessionFor(person.id, workspace);
  const there = await sessionFor(person.id, workspace);
  const token = `mvk_${newSecret()}`;
  await sql(
    `insert into tokens (id, digest, person_id, workspace_id, name, scope, expires_at)
     values ($1, $2, $3, $4, 'build', 'read', now() + interval '1 day')`,
    [newId(), digestOf(token), person.id, workspace],
  );
  const read = async (headers: Record<string, string>) => (await send('GET', '/api/plans', headers)).status;
  expect(await read({ authorization: `Bearer ${token}` })).toBe(200);
  const changed = await send(
    'PUT',
    '/api/account/password',
    { cookie: here.cookie },
    {
      now: PASSWORD,
      next: 'copper kettles whistle past tea',
    },
  );
  expect(changed.status).toBe(200);
  expect(await read({ authorization: `Bearer ${token}` })).toBe(401);
  expect(await read({ cookie: there.cookie })).toBe(401);
  expect(await read({ cookie: here.cookie })).toBe(200);
}, 60_000);

test.each([
  ['123456789012', 'only digits'],
  ['135791357913', 'only digits'],
  ['qwertyuiop123', 'guessed'],
  ['Password1234!', 'more than a name'],
  ['Passw0rd4321!', 'guessed'],
  ['iloveyou12345', 'guessed'],
  ['abcdefghijklmn', 'guessed'],
  ['aaaabbbbccccdddd', 'repeats'],
])(
  '%s is refused as a password',
  async (next, why) => {
    const { workspace, person } = await gardener();
    const { cookie } = await sessionFor(person.id, workspace);
    const changed = await send('PUT', '/api/account/password', { cookie }, { now: PASSWORD, next });
    expect([changed.status, (await changed.json()).problems[0].message]).toEqual([
      400,
      expect.stringContaining(why),
    ]);
  },
  60_000,
);

test('the address, and words made of it, are refused as a password', async () => {
  const { workspace, person } = await gardener();
  const { cookie } = await sessionFor(person.id, workspace);
  for (const next of [person.email, `${person.email}!`, person.email.split('@')[0] ?? ''])
    expect((await send('PUT', '/api/account/password', { cookie }, { now: PASSWORD, next })).status).toBe(
      400,
    );
}, 60_000);

const signIn = (email: string, password: string, from: string, cookie = '') =>
  send(
    'POST',
    '/api/sign-in',
    { 'x-forwarded-for': from, ...(cookie ? { cookie } : {}) },
    { email, password },
  );

describe('wrong guesses by somebody else', () => {
  test('do not lock the owner out of the browser they use; they lock out strangers', async () => {
    const { person } = await gardener();
    const first = await signIn(person.email, PASSWORD, machine());
    const device = /mavrek-device=[^;]+/.exec(first.headers.get('set-cookie') ?? '')?.[0] ?? '';
    expect(device).toMatch(/^mavrek-device=[\w-]{40,}$/);
    for (let tries = 0; tries < 12; tries++) await signIn(person.email, 'wrong guess', machine());
    expect((await signIn(person.email, PASSWORD, machine())).status).toBe(429);
    const own = await signIn(person.email, PASSWORD, machine(), device);
    expect([own.status, (await own.json()).id]).toEqual([200, person.id]);
    // The cookie of somebody else's browser is of no use, nor one that was made up.
    const foreign = await gardener();
    const theirs = await signIn(foreign.person.email, PASSWORD, machine());
    const other = /mavrek-device=[^;]+/.exec(theirs.headers.get('set-cookie') ?? '')?.[0] ?? '';
    for (const cookie of [other, `mavrek-device=${newSecret()}`])
      expect((await signIn(person.email, PASSWORD, machine(), cookie)).status).toBe(429);
    // At a known browser, too, one may not guess without end.
    for (let tries = 0; tries < 12; tries++) await signIn(person.email, 'wrong guess', machine(), device);
    expect((await signIn(person.email, PASSWORD, machine(), device)).status).toBe(429);
  }, 120_000);

  test('from the same address do not, either', async () => {
    const { person } = await gardener();
    const shared = machine();
    const first = await signIn(person.email, PASSWORD, shared);
    const device = /mavrek-device=[^;]+/.exec(first.headers.get('set-cookie') ?? '')?.[0] ?? '';
    for (let tries = 0; tries < 105; tries++)
      await fetch(served.url('/api/sign-in'), {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-forwarded-for': shared },
        body: '{',
      });
    expect((await signIn('nobody@guard.example', 'x', shared)).status).toBe(429);
    expect((await signIn(person.email, PASSWORD, shared, device)).status).toBe(200);
  }, 120_000);
});

test('where nobody has settled who asks, it is a stranger', () => {
  const shared = globalThis as { mavrekOutside?: unknown };
  shared.mavrekOutside = undefined;
  expect(whoNow()).toMatchObject({ kind: 'nobody', workspace: '', principals: [] });
  everythingIsLocal();
});

test('a refusal costs the same whether there is an account, and whether it has a password: its time tells nothing', async () => {
  const cost = async (emails: string[]): Promise<number> => {
    const before = served.processorTime();
    // Fewer than lock an account.
    for (const email of emails)
      for (let tries = 0; tries < 8; tries++)
        expect((await signIn(email, 'wrong wrong wrong', machine())).status).toBe(200);
    return served.processorTime() - before;
  };
  const known = [(await gardener()).person.email, (await gardener()).person.email];
  const without = [(await newPerson()).email, (await newPerson()).email];
  const nobody = ['nobody1@guard.example', 'nobody2@guard.example'];
  // What is compiled at its first use is no account's doing.
  await cost(['first@guard.example']);
  const usual = await cost(known);
  for (const emails of [nobody, without]) {
    const ratio = (await cost(emails)) / usual;
    expect(ratio).toBeGreaterThan(0.6);
    expect(ratio).toBeLessThan(1.6);
  }
}, 120_000);
