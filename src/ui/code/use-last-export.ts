import { useEffect, useState } from 'react';
import { api, type LastExport } from '../client/api';
import { useActions } from '../workspace/context';

/** The newest export of the plan, of whichever target; null until it is known, and where there is none. */
export function useLastExport(): LastExport | null {
  const { planId } = useActions();
  const [last, setLast] = useState<LastExport | null>(null);
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
