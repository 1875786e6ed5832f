import { createServer, type IncomingMessage, type Server } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import { LIMITS } from '@/core/base/limits';
import { admit } from './gate';
import { FIXED_HEADERS } from './headers';
import { hostsOf } from './hosts';

/** The gate before a server that counts what gets through, and sockets that send what no client library would. */
let server: Server;
let port = 0;
let through: IncomingMessage[] = [];
let bytes = 0;

beforeAll(async () => {
  server = createServer((request, response) => {
    if (!admit(request, response, hostsOf('127.0.0.1', port))) return;
    through.push(request);
    request.on('data', (piece: Buffer) => {
      bytes += piece.length;
    });
    request.on('end', () => response.end('done'));
    request.on('error', () => undefined);
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  port = (server.address() as AddressInfo).port;
});
afterAll(() => new Promise((done) => server.close(done)));
beforeEach(() => {
  through = [];
  bytes = 0;
});

interface Said {
  status: number;
  head: string;
  body: string;
}

/** Sends a head and then what `more` writes, until the other side closes or has answered. */
function send(head: string, more?: (write: (text: string | Buffer) => boolean) => void): Promise<Said> {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    let said = '';
    socket.on('data', (data) => {
      said += data;
    });
    socket.on('error', () => undefined);
    socket.on('close', () => {
      const [first = '', ...rest] = said.split('\r\n\r\n');
      resolve({ status: Number(/^HTTP\/1.1 (\d+)/.exec(first)?.[1] ?? 0), head: first, body: rest.join('') });
    });
    socket.write(head);
    more?.((text) => socket.write(text));
  });
}
const get = (path: string, host = `127.0.0.1:${port}`, extra = '') =>
  send(`GET ${path} HTTP/1.1\r\nHost: ${host}\r\n${extra}Connection: close\r\n\r\n`);

test('who calls it by another name is answered with 421, and gets no further', async () => {
  for (const path of ['/', '/api/plans', '/api/plans/x/events?after=0', '/_next/static/x.js']) {
    const said = await get(path, 'evil.example');
    expect([path, said.status]).toEqual([path, 421]);
    expect(JSON.parse(said.body).problems[0].message).toMatch(/MAVREK_HOSTS/);
  }
  expect(through).toEqual([]);
  expect((await get('/')).status).toBe(200);
});

test('every answer carries the headers, and a nonce of its own', async () => {
  const nonces = new Set<string>();
  for (const said of [await get('/'), await get('/x', 'evil.example'), await get('/api/plans/%ff')]) {
    for (const [name, value] of Object.entries(FIXED_HEADERS))
      expect(said.head).toContain(`${name}: ${value}`);
    const policy = /content-security-policy: (.*)/.exec(said.head)?.[1] ?? '';
    expect(policy).toMatch(/frame-ancestors 'none'/);
    expect(policy).not.toMatch(/script-src[^;]*unsafe|\*/);
    nonces.add(/'nonce-([^']+)'/.exec(policy)?.[1] ?? '');
  }
  expect(nonces.size).toBe(3);
});

test('a nonce that a client brings is not used', async () => {
  await get('/', undefined, "Content-Security-Policy: script-src 'nonce-mine'\r\n");
  expect(through[0]?.headers['content-security-policy']).not.toContain('mine');
});

test.each(['/api/plans/%ff', '/%', '/a%zz', '/%c3%28'])('%s is 400', async (path) => {
  expect((await get(path)).status).toBe(400);
  expect(through).toEqual([]);
});

test.each([
  ['a foreign origin', 'Origin: http://evil.example\r\n', 403],
  ['no origin that can be told', 'Origin: null\r\n', 403],
  ['a browser that says it is another site', 'Sec-Fetch-Site: cross-site\r\n', 403],
  ['no browser at all', '', 200],
])('a change from %s', async (_name, header, status) => {
  const said = await send(
    `POST /api/plans HTTP/1.1\r\nHost: localhost:${port}\r\n${header}Content-Length: 2\r\nConnection: close\r\n\r\n{}`,
  );
  expect(said.status).toBe(status);
});

test('a body that says it is too large is refused before it is sent', async () => {
  const said = await send(
    `POST /api/plans HTTP/1.1\r\nHost: localhost:${port}\r\nContent-Length: 200000000\r\n\r\n`,
  );
  expect(said.status).toBe(413);
  expect(through).toEqual([]);
});

test('a body in pieces is cut off at the limit, whatever it says', async () => {
  const piece = Buffer.alloc(65_536, 'x');
  const chunk = Buffer.concat([Buffer.from(`${piece.length.toString(16)}\r\n`), piece, Buffer.from('\r\n')]);
  const said = await Promise.all(
    Array.from({ length: 8 }, () =>
      send(
        `POST /api/plans HTTP/1.1\r\nHost: localhost:${port}\r\nTransfer-Encoding: chunked\r\n\r\n`,
        (write) => {
          for (let sent = 0; sent < 3 * LIMITS.requestBytes; sent += piece.length) write(chunk);
        },
      ),
    ),
  );
  // The connection may break before its answer is read; no body gets through whole.
  for (const { status } of said) expect([0, 413]).toContain(status);
  expect(bytes).toBeLessThanOrEqual(8 * LIMITS.requestBytes);
});

test('an address that somebody else might read as another one is none', async () => {
  for (const path of [
    '//api/plans',
    '/x//y',
    '/plans/../api/audit',
    '/plans/%2e%2e/api/audit',
    '/plans/.%2E/api/audit',
    '/x%2f..%2fapi/audit',
    '/./api/plans',
    '/x\\y',
    '/x%5cy',
    '/%',
    '/%zz',
  ])
    expect([path, (await get(path)).status]).toEqual([path, 400]);
  expect(through).toEqual([]);
  for (const path of [
    '/',
    '/plans/x/',
    '/plans/x?a=../b//c',
    '/api/plans/x/revisions/A%2FB',
    '/%61pi/plans',
    '/a.b/c..d',
  ])
    expect([path, (await get(path)).status]).toEqual([path, 200]);
});
