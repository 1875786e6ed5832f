import { expect, expectAccessible, expectLegible, importExample, LONG, openPlan, test } from './fixtures';

test('two boards, one application: what differs is seen from either, and taken over', async ({
  page,
  request,
}) => {
  test.slow();
  const north = await importExample(request);
  const made = await request.post(`/api/plans/${north}/duplicate`, { data: {} });
  const south = (await made.json()).id as string;
  const edit = async (plan: string, seq: number, change: object) =>
    request.post(`/api/plans/${plan}/edits`, {
      data: { editId: `e${seq}${plan}`, client: 'test', madeAgainst: seq, edit: change },
    });
  await edit(south, 0, { kind: 'plan.set', field: 'code.prefix', from: '', to: 'frost_guard' });
  await edit(south, 1, { kind: 'plan.set', field: 'name', from: 'Frost guard copy', to: `South ${south}` });

  await page.goto(`/plans/${north}/variants`);
  await page.getByLabel(`South ${south}`).check();
  await page.getByRole('button', { name: 'These are variants' }).click();
  await expect(page.getByRole('status')).toHaveText(/✓ All variants agree/);
  await expect(page.getByRole('region', { name: 'Names of the headers' })).toContainText('frost_guard_');
  await expectAccessible(page);

  // A change in one is offered to the other where that is open.
  await edit(south, 2, {
    kind: 'net.setting',
    id: 'fan-1',
    key: 'active',
    from: 'low',
    to: 'high',
  });
  const { plan } = await (await request.get(`/api/plans/${south}`)).json();
  const lamp = plan.nets.find((net: { name: string }) => net.name === 'LAMP_RED');
  const at = plan.nets.indexOf(lamp);
  await edit(south, 3, { kind: 'net.remove', net: lamp, at });
  await openPlan(page, north);
  const inspector = page.getByRole('region', { name: 'Inspector' });
  await expect(inspector).toContainText('△ 2 things differ');
  await inspector.getByRole('link', { name: 'compare and take over' }).click();
  await expect(page.locator('[data-lack="LAMP_RED"]')).toContainText('lacks it');
  await expect(page.getByRole('region', { name: 'Names of the headers' })).toContainText('lamp_red_set');
  await page.locator('[data-lack="LAMP_RED"]').getByRole('button', { name: 'give it to all' }).click();
  await expect(page.locator('[data-lack]')).toHaveCount(0);
  const row = page.locator('[data-difference="FAN_1 settings.active"]');
  await row.getByRole('button', { name: 'low for all' }).click();
  await expect(row).toHaveCount(0);
  // The lamp has no pad there yet, so the header has no functions of it.
  await expect(page.getByRole('status')).toHaveText(/△ 0 nets are lacking somewhere, 0 properties differ/);
  await page.goto(`/plans/${south}/history`);
  await expect(page.getByRole('region', { name: 'Edits' })).toContainText('take FAN_1 over from Frost guard');
});

test.describe('in the dark, and in a narrow window', LONG, () => {
  test.use({ colorScheme: 'dark', viewport: { width: 760, height: 620 } });
  test('variants and review stay legible and within the window', async ({ page, request }) => {
    const id = await importExample(request);
    await request.put(`/api/plans/${id}/variants`, {
      data: { plans: ['frost-guard-faulty'], circuits: ['Fans', 'Settings memory', 'Panel'] },
    });
    await request.post(`/api/plans/${id}/revisions`, { data: { seq: 0, note: 'a note', author: 'mk' } });
    for (const [path, words] of [
      ['variants', 'They begin differently'],
      ['review', 'not looked at yet'],
    ] as const) {
      await page.goto(`/plans/${id}/${path}`);
      await expect(page.getByText(words).first()).toBeVisible();
      await expectLegible(page);
    }
    await request.put(`/api/plans/${id}/variants`, { data: { plans: [], circuits: [] } });
  });
});
