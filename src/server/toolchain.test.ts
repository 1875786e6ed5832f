import { readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { LIMITS } from '@/core/base/limits';
import { generateFiles, whyNoCode } from '@/core/output/generate';
import { TARGETS } from '@/core/output/targets';
import { family, familyPlan } from '@/testing/families';
import { deriveOn, frostGuard } from '@/testing/frost-guard';
import { checkCode, hasTools } from './toolchain';

jest.setTimeout(180_000);

const left = (): string[] => readdirSync(tmpdir()).filter((name) => name.startsWith('mavrek-check-'));
const pellin = family('pellin-p8');

test.each(TARGETS.filter((one) => !one.document).map((one) => [one.id, one] as const))(
  '%s goes through every tool that there is for it',
  async (id, target) => {
    expect(hasTools(id)).toBe(true);
    const demo = deriveOn(frostGuard());
    const derived = whyNoCode(target, demo) === undefined ? demo : deriveOn(familyPlan(pellin), pellin);
    const results = await checkCode(id, generateFiles(target, derived));
    expect(results.length).toBeGreaterThan(0);
    for (const one of results) expect([one.title, one.state, one.said]).toEqual([one.title, 'passed', '']);
    if (id === 'c') for (const one of results) expect(one.size?.code).toBeGreaterThan(300);
  },
);

const TOOL = [
  {
    id: 'gcc',
    title: 'GCC',
    command: 'gcc',
    targets: ['c'],
    args: (source: string) => ['-fsyntax-only', source],
    debian: 'gcc',
  },
];

test('what a compiler does not take is said with its words and lines, and nothing is left behind', async () => {
  const before = left();
  const [host] = await checkCode('c', [
    { path: 'wrong.c', initialises: true, text: '#include <stdint.h>\nuint8_t f(void) { return 0x100; }\n' },
  ]);
  expect(host).toMatchObject({ state: 'failed', said: expect.stringMatching(/wrong\.c:2:\d+: error/) });
  expect(host?.said).not.toContain(tmpdir());
  expect(left()).toEqual(before);
});

test('what a compiler says is bounded', async () => {
  const names = Array.from({ length: 300 }, (_, at) => `int f${at}(void) { return missing_${at}; }`);
  const [host] = await checkCode('c', [{ path: 'long.c', initialises: true, text: names.join('\n') }]);
  expect(host?.state).toBe('failed');
  expect(host?.said.length).toBeLessThanOrEqual(8000);
});

test('a compiler that is not there is told, with how to install it', async () => {
  const missing = { id: 'x', title: 'X', command: 'no-such-compiler', targets: ['c'], debian: 'x-compiler' };
  expect(await checkCode('c', [], [{ ...missing, args: () => [] }])).toEqual([
    { id: 'x', title: 'X', state: 'absent', said: '', install: 'apt-get install x-compiler' },
  ]);
});

test('many requests at once take turns; too many are asked to come again', async () => {
  const files = [{ path: 'a.c', initialises: true as const, text: 'int a;\n' }];
  const asked = Array.from({ length: 60 }, () => checkCode('c', files, TOOL).catch((error) => error.message));
  const answers = await Promise.all(asked);
  const refused = answers.filter((one) => /busy/.test(String(one))).length;
  expect(refused).toBe(60 - 2 - LIMITS.workWaiting);
  expect(answers.filter((one) => Array.isArray(one) && one[0]?.state === 'passed')).toHaveLength(
    60 - refused,
  );
  expect(await checkCode('c', files, TOOL)).toMatchObject([{ state: 'passed' }]);
});

test('documents are not compiled', () => {
  for (const one of TARGETS.filter((target) => target.document)) expect(hasTools(one.id)).toBe(false);
});
