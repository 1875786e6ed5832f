import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Problem } from '@/core/base/problems';
import { fail, ok, type Result } from '@/core/base/result';
import type { GeneratedFile } from '@/core/output/code/types';
import { isUntouched } from '@/core/output/generate';

/**
 * Writes generated files: all of them or none. A file that is there and was changed by hand, or was never generated,
 * stays unless `overwrite` says otherwise.
 */
export function writeFiles(
  folder: string,
  files: readonly GeneratedFile[],
  whenEdited: 'refuse' | 'overwrite',
): Result<string[]> {
  const problems: Problem[] = [];
  for (const { path, text } of files) {
    const target = join(folder, path);
    if (whenEdited === 'overwrite' || !existsSync(target)) continue;
    const there = readFileSync(target, 'utf8');
    if (there !== text && !isUntouched(there)) {
      problems.push({ place: target, message: 'was changed by hand; use --overwrite to replace it' });
    }
  }
  if (problems.length > 0) return fail(...problems);
  const written: { temporary: string; target: string }[] = [];
  try {
    mkdirSync(folder, { recursive: true });
    for (const { path, text } of files) {
      const target = join(folder, path);
      const temporary = `${target}.${process.pid}.part`;
      written.push({ temporary, target });
      writeFileSync(temporary, text);
    }
    for (const { temporary, target } of written) renameSync(temporary, target);
    return ok(written.map(({ target }) => target));
  } catch (error) {
    for (const { temporary } of written) rmSync(temporary, { force: true });
    const { code, path } = error as NodeJS.ErrnoException;
    if (code === undefined) throw error;
    return fail({ place: path ?? folder, message: `cannot be written (${code})` });
  }
}

/** Writes one file whole or not at all; says what stood in the way. */
export function writeWhole(file: string, text: string): Problem[] {
  const temporary = `${file}.${process.pid}.part`;
  try {
    writeFileSync(temporary, text);
    renameSync(temporary, file);
    return [];
  } catch (error) {
    rmSync(temporary, { force: true });
    const { code } = error as NodeJS.ErrnoException;
    if (code === undefined) throw error;
    return [{ place: file, message: `cannot be written (${code})` }];
  }
}
