import { existsSync, type FSWatcher, watch } from 'node:fs';
import { basename, dirname, resolve } from 'node:path';

/** Editors write a file in several steps; what follows within this time is one change. */
const SETTLE_MS = 150;

/** Calls `changed` once, and again after every change of the file, until the process is told to stop. */
export const watchFile = (file: string, changed: () => void): Promise<void> => {
  const path = resolve(file);
  return watchFolder(dirname(path), (name) => name === basename(path) && existsSync(path), changed);
};

/**
 * The same of the files of a folder that are looked at. The folder is watched, not a file: editors put a new one in its place.
 */
export function watchFolder(
  folder: string,
  concerns: (name: string) => boolean,
  changed: () => void,
): Promise<void> {
  changed();
  return new Promise((stop) => {
    let timer: NodeJS.Timeout | undefined;
    let watcher: FSWatcher | undefined;
    try {
      const seen = new Set<string | null>();
      watcher = watch(folder, (_event, name) => {
        seen.add(name);
        clearTimeout(timer);
        timer = setTimeout(() => {
          const isConcerned = [...seen].some((each) => each === null || concerns(each));
          seen.clear();
          if (isConcerned) changed();
        }, SETTLE_MS);
      });
    } catch {
      stop();
      return;
    }
    const end = (): void => {
      clearTimeout(timer);
      watcher?.close();
      stop();
    };
    process.once('SIGINT', end);
    process.once('SIGTERM', end);
  });
}
