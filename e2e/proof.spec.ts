import { readFileSync } from 'node:fs';
import { expect, expectAccessible, openPlan, test } from './fixtures';

test('a pin that is not proven says why, and leads to the operation and to the register', async ({
  page,
  request,
}) => {
  const description = await (await request.get('/api/devices/corvane-c40-80')).json();
  // The seal on routing is never broken: writes to codes and directions are lost where it is shut.
  description.id = 'corvane-unsealed';
  description.recipe.stages = description.recipe.stages.filter(
    (stage: { id: string }) => stage.id !== 'unlock',
  );
  const stored = await request.post('/api/devices', {
    data: { fileName: 'part.json', text: JSON.stringify(description), expected: 0 },
  });
  expect(stored.status()).toBe(201);
  const plan = JSON.parse(readFileSync('examples/frost-guard.plan.json', 'utf8'));
  plan.device = 'corvane-unsealed';
  plan.deviceFingerprint = (await stored.json()).fingerprint;
  const imported = await request.post('/api/plans/import', {
    data: { fileName: 'plan.json', text: JSON.stringify(plan) },
  });
  const { id } = await imported.json();

  await openPlan(page, id);
  const findings = page.getByRole('list', { name: 'Findings' });
  const first = findings.getByRole('listitem').first();
  await expect(first).toContainText(
    /not proven: operation \d+ \(stage route\): the write to PA\.FN0 may be lost: nothing has opened PA\.SEAL/,
  );
  await expectAccessible(page);
  await first.getByRole('button', { name: /^operation \d+ in the code$/ }).click();
  const line = page.getByRole('region', { name: /\.c$/ }).locator('[aria-current=location]');
  await expect(line).toBeInViewport();
  await expect(line).toContainText('A0 WAKE_UP');
  await page.getByRole('link', { name: 'PA.FN0 in the part' }).first().click();
  await expect(page.getByLabel('Filter the registers')).toHaveValue('PA.FN0');
  await expect(page.getByText('opened by PA.SEAL').first()).toBeVisible();
});
