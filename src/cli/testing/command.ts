import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runCli } from '../program';

/**
 * The command line tool in this process, as if run from another folder, which goes when the tests of the file end. The launcher
 * around it is tested with `launcherIn`; each of its runs costs seconds.
 */
export function commandIn(prefix: string) {
  const folder = mkdtempSync(join(tmpdir(), prefix));
  const checkout = process.cwd();
  afterAll(() => rmSync(folder, { recursive: true }));
  return {
    folder,
    async mavrek(...args: string[]) {
      let [status, stdout, stderr] = [0, '', ''];
      const home = process.env.MAVREK_HOME;
      process.env.MAVREK_HOME = checkout;
      process.chdir(folder);
      try {
        await runCli(args, {
          out: (text) => {
            stdout += text;
          },
          err: (text) => {
            stderr += text;
          },
          exit: (code) => {
            status = code;
          },
        });
      } finally {
        process.chdir(checkout);
        if (home === undefined) delete process.env.MAVREK_HOME;
        else process.env.MAVREK_HOME = home;
      }
      return { status, stdout, stderr };
    },
    /** Writes a file there; its name, as an argument. */
    file(name: string, text: string): string {
      writeFileSync(join(folder, name), text);
      return name;
    },
  };
}
