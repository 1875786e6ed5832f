import { hostsOf } from './hosts';

const own = () => ['box', '192.0.2.7', '[2001:db8::7]'];

describe('on the loopback', () => {
  const hosts = hostsOf('127.0.0.1', 4600, '', own);
  test.each(['127.0.0.1:4600', 'localhost:4600', '[::1]:4600', 'LOCALHOST:4600', 'localhost.:4600'])(
    '%s is known',
    (host) => {
      expect(hosts.known(host)).toBe(true);
    },
  );
  test.each([
    undefined,
    '',
    'evil.example',
    'evil.example:4600',
    'localhost',
    'localhost:80',
    'localhost:46000',
    '127.0.0.1.evil.example:4600',
    '127.0.0.2:4600',
    '192.0.2.7:4600',
    'localhost:4600@evil.example',
    'localhost:4600/',
    'a b:4600',
    '[::1:4600',
  ])('%s is not', (host) => {
    expect(hosts.known(host)).toBe(false);
  });
  test('origins are its own by the same rule', () => {
    expect(hosts.ownOrigin('http://localhost:4600')).toBe(true);
    for (const origin of [
      'null',
      'http://evil.example',
      'http://localhost:4601',
      'file://',
      'javascript:1',
      '',
    ])
      expect([origin, hosts.ownOrigin(origin)]).toEqual([origin, false]);
  });
});

test('on all addresses it is known by each of them, and by no name that points there', () => {
  const hosts = hostsOf('0.0.0.0', 8080, '', own);
  for (const host of ['localhost:8080', 'box:8080', '192.0.2.7:8080', '[2001:db8::7]:8080'])
    expect([host, hosts.known(host)]).toEqual([host, true]);
  for (const host of ['evil.example:8080', '192.0.2.8:8080', '192.0.2.7:80'])
    expect([host, hosts.known(host)]).toEqual([host, false]);
});

test('names for a proxy are told, with a port or for any', () => {
  const hosts = hostsOf('127.0.0.1', 4600, 'pins.example.org, other.example:8443', own);
  expect(['pins.example.org', 'PINS.example.org:443', 'other.example:8443'].map(hosts.known)).toEqual([
    true,
    true,
    true,
  ]);
  expect(['other.example', 'sub.pins.example.org'].map(hosts.known)).toEqual([false, false]);
  expect(hosts.ownOrigin('https://pins.example.org')).toBe(true);
});
