import type { Locator, Page } from '@playwright/test';
import { expect, finding, LONG, netRow, test } from './fixtures';

/** Whoever does the job: what is pressed and clicked is counted, what is typed into fields apart. */
class Hands {
  strokes = 0;
  clicks = 0;
  typed = 0;

  constructor(private readonly page: Page) {}

  async press(...keys: string[]): Promise<void> {
    for (const key of keys) {
      this.strokes++;
      await this.page.keyboard.press(key);
    }
  }

  async click(what: Locator): Promise<void> {
    this.clicks++;
    await what.click();
  }

  async type(text: string): Promise<void> {
    this.typed += text.length;
    await this.page.keyboard.type(text);
  }

  /** A key for each thing that is done, however it is done. */
  get done(): number {
    return this.strokes + this.clicks;
  }
}

const LINES = [
  'fans: fan_1 out low driven · fan_2 out low driven',
  'panel: service_btn in low · lamp out low',
  'leaf: t1 analog · t2 analog',
].join('\n');

const view = (page: Page, name: string): Locator => page.getByRole('button', { name, exact: true });

/** From an empty list to the code, with settings, a remedy, the registers and the bench on the way. */
async function wholeJob(page: Page, hands: Hands, way: 'mouse' | 'keys'): Promise<void> {
  const mouse = way === 'mouse';
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Plans' })).toBeVisible();
  // A plan on the demo's part, whatever other parts there are.
  if (mouse) await hands.click(page.getByRole('button', { name: 'Guided first plan' }));
  else await hands.press('g');
  await expect(page.getByText('What does the board need?')).toBeVisible();
  // Its nets.
  const field = page.locator('#add-nets');
  if (mouse) await hands.click(field);
  else await hands.press('a');
  await expect(field).toBeFocused();
  const lines = LINES.split('\n');
  for (const line of lines) {
    await hands.type(line);
    // The last one goes in and is placed with all others, by key.
    await hands.press(!mouse && line === lines.at(-1) ? 'Control+Enter' : 'Enter');
    await expect(
      netRow(page, line.startsWith('fans') ? 'FAN_1' : line.startsWith('panel') ? 'PANEL_LAMP' : 'LEAF_T2'),
    ).toBeVisible();
  }
  // A pad for each.
  if (mouse) await hands.click(page.getByRole('button', { name: 'Place all' }));
  await expect(page.getByRole('button', { name: /^Apply/ })).toBeEnabled();
  if (mouse) await hands.click(page.getByRole('button', { name: /^Apply/ }));
  else await hands.press('Enter');
  await expect(finding(page, 'unplaced')).toHaveCount(0);
  // A setting of one of them.
  if (mouse) await hands.click(netRow(page, 'PANEL_LAMP'));
  else {
    await hands.press('/');
    await hands.type('lamp');
    await hands.press('Enter');
  }
  const drive = page.getByRole('radiogroup', { name: 'drive' });
  await expect(drive).toBeVisible();
  if (mouse) await hands.click(drive.getByRole('radio', { name: '4 mA' }));
  else await toSetting(page, hands, drive.getByRole('radio', { name: '4 mA' }));
  await expect(drive.getByRole('radio', { name: '4 mA' })).toBeChecked();
  // The open button floats: a remedy.
  const findings = page.getByRole('list', { name: 'Findings' });
  const before = await findings.getByRole('listitem').count();
  if (mouse) await hands.click(findings.locator('[data-remedies] button').first());
  else {
    await hands.press('x');
    await expect(page.locator('[data-remedies] :focus')).toBeVisible();
    await hands.press('Enter');
  }
  await expect.poll(async () => findings.getByRole('listitem').count()).not.toBe(before);
  // Registers, bench, code.
  if (mouse) await hands.click(view(page, 'Registers'));
  else await hands.press('r');
  await expect(view(page, 'Registers')).toHaveAttribute('aria-current', 'page');
  if (mouse) await hands.click(view(page, 'Bench'));
  else await hands.press('t');
  const run = page.getByRole('button', { name: /^run/ });
  await expect(run).toBeVisible();
  if (mouse) await hands.click(run);
  else await hands.press('Space');
  await expect(page.getByText(/^(\d+) of \1 ·/)).toBeVisible();
  const download = page.waitForEvent('download');
  if (mouse) {
    await hands.click(view(page, 'Code'));
    await hands.click(page.locator('#download-code'));
  } else await hands.press('Shift+D');
  expect((await download).suggestedFilename()).toMatch(/\.zip$/);
}

/** To a setting of the selected net by key: E, then Tab to its group, and arrows. */
async function toSetting(page: Page, hands: Hands, radio: Locator): Promise<void> {
  await hands.press('e');
  await expect(page.locator('#net-settings :focus')).toBeVisible();
  const group = radio.locator('xpath=ancestor::*[@role="radiogroup"]');
  while ((await group.locator(':focus').count()) === 0) {
    expect(hands.strokes, 'the group is not reached').toBeLessThan(200);
    await hands.press('Tab');
  }
  while (!(await radio.isChecked())) {
    expect(hands.strokes, 'the value is not reached').toBeLessThan(200);
    await hands.press('ArrowRight');
  }
}

test('the whole job by key takes at most 40 % more strokes than with the mouse', LONG, async ({ page }) => {
  const mouse = new Hands(page);
  await wholeJob(page, mouse, 'mouse');
  const keys = new Hands(page);
  await wholeJob(page, keys, 'keys');
  expect(keys.clicks).toBe(0);
  const all = (hands: Hands): number => hands.done + hands.typed;
  console.log(
    `by mouse ${mouse.done} clicks and keys and ${mouse.typed} letters, by key ${keys.done} and ${keys.typed}`,
  );
  // Of what is not typed text, which is the same, and of everything.
  expect(keys.done / mouse.done).toBeLessThanOrEqual(1.4);
  expect(all(keys) / all(mouse)).toBeLessThanOrEqual(1.4);
});
