import {
  counts,
  emptyPlan,
  expect,
  expectAccessible,
  find,
  finding,
  importExample,
  listen,
  netRow,
  openPlan,
  padRow,
  saved,
  test,
  typeNets,
} from './fixtures';

test('the path of a user: type nets, place, meet a conflict, take the remedy, read the code, undo, reload', async ({
  page,
  request,
}) => {
  const id = await emptyPlan(request, 'Gate house');
  await openPlan(page, id);
  await typeNets(page, 'mast: uart tx rx · de out low');
  await expect(netRow(page, 'MAST_TX')).toContainText('–');
  for (const name of ['MAST_TX', 'MAST_RX', 'MAST_DE'])
    await expect(finding(page, 'unplaced', name)).toBeVisible();

  // The first new net is selected and its pads step forward, ranked; Enter takes the best, a digit another.
  await page.getByRole('listbox', { name: 'Nets' }).getByRole('option', { selected: true }).focus();
  await expect(page.getByRole('heading', { name: /pads can take it/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(netRow(page, 'MAST_TX')).toContainText(/[A-F]\d+/);
  await page.keyboard.press('n');
  await page.keyboard.press('1');
  await page.keyboard.press('n');
  // By a click in the package.
  await padRow(page, 'B7').click();
  await expect(netRow(page, 'MAST_DE')).toContainText('B7');
  await expect(finding(page, 'unplaced')).toHaveCount(0);
  await expect(saved(page)).toBeVisible();

  // Both lines of the circuit went to one instance.
  const text = (await page.getByRole('listbox', { name: 'Nets' }).textContent()) ?? '';
  const [tx, rx] = ['TX', 'RX'].map((line) => new RegExp(`(UART\\d)\\.${line}`).exec(text)?.[1]);
  expect(tx).toBe(rx);

  // A net dropped where another is locked: a conflict by hand, and its remedy.
  await netRow(page, 'MAST_DE').click();
  await page.keyboard.press('k');
  await typeNets(page, 'lamp out low');
  await netRow(page, 'LAMP').dragTo(padRow(page, 'B7'));
  const both = finding(page, 'two-nets', 'MAST_DE and LAMP are both on pad B7 (pin 27). Move one.');
  await expect(both).toBeVisible();
  await both
    .getByRole('button', { name: /^move LAMP to / })
    .first()
    .click();
  await expect(both).toHaveCount(0);

  await page.keyboard.press('c');
  const code = page.getByRole('region', { name: 'gate_house.c' });
  await expect(code).toContainText('void gate_house_init(void)');
  await expect(code).toContainText('plan      Gate house, revision A');
  await page.getByRole('tab', { name: 'gate_house.h' }).click();
  await expect(page.getByRole('region', { name: 'gate_house.h' })).toContainText('gate_house_lamp_set(void)');
  await expect(page.getByTestId('view').getByText(/4 of 4 pins are proven from every state/)).toBeVisible();

  await page.keyboard.press('g');
  await page.keyboard.press('Control+z');
  await expect(both).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(netRow(page, 'LAMP')).toContainText('–');
  await page.keyboard.press('Control+Shift+z');
  await expect(both).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(saved(page)).toBeVisible();

  await page.reload();
  await expect(netRow(page, 'LAMP')).toContainText('–');
  await expect(netRow(page, 'MAST_DE')).toContainText('B7');
});

test('from the pad: what it offers, who else uses that, and a net that could sit there', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await padRow(page, 'A4').click();
  const inspector = page.getByRole('region', { name: 'Inspector' });
  await expect(inspector).toContainText('pin 7 · port A, bit 4');
  await expect(inspector).toContainText('sampled as boot select 1');
  await expect(inspector.getByRole('listitem').filter({ hasText: 'PACE3.Q3' })).toContainText(
    'VALVE_B_OPEN on D14',
  );
  await expect(inspector.getByRole('listitem').filter({ hasText: 'PACE6.Q1' })).toContainText('also F3');

  await padRow(page, 'D0').click();
  await inspector.getByLabel('Name of the new net').fill('PROBE');
  await inspector.getByLabel('What the new net is').selectOption('analog');
  await inspector.getByRole('button', { name: 'Add' }).click();
  await expect(padRow(page, 'D0')).toContainText('PROBE');
  await expect(inspector).toContainText('Analog: digital stages are off');

  await netRow(page, 'BUZZER').click();
  await inspector.getByRole('button', { name: 'clear' }).click();
  await padRow(page, 'D10').focus();
  await page.keyboard.press('Escape');
  await padRow(page, 'F10').click();
  await inspector.getByRole('button', { name: /BUZZER PACE5\.Q4/ }).click();
  await expect(padRow(page, 'F10')).toContainText('BUZZER');
});

test('settings: only what the pad has, with the reason for what it has not', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await netRow(page, 'FAN_3').click();
  const inspector = page.getByRole('region', { name: 'Inspector' });
  const drive = inspector.getByRole('radiogroup', { name: 'drive' });
  await expect(drive.getByRole('radio', { name: '12 mA' })).toHaveAttribute('aria-disabled', 'true');
  await expect(inspector).toContainText('12 mA: 12 mA is offered by fast pads only (table 9)');
  await drive.getByRole('radio', { name: '12 mA' }).click({ force: true });
  await expect(drive.getByRole('radio', { name: '4 mA' })).toBeChecked();
  await drive.getByRole('radio', { name: '8 mA' }).click();
  await expect(drive.getByRole('radio', { name: '8 mA' })).toBeChecked();

  await inspector.getByRole('radiogroup', { name: 'pull' }).getByRole('radio', { name: 'down' }).click();
  await inspector
    .getByRole('radiogroup', { name: 'output type' })
    .getByRole('radio', { name: 'open-drain' })
    .click();
  await expect(inspector).toContainText('latch high');
  await inspector.getByRole('radiogroup', { name: 'asserted' }).getByRole('radio', { name: 'high' }).click();
  await expect(inspector).toContainText('latch low');
  await inspector
    .getByRole('radiogroup', { name: 'starts' })
    .getByRole('radio', { name: 'asserted' })
    .click();
  await expect(inspector).toContainText('latch high');
  // The bits of E13: pull down is 2 in bits 27…26, open-drain 1 in bit 13, 8 mA 2 in bits 27…26.
  await expect(inspector.getByRole('row').filter({ hasText: 'PE.PULL' })).toContainText(/27…26.*10$/);
  await expect(inspector.getByRole('row').filter({ hasText: 'PE.BUF' })).toContainText(/bit 13.*1$/);
  await expect(inspector.getByRole('row').filter({ hasText: 'PE.FORCE' })).toContainText(/10$/);
  await expect(padRow(page, 'E13')).toContainText('↓ od H');

  await inspector.getByLabel('What it is').selectOption('analog');
  await expect(finding(page, 'function-not-here', 'E13 has no analog channel')).toBeVisible();
  await expect(inspector).toContainText('E13 has no analog channel');
});

test('lock, move, clear, rename, remove', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id);
  const inspector = page.getByRole('region', { name: 'Inspector' });
  await netRow(page, 'FAN_4').click();
  await page.keyboard.press('k');
  await expect(inspector.getByRole('button', { name: /locked/ })).toHaveAttribute('aria-pressed', 'true');
  await expect(netRow(page, 'FAN_4').getByRole('img')).toHaveAccessibleName('locked');
  await page.keyboard.press('m');
  await expect(inspector).toContainText('pads can take it');
  await page.keyboard.press('1');
  await expect(padRow(page, 'E14')).not.toContainText('FAN_4');
  await page.keyboard.press('Delete');
  await expect(netRow(page, 'FAN_4')).toContainText('–');
  await inspector.getByLabel('Net name').fill('FAN_WEST');
  await page.keyboard.press('Enter');
  await expect(netRow(page, 'FAN_WEST')).toBeVisible();
  await inspector.getByRole('button', { name: 'Remove FAN_WEST' }).click();
  await expect(netRow(page, 'FAN_WEST')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(netRow(page, 'FAN_WEST')).toBeVisible();
});

test('placing on a pad in use moves its net to a free one, in one step', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await netRow(page, 'RADIO_SCK').click();
  await page.keyboard.press('m');
  const offer = page
    .getByRole('listitem')
    .filter({ hasText: /moves RADIO_CS to/ })
    .getByRole('button');
  await offer.click();
  await expect(padRow(page, 'D6')).toContainText('RADIO_SCK');
  await expect(netRow(page, 'RADIO_CS')).not.toContainText('D6');
  await expect(finding(page, 'two-nets')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(padRow(page, 'D6')).toContainText('RADIO_CS');
});

test('one search finds nets, pads, pins, signals and aliases; the selection is the same everywhere and in the address', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id);
  const heading = page.getByRole('region', { name: 'Inspector' }).getByRole('heading', { level: 2 });
  await find(page, 'boot1', /A4, pin 7/);
  await expect(heading).toHaveText('Pad A4');
  await find(page, '93', /F7, pin 93/);
  await expect(heading).toHaveText('Pad F7');
  await find(page, 'PACE6.Q1', /A4/);
  await expect(heading).toHaveText('Pad A4');
  await find(page, 'reed', /RAIN_TIP/);
  await expect(page.getByLabel('Net name')).toHaveValue('RAIN_TIP');
  await expect(netRow(page, 'RAIN_TIP')).toHaveAttribute('aria-selected', 'true');
  await expect(padRow(page, 'F12')).toHaveAttribute('aria-selected', 'true');
  await expect(page).toHaveURL(/select=net%3Arain-tip/);
  await page.reload();
  await expect(page.getByLabel('Net name')).toHaveValue('RAIN_TIP');
});

test('findings: each names places, explains itself, and its remedy works', async ({ page, request }) => {
  const id = await importExample(request, 'frost-guard-faulty.plan.json');
  await openPlan(page, id);
  const list = page.getByRole('list', { name: 'Findings' });
  await list.getByRole('button', { name: 'pad-missing' }).click();
  await expect(page.getByRole('region', { name: 'Inspector' })).toContainText('the net would lead nowhere');
  // The first remedy of each finding that the plan's own description names: what it says is gone with it.
  for (const [rule, words] of [
    ['two-nets', 'FAN_2 and LOG_D1'],
    ['pad-missing', 'RADIO_IRQ'],
    ['function-not-here', 'MAST_TX'],
    ['signal-twice', 'VALVE_A_OPEN'],
  ] as const) {
    const one = finding(page, rule, words);
    await one
      .getByRole('button', { name: /^(move|make|rename|take|drive|place)/ })
      .first()
      .click();
    await expect(one).toHaveCount(0);
  }
});

test('what changed since the last export is marked; the archive holds the files', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=code');
  await expect(page.getByText('never exported')).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download zip' }).click();
  const archive = await download;
  expect(archive.suggestedFilename()).toBe('frost_guard.zip');
  const { unzipSync } = await import('fflate');
  const { readFileSync } = await import('node:fs');
  const files = unzipSync(readFileSync(await archive.path()));
  expect(Object.keys(files).sort()).toEqual(['frost_guard/frost_guard.c', 'frost_guard/frost_guard.h']);
  await expect(page.getByText(/^as exported/)).toBeVisible();

  await netRow(page, 'SENSE_EN').click();
  await page.getByRole('radiogroup', { name: 'starts' }).getByRole('radio', { name: 'asserted' }).click();
  await expect(page.getByText(/lines differ from the export/)).toBeVisible();
  await page.getByLabel('only what changed').check();
  const code = page.getByRole('region', { name: 'frost_guard.c' });
  await expect(code).toContainText('+    FROST_GUARD_WRITE16(FROST_GUARD_PB_OUTS, 0x00C0u);');
  await expect(code).toContainText('−    FROST_GUARD_WRITE16(FROST_GUARD_PB_OUTC, 0x0040u);');
  await expect(code).not.toContainText('SEAL, 0x00C40C40u');
  await page.reload();
  await expect(page.getByText(/lines differ from the export/)).toBeVisible();
});

test('copy puts the shown file on the clipboard', async ({ page, request, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  const id = await importExample(request);
  await openPlan(page, id, '?view=code');
  await page.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByText('frost_guard.c copied')).toBeVisible();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain('void frost_guard_init(void)');
});

test('two tabs on one plan stay in step', async ({ page, request, context, noise }) => {
  const id = await importExample(request);
  await openPlan(page, id);
  const other = await context.newPage();
  listen(other, noise);
  await openPlan(other, id);
  await netRow(page, 'FAN_4').click();
  await page.keyboard.press('Delete');
  await expect(netRow(other, 'FAN_4')).toContainText('–');
  await netRow(other, 'FAN_3').click();
  await other.keyboard.press('k');
  await expect(netRow(page, 'FAN_3').getByRole('img')).toHaveAccessibleName('locked');
  await expect(counts(page)).toHaveText(/△ 1/);
  await expect(counts(other)).toHaveText(/△ 1/);
});

test('while the server is away it says so, loses nothing, and catches up, even after the tab was closed', async ({
  page,
  request,
  context,
  noise,
}) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await context.route('**/edits', (route) => route.abort());
  await netRow(page, 'FAN_4').click();
  await page.keyboard.press('Delete');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Delete');
  const status = page.getByRole('status').filter({ hasText: 'not saved' });
  await expect(status).toHaveText('not saved, retrying · 3 changes kept');
  await page.close({ runBeforeUnload: false });

  await context.unroute('**/edits');
  const again = await context.newPage();
  await openPlan(again, id);
  await expect(netRow(again, 'FAN_4')).toContainText('–');
  await expect(saved(again)).toBeVisible();
  const stored = await (await request.get(`/api/plans/${id}`)).json();
  expect(stored.seq).toBe(3);
  expect(stored.plan.nets.find((net: { name: string }) => net.name === 'FAN_4').placement).toBeNull();
  // The aborted requests are this test's doing.
  noise.splice(0);
});

test('a view that cannot be fetched says so, and the rest stays in use', async ({ page, request, noise }) => {
  const id = await importExample(request);
  let away = false;
  await page.route('**/_next/**', (route) => (away ? route.abort() : route.continue()));
  await openPlan(page, id);
  // Before the page fetches its other views by itself.
  away = true;
  await page.getByRole('button', { name: 'Ports', exact: true }).click();
  await expect(page.getByText('The ports view could not be fetched')).toBeVisible();
  await netRow(page, 'FAN_4').click();
  await page.keyboard.press('Delete');
  await expect(saved(page)).toBeVisible();
  away = false;
  // It is asked for again by itself; the button only hurries it.
  await page.getByRole('button', { name: 'try now' }).click();
  await expect(page.getByRole('gridcell').first()).toBeVisible();
  await expect(netRow(page, 'FAN_4')).toContainText('–');
  // The aborted requests are this test's doing.
  noise.splice(0);
});

test('lines entered before what reads them has come are added in their order; a wrong one comes back', async ({
  page,
  request,
}) => {
  const id = await emptyPlan(request, 'Slow line');
  // What reads typed nets is known by its words; it is held back until three lines were entered.
  let release: (() => void) | undefined;
  const held = new Promise<null>((done) => {
    release = () => done(null);
  });
  await page.route('**/*.js', async (route) => {
    // What is fetched for later may be cut short by the end of the test.
    const text = await route
      .fetch()
      .then((response) => response.text())
      .catch(() => undefined);
    if (text === undefined) return;
    if (text.includes('means nothing after the names')) await held;
    await route.fulfill({ contentType: 'text/javascript', body: text }).catch(() => undefined);
  });
  await openPlan(page, id);
  await typeNets(page, 'mast: uart tx rx');
  await typeNets(page, 'mast: pwr out');
  await typeNets(page, 'yard: lamp owt');
  await expect(page.getByText('3 entered, being read')).toBeVisible();
  release?.();
  await expect(page.getByRole('listbox', { name: 'Nets' }).getByRole('option')).toHaveCount(3);
  await expect(netRow(page, 'MAST_PWR')).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'New nets' })).toHaveValue('yard: lamp owt');
  await expect(page.getByTestId('typed-mark')).toHaveText('owt');
});

test('hostile names are text and nothing else', async ({ page, request }) => {
  const id = await emptyPlan(request, '<img src=x onerror=alert(1)>');
  await openPlan(page, id);
  await expect(page.getByRole('heading', { level: 1 })).toContainText('<img src=x onerror=alert(1)>');
  await typeNets(page, '<b>X</b> out');
  await page.keyboard.press('Escape');
  await page.getByRole('listbox', { name: 'Nets' }).getByRole('option').first().click();
  await page.keyboard.press('1');
  await page.getByLabel('Net name').fill('*/ #error <script>alert(1)</script>');
  await page.keyboard.press('Enter');
  await expect(finding(page, 'bad-name', '*/ #error <script>alert(1)</script>')).toBeVisible();
  await page.keyboard.press('c');
  await expect(page.getByRole('region', { name: /\.c$/ })).toContainText('WARNING   the plan has');
  expect(await page.locator('script:has-text("alert(1)"), img[src="x"]').count()).toBe(0);
});

test('everything can be done by keyboard', async ({ page, request }) => {
  const id = await emptyPlan(request, 'By keys');
  await openPlan(page, id);
  await page.keyboard.press('a');
  await page.keyboard.type('tank: level analog · valve out low');
  await page.keyboard.press('Enter');
  await expect(netRow(page, 'TANK_VALVE')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('n');
  await page.keyboard.press('Enter');
  await page.keyboard.press('n');
  await page.keyboard.press('2');
  await expect(finding(page, 'unplaced')).toHaveCount(0);
  // Walk along the package from its first pin.
  await page.keyboard.press('Escape');
  await padRow(page, 'VDD').first().focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('region', { name: 'Inspector' }).getByRole('heading', { level: 2 })).toHaveText(
    'Pad A0',
  );
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[data-pin="28"]')).toBeFocused();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('Take the best pad for the net being placed');
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  // A menu is opened, walked and left; the focus is where it was.
  const menu = page.getByRole('button', { name: 'Menu' });
  await menu.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: 'All plans' })).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('End');
  await expect(page.getByRole('menuitem', { name: 'Keys', exact: true })).toBeFocused();
  await expectAccessible(page, '[role=menu]');
  await page.keyboard.press('Escape');
  await expect(menu).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: 'All plans' })).toBeFocused();
  await page.keyboard.press('End');
  await expect(page.getByRole('menuitem', { name: 'Keys', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toContainText('Take the best pad for the net being placed');
});

test('larger and smaller packages, and a narrow window', async ({ page, request }) => {
  const large = await emptyPlan(request, 'Large', 'q144');
  await openPlan(page, large);
  await expect(page.locator('[data-pin]')).toHaveCount(144);
  const small = await emptyPlan(request, 'Small', 'q64');
  await openPlan(page, small);
  await expect(page.locator('[data-pin]')).toHaveCount(64);
  await page.setViewportSize({ width: 700, height: 600 });
  await expect(padRow(page, 'A0')).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(700);
});

test.describe('the workspace is accessible', () => {
  // The checks walk through every element and take their time.
  test.slow();
  test('package and placing, light', async ({ page, request }) => {
    const id = await importExample(request, 'frost-guard-faulty.plan.json');
    await openPlan(page, id);
    await expectAccessible(page);
    await netRow(page, 'SET_SCL').click();
    await expectAccessible(page);
  });
  test('a net, the code and the footprint, dark', async ({ page, request }) => {
    const id = await importExample(request, 'frost-guard-faulty.plan.json');
    await openPlan(page, id);
    await page.keyboard.press('l');
    await netRow(page, 'FAN_1').click();
    await expectAccessible(page);
    await page.keyboard.press('c');
    await expect(page.getByRole('region', { name: /\.c$/ })).toBeVisible();
    await expectAccessible(page);
    await page.keyboard.press('g');
    await page.getByRole('button', { name: 'enlarge' }).click();
    await expectAccessible(page);
  });
});
