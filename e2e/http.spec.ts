import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from './fixtures';

test('the examples of the interface do what they say', async ({ baseURL }) => {
  test.slow();
  const [, script = ''] = /```sh\n([\s\S]*?)```/.exec(readFileSync('docs/http.md', 'utf8')) ?? [];
  expect(script).toContain('/api/compare');
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-http-'));
  const said = execFileSync('bash', ['-eu', '-o', 'pipefail', '-c', script], {
    cwd: folder,
    encoding: 'utf8',
    env: { ...process.env, MAVREK: baseURL ?? '' },
  });
  expect(said.trim().split('\n')).toEqual(['saved', 'optimal', '0', 'A', 'false']);
  expect(readFileSync(join(folder, 'change.md'), 'utf8')).toContain('VALVE\\_A\\_OPEN');
  const header = readFileSync(join(folder, 'valve_box.h'), 'utf8');
  expect(header).toContain('valve_box_valve_a_open_set');
  // What was generated is what a compiler takes.
  execFileSync(
    'gcc',
    ['-std=c11', '-Wall', '-Wextra', '-Wconversion', '-pedantic', '-Werror', '-fsyntax-only', 'valve_box.c'],
    { cwd: folder },
  );
});

test('the description is served, and code is refused while a plan has errors', async ({ request }) => {
  const described = await (await request.get('/api/openapi.json')).json();
  expect(described).toMatchObject({ openapi: '3.1.0', info: { title: 'Mavrek' } });
  const check = await (await request.get('/api/plans/frost-guard-faulty/check')).json();
  expect(check.counts.error).toBeGreaterThan(0);
  const refused = await request.get('/api/plans/frost-guard-faulty/code?target=c');
  expect(refused.status()).toBe(409);
  expect((await refused.json()).problems.length).toBe(check.counts.error);
  expect((await request.get('/api/plans/frost-guard-faulty/code?target=c&force=1')).status()).toBe(200);
  expect((await request.get('/api/plans/frost-guard/code?target=nothing')).status()).toBe(400);
  expect((await request.get('/api/plans/nowhere/check')).status()).toBe(404);
});
