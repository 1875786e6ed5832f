import { ownPage } from '@/core/people/own-page';
import { checkPassword } from '@/core/people/password';
import { hashPassword, isPassword } from './passwords';
import { authSettings } from './settings';

describe('what the environment says', () => {
  const on = (more: Record<string, string>) => authSettings({ NODE_ENV: 'test', MAVREK_AUTH: 'on', ...more });
  test.each([
    [{ HOST: '0.0.0.0' }, 'reach Mavrek by HTTPS'],
    [{ HOST: '192.0.2.7' }, 'reach Mavrek by HTTPS'],
    [{ MAVREK_URL: 'http://pins.example.org' }, 'reach Mavrek by HTTPS'],
    [{ MAVREK_URL: 'pins.example.org' }, 'is an address such as'],
    [{ MAVREK_URL: 'javascript:1' }, 'is an address such as'],
    [{ MAVREK_AUTH: 'yes' }, 'it is on or off'],
    [{ MAVREK_OIDC_ISSUER: 'https://login.example.org' }, 'needs MAVREK_OIDC_CLIENT'],
    [
      { MAVREK_OIDC_ISSUER: 'http://login.example.org', MAVREK_OIDC_CLIENT: 'm', MAVREK_OIDC_SECRET: 's' },
      'must begin with https',
    ],
  ])('%j is refused', (more, why) => {
    expect(() => on(more as Record<string, string>)).toThrow(why);
  });
  test('what is safe is taken', () => {
    expect(on({}).url).toBeUndefined();
    expect(on({ HOST: '0.0.0.0', MAVREK_URL: 'https://pins.example.org/' }).url).toBe(
      'https://pins.example.org',
    );
    expect(authSettings({ NODE_ENV: 'test', HOST: '0.0.0.0' }).url).toBeUndefined();
    expect(
      on({ MAVREK_OIDC_ISSUER: 'http://127.0.0.1:1', MAVREK_OIDC_CLIENT: 'm', MAVREK_OIDC_SECRET: 's' }).oidc
        ?.title,
    ).toBe('127.0.0.1');
  });
});

test.each([
  ['/plans/x?view=registers', '/plans/x?view=registers'],
  ['/', '/'],
  [null, '/'],
  ['', '/'],
  ['//evil.example', '/'],
  ['/\\evil.example', '/'],
  ['\\/evil.example', '/'],
  ['/\t/evil.example', '/'],
  ['/\n//evil.example', '/'],
  ['https://evil.example', '/'],
  ['javascript:alert(1)', '/'],
  ['/a/..//evil.example', '/'],
  ['/x/../..//evil.example/', '/'],
  ['/api/sign-out', '/'],
  [`/${'x'.repeat(3000)}`, '/'],
])('after signing in, %j leads to %j', (next, page) => {
  const led = ownPage(next);
  expect(led.startsWith('//')).toBe(false);
  expect(new URL(led, 'https://own.example').host).toBe('own.example');
  expect(led).toBe(page);
});

test.each([
  ['short', 'at least 12'],
  ['aaaaaaaaaaaaaaaa', 'repeats'],
  ['abababababababab', 'repeats'],
  ['Ada Frost 12345', 'more than a name'],
  ['ada@guard.example1', 'more than a name'],
  ['x'.repeat(300), 'at most'],
])('%s is no password', (password, why) => {
  expect(checkPassword(password, { name: 'Ada Frost', email: 'ada@guard.example' })).toMatchObject({
    ok: false,
    problems: [{ message: expect.stringContaining(why) }],
  });
});

test('a password is known again, however its letters are composed; another is not, nor is anything where there is none', async () => {
  const password = 'frost ä comes ﬁrst';
  const hashed = await hashPassword(password);
  expect(await isPassword(password, hashed)).toBe(true);
  expect(await isPassword(password.normalize('NFD'), hashed)).toBe(true);
  expect(await isPassword(`${password} `, hashed)).toBe(false);
  expect(await isPassword('of nobody', null)).toBe(false);
  expect(checkPassword(password, { name: 'Ada', email: 'ada@guard.example' }).ok).toBe(true);
  expect(await hashPassword(password)).not.toBe(hashed);
});
