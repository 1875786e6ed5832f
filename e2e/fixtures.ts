import { readFileSync } from 'node:fs';
import AxeBuilder from '@axe-core/playwright';
import { type APIRequestContext, test as base, expect, type Locator, type Page } from '@playwright/test';
import { serveCopy } from './served';

/**
 * Each worker has a server of its own, on a database of its own: a copy of the one that was prepared. And a page that must stay quiet:
 * no console errors or warnings, no exceptions, no failed requests.
 */
export const test = base.extend<{ noise: string[] }, { served: string }>({
  served: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see that nothing is taken
    async ({}, use, { workerIndex }) => {
      const { url, stop } = await serveCopy(`worker_${workerIndex}`);
      await use(url);
      await stop();
    },
    { scope: 'worker', timeout: 180_000 },
  ],
  baseURL: ({ served }, use) => use(served),
  noise: [
    async ({ page }, use) => {
      const noise: string[] = [];
      listen(page, noise);
      await use(noise);
      // Requests that a test answers itself may still be under way when it has ended.
      if (!page.isClosed()) await page.unrouteAll({ behavior: 'ignoreErrors' });
      expect(noise).toEqual([]);
    },
    { auto: true },
  ],
});

export function listen(page: Page, noise: string[]): void {
  page.on('console', (message) => {
    if (['error', 'warning'].includes(message.type())) noise.push(`console: ${message.text()}`);
  });
  page.on('pageerror', (error) => noise.push(`exception: ${error.message}`));
  page.on('dialog', (dialog) => {
    // Leaving with unsaved changes asks; anything else would be a script from a plan.
    if (dialog.type() !== 'beforeunload') noise.push(`dialog: ${dialog.message()}`);
    void dialog.accept();
  });
  page.on('response', (response) => {
    if (response.status() >= 500) noise.push(`${response.status()} ${response.url()}`);
  });
  page.on('requestfailed', (request) => {
    // The event stream is cut when the page goes; everything else must arrive.
    if (!request.url().includes('/events') && request.failure()?.errorText !== 'net::ERR_ABORTED') {
      noise.push(`failed: ${request.url()} ${request.failure()?.errorText}`);
    }
  });
}

export { expect };

export const exampleText = (name: string): string => readFileSync(`examples/${name}`, 'utf8');

/** A plan of one's own, imported from a shipped file, so that tests do not meet. */
export async function importExample(
  request: APIRequestContext,
  name = 'frost-guard.plan.json',
): Promise<string> {
  const answer = await request.post('/api/plans/import', {
    data: { fileName: name, text: exampleText(name) },
  });
  expect(answer.status()).toBe(201);
  return (await answer.json()).id;
}

export async function emptyPlan(request: APIRequestContext, name: string, pkg = 'q100'): Promise<string> {
  const answer = await request.post('/api/plans', { data: { name, device: 'corvane-c40-80', package: pkg } });
  expect(answer.status()).toBe(201);
  return (await answer.json()).id;
}

export async function openPlan(page: Page, id: string, query = ''): Promise<void> {
  await page.goto(`/plans/${id}${query}`);
  await expect(page.getByRole('listbox', { name: 'Nets' })).toBeVisible();
}

export const netRow = (page: Page, name: string) => page.locator(`[role=option][data-name="${name}"]`);
export const padRow = (page: Page, pad: string) => page.locator(`[role=option][data-pad="${pad}"]`);
export const inspector = (page: Page) => page.getByRole('region', { name: 'Inspector' });
export const saved = (page: Page) => page.getByRole('status').filter({ hasText: /^saved \d\d:\d\d$/ });
export const counts = (page: Page) => page.getByTestId('counts');

/** Types nets into the field for new ones and adds them. */
export async function typeNets(page: Page, text: string): Promise<void> {
  await page.getByRole('textbox', { name: 'New nets' }).fill(text);
  await page.keyboard.press('Enter');
}

/** A finding of a rule, by some of its words: what the user reads, however many others there are. */
export const finding = (page: Page, rule: string, words?: string): Locator =>
  page
    .getByRole('list', { name: 'Findings' })
    .getByRole('listitem')
    .filter({
      has: page.getByRole('button', { name: rule, exact: true }),
      ...(words ? { hasText: words } : {}),
    });

/** Types into the one search field and takes what it finds. */
export async function find(page: Page, text: string, choice: RegExp): Promise<void> {
  await page.keyboard.press('/');
  await page.keyboard.type(text);
  await page.getByRole('option', { name: choice }).first().click();
}

/** Of a test that `./mavrek test --all` alone runs: a second look at what others look at, or one of many seconds. */
export const LONG = { tag: '@all' };

/** Rules that ask of every text and control how it is drawn, which is two thirds of the time of an analysis. */
const DRAWN = ['color-contrast', 'target-size'];

/**
 * No accessibility violation by WCAG 2.2 AA, on the whole page or in the named parts of it. How it is drawn is looked at with `--all`, and
 * always by {@link expectLegible}, through which every view goes once.
 */
export async function expectAccessible(page: Page, ...parts: string[]): Promise<void> {
  const builder = await analysis(page);
  for (const part of parts) builder.include(part);
  await expectNone(process.env.MAVREK_ALL === '1' ? builder : builder.disableRules(DRAWN));
}

/** Nothing reaches beyond the window, and all of it is accessible, as it is drawn, too. */
export async function expectLegible(page: Page): Promise<void> {
  const sideways = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect([page.url(), Math.max(0, sideways)]).toEqual([page.url(), 0]);
  await expectNone(await analysis(page));
}

async function analysis(page: Page): Promise<AxeBuilder> {
  // The title comes a moment after a page that a link leads to.
  await expect(page).toHaveTitle(/./);
  return axe(page).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']);
}

/** No text that its background swallows, in the colours of the theme that is on. */
export const expectContrast = (page: Page): Promise<void> =>
  expectNone(axe(page).withRules('color-contrast'));

// No frames are in the page and what passed is of no interest: without them it takes half the time.
const axe = (page: Page): AxeBuilder =>
  new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] });

async function expectNone(builder: AxeBuilder): Promise<void> {
  const { violations } = await builder.analyze();
  expect(
    violations.map(
      (one) =>
        `${one.id}: ${one.nodes
          .map((node) => node.target.join(' '))
          .slice(0, 5)
          .join(' | ')}`,
    ),
  ).toEqual([]);
}

/** Stores a copy of a shipped part under an unused id, so that tests do not meet; `changes` are keys of its description. */
export async function copyPart(
  request: APIRequestContext,
  id: string,
  changes: Record<string, unknown> = {},
  original = 'corvane-c40-80',
): Promise<string> {
  const description = await (await request.get(`/api/devices/${original}`)).json();
  const text = JSON.stringify({ ...description, id, name: `Copy ${id}`, ...changes });
  const answer = await request.post('/api/devices', { data: { fileName: `${id}.json`, text, expected: 0 } });
  expect(await answer.json()).toMatchObject({ id, revision: 1 });
  return id;
}

/** A plan on a part, imported from text. */
export async function importPlan(request: APIRequestContext, plan: object): Promise<string> {
  const answer = await request.post('/api/plans/import', {
    data: { fileName: 'plan.json', text: JSON.stringify(plan) },
  });
  expect(answer.status(), await answer.text()).toBe(201);
  return (await answer.json()).id;
}
