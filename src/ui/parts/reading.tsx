'use client';

import { type ReactNode, useRef, useState } from 'react';
import type { Result } from '@/core/base/result';
import type { Reading } from '../client/import-worker';

/** Waits for a file that is being read in a worker, while the page says so and offers to stop it. */
export type Watch = <Value>(name: string, reading: Reading<Value>) => Promise<Result<Value>>;

/** Most files are read before anybody could look; only one that takes longer is spoken of. */
const SILENT_MS = 300;

/**
 * `watch` for readers of files, and what to show while one is read: its name, and a button that stops it. Whoever goes on to
 * another step meanwhile still gets the file.
 */
export function useReading(): { watch: Watch; notice: ReactNode } {
  const [name, setName] = useState<string | null>(null);
  const running = useRef<Reading<unknown> | null>(null);
  const watch: Watch = async (title, reading) => {
    running.current?.cancel();
    running.current = reading;
    const timer = setTimeout(() => setName(title), SILENT_MS);
    const result = await reading.result;
    clearTimeout(timer);
    if (running.current === reading) {
      running.current = null;
      setName(null);
    }
    return result;
  };
  const notice =
    name === null ? null : (
      <p role="status" className="px-6 py-2">
        Reading {name} …{' '}
        <button type="button" className="button ml-2" onClick={() => running.current?.cancel()}>
          Stop
        </button>
      </p>
    );
  return { watch, notice };
}
