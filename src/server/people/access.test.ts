import { readdirSync } from 'node:fs';
import { asked, PAGE_ACCESS } from './access';

test('every page is in the table, and no other', () => {
  const there = readdirSync('src/app', { recursive: true, encoding: 'utf8' })
    .filter((file) => /(^|\/)page\.tsx$/.test(file))
    .map((file) => `/${file.replace(/\/?page\.tsx$/, '').replaceAll(/\[(\w+)\]/g, '{$1}')}`);
  expect(Object.keys(PAGE_ACCESS).sort()).toEqual(there.sort());
});

test.each([
  ['GET', '/api/plans', 'GET /api/plans', 'read'],
  ['HEAD', '/api/plans/x', 'GET /api/plans/{id}', 'read'],
  ['DELETE', '/api/plans/x', 'DELETE /api/plans/{id}', 'edit'],
  // Whoever looks at it later decodes it, too.
  ['DELETE', '/%61pi/plans/x', 'DELETE /api/plans/{id}', 'edit'],
  ['DELETE', '/api/%70lans/%78/', 'DELETE /api/plans/{id}', 'edit'],
  ['POST', '/api/plans/import', 'POST /api/plans/import', 'edit'],
  ['GET', '/parts/import', '/parts/import', 'read'],
  ['GET', '/parts/x', '/parts/{id}', 'read'],
  ['GET', '/api/audit', 'GET /api/audit', 'manage'],
  ['GET', '/_next/static/x.js', 'asset', 'public'],
  ['POST', '/_next/static/x.js', '/_next/static/x.js', 'signed-in'],
  ['GET', '/_next/image', '/_next/image', 'signed-in'],
  ['PUT', '/api/plans', '/api/plans', 'signed-in'],
  ['GET', '/theme.js/x', '/theme.js/x', 'signed-in'],
])('%s %s is %s, which needs %s', (method, path, name, need) => {
  expect(asked(method, path)).toMatchObject({
    name,
    need,
    known: name !== path || name.startsWith('/parts/'),
  });
});
