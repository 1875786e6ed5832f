import {
  copyPart,
  emptyPlan,
  exampleText,
  expect,
  expectAccessible,
  importPlan,
  netRow,
  test,
} from './fixtures';

test('the list of parts leads to the page of a part, and each of its tabs is right and accessible', async ({
  page,
}) => {
  test.slow();
  await page.goto('/');
  await page.getByRole('link', { name: 'Parts' }).click();
  await expect(page.getByRole('row', { name: /Velm V3-80/ })).toContainText('quad 100');
  await expectAccessible(page);
  await page.getByRole('link', { name: 'Pellin P8-22' }).click();
  await expect(page.getByRole('heading', { name: 'Pellin P8-22' })).toBeVisible();

  await expect(
    page.getByText('takes away: note 5: the 14-pin package does not bring UART1.TX'),
  ).toBeVisible();
  await page.getByLabel('Filter the pads').fill('LOADER');
  await expect(page.getByRole('status').filter({ hasText: '1 of 27 pads' })).toBeVisible();
  await expect(page.getByRole('table', { name: 'Pads' })).toContainText(
    'held low at reset starts the serial loader',
  );
  await expect(page.getByRole('table', { name: 'Pads' })).toContainText('pellin-p8/pinout.csv, row 12');
  await expectAccessible(page);

  const tab = (name: string) =>
    page.getByRole('navigation', { name: 'About the part' }).getByRole('link', { name });
  await tab('Functions').click();
  await page.getByRole('radio', { name: 'dual row 14' }).click();
  await expect(page.getByRole('gridcell', { name: /K6, code 1.*note 5/ })).toBeVisible();
  await expectAccessible(page);

  await tab('Peripherals').click();
  await expect(page.getByRole('row', { name: /^CNT1/ })).toContainText('none');
  await expectAccessible(page);

  await tab('Registers').click();
  const registers = page.getByRole('table', { name: 'Registers' });
  await page.getByLabel('Filter the registers').fill('PL.FL');
  await expect(registers.getByRole('row', { name: /^PL\.FL/ })).toHaveText(/PL\.FL.*0x0B.*11.*0x002B.*43/);
  for (const head of ['I/O space, hex', 'I/O space, dec', 'memory space, hex', 'memory space, dec'])
    await expect(registers.getByRole('columnheader', { name: head })).toBeVisible();
  await page.getByLabel('Filter the registers').fill('0x2B');
  await expect(registers.getByRole('row')).toHaveCount(2);
  await expectAccessible(page);

  await tab('Recipe').click();
  await page.getByLabel('pad', { exact: true }).selectOption('K1');
  await page.getByRole('radio', { name: 'output' }).click();
  await page.getByRole('radio', { name: 'high' }).click();
  await expect(page.getByTestId('reads-back')).toHaveText(
    'reads back as output, initial level high: the same',
  );
  await page.getByLabel('Value of PK.DR').fill('0');
  await expect(page.getByTestId('reads-back')).toContainText('these values mean input, pull up');
  await page.getByLabel('Value of PK.QT').fill('0x02');
  await expect(page.getByTestId('reads-back')).toContainText('nothing: no setting gives these bits');
  await expectAccessible(page);

  await tab('Plans').click();
  await expect(page.getByRole('heading', { name: 'Descriptions it has had' })).toBeVisible();
  await expectAccessible(page);
});

test('a part is taken away as tables, JSON and register description', async ({ request }) => {
  const get = async (as: string) => request.get(`/api/devices/velm-v3-80/export?as=${as}`);
  const svd = await get('svd');
  expect(svd.headers()['content-disposition']).toBe('attachment; filename="velm-v3-80.svd"');
  expect(await svd.text()).toContain('<name>velm-v3-80</name>');
  expect(await (await get('json')).json()).toMatchObject({ format: 'mavrek-device/3', id: 'velm-v3-80' });
  expect((await (await get('tables')).body()).subarray(0, 2).toString()).toBe('PK');
  expect((await get('pdf')).status()).toBe(400);
  expect((await request.get('/api/devices/nobody/export?as=json')).status()).toBe(404);
});

test('a correction: the original stays visible, the plan says what changes and takes it over, undo included', async ({
  page,
  request,
}) => {
  test.slow();
  const part = await copyPart(request, 'corrected-c1');
  const plan = JSON.parse(exampleText('frost-guard.plan.json'));
  const id = await importPlan(request, { ...plan, device: part, name: 'Corrected board' });
  const fingerprint = (await (await request.get('/api/devices')).json()).devices.find(
    (one: { id: string }) => one.id === part,
  ).fingerprint;
  await request.post(`/api/plans/${id}/edits`, {
    data: {
      editId: 'adopt',
      client: 'e2e',
      madeAgainst: 0,
      edit: { kind: 'plan.set', field: 'deviceFingerprint', from: plan.deviceFingerprint, to: fingerprint },
    },
  });

  await page.goto(`/plans/${id}?view=package&select=pad:D4`);
  await page.getByRole('link', { name: 'correct a datum' }).click();
  await expect(page.getByRole('heading', { name: 'Correct a datum' })).toBeVisible();
  await page.getByLabel('what').selectOption('function');
  await page.getByLabel('pad', { exact: true }).fill('D4');
  await page.getByLabel('signal', { exact: true }).fill('UART1.TX');
  await expect(page.getByText('The description says 2.')).toBeVisible();
  await page.getByLabel(/^right is/).fill('two');
  await page.getByLabel('why', { exact: true }).fill('erratum 2.3');
  await page.getByRole('button', { name: 'Correct' }).click();
  await expect(page.getByRole('main').getByRole('alert')).toHaveText('"two" is no mux code');
  await page.getByLabel(/^right is/).fill('9');
  await page.getByRole('button', { name: 'Correct' }).click();
  const row = page.getByRole('row', { name: /UART1\.TX on D4/ });
  await expect(row).toContainText('erratum 2.3');
  await expect(row.locator('s')).toHaveText('2');
  await expectAccessible(page);

  await page.goto(`/plans/${id}?view=package&select=pad:D4`);
  await expect(
    page.getByText(/has changed since this plan was made; the plan still uses its own/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'See what that changes' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('function added: UART1.TX on D4 (code 9)');
  await expect(dialog).toContainText('MAST_TX mux code: 2 → 9');
  await expect(dialog).toContainText('PD.FN1 0x06000202 → 0x06000209');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Take it over' }).click();
  await expect(page.getByText(/has changed since this plan was made/)).toBeHidden();
  await page.getByRole('region', { name: 'Inspector' }).getByText('corrected').waitFor();
  await expect(page.getByRole('region', { name: 'Inspector' })).toContainText(
    'UART1.TX on D4: 2 9 (erratum 2.3',
  );
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/has changed since this plan was made/)).toBeVisible();

  // Withdrawn, all is as before.
  await page.goto(`/parts/${part}?tab=corrections`);
  await page.getByRole('button', { name: 'withdraw' }).click();
  await expect(page.getByText('None yet: everything is as the documents have it.')).toBeVisible();
});

test('change of package and part: what stays, moves and breaks, then one step that undo takes back', async ({
  page,
  request,
}) => {
  test.slow();
  const id = await importPlan(request, {
    ...JSON.parse(exampleText('frost-guard.plan.json')),
    name: 'Smaller board',
  });
  await page.goto(`/plans/${id}?view=package`);
  await page.getByRole('button', { name: /Corvane C40-80 · quad 100/ }).click();
  const dialog = page.getByRole('dialog', { name: 'Change package or part' });
  await dialog.getByRole('radio', { name: 'quad 64, 0.5 mm' }).click();
  await expect(dialog.getByTestId('carry-counts')).toHaveText(/\d+ stay, 0 move, \d+ break · findings/);
  await expect(dialog.getByRole('row', { name: /FAN_2/ })).toContainText('E12 is not bonded in quad 64');
  await expectAccessible(page);
  await dialog.getByRole('radio', { name: 'signal', exact: true }).click();
  await expect(dialog.getByTestId('carry-counts')).not.toHaveText(/ 0 move/);
  await dialog.getByRole('button', { name: 'Change' }).click();
  await expect(page.getByRole('button', { name: /Corvane C40-80 · quad 64/ })).toBeVisible();
  await expect(page.getByRole('listbox', { name: 'Pins of quad 64, 0.5 mm' })).toBeVisible();

  await page.getByRole('button', { name: /Corvane C40-80 · quad 64/ }).click();
  await page.getByRole('dialog').getByLabel('Part').selectOption('velm-v3-80');
  await expect(page.getByRole('dialog').getByTestId('carry-counts')).toHaveText(/stay.*move.*break/);
  await page.getByRole('dialog').getByRole('button', { name: 'Change' }).click();
  await expect(page.getByRole('button', { name: /Velm V3-80 · quad 64/ })).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /Corvane C40-80 · quad 100/ })).toBeVisible();
  await expect(netRow(page, 'FAN_2')).toContainText('E12');
});

test('a part without a recipe: nets are placed, code is not to be had, and it says so', async ({
  page,
  request,
}) => {
  const description = await (await request.get('/api/devices/pellin-p8-22')).json();
  const { ports } = description.recipe;
  const bare = {
    ...description,
    id: 'bare-p8',
    name: 'Bare P8',
    recipe: {
      ...description.recipe,
      ports,
      registers: { blocks: [] },
      fields: {},
      access: {},
      encode: [],
      stages: [],
    },
  };
  const stored = await request.post('/api/devices', {
    data: { fileName: 'bare.json', text: JSON.stringify(bare), expected: 0 },
  });
  expect(await stored.json()).toMatchObject({ id: 'bare-p8' });
  const plan = await request.post('/api/plans', {
    data: { name: 'Bare', device: 'bare-p8', package: 'd28' },
  });
  const { id } = await plan.json();
  await page.goto(`/plans/${id}`);
  await page.getByRole('textbox', { name: 'New nets' }).fill('lamp out low');
  await page.keyboard.press('Enter');
  await page.getByRole('listbox', { name: 'Nets' }).getByRole('option', { selected: true }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Findings' })).toContainText(
    'Bare P8 has no recipe yet, so no code can be made',
  );
  await page.goto('/parts/bare-p8?tab=registers');
  await page.getByRole('link', { name: 'Attach a recipe' }).click();
  await expect(page.getByRole('heading', { name: 'Attach a recipe' })).toBeVisible();
});

test('a part that plans use is not removed; one that none uses is', async ({ page, request }) => {
  const used = await copyPart(request, 'used-c1');
  const other = await copyPart(request, 'unused-c1');
  await request.post('/api/plans', { data: { name: 'Uses it', device: used, package: 'q64' } });
  await page.goto(`/parts/${used}`);
  await expect(page.getByRole('heading', { name: 'Copy used-c1' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'remove' })).toBeHidden();
  expect((await request.delete(`/api/devices/${used}`)).status()).toBe(409);
  await page.goto(`/parts/${other}`);
  await page.getByRole('button', { name: 'remove' }).click();
  await expect(page).toHaveURL(/\/parts$/);
  await expect(page.getByText('Copy unused-c1')).toBeHidden();
});

test('the HTTP interface refuses what is wrong in a description, and says where', async ({ request }) => {
  const post = async (text: string, expected = 0) =>
    (await request.post('/api/devices', { data: { fileName: 'x.json', text, expected } })).json();
  expect(await post('{')).toMatchObject({
    id: null,
    problems: [{ place: /x\.json:1:2/.exec('x.json:1:2')?.[0] }],
  });
  const description = await (await request.get('/api/devices/pellin-p8-22')).json();
  const broken = { ...description, id: 'broken-p8', pads: description.pads.slice(1) };
  const answer = await post(JSON.stringify(broken, null, 2));
  expect(answer.id).toBeNull();
  expect(answer.problems[0].place).toMatch(/^x\.json:\d+:\d+$/);
  expect(answer.problems[0].message).toBe('there is no pad VDD');
  expect((await request.get('/api/devices/broken-p8')).status()).toBe(404);
  const stale = await request.post('/api/devices', {
    data: { fileName: 'x.json', text: JSON.stringify(description), expected: 99 },
  });
  expect(stale.status()).toBe(409);
  const evil = await request.put('/api/devices/pellin-p8-22/corrections', {
    data: {
      expected: 1,
      corrections: [{ id: 'x', what: ['pad'], from: null, to: null, why: '', who: '', when: '' }],
    },
  });
  expect(evil.status()).toBe(400);
});

test('the plan keeps its part in the find field and header, and a plan of an unknown description says so', async ({
  page,
  request,
}) => {
  const plan = { ...JSON.parse(exampleText('frost-guard.plan.json')), deviceFingerprint: 'feedfacefeedface' };
  const id = await importPlan(request, plan);
  await page.goto(`/plans/${id}`);
  await expect(
    page.getByText(/was made against a description of the Corvane C40-80 that is not here/),
  ).toBeVisible();
  await page.getByRole('button', { name: "Keep to today's" }).click();
  await expect(page.getByText(/that is not here/)).toBeHidden();
  await emptyPlan(request, 'Other');
});
