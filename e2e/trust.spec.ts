import { connect } from 'node:net';
import { exampleText, expect, importExample, importPlan, netRow, openPlan, test } from './fixtures';

/** What is sent to the running server to get in, to stop it, or to make it lose something. */
const hostOf = (baseURL: string | undefined) => new URL(baseURL ?? '');

/** Sends bytes as no client library would, and reads until the other side closes. */
function raw(base: URL, text: string): Promise<string> {
  return new Promise((resolve) => {
    const socket = connect(Number(base.port), base.hostname);
    let said = '';
    socket.on('data', (data) => {
      said += data;
    });
    socket.on('error', () => undefined);
    socket.on('close', () => resolve(said));
    socket.write(text);
    setTimeout(() => socket.destroy(), 8000);
  });
}

test('a name that was made to point here gets nothing, not even the stream of events', async ({
  baseURL,
}) => {
  const base = hostOf(baseURL);
  for (const path of [
    '/',
    '/api/plans',
    '/api/plans/frost-guard',
    '/api/plans/frost-guard/events',
    '/theme.js',
  ]) {
    const said = await raw(
      base,
      `GET ${path} HTTP/1.1\r\nHost: rebound.example:${base.port}\r\nConnection: close\r\n\r\n`,
    );
    expect([path, said.split('\r\n')[0]]).toEqual([path, 'HTTP/1.1 421 Misdirected Request']);
    expect(said).not.toContain('Frost guard');
  }
});

test('every answer says what a page may do; no script in a page is without the nonce of that page', async ({
  request,
}) => {
  for (const path of [
    '/',
    '/parts',
    '/plans/frost-guard',
    '/nowhere',
    '/api/plans',
    '/api/plans/none',
    '/theme.js',
    '/api/plans/%ff',
  ]) {
    const headers = (await request.get(path)).headers();
    expect([path, headers['x-content-type-options'], headers['referrer-policy']]).toEqual([
      path,
      'nosniff',
      'same-origin',
    ]);
    expect(headers['content-security-policy']).toContain("frame-ancestors 'none'");
  }
  for (const path of ['/', '/parts/corvane-c40-80', '/plans/frost-guard', '/nowhere']) {
    const answer = await request.get(path);
    const nonce = /'nonce-([^']+)'/.exec(answer.headers()['content-security-policy'] ?? '')?.[1];
    for (const [tag] of (await answer.text()).matchAll(/<script[^>]*>/g))
      if (!tag.includes(' src=')) expect(tag).toContain(`nonce="${nonce}"`);
  }
});

test('an address that cannot be read, a body of another kind, another site', async ({ request }) => {
  expect((await request.get('/api/plans/%ff')).status()).toBe(400);
  for (const type of [
    'application/jsonp',
    'text/plain',
    'application/x-www-form-urlencoded',
    'application/json-seq',
  ]) {
    for (const path of ['/api/plans', '/api/plans/frost-guard/edits'])
      expect([
        type,
        path,
        (await request.post(path, { headers: { 'content-type': type }, data: '{}' })).status(),
      ]).toEqual([type, path, 415]);
  }
  const foreign = await request.post('/api/plans', {
    headers: { origin: 'http://evil.example' },
    data: { name: 'x' },
  });
  expect(foreign.status()).toBe(403);
});

test('bodies of 200 MB in pieces are cut off, and the server goes on', async ({ request, baseURL }) => {
  const base = hostOf(baseURL);
  const piece = 'x'.repeat(65_536);
  const chunk = `${piece.length.toString(16)}\r\n${piece}\r\n`;
  const head = `POST /api/plans/import HTTP/1.1\r\nHost: ${base.host}\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n`;
  const answers = await Promise.all(Array.from({ length: 8 }, () => raw(base, head + chunk.repeat(300))));
  for (const said of answers) expect(said === '' || said.startsWith('HTTP/1.1 413')).toBe(true);
  expect((await request.get('/api/health')).status()).toBe(200);
});

test('files made to take for ever are answered, and what is asked meanwhile is answered before', async ({
  request,
}) => {
  const plan = JSON.parse(exampleText('frost-guard.plan.json'));
  const order: string[] = [];
  const heavy = request
    .post('/api/plans/import', {
      data: {
        fileName: 'x.json',
        text: JSON.stringify({ ...plan, nets: Array.from({ length: 280_000 }, () => ({})) }),
      },
    })
    .then((answer) => {
      order.push('heavy');
      return answer.json();
    });
  const light = request.get('/api/plans').then(() => order.push('light'));
  const { id, problems } = await heavy;
  await light;
  expect(id).toBeNull();
  expect(problems.length).toBeLessThanOrEqual(51);
  expect(problems[0].message).toMatch(/70,000 entries/);

  const part = await (await request.get('/api/devices/corvane-c40-80')).json();
  part.id = 'huge-c40';
  part.recipe.registers.blocks.push({
    id: 'ZZ',
    each: 'pad',
    base: '0x60000000 + n * 0x10000',
    registers: [{ id: 'R', offset: '4*i', bits: 32, count: 1024 }],
  });
  const stored = await request.post('/api/devices', {
    data: { fileName: 'huge.json', text: JSON.stringify(part), expected: 0 },
  });
  expect(await stored.json()).toMatchObject({
    id: null,
    problems: [{ message: expect.stringMatching(/at most 65,536 registers/) }],
  });
});

test('edits that would leave a plan that cannot be read back are refused; the file comes back equal', async ({
  request,
}) => {
  const id = await importExample(request);
  const send = async (editId: string, edit: object) =>
    (
      await request.post(`/api/plans/${id}/edits`, { data: { editId, client: 'x', madeAgainst: 0, edit } })
    ).json();
  const { plan } = await (await request.get(`/api/plans/${id}`)).json();
  const [constraint] = plan.constraints;
  const net = plan.nets.find((one: { id: string }) => one.id === constraint.nets[0]);
  expect(await send('a', { kind: 'net.remove', net, at: 0 })).toMatchObject({
    status: 'refused',
    problems: [{ message: expect.stringMatching(/is in a .* constraint with/) }],
  });
  expect(
    await send('b', {
      kind: 'constraint.add',
      constraint: { id: 'x', kind: 'bus', nets: ['gone', net.id] },
      at: 0,
    }),
  ).toMatchObject({ status: 'refused' });
  expect(
    await send('c', {
      kind: 'constraint.add',
      constraint: { id: 'x', kind: 'bus', nets: [net.id, net.id] },
      at: 0,
    }),
  ).toMatchObject({ status: 'refused' });
  const text = await (await request.get(`/api/plans/${id}/file`)).text();
  const again = await request.post('/api/plans/import', { data: { fileName: 'x', text } });
  expect(again.status()).toBe(201);
  const { id: copy } = await again.json();
  expect((await (await request.get(`/api/plans/${copy}`)).json()).plan).toEqual(plan);
});

test('an edit with an unknown kind, key or shape is refused with its place', async ({ request }) => {
  const send = async (edit: unknown) => {
    const answer = await request.post('/api/plans/frost-guard/edits', {
      data: { editId: 'x', client: 'x', madeAgainst: 0, edit },
    });
    return `${answer.status()} ${(await answer.json()).problems?.[0]?.place}`;
  };
  expect(await send({ kind: 'constructor' })).toBe('400 edit');
  expect(await send({ kind: 'net.set', field: '__proto__', id: 'a', from: 1, to: 2 })).toBe('400 edit');
  expect(
    await send({
      kind: 'batch',
      label: 'x',
      edits: [{ kind: 'plan.set', field: 'name', from: 'a', to: '' }],
    }),
  ).toBe('400 edit/edits/0/to');
  expect(await send({ kind: 'net.set', field: 'demands', id: 'a', from: {}, to: { rateHertz: 1e99 } })).toBe(
    '400 edit/to/rateHertz',
  );
});

test('two plans of one name are told apart in title, list and file names', async ({ page, request }) => {
  const plan = { ...JSON.parse(exampleText('frost-guard.plan.json')), name: `Twin ${Date.now()}` };
  const first = await importPlan(request, plan);
  const alone = await request.get(`/api/plans/${first}/file`);
  const second = await importPlan(request, plan);
  const names = await Promise.all(
    [first, second].map(
      async (id) => (await request.get(`/api/plans/${id}/file`)).headers()['content-disposition'],
    ),
  );
  expect(new Set([...names, alone.headers()['content-disposition']]).size).toBe(3);
  await openPlan(page, first);
  expect(await page.title()).toContain(`(${first.slice(0, 4)})`);
  await page.goto('/');
  await expect(
    page
      .getByRole('row')
      .filter({ hasText: plan.name })
      .filter({ hasText: first.slice(0, 4) }),
  ).toHaveCount(1);
  await expect(page.getByText('one of several of this name').first()).toBeVisible();
});

test('words that are not understood are marked where they stand; nothing is added before the line is right', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id);
  const field = page.getByRole('textbox', { name: 'New nets' });
  await field.fill('horn: siren out lwo');
  await expect(page.getByTestId('typed-mark')).toHaveText('lwo');
  await page.keyboard.press('Enter');
  await expect(netRow(page, 'HORN_SIREN')).toHaveCount(0);
  await page.getByRole('button', { name: 'low', exact: true }).click();
  await expect(field).toHaveValue('horn: siren out low');
  await expect(page.getByText('new circuit')).toBeVisible();
  await expect(page.getByTestId('typed-mark')).toHaveCount(0);
  await field.press('Enter');
  await expect(netRow(page, 'HORN_SIREN')).toBeVisible();
  // A selected net's circuit is joined only where the preview says so.
  await field.fill('door in up low');
  await expect(page.getByText('Board · new circuit')).toBeVisible();
  await page.getByRole('checkbox', { name: /join Horn/ }).check();
  await expect(page.getByText('Horn · joins it')).toBeVisible();
});

test('a field keeps what cannot be taken, beside the reason, until it is right or given up', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await netRow(page, 'FAN_3').click();
  const ruledOut = page.getByRole('textbox', { name: 'Pads ruled out' });
  await ruledOut.fill('Z99 K6');
  await ruledOut.press('Tab');
  await expect(ruledOut).toHaveValue('Z99 K6');
  await expect(page.getByText('There is no pad Z99.')).toBeVisible();
  // Also after having looked elsewhere.
  await netRow(page, 'FAN_1').click();
  await expect(ruledOut).toHaveValue('');
  await netRow(page, 'FAN_3').click();
  await expect(ruledOut).toHaveValue('Z99 K6');
  await ruledOut.press('Escape');
  await expect(ruledOut).toHaveValue('');
  const rate = page.getByRole('textbox', { name: 'Rate' });
  await rate.fill('1e99');
  await rate.press('Enter');
  await expect(rate).toHaveValue('1e99');
  await expect(page.getByText(/No more than/)).toBeVisible();
});

test('a label is one text, at the net, at the pad and in the board view', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id, '?net=fan-3');
  await netRow(page, 'FAN_3').click();
  const label = page.getByRole('textbox', { name: 'Label on the board' });
  await label.fill('J7-2');
  await label.press('Enter');
  await page.keyboard.press('b');
  await expect(page.getByRole('textbox', { name: 'label beside E13' })).toHaveValue('J7-2');
  const { plan } = await (await request.get(`/api/plans/${id}`)).json();
  expect(plan.tables.label.E13).toBe('J7-2');
});

test('panes fold and stay folded; a narrow window leads to every edge', async ({ page, request }) => {
  const id = await importExample(request);
  await page.setViewportSize({ width: 760, height: 800 });
  await openPlan(page, id);
  // There is no room for the inspector at first.
  await expect(page.getByRole('button', { name: 'Pane of the inspector' })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  await page
    .getByRole('navigation', { name: 'Edges of the package' })
    .getByRole('button', { name: 'Top' })
    .click();
  await expect(page.locator('[data-pin="76"]')).toBeInViewport();
  await page.getByRole('button', { name: 'Pane of the findings' }).click();
  await page.reload();
  await expect(page.getByRole('button', { name: 'Pane of the findings' })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  await expect(page.getByRole('button', { name: /pins are proven/ })).toBeVisible();
});
