import { cpSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { commandIn } from './testing/command';

const PLAN = resolve('examples/frost-guard.plan.json');
const { folder, mavrek, file } = commandIn('mavrek-review-');

/** The demo's own code, with its files' names. */
async function generated(out: string): Promise<string[]> {
  expect((await mavrek('generate', PLAN, '--target', 'c', '--out', out)).status).toBe(0);
  return [`${out}/frost_guard.c`, `${out}/frost_guard.h`];
}

test('generated code is what the plan says; a change in it is told at its line, also as SARIF', async () => {
  const files = await generated('right');
  expect(await mavrek('review', PLAN, ...files)).toMatchObject({
    status: 0,
    stderr: '',
    stdout: expect.stringMatching(/ 0 not\n0 errors, 0 warnings, 0 notes\n$/),
  });
  cpSync(join(folder, 'right'), join(folder, 'wrong'), { recursive: true });
  file(
    'wrong/extra.c',
    '#include "frost_guard.h"\nvoid extra_init(void)\n{\n  frost_guard_init();\n  FROST_GUARD_WRITE32(FROST_GUARD_PB_FORCE, 0);\n}\n',
  );
  const wrong = ['wrong/extra.c', 'wrong/frost_guard.c', 'wrong/frost_guard.h'];
  const { status, stdout } = await mavrek('review', PLAN, ...wrong);
  expect(status).toBe(1);
  expect(stdout).toMatch(
    /^wrong\/extra\.c:5:\d+: error: clobbers-bits: puts bits .* of PB\.FORCE back, which wrong\/frost_guard\.c:\d+ has set/m,
  );
  const log = JSON.parse((await mavrek('review', PLAN, ...wrong, '--format', 'sarif')).stdout);
  expect(log).toMatchObject({ version: '2.1.0', runs: [{ tool: { driver: { name: 'Mavrek' } } }] });
  const [run] = log.runs;
  for (const one of run.results) expect(run.tool.driver.rules[one.ruleIndex].id).toBe(one.ruleId);
  expect(run.results.find((one: { ruleId: string }) => one.ruleId === 'clobbers-bits')).toMatchObject({
    level: 'error',
    locations: [
      { physicalLocation: { artifactLocation: { uri: 'wrong/extra.c' }, region: { startLine: 5 } } },
    ],
  });
});

test('the plan that code sets up is written, and checks as the code is', async () => {
  file(
    'hand.c',
    'void init(void)\n{\n  GATE->ON |= 2;\n  PB_SEAL = 0xC40C40;\n  PB->PULL = 1u << 18;\n  PB->USE &= ~(3u << 18);\n}\n',
  );
  const plan = JSON.parse((await mavrek('check', PLAN, '--format', 'json')).stdout).plan;
  expect(plan.device).toBe('corvane-c40-80');
  const { status } = await mavrek('review', PLAN, 'hand.c', '--out', 'read.plan.json');
  expect(status).toBe(1);
  const again = JSON.parse((await mavrek('review', 'read.plan.json', 'hand.c', '--format', 'json')).stdout);
  expect(again.pads.find((one: { pad: string }) => one.pad === 'B9')).toBeUndefined();
});

test('input that is unusable is said so, with status 2', async () => {
  writeFileSync(join(folder, 'empty.c'), '');
  expect(await mavrek('review', PLAN, 'nowhere.c')).toMatchObject({
    status: 2,
    stderr: 'nowhere.c: there is no such file\n',
  });
  const files = await generated('entries');
  const wrong = await mavrek('review', PLAN, ...files, '--entry', 'nothing');
  expect(wrong.status).toBe(2);
  expect(wrong.stderr).toMatch(/^nothing: there is no such function; there are .*frost_guard_init/);
  expect((await mavrek('review', PLAN, ...files, '--define', '=3')).status).toBe(2);
});

test.each([
  ['nothing at all', ''],
  [
    'calls of drivers',
    '#include "driver.h"\nvoid init(void)\n{\n  gpio_configure(PIN_7, OUTPUT);\n  gpio_write(PIN_7, 1);\n}\n',
  ],
  ['another language', 'fn main() { gpio.set_high(); }\n'],
  ['comments', '// FROST_GUARD\n/* PB->USE = 3; */\n'],
])('code of which nothing is understood (%s) is no pass', async (_what, text) => {
  file('drivers.c', text);
  const { status, stdout } = await mavrek('review', PLAN, 'drivers.c');
  expect([status, stdout]).toEqual([
    1,
    expect.stringMatching(/error: nothing-followed: no access to a register/),
  ]);
  const json = JSON.parse((await mavrek('review', PLAN, 'drivers.c', '--format', 'json')).stdout);
  expect(json.findings.map(({ level }: { level: string }) => level)).toContain('error');
});

test('code that sets up a part of the plan and calls drivers for the rest is no pass', async () => {
  file('part.c', 'void init(void)\n{\n  GATE->ON |= 2;\n  setup_the_rest();\n}\n');
  expect(await mavrek('review', PLAN, 'part.c')).toMatchObject({
    status: 1,
    stdout: expect.stringMatching(/error: not-set-up/),
  });
});
