import { existsSync, type FSWatcher, watch } from 'node:fs';
import { basename, dirname, resolve } from 'node:path';

/** Editors write a file in several steps; what follows within this time is one change. */
const SETTLE_MS = 150;

/**
 * Calls `changed` once, and again after every change of the file, until the process is told to stop. The folder is watched, not the
 * file: editors put a new one in its place.
 */
export function watchFile(file: string, changed: () => void): Promise<void> {
  const path = resolve(file);
  changed();
  return new Promise((stop) => {
    let timer: NodeJS.Timeout | undefined;
    let watcher: FSWatcher | undefined;
    try {
      watcher = watch(dirname(path), (_event, name) => {
        if (name !== null && name !== basename(path)) return;
        clearTimeout(timer);
        timer = setTimeout(() => {
          if (existsSync(path)) changed();
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
