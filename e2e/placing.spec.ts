import type { Page } from '@playwright/test';
import {
  emptyPlan,
  exampleText,
  expect,
  expectAccessible,
  finding,
  importExample,
  importPlan,
  inspector,
  LONG,
  listen,
  netRow,
  openPlan,
  padRow,
  saved,
  test,
  typeNets,
} from './fixtures';

const placer = (page: Page) => page.getByRole('region', { name: 'Placer' });
const button = (page: Page, name: string | RegExp) => page.getByRole('button', { name });

/** The frost guard with nothing placed but what is locked. */
const unplaced = (): object => {
  const plan = JSON.parse(exampleText('frost-guard.plan.json'));
  for (const net of plan.nets) if (!net.placement.locked) net.placement = null;
  return plan;
};

const BOARD = [
  'fans: fan_1..4 out low 3mA · fault in low up',
  'valves: pace q1..4 20kHz',
  'leaf: leaf_t1 leaf_t2 air_low air_high ref analog',
  'wind: dir analog · rain irq low up',
  'radio: spi sck sdo sdi 5MHz · cs out low · busy in driven · reset out low on · ready irq driven',
  'mast: uart tx rx de 115200Hz · pwr out',
  'store: i2c sda scl pulled-up · wp out on',
  'log: qsp cs clk d0..3',
  'panel: lamp_red lamp_green out low 5mA · button in low up',
  'power: bat_v solar_v analog · charging in low up · hold out on',
];

test(
  'a board of 43 nets, from blank to clean, in at most one and a half interactions a net',
  LONG,
  async ({ page, request }) => {
    const id = await emptyPlan(request, 'Board of forty');
    await openPlan(page, id);
    // An interaction is a line typed, a key pressed, or a click.
    let interactions = 0;
    for (const line of BOARD) {
      await typeNets(page, line);
      interactions += 2;
    }
    await expect(page.getByText('43 unplaced')).toBeVisible();
    await button(page, 'Place all').click();
    interactions++;
    await expect(placer(page)).toContainText('43 nets get a pad');
    await expect(placer(page)).toContainText('no placement costs less');
    await button(page, 'Apply').click();
    interactions++;
    await expect(page.getByText(/^Nothing found\. 43 of 43 pins are proven/)).toBeVisible();
    await expect(saved(page)).toBeVisible();
    expect(interactions / 43).toBeLessThanOrEqual(1.5);
    // It is the server's plan too.
    const plan = await (await request.get(`/api/plans/${id}/file`)).json();
    expect(plan.nets).toHaveLength(43);
    expect(plan.nets.every((net: { placement: unknown }) => net.placement !== null)).toBe(true);
  },
);

test('the preview shows the plan as it would be, changes nothing until applied, and is undone as one', async ({
  page,
  request,
}) => {
  const id = await importPlan(request, unplaced());
  await openPlan(page, id);
  await page.keyboard.press('Shift+P');
  await expect(placer(page)).toContainText('46 nets get a pad');
  await expect(netRow(page, 'FAN_3')).not.toContainText('–');
  await expect(finding(page, 'unplaced')).toHaveCount(0);
  await expectAccessible(
    page,
    '[aria-label="Placer"]',
    '[aria-label="Inspector"]',
    '[role=listbox][aria-label="Nets"]',
  );
  const before = await (await request.get(`/api/plans/${id}/file`)).json();
  expect(before.nets.filter((net: { placement: unknown }) => net.placement === null)).toHaveLength(46);
  // A change would be made against what is not there yet.
  await netRow(page, 'FAN_1').click();
  await page.keyboard.press('k');
  await expect(page.getByText('This is a preview: apply or discard it')).toBeVisible();
  await button(page, 'Discard').click();
  await expect(netRow(page, 'FAN_3')).toContainText('–');

  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+P');
  await expect(placer(page)).toContainText('Preview');
  await page.keyboard.press('Enter');
  await expect(placer(page)).toHaveCount(0);
  await expect(saved(page)).toBeVisible();
  await expect(netRow(page, 'FAN_3')).not.toContainText('–');
  await page.keyboard.press('Control+z');
  await expect(netRow(page, 'FAN_3')).toContainText('–');
});

test('another answer differs; what counts how much can be changed', LONG, async ({ page, request }) => {
  const id = await importPlan(request, unplaced());
  await openPlan(page, id);
  await page.keyboard.press('Shift+P');
  await expect(placer(page)).toContainText('no placement costs less');
  const first = await inspector(page).getByRole('list', { name: 'Placements' }).textContent();
  await button(page, 'Another answer').click();
  await expect(placer(page)).toContainText('Answer 2');
  expect(await inspector(page).getByRole('list', { name: 'Placements' }).textContent()).not.toBe(first);
  await page.getByRole('spinbutton', { name: /distance within circuits/ }).fill('0');
  await expect(placer(page)).toContainText('Preview');
  await expect(placer(page)).toContainText('no placement costs less');
});

test('a change made elsewhere during the preview: the placer asks again with it', async ({
  page,
  request,
  context,
  noise,
}) => {
  const id = await importPlan(request, unplaced());
  await openPlan(page, id);
  await page.keyboard.press('Shift+P');
  await expect(placer(page)).toContainText('46 nets get a pad');
  const other = await context.newPage();
  listen(other, noise);
  await openPlan(other, id);
  await typeNets(other, 'siren out low');
  await expect(placer(page)).toContainText('47 nets get a pad');
  await expect(inspector(page).getByRole('list', { name: 'Placements' })).toContainText('SIREN');
  await button(page, 'Apply').click();
  await expect(netRow(other, 'SIREN')).not.toContainText('–');
});

test('an impossible plan is explained, and a way out is taken with a click', async ({ page, request }) => {
  const id = await importExample(request, 'frost-guard-faulty.plan.json');
  await openPlan(page, id);
  await page.keyboard.press('Shift+P');
  await expect(placer(page)).toContainText('PACE3.Q1 is one signal, and 2 nets want it.');
  const section = inspector(page);
  await expect(section).toContainText('VALVE_A_OPEN needs a pad for PACE3.Q1');
  await expect(section).toContainText('Each was tried');
  await expectAccessible(page, '[aria-label="Placer"]', '[aria-label="Inspector"]');
  // Whoever mends it by hand is left to it.
  await typeNets(page, 'siren out low');
  await expect(netRow(page, 'SIREN')).toBeVisible();
  await expect(placer(page)).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+P');
  await section.getByRole('button', { name: 'let VALVE_B_SHUT be any PACE · Q1' }).click();
  // It goes on with the plan as it is then.
  await expect(placer(page)).toContainText(/Preview: .*(move|get a pad|gets a pad)/);
});

test('several nets are changed, constrained and renamed at once', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id);
  await netRow(page, 'FAN_1').click();
  await netRow(page, 'FAN_4').click({ modifiers: ['Shift'] });
  const section = inspector(page);
  await expect(section.getByRole('heading', { name: '4 nets' })).toBeVisible();
  await section.getByRole('combobox', { name: 'drive of all' }).selectOption('2mA');
  for (const fan of ['FAN_1', 'FAN_2', 'FAN_3', 'FAN_4'])
    await expect(finding(page, 'pad-current', fan)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(finding(page, 'pad-current')).toHaveCount(0);
  await section.getByRole('button', { name: 'on consecutive bits of one port' }).click();
  await expect(finding(page, 'constraint-broken', 'FAN_1')).toBeVisible();
  await expectAccessible(page, '[aria-label="Inspector"]');
  await section.getByRole('textbox', { name: 'Replace' }).fill('FAN');
  await section.getByRole('textbox', { name: 'by', exact: true }).fill('BLOWER');
  await section.getByRole('button', { name: 'Rename 4' }).click();
  await expect(netRow(page, 'BLOWER_3')).toBeVisible();
  await expect(saved(page)).toBeVisible();
});

test(
  'nets are chosen by keys; a circuit is copied with its instance left open',
  LONG,
  async ({ page, request }) => {
    const id = await importExample(request);
    await openPlan(page, id);
    await netRow(page, 'VALVE_A_OPEN').click();
    await page.keyboard.press('Shift+ArrowDown');
    await expect(inspector(page).getByRole('heading', { name: '2 nets' })).toBeVisible();
    await page.keyboard.press('Escape');
    await netRow(page, 'VALVE_A_OPEN').click();
    await button(page, 'Circuit Valves').click();
    await page.getByRole('menuitem', { name: 'Copy the circuit' }).click();
    await expect(netRow(page, 'VALVE2_A_OPEN')).toContainText('PACE.Q1');
    await expect(page.getByText('5 unplaced')).toBeVisible();
    await page.keyboard.press('Shift+P');
    await expect(placer(page)).toContainText('5 nets get a pad');
  },
);

test('nets are pasted from a spreadsheet, and usual circuits chosen', async ({ page, request }) => {
  const id = await emptyPlan(request, 'Pasted');
  await openPlan(page, id);
  await typeNets(
    page,
    'Net\tIs\tPad\tCircuit\tNote\nLAMP 1\tout low\tB7\tPanel\tred\nMAST_TX\tUART1_TX\tD4\tMast\t\nKEY\tin up\t\tPanel\t',
  );
  await expect(netRow(page, 'LAMP_1')).toContainText('B7');
  await expect(netRow(page, 'MAST_TX')).toContainText('UART1.TX');
  await button(page, 'Usual circuits').click();
  await page.getByRole('menuitem', { name: /Two-wire bus/ }).click();
  await expect(page.getByRole('textbox', { name: 'New nets' })).toHaveValue(/i2c sda scl pulled-up/);
  await page.keyboard.press('Enter');
  await expect(netRow(page, 'STORE_SDA')).toBeVisible();
  await expect(padRow(page, 'B7')).toContainText('LAMP_1');
});

test('a rate shows what the divider gives; a lamp what the pad must carry', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id, '?select=net:mast-tx');
  const section = inspector(page);
  await expect(section).toContainText('gets116.3 kHz +0.94 % · 80 MHz / 16 / 43');
  await section.getByRole('textbox', { name: 'Rate' }).fill('2M');
  await page.keyboard.press('Enter');
  await expect(section).toContainText('−16.67 %');
  await expect(finding(page, 'rate-off', 'MAST_TX')).toBeVisible();
  await netRow(page, 'LAMP_RED').click();
  await expect(section).toContainText('= 5.91 mA');
  await section.getByRole('textbox', { name: 'Series resistor' }).fill('100');
  await page.keyboard.press('Enter');
  await expect(section).toContainText('= 13 mA');
  await expect(section).toContainText('sinks 13 mA on pad A5 (pin 8), which allows 8 mA');
});

test('bits chosen among the ports: their nets are changed together, their unused pads too', async ({
  page,
  request,
}) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=ports');
  const bit = (pad: string) => page.getByRole('gridcell', { name: new RegExp(`pad ${pad},`) });
  await bit('E12').click();
  await bit('E13').click({ modifiers: ['Control'] });
  await bit('E9').click({ modifiers: ['Control'] });
  await page.getByRole('combobox', { name: /1 unused pad/ }).selectOption('output-low');
  await expect(saved(page)).toBeVisible();
  const plan = await (await request.get(`/api/plans/${id}/file`)).json();
  expect(plan.tables.unused).toEqual({ E9: 'output-low' });
  await page.getByRole('button', { name: 'Choose the 2 nets there' }).click();
  await expect(inspector(page).getByRole('heading', { name: '2 nets' })).toBeVisible();
});

test('a taken pad makes room by a chain of moves', async ({ page, request }) => {
  const at = (pad: string) => ({ pad, locked: false });
  const net = (id: string, role: object, placement: object | null) => ({
    id,
    name: id.toUpperCase(),
    circuit: 'b',
    role,
    placement,
    settings: {},
  });
  const base = JSON.parse(exampleText('frost-guard.plan.json'));
  const { constraints: _ties, tables: _tables, ...rest } = base;
  const id = await importPlan(request, {
    ...rest,
    circuits: [{ id: 'b', name: 'Board' }],
    nets: [
      net('tx', { kind: 'signal', signal: 'UART1.TX' }, at('D4')),
      net('one', { kind: 'output' }, at('C4')),
      net('two', { kind: 'output' }, at('D0')),
      net('three', { kind: 'output' }, at('D5')),
    ],
  });
  await openPlan(page, id, '?select=net:three');
  // TX has no free pad: one of the plain nets must give way to it first.
  await netRow(page, 'THREE').dragTo(padRow(page, 'D4'));
  await expect(netRow(page, 'THREE')).toContainText('D4');
  await expect(netRow(page, 'TX')).toContainText(/C4|D0/);
  await expect(
    page.getByText(/^Made room: place THREE on D4, .*TX moves to (C4|D0).* Ctrl Z takes it back\.$/),
  ).toBeVisible();
  await expect(finding(page, 'two-nets')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(netRow(page, 'TX')).toContainText('D4');
  await netRow(page, 'TX').click();
  await page.getByRole('button', { name: 'move TX to C4' }).click();
  await expect(netRow(page, 'TX')).toContainText('C4');
  await expect(netRow(page, 'ONE')).not.toContainText('C4');
  await expect(finding(page, 'two-nets')).toHaveCount(0);
});
