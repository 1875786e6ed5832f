import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import type { Result } from '@/core/base/result';
import { type DraftReading, type PartDraft, readDraft } from '@/core/import/compose/draft';
import { type DraftReader, startDraftReader } from '../client/draft-worker';

/** Rows that are read on the page itself: below that it takes less time than anybody notices. */
const FEW = 1_500;

const rowsOf = (draft: PartDraft): number =>
  (draft.pinout?.grid.rows.length ?? 0) + (draft.functions?.grid.rows.length ?? 0);

interface Read {
  draft: PartDraft;
  whole: boolean;
  reading: DraftReading;
}

export interface DraftReadingState {
  reading: DraftReading;
  /** The reading is that of the draft as it is. */
  current: boolean;
  /** The description as it is stored. */
  print(): Promise<Result<string>>;
}

/**
 * What comes of a draft, a moment after it was changed; long tables are read in a worker. `whole` where functions and description
 * are needed, `atOnce` where fields are typed whose own text comes from the reading.
 */
export function useDraftReading(
  draft: PartDraft,
  start: PartDraft,
  { whole, atOnce }: { whole: boolean; atOnce: boolean },
): DraftReadingState {
  const deferred = useDeferredValue(draft);
  const shown = atOnce ? draft : deferred;
  const small = rowsOf(shown) <= FEW;
  const here = useMemo(() => (small ? readDraft(shown) : null), [small, shown]);
  const [remote, setRemote] = useState<Read | null>(null);
  const worker = useRef<DraftReader | null>(null);
  const empty = useMemo(() => readDraft(start), [start]);

  useEffect(() => () => worker.current?.close(), []);
  useEffect(() => {
    if (small) return;
    let current = true;
    worker.current ??= startDraftReader();
    void worker.current.read(shown, whole).then((reading) => {
      if (current && reading) setRemote({ draft: shown, whole, reading });
    });
    return () => {
      current = false;
    };
  }, [small, shown, whole]);

  return {
    reading: here ?? remote?.reading ?? empty,
    current: here ? shown === draft : remote?.draft === draft && (remote.whole || !whole),
    print() {
      worker.current ??= startDraftReader();
      return worker.current.print(draft);
    },
  };
}
