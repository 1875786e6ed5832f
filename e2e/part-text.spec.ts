import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { copyPart, expect, expectAccessible, expectLegible, test } from './fixtures';

const editor = (page: Page) => page.getByRole('textbox', { name: 'Text of the part' });
const pane = (page: Page) => page.getByRole('region', { name: 'What it means' });

/** Puts the cursor after a text of the editor that stands there once, by its own search. */
async function goTo(page: Page, text: string): Promise<void> {
  await editor(page).focus();
  await page.keyboard.press('Control+f');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('ArrowRight');
}

test('a text is edited: errors at their line, what names mean beside it, stored as the next version', async ({
  page,
  request,
}) => {
  const id = await copyPart(request, 'written');
  await page.goto(`/parts/${id}?tab=text`);
  await expect(editor(page)).toBeVisible();
  await expect(page.getByText('loads, and all its settings have bits of their own')).toBeVisible();

  await goTo(page, 'OUTS  +0x28');
  await expect(pane(page).getByRole('heading', { name: 'PORT.OUTS' })).toBeVisible();
  await expect(pane(page)).toContainText('0x50020028');
  await pane(page).getByLabel('Value that is written').fill('0x12');
  const bits = pane(page).getByRole('list', { name: 'Bits of PA.OUT after the write' });
  await expect(bits.getByRole('listitem').filter({ hasText: '0→1' })).toHaveCount(2);
  await expectAccessible(page);

  // A misspelt register: the problem stands at its line, and leads there.
  await goTo(page, 'set of OUT');
  await page.keyboard.type('T');
  const wrong = page.getByRole('list', { name: 'What is wrong' });
  await expect(wrong).toContainText('there is no register OUTT beside it; did you mean OUT?');
  await expect(page.getByRole('button', { name: 'Store' })).toBeDisabled();
  await page.keyboard.press('Control+z');
  await expect(wrong).toBeHidden();

  // Completion, from the part's own names.
  await goTo(page, 'writes pull buffer plain');
  await page.keyboard.type(' ');
  await page.keyboard.press('Control+Space');
  await expect(page.locator('.cm-tooltip-autocomplete')).toContainText('force');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Backspace');

  // Renamed everywhere, formatted, stored.
  await goTo(page, 'OUT   +0x24');
  await page.keyboard.press('Home');
  await page.keyboard.press('F2');
  await page.getByLabel(/rename register OUT/).fill('LATCHES');
  await page.keyboard.press('Enter');
  await expect(editor(page)).toContainText('set of LATCHES');
  await page.getByRole('button', { name: 'Format' }).click();
  await expect(page.getByRole('button', { name: 'Store' })).toBeEnabled();
  await page.getByRole('button', { name: 'Store' }).click();
  await expect(page.getByText(/content \w+, revision 2/)).toBeVisible();
  const description = await (await request.get(`/api/devices/${id}`)).json();
  expect(JSON.stringify(description.recipe.registers)).toContain('set of LATCHES');
  expect(description.pads.length).toBeGreaterThan(40);

  // A comment is stored with the text, and is there for whoever opens it next.
  await goTo(page, 'latches');
  await page.keyboard.press('Home');
  await page.keyboard.type('# as measured on board C');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Store' })).toBeEnabled();
  await page.getByRole('button', { name: 'Store' }).click();
  await expect(page.getByText(/content \w+, revision 3/)).toBeVisible();
  await page.reload();
  await goTo(page, 'as measured');
  await expect(editor(page)).toContainText('# as measured on board C');
});

test('the part is described again, and the two are compared by what they do', async ({ page, request }) => {
  // Hundreds of proofs are carried out in a worker of the page.
  test.slow();
  const id = await copyPart(request, 'described-again', {}, 'pellin-p8-22');
  await page.goto(`/parts/${id}?tab=text`);
  await page.getByRole('button', { name: 'Describe again …' }).click();
  const section = page.getByRole('region', { name: 'Describe again, and compare' });
  await expect(section.getByRole('link', { name: 'text to start from' })).toBeVisible();
  const text = (await (await request.get(`/api/devices/${id}/export?as=tables`)).body()).toString('latin1');
  expect(text).toContain('recipe.part');
  // The second reader has taken the pull codes the other way round, and gives a register another name.
  const again = readFileSync('devices/pellin-p8/recipe.part', 'utf8')
    .replace('input * up *: 1', 'input * up *: 0')
    .replace('input * none *: 0', 'input * none *: 1')
    .replace('  QT +6', '  MUTE +6')
    .replace('PORT.QT', 'PORT.MUTE');
  await section.getByLabel('second description').setInputFiles({
    name: 'again.part',
    mimeType: 'text/plain',
    buffer: Buffer.from(again),
  });
  await expect(section.getByRole('status')).toHaveText('The two are not the same.', { timeout: 240_000 });
  await expect(section).toContainText('PK.QT and PK.MUTE');
  await expect(section).toContainText('as input (pull none');
  await expectAccessible(page);
});

test.describe('in the dark, and in a narrow window', () => {
  test.use({ colorScheme: 'dark', viewport: { width: 760, height: 800 } });
  test('the text and what it means stay legible', async ({ page, request }) => {
    const id = await copyPart(request, 'written-in-the-dark');
    await page.goto(`/parts/${id}?tab=text`);
    await expect(editor(page)).toBeVisible();
    await goTo(page, 'field fn');
    await expect(pane(page)).toContainText('stage route');
    await expectLegible(page);
  });
});
