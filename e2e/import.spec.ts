import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { pdfOf } from '../src/testing/documents/pdf';
import type { PrintedTable } from '../src/testing/documents/tables';
import { randomFrom } from '../src/testing/random';
import { xlsx } from '../src/testing/xlsx';
import { expect, expectAccessible, LONG, netRow, test, typeNets } from './fixtures';

const PINOUT = `Table 7. Pins of the Tarn T4
Pin name\tType\tQ16\tStructure\tSupply\tNotes
A0/WAKE1\tI/O\t1\tT5\tVDD\t1
A1\tI/O\t2\tT5\tVDD\t
A2\tI/O\t3\tT5\tVDD\t
A3\tI/O\t4\tT5\tVDD\t
VDD\tS\t5 13\t\t\t
VSS\tG\t6 14\t\t\t
Pin name\tType\tQ16\tStructure\tSupply\tNotes
B0\tI/0\t7\tST\tVDD\t
B1\tI/O\t8\tST\tVDD\t
B 2\tI/O\t9\tST\tVDD\t
B3\tI/O\t9\tST\tVDD\t
RST\tRST\t11\t\t\t
XI\tCLK\t12\t\t\t
NC\tNC\t15 16\t\t\t
`;
const FUNCTIONS = `Pad,AF0,AF1,Analog
A0,,UART1_TX,ADC1_IN0
A1,,UART1_RX,ADC1_IN1
A2,SPI1_SCK,UART1_DE,
A3,SPI1_SDO,UART2_TX,
B0,"SPI1_SDI, PACE1_Q1",UART2_RX,
B1,PACE1_Q2,,
B3,???,UART1_TX,
`;
const file = (name: string, text: string | Uint8Array) => ({
  name,
  mimeType: 'application/octet-stream',
  buffer: Buffer.from(text),
});
const step = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Steps' }).getByRole('button', { name: new RegExp(`^${name}`) });
const store = (page: Page) => page.getByRole('button', { name: 'Store the part' });

/** Registers of two ports with direction, latch, pull and a function code. */
const svd = (filler = 0): string => {
  const register = (name: string, offset: number, what: string, access = 'read-write') =>
    `<register><name>${name}</name><description>${what}</description><addressOffset>${offset}</addressOffset><size>8</size><access>${access}</access><resetValue>0</resetValue></register>`;
  const port = (name: string, base: string) =>
    `<peripheral><name>PORT_${name}</name><baseAddress>${base}</baseAddress><registers>${[
      register('DIR', 0, 'direction, 1 = output'),
      register('LATCH', 1, 'output latch'),
      register('SEEN', 2, 'levels at the pads', 'read-only'),
      register('UP', 3, 'pull-up on'),
      register('ALT', 4, 'function instead of plain port'),
      register('ANLG', 5, 'analog switch on'),
    ].join(
      '',
    )}<register><name>CODE</name><description>function code</description><addressOffset>8</addressOffset><size>16</size><fields>${[
      0, 1, 2, 3,
    ]
      .map(
        (bit) => `<field><name>F${bit}</name><bitOffset>${bit * 4}</bitOffset><bitWidth>4</bitWidth></field>`,
      )
      .join('')}</fields></register></registers></peripheral>`;
  const more = Array.from(
    { length: filler },
    (_, i) =>
      `<peripheral><name>TIMER${i}</name><description>${'counts what is there to be counted. '.repeat(6)}</description><baseAddress>${0x20000 + i * 64}</baseAddress><registers>${register('COUNT', 0, 'count')}${register('TOP', 4, 'top')}</registers></peripheral>`,
  ).join('');
  return `<?xml version="1.0"?><device><name>TARN</name><peripherals>${port('A', '0x1000')}${port('B', '0x1040')}<peripheral><name>POWER</name><description>clock gates</description><baseAddress>0x2000</baseAddress><registers><register><name>ON</name><description>clocks of the ports</description><addressOffset>0</addressOffset><size>8</size><fields><field><name>PORTA</name><bitOffset>2</bitOffset><bitWidth>1</bitWidth></field><field><name>PORTB</name><bitOffset>5</bitOffset><bitWidth>1</bitWidth></field></fields></register></registers></peripheral>${more}</peripherals></device>`;
};

test('from a data sheet to a plan with proven code: paste, mend in place, attach registers, store, place', async ({
  page,
}) => {
  test.slow();
  await page.goto('/parts/import');
  await expectAccessible(page);
  await page.getByLabel('or paste rows from a spreadsheet or PDF').fill(PINOUT);
  await page.getByRole('button', { name: 'Read what was pasted' }).click();

  // The guess is shown on the data, every row is accounted for, problems say where.
  const grid = page.getByRole('grid', { name: 'Pinout table' });
  await expect(page.getByLabel('What Q16 is')).toHaveValue('pin');
  await expect(page.getByLabel('package of Q16')).toHaveValue('q16');
  await expect(page.getByTestId('accounting')).toHaveText(
    '16 rows: 1 section title, 1 headings, 11 used, 1 headings again, 2 refused',
  );
  const problems = page.getByRole('region', { name: 'Problems' });
  await expect(problems).toContainText('row 10, Type "I/0" is none of io');
  await expect(problems).toContainText('row 12, Pin name "B 2" cannot be a pad\'s name');
  await expect(problems).toContainText('package q16: no pad for pin 7, 10');
  await expect(store(page)).toBeDisabled();
  await expectAccessible(page);
  await problems.getByRole('button', { name: 'make it io' }).click();
  await problems.getByRole('button', { name: 'make it B2', exact: true }).click();
  await expect(problems).toContainText('pin 9 is bonded to B2 already');

  // A cell by key: to the problem, type, Enter; and back with undo.
  await problems.getByRole('button', { name: /pin 9 is bonded/ }).click();
  await grid.locator('[data-cell="13:2"]').focus();
  await page.keyboard.type('10');
  await page.keyboard.press('Enter');
  await expect(problems).toContainText('Nothing is wrong with this table.');
  await page.keyboard.press('Control+z');
  await expect(problems).toContainText('pin 9 is bonded');
  await grid.locator('[data-cell="13:2"]').dblclick();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('10');
  await page.keyboard.press('Enter');
  await expect(problems).toContainText('Nothing is wrong with this table.');
  await page.getByLabel('Document of the table').fill('Tarn T4 data sheet');
  await page.getByLabel('page', { exact: true }).fill('41');

  await step(page, 'Functions').click();
  await page.getByLabel('function table file').setInputFiles(file('functions.csv', FUNCTIONS));
  await expect(problems).toContainText('row 8, AF0 "???" is no signal; write it like UART2.TX');
  await page.getByRole('grid', { name: 'Function table' }).locator('[data-cell="8:1"]').click();
  await page.keyboard.press('Delete');
  // A pad that the table does not speak of is asked about; until that is answered the part is not ready.
  await expect(problems).toContainText('1 I/O pads have no row here: B2. Is the table whole?');
  await problems.getByRole('button', { name: 'yes, they have no functions' }).click();
  await expect(problems).toContainText('Nothing is wrong');
  await expect(problems).toContainText('1 question answered');
  await expectAccessible(page);

  await step(page, 'Part').click();
  await page.getByLabel('name', { exact: true }).fill('Tarn T4');
  await expect(page.getByLabel('id', { exact: true })).toHaveValue('tarn-t4');
  await page.getByLabel('Text of note 1').fill('wakes the part from its deepest sleep');
  await page.getByLabel('Highest input voltage of class T5').fill('5.5');
  await page.getByLabel('Direction of PACE Q1').selectOption('out');
  await page.getByRole('button', { name: 'add a note that takes something away' }).click();
  await page.getByLabel('Signals that note 1 of q16 takes away').fill('UART2.*');
  await page.getByLabel('Text of note 1 of q16').fill('note 9: no UART2 in this package');
  await expectAccessible(page);

  await step(page, 'Registers').click();
  await page.getByLabel('register description file').setInputFiles(file('tarn.svd', svd()));
  await expect(page.getByLabel('Register of direction')).toHaveValue(/PORT_\{\}\.DIR/);
  await expect(page.getByLabel('Register of function code')).toHaveValue(/PORT_\{\}\.CODE/);
  await expect(page.getByText('proposed: 4 fields of 4 bits; it speaks of "function"')).toBeVisible();
  await expect(page.getByLabel('B bit')).toHaveValue('5');
  await page.getByLabel('pad', { exact: true }).selectOption('B0');
  await page.getByRole('radio', { name: 'function' }).click();
  await page.getByLabel('function', { exact: true }).selectOption('UART2.RX');
  await expect(page.getByTestId('reads-back')).toHaveText(
    /reads back as function UART2\.RX \(code 1\), pull none: the same/,
  );
  await expect(page.getByRole('row', { name: /PB\.CODE/ })).toContainText('code 0001 bits 3…0');

  // A role taken away is missed at once; given back, the recipe holds together again.
  await page.getByLabel('Register of direction').selectOption('');
  await expect(page.getByText('No register decides between input and output yet')).toBeVisible();
  await page
    .getByLabel('Register of direction')
    .selectOption({ label: 'PORT_*.DIR: room for 4 fields of 1 bit' });
  await expectAccessible(page);
  // What was proposed is not confirmed: one value by itself, the rest later.
  const open = page.getByRole('region', { name: 'Not confirmed' });
  await expect(open).toContainText('function code is PORT_*.CODE');
  await open.getByRole('button', { name: 'Confirm: direction: output is 1' }).click();
  await expect(open.getByRole('button', { name: 'Confirm: direction: output is 1' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Take this recipe' }).click();
  await expect(page.getByRole('heading', { name: 'The part has a recipe' })).toBeVisible();

  await store(page).click();
  await expect(page).toHaveURL(/\/parts\/tarn-t4$/);
  await expect(page.getByRole('table', { name: 'Pads' })).toContainText('Tarn T4 data sheet, page 41, row 3');

  await page.goto('/');
  await page.getByRole('button', { name: 'New plan' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('Tarn board');
  await page.getByRole('radio', { name: /Tarn T4/ }).check();
  await page.getByRole('button', { name: 'Create' }).click();
  await typeNets(page, 'mast: uart tx rx · lamp out low');
  for (let i = 0; i < 3; i++) {
    await page.getByRole('listbox', { name: 'Nets' }).getByRole('option', { selected: true }).focus();
    await page.keyboard.press('Enter');
    await page.keyboard.press('n');
  }
  await expect(netRow(page, 'MAST_TX')).toContainText(/A0|B3/);
  // What is proven rests on registers that nobody has confirmed: the plan says so.
  await expect(
    page.getByText(/statements about the registers of Tarn T4 are not confirmed/).first(),
  ).toBeVisible();
  await page.goto('/parts/tarn-t4?tab=recipe');
  await expectAccessible(page);
  await page.getByRole('button', { name: /^Confirm all/ }).click();
  await expect(page.getByRole('region', { name: 'Not confirmed' })).toHaveCount(0);
});

const TARN: PrintedTable = {
  title: 'Table 7. Pins of the Tarn T5',
  head: [
    ['Pin name', 'Type', 'Pin number', ''],
    ['', '', 'Q12', 'D10'],
  ],
  rows: [
    { kind: 'title', text: 'Port A' },
    { kind: 'data', cells: ['PA0/WAKE1', 'I/O', '1', '1'] },
    { kind: 'data', cells: ['PA1¹', 'I/O', '2', '2'] },
    { kind: 'data', cells: ['PA2', 'I/O', '3', '3'] },
    { kind: 'data', cells: ['PA3', 'I/O', '4', '4'] },
    { kind: 'title', text: 'Port B' },
    { kind: 'data', cells: ['PB0', 'I/O', '5', '5'] },
    { kind: 'data', cells: ['PB1', 'I/O', '6', '6'] },
    { kind: 'data', cells: ['PB2', 'I/O', '7', '-'] },
    { kind: 'data', cells: ['PB3', 'I/O', '8', '-'] },
    { kind: 'data', cells: ['VDD', 'S', '9', '7'] },
    { kind: 'data', cells: ['VSS', 'G', '10', '8'] },
    { kind: 'data', cells: ['NRST', 'I/O', '11', '9'] },
    { kind: 'data', cells: ['XI', 'I', '12', '10'] },
  ],
  notes: { '1': 'Tolerates 5 V as an input.' },
};
const TARN_FUNCTIONS: PrintedTable = {
  title: 'Table 8. Alternate functions',
  head: [['Pad', 'AF0', 'AF1', 'Analog']],
  rows: [
    { kind: 'data', cells: ['PA0', '-', 'UART1_TX', 'ADC1_V0'] },
    { kind: 'data', cells: ['PA1', '-', 'UART1_RX', 'ADC1_V1'] },
    { kind: 'data', cells: ['PA2', 'SPI1_SCK', 'PACE1_Q1', '-'] },
    { kind: 'data', cells: ['PA3', 'SPI1_SDO', 'PACE1_Q2', '-'] },
    { kind: 'data', cells: ['PB0', 'SPI1_SDI', '-', '-'] },
    { kind: 'data', cells: ['PB1', '-', 'UART2_TX', '-'] },
    { kind: 'data', cells: ['PB2', '-', 'UART2_RX', '-'] },
    { kind: 'data', cells: ['PB3', '-', 'PACE1_Q3', '-'] },
  ],
  notes: {},
};

test('a PDF data sheet, from drop to proven code for five pads', async ({ page }) => {
  test.slow();
  const pdf = await pdfOf(randomFrom(5), [TARN, TARN_FUNCTIONS], { rules: 'all', turned: false });
  await page.goto('/parts/import');
  await page.getByLabel('pinout table file').setInputFiles(file('tarn-t5.pdf', pdf));
  await expect(page.getByRole('heading', { name: '2 tables in tarn-t5.pdf' })).toBeVisible();
  await expect(page.getByLabel('Take Table 7. Pins of the Tarn T5')).toBeChecked();
  await expect(page.getByRole('img', { name: 'Page 1 of tarn-t5.pdf' })).toHaveAttribute('data-drawn', '1');
  await expectAccessible(page);
  // A border is moved with the keys, and back.
  const border = page.getByRole('slider', { name: 'Border of columns 2' });
  const before = Number(await border.getAttribute('aria-valuenow'));
  await border.focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(border).toHaveAttribute('aria-valuenow', String(before + 5));
  await page.keyboard.press('Shift+ArrowLeft');
  await page.getByRole('button', { name: 'Take the chosen table' }).click();
  await expect(page.getByTestId('accounting')).toHaveText('16 rows: 2 headings, 2 section title, 12 used');
  await expect(page.getByLabel('package of Pin number Q12')).toHaveValue('q12');
  await expect(page.getByRole('region', { name: 'Problems' })).toContainText('taken as that');

  await step(page, 'Functions').click();
  await page.getByLabel('function table file').setInputFiles(file('tarn-t5.pdf', pdf));
  await expect(page.getByLabel('Take Table 8. Alternate functions')).toBeChecked();
  await page.getByRole('button', { name: 'Take the chosen table' }).click();
  await expect(page.getByTestId('accounting')).toHaveText('9 rows: 1 headings, 8 used');

  await step(page, 'Part').click();
  await page.getByLabel('name', { exact: true }).fill('Tarn T5');
  await expect(page.getByLabel('Text of note 1')).toHaveValue('Tolerates 5 V as an input.');
  await step(page, 'Registers').click();
  await page.getByLabel('register description file').setInputFiles(file('tarn.svd', svd()));
  await page.getByRole('button', { name: /^Confirm all/ }).click();
  await page.getByRole('button', { name: 'Take this recipe' }).click();
  await store(page).click();
  await expect(page).toHaveURL(/\/parts\/tarn-t5$/);
  // The source opens the page at that row, beside the part.
  await page.getByRole('button', { name: 'tarn-t5.pdf, page 1, row 4' }).click();
  const document = page.getByRole('dialog', { name: 'tarn-t5.pdf, page 1, row 4' });
  await expect(document.getByRole('img', { name: 'Page 1 of tarn-t5.pdf' })).toHaveAttribute(
    'data-drawn',
    '1',
  );
  await expect(document.locator('[data-source-row]')).toBeInViewport();
  await expectAccessible(page);
  await document.getByRole('button', { name: 'Close' }).click();

  await page.goto('/');
  await page.getByRole('button', { name: 'New plan' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('Tarn five');
  await page.getByRole('radio', { name: /Tarn T5/ }).check();
  await page.getByRole('button', { name: 'Create' }).click();
  await typeNets(page, 'mast: uart1 tx rx @PA1 · lamp out low @PB3 · door in up @PB2 · probe analog @PA0');
  await typeNets(page, 'fan: fan_1 out low @PA2');
  await expect(page.getByText(/pins are proven from every state/).first()).toBeVisible();
});

test('what is no table is named for what it is', async ({ page }) => {
  await page.goto('/parts/import');
  const picture = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0]);
  await page.getByLabel('pinout table file').setInputFiles(file('pins.png', picture));
  await expect(page.getByRole('main').getByRole('alert')).toContainText(
    'a PNG picture: take the document that it is a picture of, or type the table',
  );
});

test('a part that Mavrek exported comes back whole', async ({ page, request }) => {
  const zip = await (await request.get('/api/devices/pellin-p8-22/export?as=tables')).body();
  await page.goto('/parts/import');
  await page.getByLabel('pinout table file').setInputFiles(file('pellin.zip', zip));
  await expect(page.getByLabel('name', { exact: true })).toHaveValue('Pellin P8-22');
  await step(page, 'Pinout').click();
  await expect(page.getByTestId('accounting')).toHaveText('28 rows: 1 headings, 27 used');
  await step(page, 'Registers').click();
  await expect(page.getByRole('heading', { name: 'The part has a recipe' })).toBeVisible();
});

test('rows are chosen and left out, joined and split, with undo; columns of characters are cut where they are', async ({
  page,
}) => {
  await page.goto('/parts/import');
  const lines = [
    'Pad    Type    Q8',
    ...['A0', 'A1', 'A2', 'A3', 'A4', 'A5'].map((pad, i) => `${pad}     I/O     ${i + 1}`),
    'VDD    S       7',
    'VSS            8',
  ];
  await page.getByLabel('or paste rows from a spreadsheet or PDF').fill(lines.join('\n'));
  await page.getByRole('button', { name: 'Read what was pasted' }).click();
  await expect(page.getByLabel('divided by')).toHaveValue('positions');
  await expect(page.getByTestId('accounting')).toHaveText('9 rows: 1 headings, 8 used');
  await expectAccessible(page);
  await page.getByRole('rowheader').filter({ hasText: '2' }).first().click();
  await page
    .getByRole('rowheader')
    .filter({ hasText: '3' })
    .first()
    .click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'Leave out' }).click();
  await expect(page.getByTestId('accounting')).toHaveText('9 rows: 1 headings, 2 left out, 6 used');
  await page.getByRole('grid').locator('[data-cell="4:0"]').click();
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('accounting')).toHaveText('9 rows: 1 headings, 8 used');
  await page.getByText('2 borders of columns').click();
  await page.getByRole('button', { name: /^Border 1,/ }).focus();
  await page.keyboard.press('Delete');
  await expect(page.getByRole('region', { name: 'Problems' })).toContainText(/no column|cannot be/);
});

test('the columns of a table are remembered by its headings', async ({ page }) => {
  const odd = PINOUT.replaceAll('Structure', 'Muster').replace('Tarn T4', 'Tarn T9');
  await page.goto('/parts/import');
  await page
    .getByLabel('pinout table file')
    .setInputFiles(
      file('odd.tsv', odd.replace('I/0', 'I/O').replace('B 2', 'B2').replace('B3\tI/O\t9', 'B3\tI/O\t10')),
    );
  await expect(page.getByLabel('What Muster is')).toHaveValue('ignore');
  await page.getByLabel('What Muster is').selectOption('class');
  await step(page, 'Part').click();
  await page.getByLabel('name', { exact: true }).fill('Tarn T9');
  await store(page).click();
  await expect(page).toHaveURL(/\/parts\/tarn-t9$/);
  await page.goto('/parts/import');
  await page.getByLabel('pinout table file').setInputFiles(file('again.tsv', odd));
  await expect(page.getByText('columns as last time')).toBeVisible();
  await expect(page.getByLabel('What Muster is')).toHaveValue('class');
});

test('a spreadsheet with several sheets, and a boundary-scan description', async ({ page }) => {
  const bytes = xlsx({
    Cover: [['Tarn T4 tables']],
    Pinout: [
      ['pad', 'kind', 'q8'],
      ...['A0', 'A1', 'A2', 'A3', 'A4', 'A5'].map((pad, i) => [pad, 'io', String(i + 1)]),
      ['VDD', 'supply', '7'],
      ['VSS', 'ground', '8'],
    ],
  });
  await page.goto('/parts/import');
  await page.getByLabel('pinout table file').setInputFiles(file('tarn.xlsx', bytes));
  // The sheet that looks like a pinout is taken, whatever comes before it.
  await expect(page.getByLabel('Sheet', { exact: true })).toHaveValue('1');
  await expect(page.getByTestId('accounting')).toHaveText('9 rows: 1 headings, 8 used');
  await page.getByRole('button', { name: 'another table' }).click();

  await page.getByLabel('pinout table file').setInputFiles(file('bad.xlsx', 'no zip at all'));
  await expect(page.getByRole('main').getByRole('alert')).toContainText(
    'a text, though its name ends in .xlsx',
  );
  await page
    .getByLabel('pinout table file')
    .setInputFiles(
      file(
        'tarn.bsd',
        'entity TARN is\nport (A0, A1 : inout bit; VDD, VSS : linkage bit);\nconstant D4 : PIN_MAP_STRING := "A0 : 1, A1 : 2, " &\n"VDD : 3, VSS : 4";\nend TARN;',
      ),
    );
  await expect(page.getByTestId('accounting')).toHaveText('5 rows: 1 headings, 4 used');
  await expect(page.getByLabel('package of d4')).toHaveValue('d4');
});

test(
  'a large register description is read beside the page with progress, and can be stopped',
  LONG,
  async ({ page }) => {
    await page.goto('/parts/import');
    await page
      .getByLabel('pinout table file')
      .setInputFiles(
        file(
          'p.csv',
          'pad,kind,q8\nA0,io,1\nA1,io,2\nA2,io,3\nB0,io,4\nB1,io,5\nB2,io,6\nVDD,supply,7\nVSS,ground,8',
        ),
      );
    await step(page, 'Registers').click();
    const large = svd(12_000);
    expect(large.length).toBeGreaterThan(5_000_000);
    await page.getByLabel('register description file').setInputFiles(file('large.svd', large));
    await expect(page.getByRole('progressbar', { name: 'Reading the register description' })).toBeVisible();
    await page.getByRole('button', { name: 'Stop' }).click();
    await expect(page.getByRole('main').getByRole('alert')).toContainText('large.svd reading was stopped');
    await page.getByLabel('register description file').setInputFiles(file('large.svd', large));
    await expect(page.getByRole('heading', { name: 'Which register is what' })).toBeVisible({
      timeout: 30_000,
    });
    await expect(page.getByText(/12003 blocks/)).toBeVisible();

    await page.getByRole('button', { name: 'Leave it' }).click();
    const bomb = '<!DOCTYPE d [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><device>&b;</device>';
    await page.getByLabel('register description file').setInputFiles(file('bomb.svd', bomb));
    await expect(page.getByRole('main').getByRole('alert')).toContainText(
      'document type declarations are not read',
    );
  },
);

test('a known part is imported anew: its tables are there, corrections stay, plans keep theirs', async ({
  page,
  request,
}) => {
  const description = await (await request.get('/api/devices/pellin-p8-22')).json();
  const own = { ...description, id: 'again-p8', name: 'Again P8' };
  await request.post('/api/devices', {
    data: { fileName: 'a.json', text: JSON.stringify(own), expected: 0 },
  });
  await page.goto('/parts/again-p8');
  await page.getByRole('link', { name: 'import anew' }).click();
  await expect(page.getByRole('heading', { name: 'Import Again P8 anew' })).toBeVisible();
  await expect(page.getByTestId('accounting')).toHaveText('28 rows: 1 headings, 27 used');
  await expect(page.getByRole('region', { name: 'Problems' })).toContainText('Nothing is wrong');
  await page.getByRole('grid').locator('[data-cell="12:6"]').dblclick();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('STARTER');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/takes the place of Again P8/)).toBeVisible();
  await store(page).click();
  await expect(page).toHaveURL(/\/parts\/again-p8$/);
  await expect(page.getByText('revision 2')).toBeVisible();
  const stored = await (await request.get('/api/devices/again-p8')).json();
  expect(stored.pads.find((pad: { id: string }) => pad.id === 'K5')).toMatchObject({
    aliases: ['STARTER'],
    source: { document: 'pellin-p8/pinout.csv', row: 12 },
  });
  expect(stored.recipe).toEqual(description.recipe);
});

test('port hardware by questions: tried at once, the text beside stays, undo goes back, and the part is stored', async ({
  page,
}) => {
  await page.goto('/parts/import');
  for (const [name, text] of [
    ['pinout.csv', readFileSync('examples/tarn-t4/pinout.csv', 'utf8')],
    ['functions.csv', readFileSync('examples/tarn-t4/functions.csv', 'utf8')],
  ] as const) {
    if (name === 'functions.csv') await step(page, 'Functions').click();
    await page.getByLabel('table file').setInputFiles(file(name, text));
    await expect(page.getByRole('status').first()).toBeVisible();
  }
  await step(page, 'Part').click();
  await page.getByLabel('name', { exact: true }).fill('Asked T4');
  await step(page, 'Registers').click();
  await page.getByRole('button', { name: 'Answer questions instead' }).click();
  await expectAccessible(page);

  // Registers and their addresses as the tutorial's part has them.
  await page.getByLabel('address of the first port').fill('0x1000');
  await page.getByLabel('to the next port of registers').fill('0x40');
  await page.getByLabel('bits of a register').selectOption('8');
  await expect(page.getByLabel('Address of port B')).toHaveValue('0x00001040');
  const direction = page.getByRole('group', { name: 'How is direction chosen?' });
  await direction.getByText('one bit for each pad').click();
  await expect(direction.getByRole('status')).toHaveText('the offset of DIR is not said yet');
  await page.getByLabel('offset of direction').fill('0');
  const trial = page.getByRole('region', { name: 'Tried on a pad' });
  const text = page.getByLabel('Text of the hardware');
  await expect(trial.getByTestId('reads-back')).toContainText('output: the same');
  await expect(trial.getByRole('region', { name: 'What is written' })).toContainText('PA.DIR = 0x01');
  await expect(trial.getByRole('region', { name: 'What is written' })).toContainText('proven');

  // What is edited in the text stays when the next question is answered.
  const edited = (await text.inputValue()).replace('bus little endian', 'bus big endian');
  await text.fill(edited);
  await expect(page.getByText('edited by hand; answers are laid over it')).toBeVisible();
  const pull = page.getByRole('group', { name: 'How is a pull switched on?' });
  await pull.getByText('one bit: pull-up').click();
  await page.getByLabel('offset of pull-up').fill('3');
  await expect(text).toHaveValue(/bus big endian[\s\S]*setting pull none up/);
  // Undo takes back the answers, one after the other, and then the text.
  for (let back = 0; back < 3; back++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(text).toHaveValue(/bus little endian/);
  await expect(text).not.toHaveValue(/pull_up/);
  for (let forth = 0; forth < 3; forth++) await page.getByRole('button', { name: 'Redo' }).click();
  await expect(text).toHaveValue(/bus big endian[\s\S]*pull_up/);
  await page.getByRole('button', { name: 'as answered' }).click();
  await expect(text).toHaveValue(/bus little endian[\s\S]*pull_up/);

  // A value out of a debugger says what the pad is.
  await page.getByLabel('Pasted register values').fill('PA.DIR = 0x00\nPA.UP = 0x01');
  await expect(trial.getByRole('region', { name: 'Values from a debugger' })).toContainText(
    'A0 is input, pull up',
  );

  const code = page.getByRole('group', { name: 'How is a pad given to a peripheral?' });
  await code.getByText('a bit that switches it on, and a code').click();
  await page.getByLabel('offset of function instead of plain port').fill('5');
  await page.getByLabel('offset of function code').fill('8');
  const latch = page.getByRole('group', { name: 'How does an output get its level?' });
  await latch.getByText('one latch', { exact: true }).click();
  await page.getByLabel('offset of output latch').fill('1');
  const read = page.getByRole('group', { name: 'Where is the level at a pad read?' });
  await read.getByText('one bit for each pad').click();
  await page.getByLabel('offset of level at the pad').fill('2');
  const gate = page.getByRole('group', { name: 'What has to be switched on first?' });
  await gate.getByText('a clock: a bit for each port, 1 opens').click();
  await page.getByLabel('address of the gate').fill('0x2000');
  await page.getByLabel('bit of A of the gate').fill('2');
  await page.getByLabel('bit of B of the gate').fill('5');
  await expect(trial.getByRole('region', { name: 'What is written' })).toContainText('GATE.ON = 0x04');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Take this recipe' }).click();
  await expect(page.getByRole('heading', { name: 'The part has a recipe' })).toBeVisible();
  // Other steps may be looked at; the answers are still there.
  await page.getByRole('button', { name: 'Answer questions instead' }).click();
  await expect(page.getByLabel('offset of function code')).toHaveValue('8');
});
