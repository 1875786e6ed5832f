import { useEffect, useState } from 'react';
import type { ExportRecord } from '@/core/output/exports';
import { api } from '../client/api';
import { useActions } from '../workspace/context';

/** The newest export of the plan, of whichever target; null until it is known, and where there is none. */
export function useLastExport(): ExportRecord | null {
  const { planId } = useActions();
  const [last, setLast] = useState<ExportRecord | null>(null);
  useEffect(() => {
    let current = true;
    void api.newestExport(planId).then((answer) => {
      if (current && answer.ok) setLast(answer.value.last);
    });
    return () => {
      current = false;
    };
  }, [planId]);
  return last;
}
