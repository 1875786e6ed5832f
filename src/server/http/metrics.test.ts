import { kindOf } from './metrics';

test.each([
  ['POST', '/api/plans/abc/edits', 'edit'],
  ['GET', '/api/plans/abc/edits', 'api'],
  ['GET', '/api/plans/abc/events?after=3', 'stream'],
  ['GET', '/api/plans/abc', 'api'],
  ['GET', '/plans/abc', 'page'],
  ['GET', '/', 'page'],
  ['POST', '/api/plans/a/b/edits', 'api'],
])('%s %s is counted as %s', (method, url, kind) => {
  expect(kindOf(method, url)).toBe(kind);
});
