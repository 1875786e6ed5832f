import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { createTwoFilesPatch } from 'diff';
import { sha256Hex } from '@/core/base/fingerprint';
import type { Problem } from '@/core/base/problems';
import { fail, ok, type Result } from '@/core/base/result';
import type { GeneratedFile } from '@/core/output/code/types';
import { isUntouched } from '@/core/output/generate';
import { writeFiles } from './write-files';

/** Beside the generated files: what was generated, by which a change by hand is known, and what is not generated any more. */
export const MANIFEST = 'mavrek-generated.json';
const FORMAT = 'mavrek-generated/1';

interface Manifest {
  format: string;
  targets: Record<string, { content: string; files: Record<string, string> }>;
}

export interface Updated {
  /** Paths of the files, in their order, whether they have changed or not. */
  files: string[];
  changed: string[];
  removed: string[];
  /** Files that are not generated any more, but were changed by hand: they stay. */
  kept: string[];
}

export interface Generated {
  target: string;
  /** Fingerprint of the plan's content. */
  content: string;
  files: readonly GeneratedFile[];
}

/**
 * Brings a folder to what is generated now: files that are not generated any more go, if nobody has changed them. A file that was
 * changed by hand is shown with its difference, and then nothing is written, unless `overwrite` says so.
 */
export function updateFolder(
  folder: string,
  { target, content, files }: Generated,
  { overwrite = false }: { overwrite?: boolean } = {},
): Result<Updated> {
  const manifest = readManifest(folder);
  if (!manifest.ok) return manifest;
  const known = manifest.value.targets[target]?.files ?? {};
  const problems: Problem[] = [];
  const changed: string[] = [];
  for (const { path, text } of files) {
    const there = contentOf(join(folder, path));
    if (there === text) continue;
    changed.push(path);
    if (there === undefined || overwrite || isOurs(there, known[path])) continue;
    const message = `was changed by hand; use --overwrite to replace it\n${differenceOf(path, text, there)}`;
    problems.push({ place: join(folder, path), message });
  }
  if (problems.length > 0) return fail(...problems);
  const gone = Object.keys(known).filter((path) => !files.some((one) => one.path === path));
  // A file that another target has, too, is its.
  const others = Object.entries(manifest.value.targets).flatMap(([id, one]) =>
    id === target ? [] : Object.keys(one.files),
  );
  const [removed, kept]: [string[], string[]] = [[], []];
  for (const path of gone) {
    const there = contentOf(join(folder, path));
    if (there === undefined || others.includes(path)) continue;
    if (isOurs(there, known[path])) removed.push(path);
    else kept.push(path);
  }
  const after: Manifest = {
    format: FORMAT,
    targets: {
      ...manifest.value.targets,
      [target]: { content, files: Object.fromEntries(files.map(({ path, text }) => [path, digest(text)])) },
    },
  };
  const text = `${JSON.stringify(after, null, 2)}\n`;
  const written = writeFiles(folder, [...files, { path: MANIFEST, text }], 'overwrite');
  if (!written.ok) return written;
  for (const path of removed) rmSync(join(folder, path), { force: true });
  return ok({ files: written.value.slice(0, -1), changed, removed, kept });
}

/** Line ends do not count, since repositories change them. */
const digest = (text: string): string => sha256Hex(text.replaceAll('\r\n', '\n'));

/** Whether a file is as it was generated, by the manifest or by the digest at its end. */
const isOurs = (text: string, known: string | undefined): boolean =>
  digest(text) === known || isUntouched(text);

const contentOf = (path: string): string | undefined => {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return undefined;
  }
};

const MOST_LINES = 40;

function differenceOf(path: string, generated: string, there: string): string {
  const lines = createTwoFilesPatch(`generated ${path}`, `there ${path}`, generated, there, '', '', {
    context: 1,
  })
    .split('\n')
    .slice(1);
  const rest = lines.length - MOST_LINES;
  return rest > 0
    ? [...lines.slice(0, MOST_LINES), `… and ${rest} more lines`].join('\n')
    : lines.join('\n').trimEnd();
}

function readManifest(folder: string): Result<Manifest> {
  const path = join(folder, MANIFEST);
  if (!existsSync(path)) return ok({ format: FORMAT, targets: {} });
  let read: unknown;
  try {
    read = JSON.parse(readFileSync(path, 'utf8'));
  } catch {
    read = undefined;
  }
  const found = read as Partial<Manifest> | undefined;
  const isWhole =
    found?.format === FORMAT &&
    typeof found.targets === 'object' &&
    found.targets !== null &&
    Object.values(found.targets).every(
      (one) =>
        typeof one?.content === 'string' &&
        typeof one.files === 'object' &&
        one.files !== null &&
        // Names of files in this folder only, since files may be removed by them.
        Object.entries(one.files).every(
          ([name, sum]) => /^[A-Za-z0-9][A-Za-z0-9_.-]*$/.test(name) && typeof sum === 'string',
        ),
    );
  if (!isWhole)
    return fail({
      place: path,
      message: 'is not what this program has written; remove it, and generate again',
    });
  return ok(found as Manifest);
}
