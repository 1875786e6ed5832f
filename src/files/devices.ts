import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import type { Problem } from '@/core/base/problems';
import { fail, failWith, type Result } from '@/core/base/result';
import { idInPartText, isPartText } from '@/core/description/part-text/recognise';
import type { DeviceDescription } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import type { Device } from '@/core/device/device';
import { locatedIn, parseDevice, readDeviceFiles } from '@/core/import/compose/device-files';

/** The folder with one sub-folder a part; the launcher sets MAVREK_HOME to the checkout. */
export const devicesFolder = (): string => join(process.env.MAVREK_HOME ?? process.cwd(), 'devices');

/** Runs `read`; a file that cannot be read becomes a problem instead of an exception. */
function reading<T>(place: string, read: () => Result<T>): Result<T> {
  try {
    return read();
  } catch (error) {
    if (error instanceof TwoRecipes)
      return fail({
        place,
        message: 'holds recipe.part and recipe.json, which say the same: remove one of them',
      });
    const code = (error as NodeJS.ErrnoException).code;
    if (code === undefined) throw error;
    const message = code === 'ENOENT' ? 'there is no such file' : `cannot be read (${code})`;
    return fail({ place, message });
  }
}

type TextFile = Parameters<typeof readDeviceFiles>[0];

/** What beside its tables describes a part: its text, or the same as JSON. */
function recipeName(folder: string): string {
  const [text, json] = ['recipe.part', 'recipe.json'].map((name) => existsSync(join(folder, name)));
  if (text && json) throw new TwoRecipes();
  return text || !json ? 'recipe.part' : 'recipe.json';
}

class TwoRecipes extends Error {}

/** The files of a part's folder; throws what the file system throws. */
function filesIn(folder: string): [TextFile, TextFile, TextFile] {
  // Named by folder and file only: the name is kept as the source of each datum and must not depend on the machine.
  const file = (name: string) => ({
    name: `${basename(folder)}/${name}`,
    text: readFileSync(join(folder, name), 'utf8'),
  });
  return [file('pinout.csv'), file('functions.csv'), file(recipeName(folder))];
}

/** What a part's folder describes, before it is checked as a whole. */
export const describeDeviceFolder = (folder: string): Result<DeviceDescription> =>
  reading(folder, () => readDeviceFiles(...filesIn(folder)));

/** Reads and checks one part's folder. */
export function readDeviceFolder(folder: string): Result<Device> {
  return reading(folder, () => {
    const files = filesIn(folder);
    return unlessSame(folder, files.map(({ text }) => text).join('\0'), () => {
      const description = readDeviceFiles(...files);
      const device = description.ok ? load(description.value, files[2], 'recipe') : description;
      return device.ok ? device : failWith(device.problems.map((problem) => placedIn(folder, problem)));
    });
  });
}

/** Where the file of a folder really lies: its name by itself is what sources of data say. */
const placedIn = (folder: string, problem: Problem): Problem => {
  const name = `${basename(folder)}/`;
  return problem.place.startsWith(name)
    ? { ...problem, place: join(folder, problem.place.slice(name.length)) }
    : problem;
};

/** Checks a description; what is wrong is named with its place in the file. */
function load(
  description: DeviceDescription,
  file: TextFile,
  kind: 'recipe' | 'description',
): Result<Device> {
  const device = loadDevice(description);
  return device.ok ? device : failWith(locatedIn(file, kind, description, device.problems));
}

const read = new Map<string, { text: string; device: Result<Device> }>();

/** What was read from a path last, while its text is the same: `watch` reads the part each time that the plan changes. */
function unlessSame(path: string, text: string, load: () => Result<Device>): Result<Device> {
  const last = read.get(resolve(path));
  if (last?.text === text) return last.device;
  const device = load();
  read.set(resolve(path), { text, device });
  return device;
}

/** A part out of a folder with its tables, or a description in one file. */
export function readDevicePath(path: string): Result<Device> {
  return reading(path, () => {
    if (statSync(path).isDirectory()) return readDeviceFolder(path);
    const text = readFileSync(path, 'utf8');
    return unlessSame(path, text, () => {
      const description = parseDevice(path, text);
      return description.ok ? load(description.value, { name: path, text }, 'description') : description;
    });
  });
}

/** The part with an id under a folder, or in it: the part's own folder, or a file, may be named too. Only that one is read as a whole. */
export function findDevice(folder: string, id: string): Result<Device> {
  return reading(`${folder}, the folder with the parts`, () => {
    const own = idAt(folder);
    if (own === id) return readDevicePath(folder);
    if (own !== undefined)
      return fail({ place: folder, message: `this is the part "${own}", and the plan is for "${id}"` });
    const known: string[] = [];
    for (const name of readdirSync(folder).sort()) {
      const path = join(folder, name);
      const own = idAt(path);
      if (own === id) return readDevicePath(path);
      if (own !== undefined) known.push(own);
    }
    return fail({
      place: folder,
      message: `there is no part "${id}" (known: ${known.join(', ') || 'none'})`,
    });
  });
}

/** Whose id a folder or file carries; undefined when it is no part. */
function idAt(path: string): string | undefined {
  try {
    const folder = statSync(path).isDirectory();
    if (!folder && !/\.(json|part)$/.test(path)) return undefined;
    const file = folder ? join(path, recipeName(path)) : path;
    const text = readFileSync(file, 'utf8');
    if (isPartText(file, text)) return idInPartText(text);
    const json = JSON.parse(text);
    const id: unknown = folder ? json?.device?.id : json?.format === 'mavrek-device/3' && json?.id;
    return typeof id === 'string' ? id : undefined;
  } catch {
    return undefined;
  }
}

/**
 * A part whose file has another text than the one on disk: what an editor is about to write. `recipe.part` is read with the tables
 * beside it, any other file as a whole description.
 */
export function checkPartText(path: string, text: string): Result<Device> {
  const folder = dirname(path);
  const isRecipe = basename(path).startsWith('recipe.') && existsSync(join(folder, 'pinout.csv'));
  return reading(path, () => {
    const file = { name: path, text };
    if (!isRecipe) {
      const description = parseDevice(path, text);
      return description.ok ? load(description.value, file, 'description') : description;
    }
    const [pinout, functions] = filesIn(folder);
    const description = readDeviceFiles(pinout, functions, file);
    return description.ok ? load(description.value, file, 'recipe') : description;
  });
}
