import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import Ajv2020 from 'ajv/dist/2020';
import { exampleText } from './fixtures';
import { ask, closeDb, newSomebody, newWorkspace, planOf, tokenOf } from './people';
import { PEOPLE } from './people-server';

test.afterAll(closeDb);
test.setTimeout(120_000);

type Described = Record<
  string,
  Record<string, { responses: Record<string, { content?: Record<string, { schema?: object }> }> }>
>;

/** Nothing but what is described: plans, edits and parts say so themselves. */
function closed(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(closed);
  if (typeof value !== 'object' || value === null) return value;
  const copy = Object.fromEntries(
    Object.entries(value).map(([key, one]) => [
      key,
      /^(Plan|Edit|Part|Recipe)(_|$)/.test(key) ? one : closed(one),
    ]),
  );
  return copy.type === 'object' && copy.properties && copy.additionalProperties === undefined
    ? { ...copy, additionalProperties: false }
    : copy;
}

test('answers are what the description says that they are, and hold nothing else', async () => {
  const api = closed(await (await fetch(`${PEOPLE.url}/api/openapi.json`)).json()) as { paths: Described };
  const ajv = new Ajv2020({ strict: false, formats: { 'date-time': true, binary: true } });
  ajv.addSchema({ $id: 'api', ...api });
  const held = new Set<string>();
  const hold = (name: string, status: number, body: unknown): void => {
    const [method = '', path = ''] = name.split(' ');
    const escaped = path
      .replaceAll('~', '~0')
      .replaceAll('/', '~1')
      .replaceAll('{', '%7B')
      .replaceAll('}', '%7D');
    const pointer = `api#/paths/${escaped}/${method.toLowerCase()}/responses/${status}/content/application~1json/schema`;
    const valid = ajv.compile({ $ref: pointer });
    valid(body);
    expect([name, status, valid.errors ?? []]).toEqual([name, status, []]);
    held.add(name);
  };

  const workspace = await newWorkspace();
  const owner = await newSomebody(workspace, 'owner');
  await newSomebody(workspace, 'reviewer');
  await tokenOf(owner, workspace, 'read');
  const plan = await planOf(owner);
  const other = await planOf(owner);
  const at = (name: string): string =>
    name
      .replace('{id}', name.includes('/devices') ? 'corvane-c40-80' : plan)
      .replace('{seq}', '0')
      .replace('{name}', 'C');
  const post = async (name: string, body: unknown, path = at(name)) => {
    const answer = await ask(path, owner.headers, body);
    hold(name, answer.status, answer.body);
    return answer.body;
  };
  const edit = { kind: 'plan.set', field: 'name', from: 'Frost guard', to: 'Frost guard two' };
  await post('POST /api/plans/{id}/edits', { editId: 'a', client: 'c', madeAgainst: 0, edit });
  await post('POST /api/plans/{id}/edits', { editId: 'b', client: 'c', madeAgainst: 0, edit });
  await post('POST /api/plans/{id}/revisions', { seq: 1, note: 'first', author: '' });
  const { comment } = (await post('POST /api/plans/{id}/comments', {
    subject: { kind: 'plan' },
    text: 'well',
    author: '',
    answers: null,
  })) as { comment: { id: string } };
  await post(
    'PATCH /api/plans/{id}/comments/{comment}',
    { resolved: true, author: '' },
    `PATCH /api/plans/${plan}/comments/${comment.id}`,
  );
  await post('POST /api/plans/{id}/verdicts', {
    revision: 'C',
    circuit: '',
    verdict: 'approved',
    note: '',
    author: '',
  });
  const taken = (await post('POST /api/plans/{id}/exports', { seq: 1, target: 'c' })) as {
    last: { id: number };
  };
  await post('POST /api/profiles', { name: 'Box', text: exampleText('frost-guard.plan.json') });
  await post('POST /api/invitations', { email: 'ines@guard.example', role: 'editor' });
  await post('POST /api/account/tokens', { name: 'build', scope: 'read', days: 7 });
  await post('POST /api/plans', { name: 'Box', device: 'corvane-c40-80', package: 'q64' });
  await post('POST /api/plans/{id}/check-code', { target: 'c' });
  await post('POST /api/plans/{id}/place', {});
  await post('PUT /api/plans/{id}/variants', { plans: [other], circuits: ['Fans'] });
  const get = async (name: string, path = at(name)): Promise<void> => {
    const answer = await ask(path, owner.headers);
    hold(name, answer.status, answer.body);
  };
  for (const name of [
    'GET /api/plans',
    'GET /api/plans/{id}',
    'GET /api/plans/{id}/namesakes',
    'GET /api/plans/{id}/check',
    'GET /api/plans/{id}/exports',
    'GET /api/plans/{id}/exports/history',
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
    'GET /api/account',
    'GET /api/account/sessions',
    'GET /api/account/tokens',
    'GET /api/members',
    'GET /api/invitations',
    'GET /api/audit',
    'GET /api/health',
    'GET /api/live',
    'GET /api/openapi.json',
  ])
    await get(name);
  await get('GET /api/plans/{id}/exports/{number}', `GET /api/plans/${plan}/exports/${taken.last.id}`);
  await get('GET /api/plans/{id}/code', `GET /api/plans/${plan}/code?target=c&force=1`);
  await get('GET /api/compare', `GET /api/compare?from=${plan}~C&to=${other}`);
  await get('GET /api/mappings', 'GET /api/mappings?signature=x');
  // Where there is something to say: findings, what cannot be placed, differences, variants that do not agree.
  const faulty = (
    (
      await ask('POST /api/plans/import', owner.headers, {
        fileName: 'f.json',
        text: exampleText('frost-guard-faulty.plan.json'),
      })
    ).body as { id: string }
  ).id;
  await get('GET /api/plans/{id}/check', `GET /api/plans/${faulty}/check`);
  await post('POST /api/plans/{id}/place', {}, `POST /api/plans/${faulty}/place`);
  const { nets } = JSON.parse(exampleText('frost-guard.plan.json'));
  const unplaced = {
    kind: 'batch',
    label: 'take off',
    edits: nets.slice(0, 4).map(({ id, placement }: { id: string; placement: object }) => ({
      kind: 'net.set',
      id,
      field: 'placement',
      from: placement,
      to: null,
    })),
  };
  await post(
    'POST /api/plans/{id}/edits',
    { editId: 'c', client: 'c', madeAgainst: 0, edit: unplaced },
    `POST /api/plans/${other}/edits`,
  );
  await post('POST /api/plans/{id}/place', { keep: true, apply: true }, `POST /api/plans/${other}/place`);
  await get('GET /api/compare', `GET /api/compare?from=${faulty}&to=${other}&toPackage=q64`);
  await get('GET /api/compare', `GET /api/compare?from=${faulty}&to=${plan}&target=rust`);
  await post('PUT /api/plans/{id}/variants', { plans: [faulty], circuits: ['Fans', 'Panel'] });
  await get('GET /api/plans/{id}/variants');
  await post('POST /api/plans/{id}/presence', {
    client: 'abc',
    author: '',
    selection: '',
    view: 'package',
    left: false,
  });
  await post('PUT /api/mappings', { signature: 'a|b', mapping: { headerRow: 0, roles: ['pin', 'pad'] } });
  await get('GET /api/mappings', 'GET /api/mappings?signature=a%7Cb');
  await post('POST /api/files', { kind: 'recipe', fileName: 'r.json', text: '{}' });
  await post('POST /api/files', {
    kind: 'recipe',
    fileName: 'recipe.part',
    text: readFileSync('devices/corvane-c40/recipe.part', 'utf8'),
  });
  const part = (await ask('GET /api/devices/corvane-c40-80', owner.headers)).body;
  await post('POST /api/files', { kind: 'description', fileName: 'part.json', text: JSON.stringify(part) });
  // It is one that can say no.
  expect(() => hold('GET /api/plans', 200, { plans: [{ id: 1 }] })).toThrow();
  expect(held.size).toBeGreaterThan(40);
});
