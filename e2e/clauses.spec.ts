import { expect, inspector, openPlan, test, typeNets } from './fixtures';

/** A part of eight pads. */
function partOf(id: string, name: string, recipe: object) {
  const pads = Array.from({ length: 8 }, (_, bit) => ({
    id: `A${bit}`,
    kind: 'io',
    port: 'A',
    bit,
    class: 'std',
  }));
  return {
    format: 'mavrek-device/3',
    id,
    name,
    maker: 'made up',
    summary: 'eight pads',
    source: { document: 'none' },
    pads,
    functions: [],
    packages: [
      {
        id: 'q8',
        name: 'quad 8',
        shape: { kind: 'quad', pins: 8 },
        pins: Object.fromEntries(pads.map((pad, at) => [String(at + 1), pad.id])),
      },
    ],
    supplies: [],
    padClasses: { std: { title: 'standard' } },
    peripheralKinds: {},
    peripherals: [],
    notes: {},
    recipe,
  };
}

const recipeOf = (registers: object[], stages: object[]) => ({
  endian: 'little',
  settings: { mode: ['input', 'output'], level: ['low', 'high'] },
  applies: { input: [], output: ['level'], function: [], analog: [] },
  ports: { A: {} },
  registers: { blocks: [{ id: 'PORT', each: 'port', base: '0x1000', name: 'P{port}', registers }] },
  fields: { dir: { in: 'PORT.DIR', at: 'b', bits: 1 }, latch: { in: 'PORT.LATCH', at: 'b', bits: 1 } },
  access: { latch: 'latch' },
  encode: [
    { field: 'dir', from: ['mode'], table: { output: 1, input: 0 } },
    { field: 'latch', from: ['mode', 'level'], table: { 'output high': 1, 'output low': 0, '*': 'keep' } },
  ],
  stages,
});

test('clauses of a part are read where its registers are, and where a plan writes them', async ({
  page,
  request,
}) => {
  const id = 'clauses-in-words';
  const registers = [
    { id: 'LATCH', offset: '0', bits: 8, access: 'internal' },
    {
      id: 'LEFT',
      offset: '0',
      bits: 2,
      access: 'internal',
      anyAccess: 'this := this == 0 ? 0 : this - 1',
    },
    { id: 'DIR', offset: '0', bits: 8 },
    { id: 'KEY', offset: '1', bits: 8, write: 'LEFT := v == 0x5A ? 3 : LEFT' },
    { id: 'RAISE', offset: '2', bits: 8, write: 'LATCH |= v', writeWhen: 'LEFT > 0' },
    { id: 'LOWER', offset: '3', bits: 8, write: 'LATCH &= ~v', writeWhen: 'LEFT > 0' },
  ];
  const recipe = recipeOf(registers, [
    { id: 'latch', per: 'port', beforeEach: ['PORT.KEY := 0x5A'], fields: ['latch'] },
    { id: 'direction', fields: ['dir'] },
  ]);
  const part = partOf(id, 'Clauses in words', recipe);
  const stored = await request.post('/api/devices', {
    data: { fileName: 'part.json', text: JSON.stringify(part), expected: 0 },
  });
  expect(await stored.json()).toMatchObject({ id });
  await page.goto(`/parts/${id}?tab=registers`);
  await expect(page.getByText('write v: PA.LATCH := PA.LATCH | v where PA.LEFT > 0')).toBeVisible();
  await expect(page.getByText(/internal state; any access on the bus: PA\.LEFT := /)).toBeVisible();

  const answer = await request.post('/api/plans', {
    data: { name: 'By clauses', device: id, package: 'q8' },
  });
  await openPlan(page, (await answer.json()).id, '?view=registers');
  await typeNets(page, 'yard: fan out low @A1');
  await expect(page.getByRole('listbox', { name: 'Nets' }).getByRole('option').first()).toBeVisible();
  const latch = page.locator('[data-register="PA.LATCH"]');
  await expect(latch).toContainText('no address');
  await latch.getByRole('button', { name: 'PA.LATCH', exact: true }).click();
  await expect(latch).toContainText('no access: state that the bus does not reach');
  await expect(inspector(page)).toContainText('PA.RAISE');
  await page.goto(page.url().replace('view=registers', 'view=code'));
  await expect(page.getByTestId('view').getByText('1 of 1 pins are proven from every state')).toBeVisible();
});

test('what steps read and write back is shown with its names, and in the code', async ({ page, request }) => {
  const id = 'procedures';
  const registers = [
    { id: 'MODE', offset: '0', bits: 8, reset: 'unknown' },
    { id: 'LATCH', offset: '1', bits: 8 },
    { id: 'DIR', offset: '2', bits: 8, read: 'this', write: 'this := v', writeWhen: 'MODE == 0' },
  ];
  const steps = ['let mode = PORT.MODE', 'PORT.MODE := 0'];
  const stages = [
    { id: 'latch', fields: ['latch'] },
    { id: 'direction', per: 'port', do: steps, fields: ['dir'], after: ['PORT.MODE := mode'] },
  ];
  const part = partOf(id, 'Procedures', recipeOf(registers, stages));
  const stored = await request.post('/api/devices', {
    data: { fileName: 'part.json', text: JSON.stringify(part), expected: 0 },
  });
  expect(await stored.json()).toMatchObject({ id });
  const answer = await request.post('/api/plans', { data: { name: 'Put back', device: id, package: 'q8' } });
  await openPlan(page, (await answer.json()).id, '?view=registers');
  await typeNets(page, 'yard: fan out low @A1');
  await page
    .locator('[data-register="PA.MODE"]')
    .getByRole('button', { name: 'PA.MODE', exact: true })
    .click();
  await expect(inspector(page)).toContainText('PA.MODE = kept1');
  await page.goto(page.url().replace('view=registers', 'view=code'));
  await expect(page.getByText('uint32_t const kept1 =').first()).toBeVisible();
  await expect(page.getByTestId('view').getByText('1 of 1 pins are proven from every state')).toBeVisible();

  const wrong = partOf(
    'procedures-wrong',
    'Wrong',
    recipeOf(registers, [
      { id: 'all', do: [...steps].reverse(), fields: ['latch', 'dir'], after: ['PORT.MODE := mode'] },
    ]),
  );
  const refused = await request.post('/api/devices', {
    data: { fileName: 'part.json', text: JSON.stringify(wrong), expected: 0 },
  });
  expect(JSON.stringify(await refused.json())).toMatch(/there is one PORT.MODE for each port/);
});
