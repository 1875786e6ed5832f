import { readFileSync } from 'node:fs';
import type { APIRequestContext, Page } from '@playwright/test';
import {
  exampleText,
  expect,
  expectAccessible,
  importExample,
  importPlan,
  LONG,
  netRow,
  openPlan,
  test,
  typeNets,
} from './fixtures';

const line = (page: Page) => page.getByRole('combobox', { name: /^A step/ });
const log = (page: Page) => page.getByRole('log', { name: 'What came of it' });
const inspector = (page: Page) => page.getByRole('region', { name: 'Inspector' });
const farEnds = (page: Page) => page.getByRole('list', { name: 'Nets and their far ends' });
const far = (page: Page, name: string) =>
  farEnds(page)
    .getByRole('listitem')
    .filter({ has: page.getByRole('button', { name, exact: true }) });
const at = (page: Page) => page.getByTestId('bench-at');

async function play(page: Page, ...lines: string[]) {
  for (const one of lines) {
    await line(page).fill(one);
    await line(page).press('Enter');
    await expect(line(page)).toHaveValue('');
  }
}

const showTrials = (page: Page) =>
  inspector(page).getByRole('radio', { name: 'trials', exact: true }).click();

async function openBench(page: Page, request: APIRequestContext) {
  await openPlan(page, await importExample(request), '?view=bench');
  await expect(at(page)).toContainText('0 of 62');
}

/** Keeps what was played as a trial, and runs all. */
async function keep(page: Page, name: string) {
  await showTrials(page);
  await inspector(page).getByRole('button', { name: 'Keep what was played …' }).click();
  await inspector(page).getByLabel('Name').fill(name);
  await inspector(page).getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(inspector(page).locator(`[data-trial="${name}"]`)).toBeVisible();
}

async function runAll(page: Page) {
  await inspector(page)
    .getByRole('button', { name: /^Run all/ })
    .click();
  await expect(inspector(page).getByRole('status')).toContainText(/passed|failed/, { timeout: 20_000 });
}

test('operations are stepped, looked at, gone back in, by key; each says what it does', async ({
  page,
  request,
}) => {
  await openPlan(page, await importExample(request));
  await page.keyboard.press('t');
  await expect(at(page)).toContainText('0 of 62');
  await page.keyboard.press('.');
  await expect(at(page)).toContainText('1 of 62 · 2 cycles');
  await expect(inspector(page)).toContainText('GATE.ON 0x00010000 → 0x000100B7, bits 0, 1, 2, 4, 5, 7');
  await expect(inspector(page)).toContainText('a port without a clock ignores writes');
  await page.keyboard.press('>');
  await expect(at(page)).toContainText('2 of 62');
  await page.keyboard.press(',');
  await expect(at(page)).toContainText('1 of 62');
  await netRow(page, 'LAMP_RED').click();
  await page.getByLabel('Run to').selectOption({ label: 'the first change of LAMP_RED' });
  await expect(inspector(page)).toContainText('stage direction');
  await expect(inspector(page)).toContainText('strong high');
  await inspector(page).getByRole('button', { name: 'in every language' }).click();
  await expect(inspector(page)).toContainText(/Rust: \w+\.rs:\d+/);
  await page.getByRole('radio', { name: 'registers', exact: true }).click();
  await expect(page.getByRole('list', { name: 'Registers now' })).toContainText('PA.USE');
  await page.getByRole('radio', { name: 'port', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Port A bit by bit' })).toContainText('strong high');
  await page.getByRole('radio', { name: 'far ends', exact: true }).click();
  // On a button, Space presses it.
  await netRow(page, 'LAMP_RED').click();
  await page.keyboard.press('Escape');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Space');
  await expect(at(page)).toContainText('62 of 62');
  await page.keyboard.press('0');
  await expect(at(page)).toContainText('0 of 62 · 0 cycles');
  await expectAccessible(page);
});

test('a bouncing button against a lamp: played by click and by line, kept, run again, broken by a change', async ({
  page,
  request,
}) => {
  await openBench(page, request);
  await page.keyboard.press('Space');
  await far(page, 'SERVICE_BTN').getByRole('button', { name: 'press SERVICE_BTN bounce' }).click();
  await expect(far(page, 'SERVICE_BTN')).toContainText('pressed');
  await expect(far(page, 'SERVICE_BTN')).toContainText('outside low');
  await play(page, 'wait 10 ms', 'expect SERVICE_BTN reads 1', 'read SERVICE_BTN');
  await expect(log(page)).toContainText('read SERVICE_BTN → 1');
  await far(page, 'LAMP_RED').getByRole('button', { name: 'strong high' }).click();
  await expect(far(page, 'LAMP_RED')).toContainText('lit, 4.8 mA');
  await play(page, 'expect LAMP_RED on within 1 ms');
  await far(page, 'SERVICE_BTN').getByRole('button', { name: 'release SERVICE_BTN bounce' }).click();
  await play(page, 'wait 10 ms', 'expect SERVICE_BTN off');
  await keep(page, 'the button lights the lamp');
  await runAll(page);
  await expect(inspector(page).getByRole('status')).toHaveText('all passed');
  await expect(netRow(page, 'SERVICE_BTN')).toContainText('✓');
  await expectAccessible(page);
  // Without its pull the open contact floats, and the trial says so.
  await netRow(page, 'SERVICE_BTN').click();
  await inspector(page).getByRole('radio', { name: 'net', exact: true }).click();
  await inspector(page)
    .getByRole('radiogroup', { name: 'pull' })
    .getByRole('radio', { name: 'none' })
    .click();
  await expect(inspector(page)).toContainText('high-Z');
  await showTrials(page);
  await runAll(page);
  await expect(inspector(page).locator('[data-trial="the button lights the lamp"]')).toContainText(
    'it is floating',
  );
  await expect(netRow(page, 'SERVICE_BTN')).toContainText('▲');
});

test('outputs of a circuit run up and down as one number; a contactor must not pulse at start-up', async ({
  page,
  request,
}) => {
  await openBench(page, request);
  await play(page, 'expect FAN_1 off always', 'initialise', 'wait 20 ms', 'expect FAN_1 high');
  await keep(page, 'it stays open');
  await page.keyboard.press('0');
  await page.keyboard.press('Space');
  await play(page, 'repeat 4 with i: Fans = 1 << i; wait 20 ms; expect Fans = 1 << i');
  await play(page, 'repeat 3 with i: Fans = 4 >> i; wait 20 ms; expect Fans = 4 >> i');
  await expect(far(page, 'FAN_1')).toContainText('closed');
  await play(page, 'Fans = 0');
  await keep(page, 'fans one by one');
  await runAll(page);
  await expect(inspector(page).locator('[data-trial="it stays open"]')).toHaveAttribute(
    'data-passed',
    'true',
  );
  await expect(inspector(page).locator('[data-trial="fans one by one"]')).toHaveAttribute(
    'data-passed',
    'true',
  );
  // A fault that a trial sees, put in by hand.
  await page.getByRole('button', { name: 'break it …' }).click();
  await page.getByLabel('what', { exact: true }).selectOption({ label: 'a pin is stuck at a level' });
  await page.getByLabel('which').selectOption({ label: 'FAN_1 (B7) is stuck low' });
  await page.keyboard.press('Escape');
  await inspector(page).getByRole('radio', { name: 'operations', exact: true }).click();
  await expect(inspector(page)).toContainText('FAN_1 is driven high against another output');
  await expect(far(page, 'FAN_1')).toContainText('contention');
  await expectAccessible(page);
});

test('faults that no trial notices stay listed, each with lines that would; what is assumed is drawn so', async ({
  page,
  request,
}) => {
  const plan = JSON.parse(exampleText('frost-guard.plan.json'));
  // Few nets, so that all faults are tried in a moment.
  const nets = plan.nets.filter((net: { name: string }) =>
    ['RAIN_TIP', 'FAN_1', 'LAMP_RED'].includes(net.name),
  );
  const ids = new Set(nets.map((net: { id: string }) => net.id));
  const id = await importPlan(request, {
    ...plan,
    nets,
    constraints: [],
    waivers: [],
    attachments: (plan.attachments ?? []).filter((each: { nets: string[] }) =>
      each.nets.every((net) => ids.has(net)),
    ),
    trials: [{ id: 't', name: 'the lamp starts dark', lines: ['expect {lamp-red} off'] }],
  });
  await openPlan(page, id, '?view=bench');
  await expect(page.getByText('Dashed: assumed from the net’s role, name and settings.')).toBeVisible();
  await inspector(page).getByRole('radio', { name: 'trials', exact: true }).click();
  await inspector(page).getByRole('button', { name: 'Try every single fault' }).click();
  const faults = inspector(page).getByRole('list', { name: 'Faults that no trial notices' });
  const stuck = faults.getByRole('listitem').filter({ hasText: 'RAIN_TIP (F12) is stuck low' });
  await expect(stuck).toContainText('expect RAIN_TIP off');
  await expectAccessible(page);
  await stuck.getByRole('button', { name: 'add to the lamp starts dark' }).click();
  await expect(stuck).toContainText('added');
  // The list stays while other things are looked at.
  await inspector(page).getByRole('radio', { name: 'operations', exact: true }).click();
  await inspector(page).getByRole('radio', { name: 'trials', exact: true }).click();
  await expect(inspector(page)).toContainText('The plan has changed since');
  await inspector(page).getByRole('button', { name: 'Try all of them again' }).click();
  await expect(stuck).toHaveCount(0);
  await expect(faults).toBeVisible();
});

test('a play on a part that is not initialised says so, and is kept as what was seen', async ({
  page,
  request,
}) => {
  await openBench(page, request);
  await play(page, 'LAMP_RED on', 'expect LAMP_RED floating');
  await expect(log(page)).toContainText('the part is not initialised');
  await keep(page, 'nothing without initialisation');
  await runAll(page);
  await expect(inspector(page).locator('[data-trial="nothing without initialisation"]')).toHaveAttribute(
    'data-passed',
    'true',
  );
});

test('the plan is changed under the bench: nets come and go, and what was played stays', async ({
  page,
  request,
}) => {
  await openBench(page, request);
  await page.keyboard.press('Space');
  await play(page, 'LAMP_RED on', 'wait 5 ms');
  await typeNets(page, 'panel: spare out high');
  await netRow(page, 'PANEL_SPARE').click();
  await page.keyboard.press('Enter');
  await expect(far(page, 'PANEL_SPARE')).toContainText('strong low');
  await expect(far(page, 'LAMP_RED')).toContainText('lit');
  await netRow(page, 'LAMP_RED').click();
  await page.keyboard.press('Delete');
  await expect(far(page, 'LAMP_RED')).toHaveCount(0);
  await expect(log(page)).toContainText('cannot be played on the plan as it is now');
  await page.keyboard.press('Control+z');
  await expect(far(page, 'LAMP_RED')).toBeVisible();
});

test('lines complete, and what cannot be read is marked at its place', async ({ page, request }) => {
  await openBench(page, request);
  await expect(line(page)).toBeVisible();
  await page.keyboard.press(':');
  await page.keyboard.type('press SERV');
  await expect(page.getByRole('option', { name: 'SERVICE_BTN net' })).toBeVisible();
  await page.keyboard.press('Tab');
  await expect(line(page)).toHaveValue('press SERVICE_BTN ');
  await line(page).fill('press LAMP_RED');
  await page.keyboard.press('Enter');
  await expect(log(page)).toContainText('LAMP_RED has no contact or line at its far end');
  expect(
    await line(page).evaluate((field: HTMLInputElement) => [field.selectionStart, field.selectionEnd]),
  ).toEqual([6, 14]);
});

test('the lanes go out as a VCD, and one from the board is laid over them', async ({ page, request }) => {
  await openBench(page, request);
  await page.keyboard.press('Space');
  await play(page, 'wait 5 ms', 'LAMP_RED on', 'wait 20 ms', 'LAMP_RED off', 'wait 20 ms');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'export as VCD' }).click();
  const text = readFileSync(await (await download).path(), 'utf8');
  expect(text).toContain('$timescale 1 ns $end');
  // The board's lamp comes on 3 ms late.
  const board =
    '$timescale 1 us $end\n$scope module top $end\n$var wire 1 ! lamp_red $end\n$var wire 1 " fan_1 $end\n$upscope $end\n$enddefinitions $end\n#0\n1!\n1"\n#1000\n0!\n#18000\n1!\n#30000\n';
  await page.setInputFiles('input[accept=".vcd"]', {
    name: 'board.vcd',
    mimeType: 'text/plain',
    buffer: Buffer.from(board),
  });
  const differ = page.getByRole('button', { name: /^1 differ, first LAMP_RED at/ });
  await expect(differ).toBeVisible();
  await page.getByLabel('equal within').fill('5');
  await expect(page.getByText('no difference')).toBeVisible();
  await page.getByRole('button', { name: 'take it off' }).click();
  await page.setInputFiles('input[accept=".vcd"]', {
    name: 'x.vcd',
    mimeType: 'text/plain',
    buffer: Buffer.from('nothing'),
  });
  await expect(page.getByRole('alert').filter({ hasText: 'x.vcd, line 1' })).toBeVisible();
  // A vector is laid over the bus of its name, and over the bus's nets.
  await page.setInputFiles('input[accept=".vcd"]', {
    name: 'fans.vcd',
    mimeType: 'text/plain',
    buffer: Buffer.from(
      '$timescale 1 us $end\n$var wire 4 ! Fans [3:0] $end\n$enddefinitions $end\n#0\nb0000 !\n#40000\nb0100 !\n#50000\n',
    ),
  });
  await expect(page.getByText('5 signals')).toBeVisible();
  await page.getByLabel('shifted by').fill('0');
  await expect(page.getByRole('button', { name: /^2 differ, first FAN_3 at 40/ })).toBeVisible();
});

test(
  'the same play on a kept revision is laid over, also of nets that have another name by now',
  LONG,
  async ({ page, request }) => {
    const id = await importExample(request);
    await openPlan(page, id, '?view=bench');
    const head = await (await request.get(`/api/plans/${id}`)).json();
    const kept = await request.post(`/api/plans/${id}/revisions`, {
      data: { seq: head.seq, note: 'first board', author: 'Olga' },
    });
    expect(kept.ok()).toBe(true);
    await play(page, 'initialise', 'LAMP_RED on', 'wait 5 ms');
    const other = page.getByLabel('Compare with another revision or plan');
    await other.focus();
    await other.selectOption({ label: 'revision C' });
    await expect(page.getByText('no difference')).toBeVisible();
    // What is played on is played there too.
    await play(page, 'LAMP_RED off', 'wait 5 ms');
    await expect(page.getByText('no difference')).toBeVisible();
    // What was played is played again, whatever nets are called by now.
    await netRow(page, 'LAMP_RED').click();
    await inspector(page).getByRole('radio', { name: 'net', exact: true }).click();
    await page.getByLabel('Net name').fill('ALARM');
    await page.getByLabel('Net name').press('Enter');
    await expect(far(page, 'ALARM')).toBeVisible();
    await expect(page.getByText('no difference')).toBeVisible();
    await page.getByRole('button', { name: 'by change' }).click();
    await expect(page.getByRole('button', { name: 'by change' })).toHaveAttribute('aria-pressed', 'true');
    await expectAccessible(page);
  },
);

test('the steps of a trial complete as they are typed, and what is wrong is marked where it stands', async ({
  page,
  request,
}) => {
  await openBench(page, request);
  await inspector(page).getByRole('radio', { name: 'trials' }).click();
  await page.getByRole('button', { name: 'New trial …' }).click();
  const steps = page.getByLabel('Steps, one a line');
  await steps.click();
  const offered = page.locator('.cm-tooltip-autocomplete');
  const lines = page.locator('.cm-content .cm-line');
  await page.keyboard.type('wait 5 ms\npress SERV');
  // Only what begins so is left of what was offered before.
  await expect(offered.getByRole('option')).toHaveText([/^SERVICE_BTN/]);
  await page.keyboard.press('Tab');
  await expect(lines).toHaveText(['wait 5 ms', 'press SERVICE_BTN ']);
  await page.keyboard.type('30 ms\nexpect LAMP_R');
  await expect(offered.getByRole('option')).toHaveText([/^LAMP_RED/]);
  await offered.getByRole('option').click();
  await page.keyboard.type('onn');
  await expect(page.getByLabel('What is wrong')).toContainText('line 3, column 17: "onn" is not understood');
  await page.keyboard.press('Backspace');
  // In the middle of the text, too.
  await page.keyboard.press('Control+Home');
  await page.keyboard.press('End');
  await page.keyboard.type('\nFAN_1 tog');
  await expect(offered.getByRole('option')).toHaveText([/^toggle/]);
  await page.keyboard.press('Tab');
  await expect(lines).toHaveText([
    'wait 5 ms',
    'FAN_1 toggle ',
    'press SERVICE_BTN 30 ms',
    'expect LAMP_RED on',
  ]);
  // What a word means hovers over it.
  await lines.nth(2).getByText('SERVICE_BTN').hover();
  await expect(page.locator('.cm-tooltip-hover')).toContainText('read by the code');
  // What a repetition counts is found where it is named, and renamed in all places at once; all of it is undone.
  await steps.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('\nrepeat 4 with i:\nFans = 1 << i');
  await expect(lines.nth(5)).toHaveText('  Fans = 1 << i');
  await page.keyboard.press('F12');
  await page.keyboard.press('F2');
  await page.keyboard.type('fan');
  await expect(lines.nth(4)).toHaveText('repeat 4 with fan:');
  await expect(lines.nth(5)).toHaveText('  Fans = 1 << fan');
  await expectAccessible(page);
  await page.keyboard.press('Control+z');
  await expect(lines.nth(5)).toHaveText('  Fans = 1 << i');
  // Without anything to complete, Tab goes on.
  await page.keyboard.press('Escape');
  await page.keyboard.press('Tab');
  await expect(steps).not.toBeFocused();
});

test('something else is attached: to one net, to several, with other figures', async ({ page, request }) => {
  await openBench(page, request);
  await page.keyboard.press('Space');
  await netRow(page, 'WIND_DIR').click();
  await inspector(page).getByRole('radio', { name: 'net', exact: true }).click();
  await inspector(page).getByLabel('Attach', { exact: true }).selectOption({ label: 'potentiometer' });
  await inspector(page).getByRole('button', { name: 'Attach', exact: true }).click();
  await expect(far(page, 'WIND_DIR')).toContainText('at 50 %');
  await play(page, 'WIND_DIR = 20 %', 'expect WIND_DIR < 0.7 V');
  await expect(log(page)).toContainText('so it is');
  await page.keyboard.press('Escape');
  const ohms = inspector(page).getByLabel('from end to end of the potentiometer');
  await ohms.fill('0');
  await expect(ohms).toHaveAttribute('aria-invalid', 'true');
  await ohms.fill('47000');
  await ohms.press('Enter');
  await inspector(page).getByRole('button', { name: 'take off' }).click();
  await expect(far(page, 'WIND_DIR')).toContainText('1.65 V');
});
