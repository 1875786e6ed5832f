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
    env: { ...process.env, FORCE_COLOR: '0', MAVREK: baseURL ?? '' },
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

test('a monitor finds counts that say nothing of plans or people', async ({ request }) => {
  await request.get('/api/plans/frost-guard');
  const text = await (await request.get('/api/metrics')).text();
  expect(text).toMatch(/^mavrek_requests_total\{kind="api",status="2xx"\} \d+$/m);
  expect(text).toMatch(/^mavrek_request_seconds_bucket\{le="0\.15",kind="api"\} \d+$/m);
  expect(text).toMatch(/^mavrek_streams \d+$/m);
  expect(text).toMatch(/^mavrek_database_connections\{state="open"\} \d+$/m);
  expect(text).not.toContain('frost-guard');
  // Every line is one of the format: a comment, or a name with labels and a number.
  for (const line of text.split('\n').filter((one) => one !== ''))
    expect(line).toMatch(/^(#.*|[a-z_][a-z0-9_]*(\{[^}]*\})? -?([\d.]+(e[+-]?\d+)?|NaN|\+Inf))$/);
});
