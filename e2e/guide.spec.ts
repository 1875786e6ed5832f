import { expect, expectAccessible, test } from './fixtures';

test('a first plan, guided from the start page to its code; left, and taken up again', async ({ page }) => {
  await page.goto('/');
  const first = page.getByRole('region', { name: 'What to do first' });
  await expect(first.getByRole('link', { name: 'Look at the demo' })).toBeVisible();
  await expectAccessible(page);
  await first.getByRole('button', { name: 'Guided first plan' }).click();
  const guide = page.getByRole('region', { name: 'Guided first plan' });
  await expect(guide).toContainText('The part.');
  await expectAccessible(page);
  const next = guide.getByRole('button', { name: 'Next' });
  await next.click();
  await expect(guide).toContainText('What the board needs.');
  await guide.getByRole('button', { name: 'Type some for me' }).click();
  await expect(page.locator('[data-name="FAN_1"]')).toBeVisible();
  await next.click();
  await expect(guide).toContainText('A pad for each.');
  await guide.getByRole('button', { name: 'Place all' }).click();
  await page.getByRole('button', { name: /^Apply/ }).click();
  await next.click();
  await expect(guide).toContainText('Settings.');
  // Left in the middle, it is there again after a reload, at the same step.
  await page.reload();
  await expect(guide).toContainText('Settings.');
  await page.locator('[data-name="PANEL_LAMP"]').click();
  await page.keyboard.press('e');
  await expect(page.locator('#net-settings :focus')).toBeVisible();
  await page.getByRole('radiogroup', { name: 'drive' }).getByRole('radio', { name: '4 mA' }).click();
  await next.click();
  await expect(guide).toContainText('Findings.');
  // The open button floats: one remedy gives it a pull.
  const findings = page.getByRole('list', { name: 'Findings' });
  await expect(findings).toContainText('PANEL_SERVICE_BTN');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('x');
  await expect(page.locator('[data-remedies] :focus')).toBeVisible();
  while ((await findings.count()) > 0 && (await findings.locator('[data-remedies] button').count()) > 0) {
    const before = await findings.getByRole('listitem').count();
    await findings.locator('[data-remedies] button').first().click();
    await expect
      .poll(async () => ((await findings.count()) === 0 ? 0 : findings.getByRole('listitem').count()))
      .not.toBe(before);
  }
  await next.click();
  await expect(guide).toContainText('Registers.');
  await next.click();
  await expect(guide).toContainText('The bench.');
  await next.click();
  await expect(guide).toContainText('Code.');
  const download = page.waitForEvent('download');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Shift+D');
  expect((await download).suggestedFilename()).toMatch(/\.zip$/);
  await next.click();
  await expect(guide).toContainText('That is the whole way.');
  await guide.getByRole('button', { name: 'Close' }).click();
  await expect(guide).toHaveCount(0);
});

test('every key in one table that can be searched', async ({ page }) => {
  await page.goto('/plans/frost-guard');
  await expect(page.getByTestId('counts')).toBeVisible();
  await page.keyboard.press('h');
  await expect(page.getByRole('dialog', { name: 'About the package view' })).toContainText(
    'pads that can carry it step forward',
  );
  await page.keyboard.press('Escape');
  await page.keyboard.press('?');
  const dialog = page.getByRole('dialog', { name: 'Keys' });
  await dialog.getByLabel('Search the keys').fill('bench');
  await expect(dialog).toContainText('Do one operation');
  await expect(dialog).not.toContainText('Lock the selected net');
  await dialog.getByLabel('Search the keys').fill('no such thing');
  await expect(dialog).toContainText('No key does that.');
  await expectAccessible(page);
});
