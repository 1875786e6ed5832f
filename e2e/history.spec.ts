import { readFileSync } from 'node:fs';
import type { APIRequestContext, Page } from '@playwright/test';
import {
  expect,
  expectAccessible,
  expectLegible,
  importExample,
  LONG,
  netRow,
  openPlan,
  saved,
  test,
} from './fixtures';

const now = async (request: APIRequestContext, id: string) => (await request.get(`/api/plans/${id}`)).json();

/** Moves a lamp and renames another, as somebody who says who they are. */
async function changed(page: Page, request: APIRequestContext): Promise<string> {
  const id = await importExample(request);
  await page.addInitScript(() => localStorage.setItem('mavrek:author', 'mk'));
  await openPlan(page, id, '?select=net:lamp-red');
  const name = page.getByRole('textbox', { name: 'Net name' });
  await name.fill('LAMP_AMBER');
  await name.press('Enter');
  await expect(netRow(page, 'LAMP_AMBER')).toBeVisible();
  await netRow(page, 'FAN_3').click();
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('k');
  await expect(saved(page)).toBeVisible();
  await expect.poll(async () => (await now(request, id)).seq).toBe(2);
  return id;
}

test('history: edits in words; a moment is looked at in every view, brought back, branched', async ({
  page,
  request,
}) => {
  test.slow();
  const id = await changed(page, request);
  await page.keyboard.press('y');
  await expect(page.getByRole('heading', { name: /^History of Frost guard/ })).toBeVisible();
  const edits = page.getByRole('region', { name: 'Edits' });
  await expect(edits.locator('[data-seq="1"]')).toContainText('rename LAMP_RED to LAMP_AMBER');
  await expect(edits).toContainText('mk · 2 edits');
  await page.getByLabel('Search the edits').fill('amber');
  await expect(edits.locator('[data-seq]')).toHaveCount(1);
  await page.getByLabel('Search the edits').fill('no such thing');
  await expect(edits).toContainText('No edit says that.');
  await page.getByLabel('Search the edits').fill('');
  await expectAccessible(page);

  // As it was made: every view opens, nothing is changed.
  await edits.getByRole('link', { name: 'look', exact: true }).last().click();
  const moment = page.getByRole('region', { name: 'A moment of the plan' });
  await expect(moment).toContainText('As it was: edit 0.');
  await expect(netRow(page, 'LAMP_RED')).toBeVisible();
  for (const view of ['Ports', 'Functions', 'Registers', 'Power', 'Board', 'Bench', 'Code', 'Package']) {
    await page.getByRole('navigation', { name: 'Views' }).getByRole('button', { name: view }).click();
    await expect(moment).toBeVisible();
  }
  await expect(page).toHaveURL(new RegExp(`/plans/${id}/at/0`));
  await netRow(page, 'LAMP_RED').click();
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Delete');
  await expect(page.getByRole('alert').filter({ hasText: 'This is the plan' })).toContainText(
    'This is the plan as it was (edit 0); nothing is changed here.',
  );
  await expect(netRow(page, 'LAMP_RED')).toContainText('A5');
  // What is taken away of it is of that moment.
  await page.getByRole('button', { name: 'Menu' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: /^Export/ }).click();
  expect(readFileSync(await (await download).path(), 'utf8')).toContain('LAMP_RED');
  await expectAccessible(page);

  await moment.getByRole('button', { name: 'Bring this back' }).click();
  await expect(page).toHaveURL(new RegExp(`/plans/${id}$|/plans/${id}\\?`));
  await expect(netRow(page, 'LAMP_RED')).toBeVisible();
  expect((await now(request, id)).seq).toBe(3);
  // It is an edit like others: the one before it is brought back from the list.
  await page.goto(`/plans/${id}/history`);
  await expect(edits.locator('[data-seq="3"]')).toContainText('bring back edit 0');
  await edits.getByRole('button', { name: 'Bring edit 2 back' }).click();
  await expect(edits.locator('[data-seq="4"]')).toContainText(/bring back edit 2/);
  expect((await now(request, id)).plan.nets.some((net: { name: string }) => net.name === 'LAMP_AMBER')).toBe(
    true,
  );

  await page.goto(`/plans/${id}/at/1`);
  await moment.getByRole('button', { name: 'Branch into a new plan' }).click();
  await expect(page.getByRole('heading', { name: /^Frost guard branch/ })).toBeVisible();
  await expect(netRow(page, 'LAMP_AMBER')).toBeVisible();
  expect((await request.get(`/plans/${id}/at/99`)).status()).toBe(404);
});

test('revisions are kept, and compared with what the plan is now; by circuit, by key, on paper', async ({
  page,
  request,
}) => {
  test.slow();
  const id = await importExample(request);
  await page.goto(`/plans/${id}/history`);
  await page.getByLabel('note').fill('first boards');
  await page.getByLabel('by', { exact: true }).fill('mk');
  await page.getByRole('button', { name: 'Keep as revision C' }).click();
  const row = page.locator('[data-revision="C"]');
  await expect(row).toContainText('first boards');
  await expect(page.getByText('The plan is revision C, as it was kept.')).toBeVisible();
  // It goes on as the next one.
  await page.getByRole('button', { name: 'Make it revision D' }).click();
  await expect(page.getByRole('button', { name: 'Keep as revision D' })).toBeVisible();
  await openPlan(page, id, '?select=net:lamp-red');
  const name = page.getByRole('textbox', { name: 'Net name' });
  await name.fill('LAMP_AMBER');
  await name.press('Enter');
  await netRow(page, 'FAN_3').click();
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await now(request, id)).seq).toBe(3);

  await page.goto(`/plans/${id}/history`);
  await row.getByRole('link', { name: 'Compare C with now' }).click();
  const nets = page.getByRole('region', { name: 'Nets', exact: true });
  await expect(nets).toContainText('LAMP_AMBER');
  await expect(nets).toContainText('name LAMP_RED → LAMP_AMBER');
  await expect(nets).toContainText(/FAN_3 Fans.*E13, pin 81 → no pad/);
  await expect(page.getByRole('region', { name: 'Findings' })).toContainText('new: FAN_3');
  const seen = page.getByRole('region', { name: 'What the application sees' });
  await expect(seen).toContainText('does not compile any more');
  await expect(page.getByRole('region', { name: 'Registers' })).toContainText('E13');
  await expect(page.getByRole('region', { name: 'Code', exact: true })).toContainText(
    'frost_guard_lamp_amber_set',
  );
  await expectAccessible(page);
  // J and K walk.
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await expect(nets.locator('[data-difference]').nth(1)).toBeFocused();
  await page.keyboard.press('k');
  await expect(nets.locator('[data-difference]').first()).toBeFocused();
  // One circuit.
  await page.getByLabel('circuit').selectOption('Panel');
  await expect(nets).not.toContainText('FAN_3');
  await expect(page).toHaveURL(/circuit=Panel/);
  await page.getByLabel('circuit').selectOption('');
  const markdown = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Markdown' }).click();
  const file = await markdown;
  expect(file.suggestedFilename()).toMatch(/\.comparison\.md$/);
  expect(readFileSync(await file.path(), 'utf8')).toContain('## Nets moved');
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByLabel('from: plan')).toBeHidden();
  await expect(nets).toBeVisible();
  await page.emulateMedia({ media: 'screen' });
  // The same plan in a smaller package, and on another part.
  await page.getByLabel('to: package').selectOption('q64');
  await expect(page.getByRole('row', { name: /^to / })).toContainText('quad 64');
  await page.getByLabel('to: part').selectOption('pellin-p8-22');
  await expect(page.getByText('The parts have other registers.')).toBeVisible();
  await page.getByLabel('to: plan').selectOption('frost-guard-faulty');
  await expect(nets).toContainText('WIND_DIR');
});

test('a revision may be called whatever people call it', async ({ page, request }) => {
  const id = await importExample(request);
  const name = 'B 100%/2 ü?';
  await request.post(`/api/plans/${id}/edits`, {
    data: {
      editId: 'e',
      client: 'test',
      madeAgainst: 0,
      edit: { kind: 'plan.set', field: 'revision', from: 'C', to: name },
    },
  });
  expect(
    (await request.post(`/api/plans/${id}/revisions`, { data: { seq: 1, note: '', author: '' } })).status(),
  ).toBe(201);
  const read = await request.get(`/api/plans/${id}/revisions/${encodeURIComponent(name)}`);
  expect(read.status()).toBe(200);
  expect(await read.json()).toMatchObject({ name, plan: { revision: name }, files: [{ target: 'c' }] });
  await page.goto(`/plans/${id}/history`);
  await page.getByRole('link', { name: `Review ${name}` }).click();
  await expect(page.getByRole('main')).toContainText(`Revision ${name}`);
  await page.goto(`/plans/${id}/compare?from=${encodeURIComponent(`${id}~${name}`)}&to=${id}`);
  await expect(page.getByText('Nothing differs in what the plans say.')).toBeVisible();
});

test.describe('in the dark, and in a narrow window', LONG, () => {
  test.use({ colorScheme: 'dark', viewport: { width: 760, height: 620 } });
  test('history and comparison stay legible and within the window', async ({ page, request }) => {
    test.slow();
    const id = await importExample(request);
    await request.post(`/api/plans/${id}/revisions`, { data: { seq: 0, note: 'a note', author: 'mk' } });
    for (const [path, words] of [
      [`history`, 'a note'],
      [`compare?from=frost-guard-faulty&to=${id}`, 'WIND_DIR'],
      ['at/0', 'Nothing can be changed'],
    ] as const) {
      await page.goto(`/plans/${id}/${path}`);
      await expect(page.getByText(words).first()).toBeVisible();
      await expectLegible(page);
    }
  });
});
