import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { prefixOf } from '@/core/derive/resolve/resolve';
import type { Device } from '@/core/device/device';
import { cTarget } from '@/core/output/code/c/target';
import { generateFiles } from '@/core/output/generate';
import type { Plan } from '@/core/plan/model/types';
import { corvane, deriveOn } from './frost-guard';
import { machineMacros, secondMachine } from './second-machine';

export const STRICT = ['-std=c11', '-Wall', '-Wextra', '-Wconversion', '-pedantic', '-Werror'];

const folders: string[] = [];

/** Writes files into a folder of their own; {@link removeFolders} takes them all away. */
export function writeFolder(files: readonly { path: string; text: string }[]): string {
  const folder = mkdtempSync(join(tmpdir(), 'mavrek-c-'));
  folders.push(folder);
  for (const { path, text } of files) writeFileSync(join(folder, path), text);
  return folder;
}

export function removeFolders(): void {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true });
}

/** What a compiler says of a file with all warnings as errors; empty when it takes it. */
export function compile(compiler: string, folder: string, file: string): string {
  const result = spawnSync(compiler, [...STRICT, '-c', file, '-o', `${file}.o`], {
    cwd: folder,
    encoding: 'utf8',
  });
  return result.status === 0 ? '' : `${result.stderr}${result.error ?? ''}`;
}

export interface Ran {
  /** What registers hold after initialisation, by name. */
  registers: Map<string, number>;
  /** What the statements added have printed. */
  lines: string[];
  /** Accesses that the machine did not take during initialisation. */
  lost: number;
  done: boolean;
}

/**
 * Compiles the generated code with the second machine and runs it, from reset or from a state by chance; then what `extra`
 * says, in which `look(i)` gives the value of row `i` and `row("PA.OUT")` its number.
 */
export function runGenerated(
  plan: Plan,
  { extra = '', device = corvane(), chance }: { extra?: string; device?: Device; chance?: number } = {},
): Ran {
  const prefix = prefixOf(plan);
  const { text, rows } = secondMachine(device.description);
  const main = `
${text}${machineMacros(prefix.toUpperCase())}
#include "${prefix}.c"
int main(void) {
  start(${chance ?? 0}, ${chance === undefined ? 0 : 1});
  ${prefix}_init();
  printf("done %d lost %ld\\n", ${prefix}_init_done(), lost + refused + late);
  for (int i = 0; i < N; i++) printf("reg %d %u\\n", i, (unsigned)look(i));
  lost = refused = 0;
  ${extra.replace(/row\("([^"]+)"\)/g, (_, name) => String(rows.findIndex((row) => row.name === name)))}
  if (lost + refused > 0) printf("accesses lost\\n");
  return 0;
}`;
  const folder = writeFolder([
    ...generateFiles(cTarget, deriveOn(plan, device)),
    { path: 'main.c', text: main },
  ]);
  execFileSync('gcc', ['-std=c11', 'main.c', '-o', 'main'], { cwd: folder });
  const output = execFileSync('./main', { cwd: folder, encoding: 'utf8' }).trim().split('\n');
  const registers = new Map<string, number>();
  for (const line of output) {
    const [, index, value] = /^reg (\d+) (\d+)$/.exec(line) ?? [];
    const name = rows[Number(index)]?.name;
    if (name && value !== undefined) registers.set(name, Number(value));
  }
  const [, done, lost] = /^done (\d) lost (\d+)$/.exec(output[0] ?? '') ?? [];
  return {
    registers,
    lines: output.filter((line) => !/^(reg|done) /.test(line)),
    lost: Number(lost),
    done: done === '1',
  };
}
