import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cTarget } from '@/core/output/code/c/target';
import { generateFiles } from '@/core/output/generate';
import { deriveOn, frostGuard } from '@/testing/frost-guard';
import { readDeviceFolder } from './devices';
import { writeFiles } from './write-files';

const files = generateFiles(cTarget, deriveOn(frostGuard()));
let folder = '';
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'mavrek-files-'));
});
afterEach(() => rmSync(folder, { recursive: true }));

describe('writing generated files', () => {
  test('makes the folder, and leaves no temporary files', () => {
    const target = join(folder, 'deep/er');
    expect(writeFiles(target, files, 'refuse')).toEqual({
      ok: true,
      value: files.map((file) => join(target, file.path)),
    });
    expect(readdirSync(target).sort()).toEqual(files.map((file) => file.path).sort());
  });
  test('replaces what was generated before', () => {
    writeFiles(folder, files, 'refuse');
    const other = generateFiles(cTarget, deriveOn({ ...frostGuard(), revision: 'D' }));
    expect(writeFiles(folder, other, 'refuse').ok).toBe(true);
    expect(readFileSync(join(folder, 'frost_guard.c'), 'utf8')).toContain('revision D');
  });
  test('writes none when one of them was not generated', () => {
    writeFileSync(join(folder, 'frost_guard.c'), 'int mine;\n');
    expect(writeFiles(folder, files, 'refuse')).toMatchObject({
      ok: false,
      problems: [{ place: join(folder, 'frost_guard.c') }],
    });
    expect(existsSync(join(folder, 'frost_guard.h'))).toBe(false);
    expect(readFileSync(join(folder, 'frost_guard.c'), 'utf8')).toBe('int mine;\n');
  });
  test('cleans up when a file cannot be put in its place', () => {
    mkdirSync(join(folder, 'frost_guard.c'));
    expect(writeFiles(folder, files, 'overwrite').ok).toBe(false);
    expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([]);
  });
});

describe('reading parts', () => {
  test('a folder without the files is a problem with its place', () => {
    expect(readDeviceFolder(folder)).toMatchObject({
      ok: false,
      problems: [{ place: folder, message: 'there is no such file' }],
    });
  });
  test('a broken recipe is a problem that names its file', () => {
    for (const name of ['pinout.csv', 'functions.csv']) {
      writeFileSync(join(folder, name), readFileSync(join('devices/corvane-c40', name)));
    }
    writeFileSync(join(folder, 'recipe.json'), '{');
    const read = readDeviceFolder(folder);
    expect(read.ok).toBe(false);
    expect(!read.ok && read.problems.map((p) => p.place).join()).toContain('recipe.json');
  });
});
