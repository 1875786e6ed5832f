import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { LIMITS } from '@/core/base/limits';
import { newId } from '@/core/base/text/new-id';
import { type Served, serveBuilt, sessionFor } from '@/server/testing/served';
import { freePort } from '@/testing/free-port';
import { share } from '@/testing/random';
import { closeServer } from '../close';
import { API_ACCESS, type Route } from '../people/access';
import { addMember, newPerson } from '../people/testing';
import { MAIN } from '../people/who';

/**
 * No request keeps another one waiting: every route that takes a body × hostile bodies, as an owner and as a stranger, against the
 * built server; the longest turn of its event loop is measured in processor time, so that a busy machine decides nothing.
 */
const MOST_MS = 100;

let served: Served;
let probe = 0;
let owner: Record<string, string> = {};
let plan = '';
const url = (path: string): string => served.url(path);

beforeAll(async () => {
  probe = await freePort();
  const probing = ['--require', resolve('src/testing/turn-probe.cjs')];
  served = await serveBuilt(
    { TURN_PROBE_PORT: String(probe), MAVREK_AUTH: 'on', MAVREK_PROXY: 'on' },
    probing,
  );
  const person = await newPerson('Owner');
  await addMember(MAIN, person.id, 'owner');
  owner = { cookie: (await sessionFor(person.id, MAIN)).cookie };
  const text = readFileSync('examples/frost-guard.plan.json', 'utf8');
  const imported = await ask('POST /api/plans/import', owner, JSON.stringify({ fileName: 'x', text }));
  plan = JSON.parse(imported.text).id;
  // What is compiled and read at its first use is no request's doing.
  await ask('POST /api/sign-in', {}, '{"email":"a@b.example","password":"x"}');
  for (const path of [`/api/plans/${plan}/check`, `/plans/${plan}`, '/api/openapi.json'])
    await fetch(url(path), { headers: owner });
}, 300_000);
afterAll(async () => {
  await served.stop();
  await closeServer();
});

let asked = 0;
/** Each from an address of its own: limits on trying are not what is looked at. */
async function ask(
  name: string,
  headers: Record<string, string>,
  body?: string | Uint8Array,
  path = addressed(name),
): Promise<{ status: number; text: string }> {
  const [method = 'GET'] = name.split(' ');
  asked++;
  try {
    const answer = await fetch(url(path), {
      method,
      redirect: 'manual',
      headers: {
        'content-type': 'application/json',
        'x-forwarded-for': `10.${(asked >> 16) & 255}.${(asked >> 8) & 255}.${asked & 255}`,
        ...headers,
      },
      ...(body === undefined ? {} : { body: body as BodyInit }),
    });
    return { status: answer.status, text: await answer.text() };
  } catch {
    // Cut off while it was still sending.
    return { status: 0, text: '' };
  }
}
const longestTurn = async (): Promise<number> =>
  Number(await (await fetch(`http://127.0.0.1:${probe}`)).text());

const addressed = (name: string): string =>
  (name.split(' ')[1] ?? '')
    .replace('/api/plans/{id}', `/api/plans/${plan}`)
    .replace('{sha256}', '0'.repeat(64))
    .replace('{id}', 'corvane-c40-80')
    .replaceAll(/\{\w+\}/g, '1');

const many = (count: number, piece: string): string => Array.from({ length: count }, () => piece).join(',');
const KEYS = [
  'name',
  'device',
  'package',
  'fileName',
  'text',
  'kind',
  'seq',
  'note',
  'author',
  'subject',
  'client',
  'selection',
  'view',
  'left',
  'plans',
  'circuits',
  'from',
  'circuit',
  'net',
  'revision',
  'verdict',
  'target',
  'expected',
  'corrections',
  'signature',
  'mapping',
  'email',
  'password',
  'key',
  'now',
  'next',
  'scope',
  'days',
  'workspace',
  'role',
  'editId',
  'madeAgainst',
  'edit',
  'profile',
];
const eachKey = (value: string): string => `{${KEYS.map((key) => `"${key}":${value}`).join(',')}}`;

/** What somebody would send to hold the server up. Sizes end below and above every limit. */
const HOSTILE: Record<string, () => string> = {
  'a list of 2 million': () => `[${many(2_000_000, '0')}]`,
  'a list of 20 million bytes of objects': () => `[${many(2_000_000, '{"a":1}')}]`,
  '30,000 objects in each list': () => eachKey(`[${many(700, '{}')}]`),
  'lists just below the limit of values': () => `{"corrections":[${many(29_000, '{}')}],"expected":0}`,
  'many wrong corrections': () =>
    `{"corrections":[${many(1_900, '{"a":1,"b":2,"c":3,"what":[1,2,3]}')}],"expected":0}`,
  '15,000 bytes of small values': () => `{"circuits":[${many(2_900, '1')}],"plans":[]}`,
  '300,000 unknown keys': () => `{${Array.from({ length: 300_000 }, (_, at) => `"k${at}":1`).join(',')}}`,
  'a key of 3 MB': () => `{"${'k'.repeat(3_000_000)}":1}`,
  '5,000 deep': () => `${'['.repeat(5_000)}${']'.repeat(5_000)}`,
  'a million deep': () => '['.repeat(1_000_000),
  'objects 5,000 deep': () => `${'{"edit":'.repeat(5_000)}1${'}'.repeat(5_000)}`,
  'a text of 3.9 MB in one field': () =>
    `{"text":"${'x'.repeat(3_900_000)}","fileName":"x","name":"x","kind":"recipe","expected":0}`,
  'the same as escapes': () =>
    `{"text":"${'\\u0041'.repeat(650_000)}","fileName":"x","name":"x","kind":"recipe","expected":0}`,
  'long texts in each field': () => eachKey(`"${'ä'.repeat(1_500)}"`),
  'a password of spaces': () =>
    `{"email":"a@b.example","password":"${' '.repeat(900)}","key":"x","name":"${'a '.repeat(50)}"}`,
  'brackets inside of a text': () => `{"text":"${'['.repeat(1_000_000)}","fileName":"x"}`,
  'quotes without end': () => `{"text":"${'\\"'.repeat(500_000)}`,
  'a batch of 9,000 steps': () =>
    `{"editId":"${newId()}","client":"c","madeAgainst":0,"edit":{"kind":"batch","label":"x","edits":[${many(9_000, '{"kind":"plan.set","field":"revision","from":"A","to":"A"}')}]}}`,
  'a batch of unknown steps': () =>
    `{"editId":"e","client":"c","madeAgainst":0,"edit":{"kind":"batch","label":"x","edits":[${many(9_000, '{"kind":"x"}')}]}}`,
};
const BODIES = Object.entries(HOSTILE).map(([what, make]) => ({ what, body: make() }));

const taking = Object.keys(API_ACCESS).filter((name) => !name.startsWith('GET ')) as Route[];

test.each([...taking, 'POST /api/nowhere', 'PUT /nowhere', 'DELETE /'])(
  '%s',
  async (name) => {
    await longestTurn();
    const held: [string, string, number][] = [];
    // In a quick run each route gets a fourth of them, and each of them goes to a fourth of the routes.
    for (const { what, body } of share(BODIES, 4, taking.indexOf(name as Route) + 3)) {
      for (const [who, headers] of [
        ['an owner', owner],
        ['a stranger', {}],
      ] as const) {
        // The owner's account stays.
        if (who === 'an owner' && /^DELETE \/api\/(account|plans|devices)|sign-out|sessions/.test(name))
          continue;
        const { status, text } = await ask(name, headers, body);
        expect([what, status, status < 500 || status === 503]).toEqual([what, status, true]);
        // What was saved brings the edits that its author had not seen.
        if (status !== 200) expect(text.length).toBeLessThan(100_000);
        if (status === 400) expect(JSON.parse(text).problems.length).toBeLessThanOrEqual(LIMITS.problems + 1);
        // Caches that others fill, too, make one and the same turn longer or shorter: what is always too long is too long.
        let turn = await longestTurn();
        for (let again = 0; again < 2 && turn > MOST_MS; again++) {
          await ask(name, headers, body);
          turn = Math.min(turn, await longestTurn());
        }
        if (turn > MOST_MS) held.push([what, who, Math.round(turn)]);
      }
    }
    expect(held).toEqual([]);
  },
  600_000,
);

test('the probe sees a turn that is too long', async () => {
  const [own, script] = [
    await freePort(),
    'setTimeout(() => { for (let n = 0; n < 4e9 && process.cpuUsage().user < 5e5; n++); }, 300); setTimeout(() => {}, 60000)',
  ];
  const child = spawn('node', ['--require', resolve('src/testing/turn-probe.cjs'), '-e', script], {
    env: { ...process.env, TURN_PROBE_PORT: String(own) },
  });
  let seen = 0;
  for (let tries = 0; tries < 600 && seen < MOST_MS; tries++) {
    await new Promise((done) => setTimeout(done, 50));
    seen = Math.max(
      seen,
      await fetch(`http://127.0.0.1:${own}`).then(
        async (answer) => Number(await answer.text()),
        () => 0,
      ),
    );
  }
  child.kill('SIGKILL');
  expect(seen).toBeGreaterThan(MOST_MS);
}, 60_000);

test('what is asked by address only', async () => {
  const held: [string, number][] = [];
  await longestTurn();
  const long = 'x'.repeat(7000);
  for (const name of Object.keys(API_ACCESS).filter(
    (one) => one.startsWith('GET ') && !one.endsWith('/events'),
  ))
    for (const query of [
      '',
      `?find=${long}&from=${long}&as=${long}&target=${long}&signature=${long}`,
      `?find=${'%25'.repeat(2000)}`,
    ]) {
      await ask(name, owner, undefined, addressed(name) + query);
      let turn = await longestTurn();
      for (let again = 0; again < 2 && turn > MOST_MS; again++) {
        await ask(name, owner, undefined, addressed(name) + query);
        turn = Math.min(turn, await longestTurn());
      }
      if (turn > MOST_MS) held.push([name + query.slice(0, 20), Math.round(turn)]);
    }
  expect(held).toEqual([]);
}, 300_000);

test('an idle connection outlives that of a proxy: none is closed while a request is on its way', async () => {
  const answer = await fetch(url('/api/health'));
  const seconds = Number(/timeout=(\d+)/.exec(answer.headers.get('keep-alive') ?? '')?.[1]);
  expect(seconds).toBeGreaterThan(60);
});

describe('large and right', () => {
  /** The shortest of three; `work` is told which it is. */
  const within = async (work: (attempt: number) => Promise<unknown>): Promise<void> => {
    let turn = Number.POSITIVE_INFINITY;
    for (let attempt = 0; attempt < 3 && turn > MOST_MS; attempt++) {
      await longestTurn();
      await work(attempt);
      turn = Math.min(turn, await longestTurn());
    }
    expect(turn).toBeLessThan(MOST_MS);
  };

  test('a document of 50 MB is kept and fetched', async () => {
    const content = Buffer.alloc(50_000_000, 'frost');
    content.write('%PDF-1.7 ');
    const path = `/api/documents/${createHash('sha256').update(content).digest('hex')}?name=large.pdf`;
    await within(async () => expect(await ask('PUT', owner, content, path)).toMatchObject({ status: 200 }));
    await within(async () => {
      const answer = await fetch(url(path), { headers: owner });
      expect(Buffer.from(await answer.arrayBuffer()).equals(content)).toBe(true);
    });
  }, 120_000);

  test('a description of some megabytes is read, stored, shown and corrected', async () => {
    const description = JSON.parse((await ask('GET /api/devices/{id}', owner)).text);
    const id = `large-${newId().toLowerCase()}`;
    const more = Object.fromEntries(Array.from({ length: 1500 }, (_, at) => [`n${at}`, 'x'.repeat(3900)]));
    const notes = { ...description.notes, ...more };
    const text = JSON.stringify({ ...description, id, notes });
    await within(() =>
      ask('POST /api/files', owner, JSON.stringify({ kind: 'description', fileName: 'x.json', text })),
    );
    await within(async (attempt) => {
      const body = JSON.stringify({ fileName: 'x.json', text, expected: attempt });
      expect(await ask('POST /api/devices', owner, body)).toMatchObject({ status: 201 });
    });
    for (const path of [`/api/devices/${id}`, `/parts/${id}`, `/api/devices/${id}/export?as=json`])
      await within(async () => expect((await ask('GET', owner, undefined, path)).status).toBe(200));
  }, 120_000);

  test('a batch of thousands of steps is applied', async () => {
    const stepsFrom = (revision: string) => {
      const tag = newId();
      const steps = Array.from({ length: 9_000 }, (_, at) => ({
        kind: 'plan.set',
        field: 'revision',
        from: at === 0 ? revision : `${tag} ${at - 1}`,
        to: `${tag} ${at}`,
      }));
      return { kind: 'batch', label: 'x', edits: steps };
    };
    await within(async () => {
      const { revision } = JSON.parse((await ask('GET /api/plans/{id}', owner)).text).plan;
      const body = JSON.stringify({
        editId: newId(),
        client: 'c',
        madeAgainst: 0,
        edit: stepsFrom(revision),
      });
      const answer = await ask('POST /api/plans/{id}/edits', owner, body);
      expect(answer.status).toBe(200);
    });
  }, 120_000);
});
