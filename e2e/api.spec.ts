import { emptyPlan, expect, importExample, test } from './fixtures';

/** The HTTP interface as other programs use it. */

interface Event {
  seq: number;
  editId: string;
}

/** Reads server-sent events until `count` edits have come. */
async function readEvents(url: string, count: number): Promise<Event[]> {
  const stop = new AbortController();
  const answer = await fetch(url, { signal: stop.signal });
  const events: Event[] = [];
  let rest = '';
  const decoder = new TextDecoder();
  for await (const chunk of answer.body as unknown as AsyncIterable<Uint8Array>) {
    rest += decoder.decode(chunk, { stream: true });
    const blocks = rest.split('\n\n');
    rest = blocks.pop() ?? '';
    for (const block of blocks) {
      const data = /^data: (.*)$/m.exec(block)?.[1];
      // Events with a name are about comments and people.
      if (data !== undefined && !/^event: /m.test(block)) events.push(JSON.parse(data));
    }
    if (events.length >= count) break;
  }
  stop.abort();
  return events;
}

const rename = (from: string, to: string) => ({ kind: 'plan.set', field: 'revision', from, to });

test('edits are numbered, told live in order, and told again from any number on', async ({
  request,
  baseURL,
}) => {
  const id = await emptyPlan(request, 'Told');
  const live = readEvents(`${baseURL}/api/plans/${id}/events?after=0`, 3);
  for (const [index, [from, to]] of [
    ['A', 'B'],
    ['B', 'C'],
    ['C', 'D'],
  ].entries()) {
    const answer = await request.post(`/api/plans/${id}/edits`, {
      data: {
        editId: `e${index}`,
        client: 'api',
        madeAgainst: index,
        edit: rename(from as string, to as string),
      },
    });
    expect(await answer.json()).toMatchObject({
      status: 'saved',
      seq: index + 1,
      edits: [{ seq: index + 1 }],
    });
  }
  expect((await live).map((event) => event.seq)).toEqual([1, 2, 3]);
  const later = await readEvents(`${baseURL}/api/plans/${id}/events?after=2`, 1);
  expect(later.map((event) => event.editId)).toEqual(['e2']);
});

test('an edit against what is no longer so is refused with the reason, and the edits that were missed', async ({
  request,
}) => {
  const id = await emptyPlan(request, 'Raced');
  const post = (editId: string, from: string, to: string) =>
    request.post(`/api/plans/${id}/edits`, {
      data: { editId, client: 'api', madeAgainst: 0, edit: rename(from, to) },
    });
  await post('first', 'A', 'B');
  const answer = await (await post('second', 'A', 'C')).json();
  expect(answer).toMatchObject({
    status: 'refused',
    problems: [{ message: 'the plan: revision was changed meanwhile (now B)' }],
    edits: [{ seq: 1, editId: 'first' }],
  });
});

test('parts are listed and described, and the description is cached by its fingerprint', async ({
  request,
}) => {
  const { devices } = await (await request.get('/api/devices')).json();
  expect(devices.map((device: { id: string }) => device.id)).toContain('corvane-c40-80');
  const first = await request.get('/api/devices/corvane-c40-80');
  expect((await first.json()).format).toBe('mavrek-device/3');
  const etag = first.headers().etag ?? '';
  const part = devices.find((one: { id: string }) => one.id === 'corvane-c40-80');
  // Comments can change while what they are about does not.
  expect(etag).toMatch(new RegExp(`^"mavrek-device-3-${part.fingerprint}-\\d{20}"$`));
  expect(
    (await request.get('/api/devices/corvane-c40-80', { headers: { 'if-none-match': etag } })).status(),
  ).toBe(304);
  expect((await request.get('/api/devices/nobody-n1')).status()).toBe(404);
});

test('an export is recorded for the state it was made of, and for no other', async ({ request }) => {
  const id = await importExample(request);
  const record = (seq: number, target = 'c') =>
    request.post(`/api/plans/${id}/exports`, { data: { seq, target } });
  expect((await record(7)).status()).toBe(409);
  expect((await record(0, 'cobol')).status()).toBe(400);
  expect((await record(0)).status()).toBe(201);
  const { last } = await (await request.get(`/api/plans/${id}/exports?target=c`)).json();
  expect(last).toMatchObject({
    seq: 0,
    target: 'c',
    files: [{ path: 'frost_guard.h' }, { path: 'frost_guard.c' }],
  });
});

test('a new plan needs a name that can be printed, a part and a package that exist', async ({ request }) => {
  const create = async (data: object) => {
    const answer = await request.post('/api/plans', { data });
    return `${answer.status()} ${(await answer.json()).problems?.[0]?.message ?? ''}`;
  };
  const good = { name: 'x', device: 'corvane-c40-80', package: 'q100' };
  expect(await create({ ...good, name: '' })).toBe('400 a plan needs a name');
  expect(await create({ ...good, name: '   ' })).toMatch(/^400 the name holds/);
  expect(await create({ ...good, name: 'x'.repeat(121) })).toBe('400 the name is longer than 120 characters');
  expect(await create({ ...good, device: 'nobody-n1' })).toBe('400 there is no part "nobody-n1" here');
  expect(await create({ ...good, package: 'q1' })).toMatch(/^400 Corvane C40-80 has no package "q1"/);
  expect(await create({ ...good, package: 7 })).toMatch(/^400 package must be a `string`/);
  expect(await create(good)).toMatch(/^201/);
});

test('plans that are not there are 404 for every request', async ({ request }) => {
  for (const path of ['', '/file', '/events', '/exports']) {
    expect([path, (await request.get(`/api/plans/none${path}`)).status()]).toEqual([path, 404]);
  }
  for (const path of ['/duplicate', '/restore'])
    expect((await request.post(`/api/plans/none${path}`, { data: {} })).status()).toBe(404);
  expect((await request.delete('/api/plans/none')).status()).toBe(404);
});

test('the columns of a table are remembered by its headings, and by nothing else', async ({ request }) => {
  const signature = `pinout:pad|kind|${Date.now()}`;
  const get = async () =>
    (await request.get(`/api/mappings?signature=${encodeURIComponent(signature)}`)).json();
  expect(await get()).toEqual({ mapping: null });
  const mapping = { headerRow: 0, roles: ['pad', 'kind', 'pin:q8'] };
  expect((await request.put('/api/mappings', { data: { signature, mapping } })).status()).toBe(200);
  expect(await get()).toEqual({ mapping });
  for (const bad of [
    { signature, mapping: { headerRow: 0.5, roles: ['pad'] } },
    { signature, mapping: { headerRow: 0, roles: [], extra: 1 } },
    { signature: '', mapping },
    { signature, mapping: 'pad' },
  ])
    expect((await request.put('/api/mappings', { data: bad })).status()).toBe(400);
  expect(await get()).toEqual({ mapping });
});

test('parts: stored once, replaced by revision only, corrected, exported, and removed', async ({
  request,
}) => {
  const description = await (await request.get('/api/devices/pellin-p8-22')).json();
  const own = { ...description, id: 'api-p8', name: 'By HTTP' };
  const post = async (change: object, expected: number) => {
    const text = JSON.stringify({ ...own, ...change });
    const answer = await request.post('/api/devices', { data: { fileName: 'own.json', text, expected } });
    return { status: answer.status(), ...(await answer.json()) };
  };
  expect(await post({}, 0)).toMatchObject({ status: 201, id: 'api-p8', revision: 1 });
  expect(await post({}, 0)).toMatchObject({ status: 409 });
  expect(await post({ summary: 'second' }, 1)).toMatchObject({ status: 201, revision: 2 });
  expect(await post({ recipe: { ...own.recipe, fields: {} } }, 2)).toMatchObject({ status: 200, id: null });
  expect(await (await request.get('/api/devices/api-p8')).json()).toMatchObject({ summary: 'second' });

  const correction = {
    id: 'c1',
    what: ['pad', 'K0', 'alias'],
    from: null,
    to: 'FIRST',
    why: 'silk screen',
    who: 'R. Lind',
    when: '2026-11-25T08:00:00Z',
  };
  const put = async (corrections: object[], expected: number) => {
    const answer = await request.put('/api/devices/api-p8/corrections', { data: { corrections, expected } });
    return { status: answer.status(), ...(await answer.json()) };
  };
  expect(await put([correction], 2)).toMatchObject({ status: 200, revision: 3 });
  expect(await put([correction], 2)).toMatchObject({ status: 409 });
  expect(await put([{ ...correction, why: '' }], 3)).toMatchObject({ status: 400 });
  expect(
    (
      await request.put('/api/devices/nobody/corrections', { data: { corrections: [], expected: 1 } })
    ).status(),
  ).toBe(404);

  const exported = await (await request.get('/api/devices/api-p8/export?as=json')).json();
  expect(exported.corrections).toEqual([correction]);
  expect(exported.pads.find((pad: { id: string }) => pad.id === 'K0').aliases).toBeUndefined();
  expect(await (await request.get('/api/devices/api-p8/export?as=corrections')).json()).toEqual([correction]);
  const { devices } = await (await request.get('/api/devices')).json();
  const listed = devices.find((one: { id: string }) => one.id === 'api-p8');
  expect(listed).toMatchObject({ corrections: 1, plans: 0, shipped: false, revision: 3 });

  // The description it had before is still to be had under its fingerprint.
  const first = devices.find((one: { id: string }) => one.id === 'pellin-p8-22').fingerprint;
  expect((await request.get(`/api/devices/pellin-p8-22?fingerprint=${first}`)).status()).toBe(200);
  expect((await request.delete('/api/devices/api-p8')).status()).toBe(200);
  expect((await request.get('/api/devices/api-p8')).status()).toBe(404);
  expect((await request.delete('/api/devices/api-p8')).status()).toBe(404);
});
