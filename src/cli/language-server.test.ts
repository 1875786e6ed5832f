import { type ChildProcess, spawn } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { buildSync } from 'esbuild';
import type { CompletionItem, Diagnostic, Hover, Location, WorkspaceEdit } from 'vscode-languageserver/node';
import {
  createMessageConnection,
  type MessageConnection,
  StreamMessageReader,
  StreamMessageWriter,
} from 'vscode-languageserver/node';

/** The built command line tool, spoken to by a client over its standard streams, as an editor does. */
const folder = mkdtempSync(join(tmpdir(), 'mavrek-language-'));
let server: ChildProcess;
let client: MessageConnection;
const published = new Map<string, { diagnostics: Diagnostic[]; take?: () => void }>();

beforeAll(async () => {
  cpSync('devices/sarn-s9', join(folder, 'sarn'), { recursive: true });
  const outfile = join(folder, 'cli.cjs');
  buildSync({
    entryPoints: ['src/cli/main.ts'],
    bundle: true,
    platform: 'node',
    mainFields: ['module', 'main'],
    outfile,
    logLevel: 'error',
  });
  server = spawn('node', [outfile, 'language-server', '--stdio'], {
    env: { ...process.env, MAVREK_HOME: resolve('.') },
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  if (!server.stdin || !server.stdout) throw new Error('the server has no streams');
  client = createMessageConnection(
    new StreamMessageReader(server.stdout),
    new StreamMessageWriter(server.stdin),
  );
  client.onNotification('textDocument/publishDiagnostics', ({ uri, diagnostics }) => {
    const before = published.get(uri);
    published.set(uri, { diagnostics });
    before?.take?.();
  });
  client.listen();
  await client.sendRequest('initialize', { processId: process.pid, rootUri: null, capabilities: {} });
  await client.sendNotification('initialized', {});
}, 120_000);

afterAll(async () => {
  await client.sendRequest('shutdown');
  await client.sendNotification('exit');
  await new Promise((done) => server.once('exit', done));
  client.dispose();
  rmSync(folder, { recursive: true });
});

let version = 1;
const next = (uri: string): Promise<Diagnostic[]> =>
  new Promise((done) => {
    const diagnostics = published.get(uri)?.diagnostics ?? [];
    published.set(uri, { diagnostics, take: () => done(published.get(uri)?.diagnostics ?? []) });
  });
async function opened(
  path: string,
  text: string,
  languageId = 'part',
): Promise<{ uri: string; diagnostics: Diagnostic[] }> {
  const uri = pathToFileURL(path).href;
  const answer = next(uri);
  await client.sendNotification('textDocument/didOpen', {
    textDocument: { uri, languageId, version: version++, text },
  });
  return { uri, diagnostics: await answer };
}
async function changed(uri: string, text: string): Promise<Diagnostic[]> {
  const answer = next(uri);
  await client.sendNotification('textDocument/didChange', {
    textDocument: { uri, version: version++ },
    contentChanges: [{ text }],
  });
  return answer;
}
const positionIn = (text: string, piece: string, within = 0): { line: number; character: number } => {
  const rows = text.slice(0, text.indexOf(piece) + within).split('\n');
  return { line: rows.length - 1, character: rows.at(-1)?.length ?? 0 };
};

test('a session on the text of a part: diagnostics, completion, hover, definition, references, rename, format', async () => {
  const path = join(folder, 'sarn/recipe.part');
  const text = readFileSync(path, 'utf8');
  const { uri, diagnostics } = await opened(path, text);
  expect(diagnostics).toEqual([]);

  // Wrong as the whole part, with the tables beside it, and wrong as a line.
  const whole = await changed(uri, text.replace('set of OUT', 'set of OTU'));
  expect(whole.map(({ range, message }) => [range.start, message])).toEqual([
    [positionIn(text, 'ON   +2'), expect.stringContaining('there is no register OTU')],
  ]);
  const wrong = text.replace('ro, follows pads', 'ro, folows pads');
  const line = await changed(uri, wrong);
  expect(line.map(({ range }) => range)).toEqual([
    { start: positionIn(wrong, 'folows'), end: positionIn(wrong, 'folows', 6) },
  ]);
  expect(await changed(uri, text)).toEqual([]);

  const ask = <T>(method: string, piece: string, within: number, more: object = {}): Promise<T> =>
    client.sendRequest(`textDocument/${method}`, {
      textDocument: { uri },
      position: positionIn(text, piece, within),
      ...more,
    });
  const hover = await ask<Hover>('hover', 'set of OUT', 8);
  expect(JSON.stringify(hover.contents)).toContain('0x60000200');
  const definition = await ask<Location>('definition', 'set of OUT', 8);
  expect(definition.range.start).toEqual(positionIn(text, 'OUT  +0'));
  expect(
    await ask<Location[]>('references', 'OUT  +0', 1, { context: { includeDeclaration: true } }),
  ).toHaveLength(4);
  const edit = await ask<WorkspaceEdit>('rename', 'OUT  +0', 1, { newName: 'LATCH' });
  expect(edit.changes?.[uri]).toHaveLength(4);
  await expect(ask('rename', 'OUT  +0', 1, { newName: 'SEEN' })).rejects.toThrow(
    /there is a register SEEN already/,
  );

  const begun = text.replace('writes src from joined', 'writes ');
  await changed(uri, begun);
  const items = await client.sendRequest<CompletionItem[]>('textDocument/completion', {
    textDocument: { uri },
    position: positionIn(begun, 'writes \n', 7),
  });
  expect(items.map(({ label }) => label)).toEqual(expect.arrayContaining(['src', 'joined', 'pull']));

  const loose = text.replace('field strong PAD.CFG', 'field   strong   PAD.CFG');
  expect(loose).not.toBe(text);
  await changed(uri, loose);
  const edits = await client.sendRequest<{ newText: string }[]>('textDocument/formatting', {
    textDocument: { uri },
    options: { tabSize: 2, insertSpaces: true },
  });
  expect(edits.map(({ newText }) => newText)).toEqual([text]);
}, 120_000);

test('a plan file shows its findings at the nets that they are about', async () => {
  const text = readFileSync('examples/frost-guard-faulty.plan.json', 'utf8');
  const { diagnostics } = await opened(join(folder, 'frost.plan.json'), text, 'json');
  expect(diagnostics.length).toBeGreaterThan(3);
  for (const { range, code } of diagnostics) {
    expect(code).toMatch(/^[a-z-]+$/);
    expect(range.start.line).toBeLessThan(text.split('\n').length);
  }
  const { diagnostics: broken } = await opened(
    join(folder, 'broken.plan.json'),
    text.replace('"nets"', '"nest"'),
    'json',
  );
  expect(broken.map(({ message }) => message).join()).toMatch(/nest/);
}, 60_000);

test('lines of trials in a plan file: what is wrong at its place, completion, and what words mean', async () => {
  const path = join(folder, 'trials.plan.json');
  const text = readFileSync('examples/frost-guard.plan.json', 'utf8');
  const { uri, diagnostics } = await opened(path, text, 'json');
  expect(diagnostics.filter(({ code }) => code === undefined)).toEqual([]);
  // A quoted name is escaped in the file; columns are of the file all the same.
  const wrong = text.replace('"wait 50 ms"', '"\\"FAN_1\\" onn"');
  const list = (await changed(uri, wrong)).filter(({ code }) => code === undefined);
  expect(list.map(({ range, message }) => [range.start, range.end, message])).toEqual([
    [
      positionIn(wrong, 'onn"', 0),
      positionIn(wrong, 'onn"', 3),
      expect.stringMatching(/^"onn" is not understood/),
    ],
  ]);
  const begun = wrong.replace('\\"FAN_1\\" onn', 'press SERV');
  await changed(uri, begun);
  const items = await client.sendRequest<CompletionItem[]>('textDocument/completion', {
    textDocument: { uri },
    position: positionIn(begun, 'press SERV', 10),
  });
  expect(items[0]).toMatchObject({
    label: 'SERVICE_BTN',
    textEdit: {
      newText: 'SERVICE_BTN',
      range: { start: positionIn(begun, 'press SERV', 6), end: positionIn(begun, 'press SERV', 10) },
    },
  });
  const ask = (piece: string, within: number) =>
    client.sendRequest<Hover | null>('textDocument/hover', {
      textDocument: { uri },
      position: positionIn(begun, piece, within),
    });
  expect(JSON.stringify(await ask('{fan-1} off always', 3))).toMatch(/FAN.*_1.*driven/);
  expect(JSON.stringify(await ask('repeat 4 with', 2))).toContain('so many times');
  expect(await ask('"trials"', 3)).toBeNull();
}, 60_000);
