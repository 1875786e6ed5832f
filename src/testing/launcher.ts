import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

const LAUNCHER = resolve('mavrek');

/** The launcher, run as a user would from another folder, which goes when the tests of the file end. */
export function launcherIn(prefix: string) {
  const folder = mkdtempSync(join(tmpdir(), prefix));
  afterAll(() => rmSync(folder, { recursive: true }));
  return {
    folder,
    mavrek(...args: string[]) {
      const { status, stdout, stderr } = spawnSync(LAUNCHER, args, { cwd: folder, encoding: 'utf8' });
      return { status, stdout, stderr };
    },
    /** Writes a file there; its name, as an argument. */
    file(name: string, text: string): string {
      writeFileSync(join(folder, name), text);
      return name;
    },
  };
}
