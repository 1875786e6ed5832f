import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import {
  counts,
  exampleText,
  expect,
  expectAccessible,
  finding,
  importExample,
  importPlan,
  inspector,
  netRow,
  openPlan,
  padRow,
  saved,
  test,
} from './fixtures';

const findings = (page: Page) => page.getByRole('list', { name: 'Findings' });

/** The frost guard with a net changed. */
const guardWith = (change: (net: Record<string, unknown> & { name: string }) => void, more = {}): object => {
  const plan = JSON.parse(exampleText('frost-guard.plan.json'));
  for (const net of plan.nets) change(net);
  return { ...plan, ...more };
};
const floating = guardWith((net) => {
  if (net.name === 'RADIO_BUSY') delete net.demands;
});

test('a finding is waived with a reason, stays listed, and is told when it covers nothing', async ({
  page,
  request,
}) => {
  const id = await importPlan(request, floating);
  await openPlan(page, id);
  await expect(counts(page)).toContainText('△ 1');
  await findings(page).getByRole('button', { name: 'floating-input' }).click();
  const section = inspector(page);
  await section.getByRole('textbox', { name: 'Reason' }).fill('the module drives it');
  await section.getByRole('textbox', { name: 'Your name' }).fill('mk');
  await section.getByRole('button', { name: 'Waive' }).click();
  await expect(counts(page)).toContainText('△ 0');
  await expect(findings(page)).toContainText('waived: the module drives it (mk, ');
  await expectAccessible(page, '[aria-label="Inspector"]', '[aria-label="Findings"]');
  await expect(saved(page)).toBeVisible();
  const plan = await (await request.get(`/api/plans/${id}/file`)).json();
  expect(plan.waivers).toMatchObject([
    { rule: 'floating-input', reason: 'the module drives it', author: 'mk' },
  ]);

  await netRow(page, 'RADIO_BUSY').click();
  await section.getByRole('radiogroup', { name: 'pull' }).getByRole('radio', { name: 'up' }).click();
  await expect(findings(page)).toContainText('covers nothing any more');
  await findings(page).getByRole('button', { name: 'take the waiver back' }).click();
  await expect(page.getByText(/^Nothing found/)).toBeVisible();
});

test('a rule weighs what the plan says', async ({ page, request }) => {
  await openPlan(page, await importPlan(request, floating));
  await findings(page).getByRole('button', { name: 'floating-input' }).click();
  const severity = page.getByRole('combobox', { name: 'Severity of floating-input' });
  await severity.selectOption('error');
  await expect(counts(page)).not.toContainText('▲ 0');
  await severity.selectOption('off');
  await expect(page.getByText(/^Nothing found/)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(inspector(page)).toContainText('floating-input is turned off');
  await inspector(page).getByRole('button', { name: 'as usual' }).click();
  await expect(counts(page)).toContainText('△ 1');
});

test('the currents: bars against limits, consumers with their figures', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=power');
  await expect(page.getByRole('img', { name: /VDD sourced .* % of its limit, VDD sunk/ })).toBeVisible();
  const row = page.getByRole('row', { name: /VDD sunk/ });
  await expect(row).toContainText('120 mA');
  const consumers = page.getByRole('region', { name: 'Consumers' });
  await expect(consumers).toContainText('LED: (3.3 V − 2 V) / 220 Ω');
  await consumers.getByRole('button', { name: 'LAMP_RED' }).click();
  await expect(inspector(page).getByRole('textbox', { name: 'Net name' })).toHaveValue('LAMP_RED');
  await expectAccessible(page, '[aria-label="Supplies and package"]', '[aria-label="Consumers"]');
  // Outputs that say nothing are chosen together, and say it at once.
  await page.getByRole('button', { name: '5 outputs' }).click();
  await expect(inspector(page)).toContainText('SENSE_EN, RADIO_CS, RADIO_RESET, MAST_PWR, SET_WP');
  const before = await consumers.getByRole('listitem').count();
  await inspector(page).getByRole('radio', { name: 'current' }).click();
  const current = inspector(page).getByRole('textbox', { name: 'Current' });
  await current.fill('1.5 mA');
  await current.press('Enter');
  await expect(consumers.getByRole('listitem')).toHaveCount(before + 5);
  await expect(consumers.getByRole('listitem').filter({ hasText: 'SET_WP' })).toContainText('1.5 mA');
  await expect(page.getByText('nothing about a load')).toHaveCount(0);
});

test('a netlist is read, each difference settled either way', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=board');
  const plan = await (await request.get(`/api/plans/${id}/file`)).json();
  const schedule = await (await request.get(`/api/plans/${id}/schedule?as=csv`)).text();
  const pinOf = new Map(
    schedule
      .split('\n')
      .slice(1)
      .map((line) => line.split(','))
      .map(([pin, pad]) => [pad, pin] as const),
  );
  const named: Record<string, string> = { FAN_3: 'FAN_4', FAN_4: 'FAN_3', LAMP_RED: 'LAMP_R' };
  const lines = plan.nets
    .filter((net: { name: string }) => net.name !== 'BUZZER')
    .map(
      (net: { name: string; placement: { pad: string } }) =>
        `${named[net.name] ?? net.name},U1,${pinOf.get(net.placement.pad)}`,
    );
  const chooser = page.locator('input[type=file]');
  await chooser.setInputFiles({
    name: 'guard.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      [
        'net,part,pin',
        ...lines,
        ...supplies(schedule, '1'),
        'FAN_1,R1,1',
        'VDD,R1,2',
        'VSS,R2,1',
        'VDA,R2,2',
        'VSA,R3,1',
        'VDR,R3,2',
        'VRF,R4,1',
      ].join('\n'),
    ),
  });
  await expect(page.getByText(/guard\.csv, U1, \d+ pins/)).toBeVisible();
  for (const words of ['U1-81 is FAN_4, the plan says E13 is', 'U1-82 is FAN_3, the plan says E14 is'])
    await expect(finding(page, 'schematic-differs', words)).toBeVisible();
  await expect(finding(page, 'supply-open', 'U1-1 (')).toBeVisible();
  await expectAccessible(page, 'table');
  await page
    .getByRole('table')
    .first()
    .getByRole('button', { name: 'the schematic is to change: U1-1 is VDD' })
    .click();
  await expect(finding(page, 'supply-open', 'U1-1 (')).toHaveCount(0);
  const view = page.getByRole('table').first();
  await view.getByRole('button', { name: 'FAN_4 to E13, FAN_3 to E14' }).click();
  await expect(finding(page, 'schematic-differs', 'FAN_3')).toHaveCount(0);
  await expect(padRow(page, 'E13')).toHaveCount(0);
  await view.getByRole('button', { name: /schedule|schematic is to change: U1-8 is LAMP_RED/ }).click();
  await view.getByRole('button', { name: /schematic is to change: U1-96 is BUZZER/ }).click();
  await expect(page.getByText('Schematic and plan agree on every I/O pin.')).toBeVisible();
  await expect(saved(page)).toBeVisible();
  // A file that is none is refused with its place, and what was read stays.
  await chooser.setInputFiles({
    name: 'no.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('net,part,pin\nX,U1,\n'),
  });
  await expect(page.getByRole('alert').filter({ hasText: 'no.csv' })).toContainText(
    'no.csv:2:1: needs a net, a part and a pin',
  );
  await expect(page.getByText(/guard\.csv, U1/)).toBeVisible();
});

test('a netlist of several parts as an S-expression: the part is chosen by its reference, and another one instead', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=board');
  const part = (reference: string, pins: readonly string[]): string =>
    pins.map((pin) => `(net ${reference}_${pin} (node (ref ${reference}) (pin ${pin})))`).join('');
  const numbers = Array.from({ length: 100 }, (_, index) => String(index + 1));
  await page.locator('input[type=file]').setInputFiles({
    name: 'two.net',
    mimeType: 'text/plain',
    buffer: Buffer.from(
      `(export (nets ${part('U1', numbers)} ${part('U7', [...numbers.slice(0, 90), 'EP'])} ${part('J1', ['1', '2'])}))`,
    ),
  });
  await expect(page.getByText('Which of the 3 parts in two.net is Corvane C40-80?')).toBeVisible();
  await expectAccessible(page, 'form');
  const reference = page.getByRole('combobox', { name: 'or by reference' });
  await reference.fill('U9');
  await expect(page.getByText('no part of that reference in two.net')).toBeVisible();
  await reference.fill('u7');
  await expect(page.getByText('90 connected pins of the package, 1 that it does not have')).toHaveCount(2);
  await page.keyboard.press('Enter');
  await expect(page.getByText('two.net, U7, 90 pins')).toBeVisible();
  await expect(
    page.getByText('Not checked: one pin of U7 that quad 100, 0.5 mm does not have: EP.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'choose another part' }).click();
  await page.getByRole('button', { name: /^U1 100/ }).click();
  await expect(page.getByText('two.net, U1, 100 pins')).toBeVisible();
  // Nothing but the part is on any of these nets: no supply is connected.
  await expect(finding(page, 'supply-open', 'No supply or ground pin of U1 is connected')).toBeVisible();
});

/** Rows `pad,U1,pin` for the supply pins of a schedule, but for one. */
const supplies = (schedule: string, left: string): string[] =>
  schedule
    .split('\n')
    .map((line) => line.split(','))
    .filter((cells) => cells.some((cell) => cell === 'supply' || cell === 'ground') && cells[0] !== left)
    .map(([pin, pad]) => `${pad},U1,${pin}`);

test('labels and far ends are written on the board and found again', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=board');
  await page.getByRole('textbox', { name: 'label beside A5' }).fill('J9-3');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'connector of LAMP_RED' }).fill('X77');
  await page.keyboard.press('Enter');
  await expect(saved(page)).toBeVisible();
  await page.keyboard.press('/');
  await page.keyboard.type('j9-3');
  await expect(page.getByRole('option', { name: /pad A5/ })).toBeVisible();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('x77');
  await expect(page.getByRole('option', { name: /net LAMP_RED/ })).toBeVisible();
});

test('the pin schedule comes as a table, as Markdown, as a drawing, and as a page', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  const get = async (as: string) => {
    const answer = await request.get(`/api/plans/${id}/schedule?as=${as}`);
    expect(answer.status()).toBe(200);
    return { text: await answer.text(), name: answer.headers()['content-disposition'] };
  };
  expect(await get('csv')).toMatchObject({
    text: expect.stringMatching(/^pin,pad,net,.*\n1,VDD,/),
    // Other plans of the tests have the same name: a few letters tell them apart.
    name: `attachment; filename="frost-guard-c-${id.slice(0, 4)}.pins.csv"`,
  });
  expect((await get('md')).text).toContain('| 27 | B7 | FAN\\_1 | Fans |');
  expect((await get('svg')).text).toContain('B7  FAN_1</text>');
  expect((await request.get(`/api/plans/${id}/schedule?as=exe`)).status()).toBe(400);
  expect((await request.get('/api/plans/nobody/schedule')).status()).toBe(404);
  await page.goto(`/plans/${id}/schedule`);
  await expect(page.getByRole('row')).toHaveCount(101);
  await expectAccessible(page);
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('button', { name: 'Print' })).toBeHidden();
});

test('unused pads get a policy, and the code says so', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await page.getByRole('combobox', { name: 'Unused pads' }).selectOption('input-pulled');
  // One pad has no pulls at all.
  await expect(findings(page)).toContainText(
    'D11, unused, cannot be input with a pull: the pad has no pull.',
  );
  await findings(page).getByRole('button', { name: 'leave it as at reset' }).click();
  await expect(page.getByText(/^Nothing found\. \d{2} of \d{2} pins are proven/)).toBeVisible();
  const proven = await page.getByText(/^Nothing found\. \d{2} of/).textContent();
  expect(Number(/(\d+) of/.exec(proven ?? '')?.[1])).toBeGreaterThan(70);
  await padRow(page, 'E8').click();
  await page.getByRole('combobox', { name: 'Unused pad E8' }).selectOption('output-low');
  await expect(saved(page)).toBeVisible();
  const plan = await (await request.get(`/api/plans/${id}/file`)).json();
  expect(plan.tables.unused).toEqual({ '*': 'input-pulled', D11: 'reset', E8: 'output-low' });
});

test('a board profile is kept, and a new plan starts from it with its wiring locked', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  const name = `Guard board ${id}`;
  await openPlan(page, id, '?view=board');
  await page.getByRole('textbox', { name: 'Name of the profile' }).fill(name);
  await page.getByRole('button', { name: 'Keep as a board profile' }).click();
  await expect(page.getByText(/New plans for Corvane C40-80 can start/)).toBeVisible();
  await page.goto('/');
  await page.getByRole('button', { name: 'New plan' }).first().click();
  await page.getByRole('textbox', { name: 'Name' }).fill('On the same board');
  await page.getByRole('radio', { name: /Corvane C40-80/ }).check();
  await page.getByRole('radio', { name: new RegExp(name) }).check();
  await expectAccessible(page, '[role=dialog]');
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(netRow(page, 'FAN_1')).toContainText('B7');
  await expect(page.locator('[role=option][data-name]')).toHaveCount(4);
  await padRow(page, 'B7').click();
  await expect(inspector(page)).toContainText('FAN_1');
  await page.keyboard.press('/');
  await page.keyboard.type('f1');
  await expect(page.getByRole('option', { name: /pad B7, .*F1.*FAN_1/ })).toBeVisible();
  await page.goto('/');
  await page.getByRole('button', { name: 'New plan' }).first().click();
  await page.getByRole('radio', { name: /Corvane C40-80/ }).check();
  await page.getByRole('button', { name: `forget the board ${name}` }).click();
  await expect(page.getByRole('radio', { name: new RegExp(name) })).toHaveCount(0);
});

test('a profile without locked nets, or of an unknown part, is refused', async ({ request }) => {
  const text = readFileSync('examples/families/pellin-p8-22.plan.json', 'utf8');
  const send = (body: object) => request.post('/api/profiles', { data: body });
  const loose = JSON.parse(text);
  for (const net of loose.nets) if (net.placement) net.placement.locked = false;
  expect((await send({ name: 'x', text: JSON.stringify(loose) })).status()).toBe(400);
  expect((await send({ name: 'x', text: JSON.stringify({ ...loose, device: 'nobody' }) })).status()).toBe(
    400,
  );
  expect((await send({ name: 'x', text: '{' })).status()).toBe(400);
  expect((await send({ name: '', text })).status()).toBe(400);
  expect((await request.delete('/api/profiles/nobody')).status()).toBe(404);
  const from = { name: 'x', device: 'corvane-c40-80', package: 'q100', profile: 'nobody' };
  expect((await request.post('/api/plans', { data: from })).status()).toBe(400);
});
