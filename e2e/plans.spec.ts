import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { copyPart, emptyPlan, exampleText, expect, expectAccessible, importExample, test } from './fixtures';

const rowOf = (page: Page, name: string) =>
  page.getByRole('row').filter({ has: page.getByRole('link', { name, exact: true }) });

test('create a plan for a part and a package', async ({ page, request }) => {
  // Parts without a summary make the lowest rows.
  for (const key of ['a', 'b', 'c']) await copyPart(request, `unsaid-${key}`, { summary: '' });
  await page.goto('/');
  await page.getByRole('button', { name: 'New plan' }).click();
  await expectAccessible(page);
  await page.getByRole('textbox', { name: 'Name' }).fill('Bench board');
  await page.getByRole('radio', { name: /Corvane C40-80/ }).check();
  await page.getByRole('radio', { name: 'quad 64, 0.5 mm' }).check();
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page).toHaveURL(/\/plans\/\w+/);
  await expect(page.getByRole('heading', { name: 'Bench board · rev A' })).toBeVisible();
  await expect(page.getByText('Corvane C40-80 · quad 64, 0.5 mm').first()).toBeVisible();
  await expect(page.getByText('What does the board need?')).toBeVisible();
});

test('a plan is found among many by words of its name, revision or part', async ({ page, request }) => {
  const mark = `z${Date.now().toString(36)}`;
  for (let n = 0; n < 13; n++) await emptyPlan(request, `Box ${n} ${mark}`);
  await page.goto('/');
  await page.getByLabel('Find plans').fill(`${mark} BOX 12`);
  await expect(page).toHaveURL(/find=/);
  await expect(page.getByRole('link', { name: `Box 12 ${mark}`, exact: true })).toBeVisible();
  await expect(page.getByRole('link', { name: `Box 3 ${mark}`, exact: true })).toHaveCount(0);
  await expectAccessible(page);
  await page.getByLabel('Find plans').fill(`${mark} nothing of that kind`);
  await expect(page.getByText('No plan holds')).toBeVisible();
  await page.getByLabel('Find plans').fill('');
  await expect(page.getByRole('link', { name: `Box 3 ${mark}`, exact: true })).toBeVisible();
  const { plans } = await (await request.get(`/api/plans?find=${mark}%20corvane`)).json();
  expect(plans).toHaveLength(13);
  // Words are words, not patterns: as patterns, both would find all thirteen.
  for (const pattern of [`${mark}%25`, `${mark[0]}_${mark.slice(2)}`, `%25 ${mark}`])
    expect((await (await request.get(`/api/plans?find=${pattern}`)).json()).plans).toEqual([]);
});

test('rename, duplicate, delete, and bring back', async ({ page, request }) => {
  const name = `Shed ${Date.now()}`;
  await emptyPlan(request, name);
  await page.goto('/');
  await rowOf(page, name).hover();
  await page.getByRole('button', { name: `Rename ${name}` }).click();
  await page.getByLabel(`New name of ${name}`).fill(`${name} north`);
  await page.keyboard.press('Enter');
  await expect(rowOf(page, `${name} north`)).toBeVisible();

  await page.getByRole('button', { name: `Duplicate ${name} north` }).click();
  await expect(rowOf(page, `${name} north copy`)).toBeVisible();

  await page.getByRole('button', { name: `Delete ${name} north copy` }).click();
  await expect(rowOf(page, `${name} north copy`)).toHaveCount(0);
  await page.getByRole('alert').getByRole('button', { name: 'Bring it back' }).click();
  await expect(rowOf(page, `${name} north copy`)).toBeVisible();
});

test('export as a file and import it again without a difference', async ({ page, request }) => {
  const id = await importExample(request);
  await page.goto('/');
  const download = page.waitForEvent('download');
  await page.locator(`a[href="/api/plans/${id}/file"]`).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe(`frost-guard-c-${id.slice(0, 4)}.plan.json`);
  const text = readFileSync(await file.path(), 'utf8');
  expect(text).toBe(exampleText('frost-guard.plan.json'));

  await page
    .getByLabel('plan file')
    .setInputFiles({ name: 'back.plan.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  await expect(page).toHaveURL(/\/plans\//);
  await expect(page.getByRole('heading', { name: 'Frost guard · rev C' })).toBeVisible();
});

test('a file that is wrong is refused with its place, and nothing is added', async ({ page, request }) => {
  await page.goto('/');
  const wrong = [
    {
      name: 'half.json',
      text: exampleText('frost-guard.plan.json').slice(0, 1200),
      message: /half\.json:\d+:\d+ not valid JSON/,
    },
    {
      name: 'part.json',
      text: exampleText('frost-guard.plan.json').replace('corvane-c40-80', 'nobody-n1'),
      message: /there is no part "nobody-n1" here/,
    },
    { name: 'huge.json', text: ' '.repeat(2_100_000), message: /larger than 2 MB/ },
    { name: '<img src=x onerror=alert(1)>.json', text: '{}', message: /this is no plan/ },
  ];
  for (const { name, text, message } of wrong) {
    await page
      .getByLabel('plan file')
      .setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
    await expect(page.locator('main').getByRole('alert')).toContainText(message);
    await expect(page.locator('main').getByRole('alert')).toContainText(`${name} was not imported`);
  }
  await expect(page).toHaveURL(/\/$/);
  expect(
    (await (await request.get('/api/plans')).json()).plans.some(
      (plan: { device: string }) => plan.device === 'nobody-n1',
    ),
  ).toBe(false);
});

test('the list is accessible in both themes', async ({ page }) => {
  await page.goto('/');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Light or dark' }).click();
  await expectAccessible(page);
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
});

test('a plan that is not there says so', async ({ page, noise }) => {
  await page.goto('/plans/no-such-plan');
  await expect(page.getByRole('heading', { name: 'There is no such plan' })).toBeVisible();
  // The browser itself notes the 404 of the page, which is right.
  noise.splice(0);
});

test('requests from other sites and broken requests change nothing', async ({ request }) => {
  const id = await emptyPlan(request, 'Guarded');
  const edit = {
    editId: 'e1',
    client: 'c',
    madeAgainst: 0,
    edit: { kind: 'plan.set', field: 'name', from: 'Guarded', to: 'Taken' },
  };
  const post = (data: unknown, headers: Record<string, string> = {}) =>
    request.post(`/api/plans/${id}/edits`, { data: data as never, headers });
  expect((await post(edit, { origin: 'http://elsewhere.example' })).status()).toBe(403);
  expect((await post(edit, { origin: 'null' })).status()).toBe(403);
  expect((await post('{"half":', { 'content-type': 'application/json' })).status()).toBe(400);
  expect((await post(edit, { 'content-type': 'text/plain' })).status()).toBe(415);
  const bad = await post({ ...edit, edit: { kind: 'plan.set', field: 'owner', from: 'a', to: 'b' } });
  expect(bad.status()).toBe(400);
  expect((await post({ ...edit, extra: 1 })).status()).toBe(400);
  expect((await post({ ...edit, edit: { ...edit.edit, to: 'a\u0000b' } })).status()).toBe(400);
  const current = await (await request.get(`/api/plans/${id}`)).json();
  expect(current).toMatchObject({ seq: 0, plan: { name: 'Guarded' } });
});
