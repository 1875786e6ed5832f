import { readFileSync } from 'node:fs';
import { chromium, type Page } from '@playwright/test';
import { median } from './median';

/**
 * From a key to the painted page, in Chromium against the built application: an edit (a net is put on another pad, by undo and
 * redo) in each view of the window where it is made, and in a second window that hears of it from the server.
 */
const ORIGIN = process.env.MAVREK_ORIGIN ?? 'http://127.0.0.1:4600';
const VIEWS = ['package', 'ports', 'functions', 'power', 'board', 'code'];
const EDITS = 24;
/** Nothing changes in the page for this long: the edit is shown. In milliseconds. */
const QUIET = 250;

async function importPlan(): Promise<string> {
  const answer = await fetch(`${ORIGIN}/api/plans/import`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      fileName: 'frost-guard.plan.json',
      text: readFileSync('examples/frost-guard.plan.json', 'utf8'),
    }),
  });
  return ((await answer.json()) as { id: string }).id;
}

/** Notes when a key goes down, and when the last change of the page after that was painted. */
function watchPaints(): void {
  const state = { pressed: 0, painted: 0 };
  Object.assign(window, { paints: state });
  addEventListener(
    'keydown',
    () => {
      state.pressed = performance.now();
      state.painted = 0;
    },
    true,
  );
  const channel = new MessageChannel();
  channel.port1.onmessage = () => {
    state.painted = performance.now();
  };
  // The head says whether the edit is saved; that is told later, and is not the edit.
  const counts = ({ target }: MutationRecord): boolean =>
    (target instanceof Element ? target : target.parentElement)?.closest('header') === null;
  const begin = (): void =>
    new MutationObserver((records) => {
      if (records.some(counts)) requestAnimationFrame(() => channel.port2.postMessage(0));
    }).observe(document.body, { subtree: true, childList: true, attributes: true, characterData: true });
  addEventListener('DOMContentLoaded', begin);
}

const paints = (page: Page): Promise<{ pressed: number; painted: number }> =>
  page.evaluate(() => (window as unknown as { paints: { pressed: number; painted: number } }).paints);

async function open(page: Page, id: string, view: string): Promise<void> {
  await page.addInitScript(watchPaints);
  await page.goto(`${ORIGIN}/plans/${id}?view=${view}`);
  await page.getByTestId('counts').waitFor();
  await page.waitForTimeout(3500);
}

/** Milliseconds from each press of undo or redo to the painted page. */
async function edits(page: Page, count: number): Promise<number[]> {
  const times: number[] = [];
  for (let turn = 0; turn < count; turn++) {
    await page.keyboard.press(turn % 2 === 0 ? 'Control+z' : 'Control+Shift+z');
    await page.waitForTimeout(QUIET);
    const { pressed, painted } = await paints(page);
    if (painted > pressed) times.push(painted - pressed);
  }
  return times;
}

async function benchPage(): Promise<void> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const id = await importPlan();
  const rows: Record<string, string | number>[] = [];
  for (const view of VIEWS) {
    await open(page, id, view);
    // A move to be taken back and done again.
    await page.locator('[role=option][data-name=FAN_3]').click();
    await page.keyboard.press('m');
    await page.keyboard.press('2');
    await page.waitForTimeout(QUIET);
    await edits(page, 6);
    const times = await edits(page, EDITS);
    rows.push({
      view,
      edits: times.length,
      'key to painted, median ms': median(times).toFixed(1),
      worst: Math.max(...times).toFixed(1),
    });
    await page.keyboard.press('Control+z');
    await page.waitForTimeout(QUIET);
  }
  console.table(rows);
  // Two windows on one plan: when both were painted, by the clock they share.
  const other = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await open(page, id, 'package');
  await open(other, id, 'package');
  await page.locator('[role=option][data-name=FAN_3]').click();
  await page.keyboard.press('m');
  await page.keyboard.press('2');
  const there: number[] = [];
  const origin = (one: Page): Promise<number> => one.evaluate(() => performance.timeOrigin);
  const [mine, theirs] = await Promise.all([origin(page), origin(other)]);
  for (let turn = 0; turn < EDITS; turn++) {
    await page.keyboard.press(turn % 2 === 0 ? 'Control+z' : 'Control+Shift+z');
    await page.waitForTimeout(2 * QUIET);
    const { pressed } = await paints(page);
    const { painted } = await paints(other);
    if (theirs + painted > mine + pressed) there.push(theirs + painted - mine - pressed);
  }
  console.log(
    `key to painted in another window, through the server: median ${median(there).toFixed(0)} ms of ${there.length}`,
  );
  await browser.close();
}

benchPage().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
