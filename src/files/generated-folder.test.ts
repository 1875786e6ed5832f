import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expectOk } from '@/testing/expect-ok';
import { type Generated, MANIFEST, updateFolder } from './generated-folder';

let folder = '';
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'mavrek-generated-'));
});
afterEach(() => rmSync(folder, { recursive: true }));

const read = (path: string): string => readFileSync(join(folder, path), 'utf8');
const generated = (files: Record<string, string>, target = 'schedule-csv'): Generated => ({
  target,
  content: 'c',
  files: Object.entries(files).map(([path, text]) => ({ path, text })),
});

test('what is generated again replaces what was generated, also without a digest inside', () => {
  updateFolder(folder, generated({ 'a.csv': 'one\n', 'b.csv': 'b\n' }));
  const again = expectOk(updateFolder(folder, generated({ 'a.csv': 'two\n', 'b.csv': 'b\n' })));
  expect(again).toMatchObject({ changed: ['a.csv'], removed: [], kept: [] });
  expect(read('a.csv')).toBe('two\n');
});

test('other line ends are no change by hand', () => {
  updateFolder(folder, generated({ 'a.csv': 'one\nmore\n' }));
  writeFileSync(join(folder, 'a.csv'), 'one\r\nmore\r\n');
  expect(updateFolder(folder, generated({ 'a.csv': 'two\n' })).ok).toBe(true);
});

test('a change by hand is shown with its difference and kept, and nothing else is written', () => {
  updateFolder(folder, generated({ 'a.csv': 'one\n', 'b.csv': 'b\n' }));
  writeFileSync(join(folder, 'a.csv'), 'mine\n');
  const refused = updateFolder(folder, generated({ 'a.csv': 'two\n', 'b.csv': 'c\n' }));
  expect(refused).toMatchObject({
    ok: false,
    problems: [
      { place: join(folder, 'a.csv'), message: expect.stringMatching(/changed by hand[\s\S]*-two\n\+mine/) },
    ],
  });
  expect([read('a.csv'), read('b.csv')]).toEqual(['mine\n', 'b\n']);
  expect(updateFolder(folder, generated({ 'a.csv': 'two\n', 'b.csv': 'c\n' }), { overwrite: true }).ok).toBe(
    true,
  );
  expect([read('a.csv'), read('b.csv')]).toEqual(['two\n', 'c\n']);
});

test('what is not generated any more goes, unless it was changed by hand or is another target’s', () => {
  updateFolder(folder, generated({ 'gone.csv': 'x\n', 'mine.csv': 'x\n', 'shared.h': 'x\n' }));
  updateFolder(folder, generated({ 'shared.h': 'x\n' }, 'c'));
  writeFileSync(join(folder, 'mine.csv'), 'changed\n');
  writeFileSync(join(folder, 'stranger.txt'), 'not ours\n');
  expect(expectOk(updateFolder(folder, generated({ 'new.csv': 'n\n' })))).toMatchObject({
    removed: ['gone.csv'],
    kept: ['mine.csv'],
  });
  expect(readdirSync(folder).sort()).toEqual(
    [MANIFEST, 'mine.csv', 'new.csv', 'shared.h', 'stranger.txt'].sort(),
  );
});

test.each([
  ['cut off', '{ "format": "mavrek-generated/1", '],
  ['of another format', '{ "format": "other/1", "targets": {} }'],
  [
    'with a path that leads elsewhere',
    '{ "format": "mavrek-generated/1", "targets": { "c": { "content": "", "files": { "../x": "" } } } }',
  ],
])('a manifest %s is refused, and nothing is touched', (_what, text) => {
  writeFileSync(join(folder, MANIFEST), text);
  expect(updateFolder(folder, generated({ 'a.csv': 'one\n' }))).toMatchObject({
    ok: false,
    problems: [{ place: join(folder, MANIFEST) }],
  });
  expect(existsSync(join(folder, 'a.csv'))).toBe(false);
});
