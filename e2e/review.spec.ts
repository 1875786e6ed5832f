import type { Page } from '@playwright/test';
import {
  expect,
  expectAccessible,
  importExample,
  inspector,
  listen,
  netRow,
  openPlan,
  padRow,
  saved,
  test,
} from './fixtures';

test('two people: a comment arrives, is answered and resolved; a revision is signed, and a change makes that void', async ({
  page,
  browser,
  request,
  noise,
}) => {
  test.slow();
  const id = await importExample(request);
  await page.addInitScript(() => localStorage.setItem('mavrek:author', 'mk'));
  const other = await (await browser.newContext()).newPage();
  listen(other, noise);
  await other.addInitScript(() => localStorage.setItem('mavrek:author', 'jo'));
  await openPlan(page, id, '?select=net:fan-1');
  await openPlan(other, id, '?select=net:fan-1');

  // A comment on a setting comes to the other window by itself.
  const mine = inspector(page);
  await mine.getByLabel('A comment').fill('Is 2 mA enough for the driver?');
  await mine.getByLabel('About').selectOption({ index: 1 });
  await mine.getByRole('button', { name: 'Say' }).click();
  const theirs = inspector(other);
  await expect(theirs.getByText('Is 2 mA enough for the driver?')).toBeVisible();
  await expect(netRow(other, 'FAN_1')).toContainText('“1');
  await theirs.getByRole('button', { name: 'answer' }).click();
  await theirs.getByLabel('An answer').fill('3.5 mA, by its sheet.');
  await theirs.getByLabel('An answer').press('Control+Enter');
  await expect(mine.getByText('3.5 mA, by its sheet.')).toBeVisible();
  // It goes along when the net moves and gets another name.
  const name = mine.getByRole('textbox', { name: 'Net name' });
  await name.fill('FAN_A');
  await name.press('Enter');
  await expect(netRow(other, 'FAN_A')).toContainText('“1');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Control+z');
  await expect(netRow(other, 'FAN_1')).toBeVisible();
  await theirs.getByRole('button', { name: 'resolve' }).click();
  await expect(mine.getByRole('button', { name: '1 resolved' })).toBeVisible();
  await expect(netRow(page, 'FAN_1')).not.toContainText('“');
  await expectAccessible(page);

  // Two people change one thing: the second is told what it is now.
  await other.route('**/edits', async (route) => {
    await new Promise((done) => setTimeout(done, 1500));
    await route.continue();
  });
  await theirs.getByRole('radiogroup', { name: 'asserted' }).getByRole('radio', { name: 'high' }).click();
  await mine.getByRole('radiogroup', { name: 'asserted' }).getByRole('radio', { name: 'high' }).click();
  await expect(saved(page)).toBeVisible();
  await expect(other.getByRole('alert').filter({ hasText: 'A change was not applied' })).toBeVisible();
  await other.unrouteAll({ behavior: 'wait' });
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Control+z');
  await expect(saved(page)).toBeVisible();

  // A revision, reviewed circuit by circuit by both.
  await page.goto(`/plans/${id}/review`);
  await expect(page.getByText('A review is of a kept revision')).toBeVisible();
  await page.getByRole('link', { name: 'Keep one first' }).click();
  await page.getByLabel('note').fill('to be ordered');
  await page.getByRole('button', { name: 'Keep as revision C' }).click();
  await page.getByRole('link', { name: 'Review C' }).click();
  const state = page.getByTestId('review-state');
  await expect(state).toHaveText('○ not looked at yet');
  await page.getByLabel('note').fill('contactors need 3.5 mA');
  await page.getByRole('button', { name: 'Ask for changes in Fans' }).click();
  await expect(page.locator('[data-circuit="Fans"]')).toContainText('▲ changes asked for');
  await expect(page.locator('[data-circuit="Fans"]')).toContainText('contactors need 3.5 mA');
  await other.goto(`/plans/${id}/review`);
  await other.getByRole('button', { name: 'Approve all of it' }).click();
  await expect(other.locator('[data-circuit="Panel"]')).toContainText('✓ approved');
  // jo approved, but mk still asks for changes in one.
  await expect(other.getByTestId('review-state')).toHaveText('▲ changes asked for');
  await page.getByRole('button', { name: 'Approve Fans' }).click();
  await expect(state).toContainText(/✓ Revision C was signed by jo, mk on .* that is what the plan is\./);
  await expectAccessible(page);
  await page.goto(`/plans/${id}/schedule`);
  await expect(page.getByText(/✓ Revision C was signed by jo, mk/)).toBeVisible();

  // A change makes the sign-off void, wherever it is shown.
  await openPlan(page, id, '?select=net:fan-1');
  await name.fill('FAN_A');
  await name.press('Enter');
  await expect(saved(page)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Frost guard/ }).click();
  await expect(inspector(page)).toContainText(/▲ Revision C was signed by jo, mk .* void/);
  await page.goto(`/plans/${id}/review`);
  await expect(state).toContainText('that sign-off is void');
  await page.goto(`/plans/${id}/schedule`);
  await expect(page.getByRole('region', { name: 'Signatures' })).toContainText(
    'released: name, date, signature',
  );
  await other.close();
});

test('edits made while away are merged with those of others; where both changed the same, it is asked', async ({
  page,
  browser,
  request,
  noise,
}) => {
  const id = await importExample(request);
  const other = await (await browser.newContext()).newPage();
  listen(other, noise);
  await openPlan(page, id);
  await openPlan(other, id);
  const rename = async (at: Page, from: string, to: string) => {
    await netRow(at, from).click();
    await at.getByLabel('Net name').fill(to);
    await at.getByLabel('Net name').press('Enter');
    await expect(netRow(at, to)).toBeVisible();
  };
  const quiet = noise.length;
  await page.route('**/api/plans/**', (route) => route.abort());
  await rename(page, 'FAN_1', 'FAN_MINE');
  await rename(page, 'FAN_2', 'FAN_ALSO');
  await rename(page, 'FAN_3', 'FAN_ALONE');
  await expect(
    page.getByRole('status').filter({ hasText: 'not saved, retrying · 3 changes kept' }),
  ).toBeVisible();
  await rename(other, 'FAN_1', 'FAN_THEIRS');
  await rename(other, 'FAN_2', 'FAN_OTHER');
  await page.unroute('**/api/plans/**');
  const asked = page.getByRole('alert', { name: 'Changes that met others' });
  await expect(asked.getByRole('listitem')).toHaveCount(2);
  await expect(asked).toContainText('rename FAN_1 to FAN_MINE');
  await expectAccessible(page);
  await asked.getByRole('button', { name: 'Take mine: rename FAN_1 to FAN_MINE' }).click();
  await asked.getByRole('button', { name: 'Leave theirs: rename FAN_2 to FAN_ALSO' }).click();
  await expect(asked).toHaveCount(0);
  for (const name of ['FAN_MINE', 'FAN_OTHER', 'FAN_ALONE'])
    for (const window of [page, other]) await expect(netRow(window, name)).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /^saved/ })).toBeVisible();
  // That requests failed while they were cut off is what was to be.
  noise.splice(quiet);
  // An undo that the other has overtaken is asked about too, and is still there after a reload.
  await netRow(page, 'FAN_ALONE').click();
  await page.getByLabel('Net name').fill('FAN_UNDONE');
  await page.getByLabel('Net name').press('Enter');
  await expect(netRow(other, 'FAN_UNDONE')).toBeVisible();
  await rename(other, 'FAN_UNDONE', 'FAN_LAST');
  await expect(netRow(page, 'FAN_LAST')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(asked).toContainText('rename FAN_UNDONE to FAN_ALONE');
  await page.reload();
  await asked.getByRole('button', { name: 'Take mine: rename FAN_UNDONE to FAN_ALONE' }).click();
  for (const window of [page, other]) await expect(netRow(window, 'FAN_ALONE')).toBeVisible();
  await expect(asked).toHaveCount(0);
  await other.close();
});

test('who else is here, and where: initials at the net and its pad; gone when they leave', async ({
  page,
  browser,
  request,
  noise,
}) => {
  const id = await importExample(request);
  const other = await (await browser.newContext()).newPage();
  listen(other, noise);
  await other.addInitScript(() => localStorage.setItem('mavrek:author', 'Jo Ähn'));
  await openPlan(page, id);
  await openPlan(other, id);
  const here = page.getByRole('list', { name: 'Also here' });
  await expect(here.getByRole('button')).toHaveText('JÄ');
  await netRow(other, 'FAN_2').click();
  await expect(netRow(page, 'FAN_2').locator('[data-person="Jo Ähn"]')).toBeVisible();
  await expect(padRow(page, 'E12').locator('[data-person="Jo Ähn"]')).toBeVisible();
  await netRow(other, 'LAMP_RED').click();
  await expect(netRow(page, 'FAN_2').locator('[data-person]')).toHaveCount(0);
  await other.keyboard.press('r');
  await expect(
    here.getByRole('button', { name: 'Go to Jo Ähn is at LAMP_RED, registers view' }),
  ).toBeVisible();
  await here.getByRole('button').click();
  await expect(page.getByRole('button', { name: 'Registers', exact: true })).toHaveAttribute(
    'aria-current',
    'page',
  );
  await expect(netRow(page, 'LAMP_RED')).toHaveAttribute('aria-selected', 'true');
  await expectAccessible(page);
  await other.close();
  await expect(here).toHaveCount(0);
  // Whoever names no plan, or sends too much, is nobody.
  const told = { client: 'c', author: '', selection: '', view: '', left: false };
  expect((await request.post('/api/plans/nowhere/presence', { data: told })).status()).toBe(404);
  expect(
    (
      await request.post(`/api/plans/${id}/presence`, { data: { ...told, author: 'x'.repeat(121) } })
    ).status(),
  ).toBe(400);
});

test('comments from outside are checked, and hostile text stays text', async ({ page, request }) => {
  const id = await importExample(request);
  const send = async (data: object) => (await request.post(`/api/plans/${id}/comments`, { data })).status();
  const good = {
    subject: { kind: 'net', net: 'fan-1' },
    text: '<img src=x onerror=alert(1)>',
    author: '<b>mk</b>',
  };
  expect(await send(good)).toBe(201);
  for (const bad of [
    { ...good, text: '  ' },
    { ...good, subject: { kind: 'net' } },
    { ...good, subject: { kind: 'plan', net: 'fan-1' } },
    { ...good, subject: { kind: 'nothing' } },
    { ...good, more: 1 },
    { ...good, text: 'x'.repeat(4001) },
  ])
    expect([bad, await send(bad)]).toEqual([bad, 400]);
  expect(
    (
      await request.patch(`/api/plans/${id}/comments/nothing`, { data: { resolved: true, author: '' } })
    ).status(),
  ).toBe(404);
  await openPlan(page, id, '?select=net:fan-1');
  await expect(inspector(page).getByText('<img src=x onerror=alert(1)>')).toBeVisible();
  await page.goto(`/plans/${id}/review`);
  await expect(page.getByText('<img src=x onerror=alert(1)>')).toBeVisible();
});
