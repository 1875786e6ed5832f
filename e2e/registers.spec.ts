import {
  emptyPlan,
  expect,
  expectAccessible,
  find,
  importExample,
  LONG,
  netRow,
  openPlan,
  test,
  typeNets,
} from './fixtures';

const list = (page: import('@playwright/test').Page) =>
  page.getByRole('list', { name: 'Registers bit by bit' });

test('a bit lights its pad everywhere, a net its bits; keys walk along the bits', async ({
  page,
  request,
}) => {
  await openPlan(page, await importExample(request));
  await page.keyboard.press('r');
  await expect(list(page)).toBeVisible();
  await list(page)
    .getByRole('button', { name: /^PD\.FN1 bits 4…0: pad D4, MAST_TX/ })
    .click();
  const inspector = page.getByRole('region', { name: 'Inspector' });
  await expect(inspector).toContainText('fn of D4 (pin 52)');
  await expect(inspector).toContainText('0x02');
  await expect(inspector).toContainText('~0xFFFFFFE0');
  expect(new URL(page.url()).searchParams.get('select')).toBe('bits:PD.FN1:0');
  await page.keyboard.press('ArrowLeft');
  await expect(inspector.getByRole('heading')).toContainText(['PD.FN1 bits 7…5']);
  await page.keyboard.press('ArrowLeft');
  await expect(inspector).toContainText('MAST_DE');
  await page.keyboard.press('ArrowUp');
  await expect(inspector.getByRole('heading')).toContainText(['PD.FN0 bits 12…8']);
  await page.reload();
  await expect(inspector.getByRole('heading')).toContainText(['PD.FN0 bits 12…8']);
  await netRow(page, 'FAN_1').click();
  await expect(list(page).locator('[data-bits-of="B7"]').first()).toBeInViewport();
  await page.getByRole('button', { name: 'Package', exact: true }).click();
  await find(page, 'pe_for', /^register PE\.FORCE/);
  await expect(list(page).locator('[data-register="PE.FORCE"]')).toBeInViewport();
});

test('the whole value in three notations, each bit tied to its pin; filters', async ({ page, request }) => {
  await openPlan(page, await importExample(request), '?view=registers&select=bits:PD.FN1');
  const row = list(page).locator('[data-register="PD.FN1"]');
  await expect(row).toContainText('0x06000202');
  await expect(row).toContainText('0000 0110 0000 0000 0000 0010 0000 0010');
  await expect(row).toContainText('100663810');
  await expect(row).toContainText('D7 RADIO_SCK = 6 · D5 MAST_DE = 2 · D4 MAST_TX = 2');
  await page.getByRole('radio', { name: /changed from reset/ }).click();
  await expect(list(page).locator('[data-register="PB.PULL"]')).toHaveCount(0);
  await page.getByLabel('Port or block').selectOption('PB');
  await expect(list(page).getByRole('button', { name: /^PD/ })).toHaveCount(0);
  await page.getByLabel('Circuit', { exact: true }).selectOption({ label: 'Mast link' });
  await expect(page.getByText('No register is left by these filters.')).toBeVisible();
});

test('a value typed over bits is a plan: said pad by pad, taken as an edit, undone', async ({
  page,
  request,
}) => {
  await openPlan(page, await importExample(request), '?view=registers&select=bits:PB.OUT:7');
  const inspector = page.getByRole('region', { name: 'Inspector' });
  const field = inspector.getByLabel(/^What if PB\.OUT bits 7 to 7 were/);
  await field.fill('2');
  await expect(inspector).toContainText('at most 1 bits');
  await field.fill('0');
  await expect(inspector).toContainText('FAN_1');
  await expect(inspector).toContainText('initial level low instead of high');
  await inspector.getByRole('button', { name: 'Take it as an edit' }).click();
  await expect(inspector).toContainText('0x0');
  await netRow(page, 'FAN_1').click();
  await expect(
    page.getByRole('radiogroup', { name: 'starts' }).getByRole('radio', { name: 'asserted' }),
  ).toBeChecked();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(
    page.getByRole('radiogroup', { name: 'starts' }).getByRole('radio', { name: 'inactive' }),
  ).toBeChecked();
});

test('a dump is read as a plan: differences are taken over one by one or all at once', async ({
  page,
  request,
}) => {
  const id = await emptyPlan(request, 'Read back');
  await openPlan(page, id, '?view=registers');
  await expect(page.getByText('The plan touches no register yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Read back …' }).click();
  const dump = page.getByLabel('Dump of registers');
  await dump.fill('hello');
  await expect(page.getByText(/nothing in it is of a register of this part/)).toBeVisible();
  await dump.fill('PB.USE = 0xFFFF7FFF\nPB.OUT = 0x0080\nPB.FORCE = 0x00004000\nPB.PULL = 0\nPC.WRONG = 1\n');
  await expect(page.getByText('1 line was not understood')).toBeVisible();
  const differs = page.getByRole('region', { name: 'What differs' });
  await expect(differs).toContainText('output, initial level high, output type push-pull, drive 4mA');
  await expectAccessible(page);
  await differs.getByRole('button', { name: 'take over', exact: true }).click();
  await expect(page.getByText(/B7 taken over/)).toBeVisible();
  await expect(differs).toHaveCount(0);
  await expect(netRow(page, 'PIN_B7')).toBeVisible();
});

test('a line of the code shows its bits; arrows walk the operations; a register leads back to its line', async ({
  page,
  request,
}) => {
  await openPlan(page, await importExample(request), '?view=code');
  const code = page.getByRole('region', { name: 'frost_guard.c' });
  await code.getByText('FROST_GUARD_PD_FN1').first().click();
  const inspector = page.getByRole('region', { name: 'Inspector' });
  await expect(inspector.getByRole('heading').first()).toContainText('PD.FN1 bits 4…0');
  await code.focus();
  await page.keyboard.press('ArrowDown');
  await expect(inspector.getByRole('heading').first()).toContainText('PD.FN2');
  await page.getByRole('button', { name: 'show among the registers' }).click();
  await expect(list(page).locator('[data-register="PD.FN2"]')).toBeInViewport();
  await inspector.getByTitle('Show the line of the code').first().click();
  await expect(page.locator('[aria-current="location"]')).toBeInViewport();
});

test('every target is shown; one that is not for the part says why', async ({ page, request }) => {
  await openPlan(page, await importExample(request), '?view=code');
  for (const [target, path, words] of [
    ['C11, table', 'frost_guard.c', 'FROST_GUARD_ROW_4'],
    ['C++17', 'frost_guard.hpp', 'template <class Bus = memory>'],
    ['Rust', 'frost_guard.rs', 'pub trait Bus'],
    ['Assembly, RISC-V 32', 'frost_guard.s', '.global frost_guard_init'],
    ['Devicetree', 'frost_guard.dts', 'drive-strength = <4>;'],
    ['Pin schedule, CSV', 'frost_guard_pins.csv', 'POWER_HOLD'],
  ] as const) {
    await page.getByLabel('Target').selectOption(target);
    await expect(page.getByRole('region', { name: path })).toContainText(words);
  }
  await page.getByLabel('Target').selectOption('Assembly, AVR');
  await expect(
    page.getByText(/There is no Assembly, AVR for this plan: GATE\.ON is a register of 32 bits/),
  ).toBeVisible();
  await page.reload();
  await expect(page.getByLabel('Target')).toHaveValue('asm-avr');
});

test('the code goes through the compilers of the server, which say its size', async ({ page, request }) => {
  await openPlan(page, await importExample(request), '?view=code');
  await page.getByLabel('Target').selectOption('C11, table');
  await page.getByRole('button', { name: 'Compile' }).click();
  const compilers = page.getByRole('region', { name: 'Compilers' });
  await expect(compilers).toContainText(/GCC, ARM Thumb takes it without a warning \d+ bytes/);
  await expectAccessible(page);
  await page.getByLabel('Target').selectOption('Pin schedule, Markdown');
  await expect(compilers).toHaveCount(0);
});

test('exports are listed, shown as they were, and compared', async ({ page, request }) => {
  const id = await importExample(request);
  await openPlan(page, id, '?view=code');
  const exportNow = async () => {
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Download zip' }).click();
    await download;
    await expect(page.getByText(/^Downloaded; changes/)).toBeVisible();
  };
  await exportNow();
  await netRow(page, 'SENSE_EN').click();
  await page.getByRole('radiogroup', { name: 'starts' }).getByRole('radio', { name: 'asserted' }).click();
  await expect(page.getByText(/lines differ from the export/)).toBeVisible();
  await exportNow();
  await page.getByRole('button', { name: 'Exports' }).click();
  const exports = page.getByRole('region', { name: 'Exports' });
  const entries = exports.getByRole('list', { name: 'Exports, newest first' }).getByRole('listitem');
  await expect(entries).toHaveCount(2);
  await entries.nth(0).getByRole('button').first().click();
  await expect(exports.getByRole('region', { name: 'frost_guard.c' })).toContainText('PB_OUTS, 0x00C0u');
  await entries.nth(1).getByRole('button', { name: 'compare with this' }).click();
  await expect(exports.getByRole('region', { name: 'frost_guard.c' })).toContainText(
    '−    FROST_GUARD_WRITE16(FROST_GUARD_PB_OUTC, 0x0040u);',
  );
  await expectAccessible(page);
  await exports.getByRole('button', { name: 'back to the code as it is now' }).click();
  // What registers held at the last export is what the registers view compares with.
  await page.keyboard.press('r');
  await expect(page.getByRole('radio', { name: 'since the export 0' })).toBeVisible();
});

test.describe('in the dark', () => {
  test.use({ colorScheme: 'dark' });
  test('registers of another part, with addresses of the document and of the processor', async ({
    page,
    request,
  }) => {
    const id = await importExample(request, 'families/pellin-p8-22.plan.json');
    await openPlan(page, id, '?view=registers');
    await expect(list(page)).toBeVisible();
    await expectAccessible(page);
    const first = list(page).getByRole('listitem').first();
    const before = await first.textContent();
    await page.getByRole('radiogroup', { name: 'Addresses' }).getByRole('radio').nth(1).click();
    await expect(first).not.toHaveText(before ?? '');
  });
});

test('a plan that is typed shows its bits as they come', async ({ page, request }) => {
  const id = await emptyPlan(request, 'Typed');
  await openPlan(page, id, '?view=registers');
  await typeNets(page, 'fans: fan_1 out low');
  await netRow(page, 'FAN_1').click();
  await page.keyboard.press('Enter');
  await expect(list(page).getByRole('button', { name: /FAN_1/ }).first()).toBeVisible();
});

test('existing C is read as a plan, with what is suspicious in it by line; taken over, it is the plan', async ({
  page,
  request,
}) => {
  const id = await emptyPlan(request, 'Existing code');
  await openPlan(page, id, '?view=registers');
  await typeNets(page, 'yard: fan out low @B7 · door in up @B9');
  await page.getByRole('button', { name: 'Read back …' }).click();
  await page.getByRole('radio', { name: 'existing C' }).click();
  const code = page.getByRole('textbox', { name: 'Existing C' });
  await code.fill('int x = ;\n');
  const found = page.getByRole('region', { name: 'What was found in the code' });
  await expect(found).toContainText('";" is not understood here');
  const lines = [
    '#include "board.h"',
    'void board_init(void)',
    '{',
    '  open_port();',
    '  PB->OUT |= 1u << 7;',
    '  PB->PULL |= 1u << 20;',
    '  PB->USE = 0xFFF37FFF;',
    '  PB->SEAL = 0;',
    '}',
  ];
  await code.fill(lines.join('\n'));
  await expect(found.getByRole('listitem').filter({ hasText: 'line 4' })).toContainText(
    'open_port is not in the files',
  );
  await expect(page.getByText('Headers that are not here:')).toContainText('board.h');
  await page.getByLabel('Add files …').setInputFiles([
    {
      name: 'board.h',
      mimeType: 'text/plain',
      buffer: Buffer.from(
        'static void open_port(void) { GATE->ON = 0x10002; while (!(GATE->READY & 2)) ; PB->SEAL = 0xC40C40; }',
      ),
    },
  ]);
  await expect(found.getByRole('listitem').filter({ hasText: 'one field too high, at B10' })).toContainText(
    'line 6',
  );
  await expect(found.getByRole('listitem').filter({ hasText: 'line 6' }).first()).toContainText(
    'PB->PULL |= 1u << 20;',
  );
  await found.getByRole('button', { name: 'B9' }).first().click();
  await expect(page.getByRole('region', { name: 'Inspector' }).getByRole('heading').first()).toContainText(
    'DOOR',
  );
  await expectAccessible(page);
  await code.fill(lines.join('\n').replace('1u << 20', '2u << 18'));
  const differs = page.getByRole('region', { name: 'What differs' });
  await expect(differs).toContainText('pull down instead of up');
  await differs.getByRole('button', { name: 'take over' }).click();
  await expect(page.getByText('B9 taken over; undo takes it back')).toBeVisible();
  await expect(page.getByText('2 pads end as planned, none differs')).toBeVisible();
});

test(
  'options of the code: functions by circuit and their order, deinit, low power, names of own headers',
  LONG,
  async ({ page, request }) => {
    await openPlan(page, await importExample(request), '?view=code');
    const code = page.getByRole('region', { name: 'frost_guard.c' });
    const options = page.getByRole('region', { name: 'Inspector' });
    await expect(code).toContainText('void frost_guard_init(void)');
    await options.getByRole('radio', { name: 'one a circuit' }).click();
    await expect(code).toContainText('bool frost_guard_init_fans(void)');
    await options.getByRole('button', { name: 'Valves earlier' }).click();
    await expect(
      options.getByRole('list', { name: 'Order of circuits' }).getByRole('listitem').first(),
    ).toContainText('Valves');
    await options.getByRole('radiogroup', { name: 'deinit' }).getByRole('radio', { name: 'yes' }).click();
    await expect(code).toContainText('bool frost_guard_deinit(void)');
    await options.getByRole('radiogroup', { name: 'clocks' }).getByRole('radio', { name: 'yes' }).click();
    await expect(code).toContainText('FROST_GUARD_GATE_FEED');
    const registers = options.getByRole('textbox', { name: 'What your headers call registers' });
    await registers.fill('HW->({block}');
    await expect(options).toContainText('as in {block}->{register}');
    await registers.fill('{block}->{register:lower}');
    await registers.press('Enter');
    await page.getByRole('tab', { name: 'frost_guard.h' }).click();
    await expect(page.getByRole('region', { name: 'frost_guard.h' })).toContainText('(PB->outs)');
    await expectAccessible(page);
    // A line of the header leads to its net, and the net says what it is while the chip sleeps.
    await page
      .getByRole('region', { name: 'frost_guard.h' })
      .locator('[data-line]', { hasText: 'frost_guard_fan_1_set' })
      .first()
      .click();
    await expect(options.getByRole('heading').first()).toContainText('FAN_1');
    await options.getByRole('combobox', { name: 'In low power' }).selectOption('release');
    await expect(page.getByRole('region', { name: 'frost_guard.h' })).toContainText(
      'bool frost_guard_sleep(void);',
    );
    await netRow(page, 'MAST_TX').click();
    const format = options.getByRole('textbox', { name: 'Frame, mode or speed class' });
    await format.fill('115200 8E1');
    await format.press('Enter');
    await expect(page.getByRole('region', { name: 'frost_guard.h' })).toContainText(
      'FROST_GUARD_MAST_TX_PARITY 2u',
    );
    await expectAccessible(page);
  },
);

test('a bit is flipped by a click: what plan that would be is offered', async ({ page, request }) => {
  await openPlan(page, await importExample(request), '?view=registers&select=bits:PA.FORCE:2');
  const inspector = page.getByRole('region', { name: 'Inspector' });
  await inspector.getByRole('button', { name: 'bit 2, 1' }).click();
  await expect(inspector).toContainText('drive 2mA instead of 4mA');
  await inspector.getByRole('button', { name: 'bit 2, 0' }).click();
  await expect(inspector).toContainText('That is what is planned.');
  await expectAccessible(page);
  await inspector.getByRole('button', { name: 'bit 2, 1' }).click();
  await inspector.getByRole('button', { name: 'Take it as an edit' }).click();
  await expect(inspector.getByText('0b00').first()).toBeVisible();
});
