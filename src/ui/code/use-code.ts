'use client';

import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react';
import type { GeneratedFile } from '@/core/output/code/types';
import type { ExportRecord } from '@/core/output/exports';
import { generateFiles, whyNoCode } from '@/core/output/generate';
import { TARGETS } from '@/core/output/targets';
import { api } from '../client/api';
import { useMay } from '../people/me';
import { useActions, useDerived } from '../workspace/context';

const KEPT = 'mavrek:target';

/** The language that was looked at last. */
const keptTarget = (): string =>
  TARGETS.find((one) => one.id === localStorage.getItem(KEPT))?.id ?? TARGETS[0]?.id ?? 'c';

/** The generated files of the plan as it is now, and those last taken away. Generating trails behind typing. */
export function useCode() {
  const { derived } = useDerived();
  const { planId, at } = useActions();
  const mayEdit = useMay('edit');
  const [targetId, chooseTarget] = useState(() => keptTarget());
  const setTargetId = useCallback((id: string) => {
    localStorage.setItem(KEPT, id);
    chooseTarget(id);
  }, []);
  const [last, setLast] = useState<ExportRecord | null>(null);
  const target = TARGETS.find((one) => one.id === targetId) ?? TARGETS[0];
  const settled = useDeferredValue(derived);
  const files = useMemo(
    (): GeneratedFile[] =>
      target && whyNoCode(target, settled) === undefined ? generateFiles(target, settled) : [],
    [settled, target],
  );
  const lack = useMemo(() => target && whyNoCode(target, settled), [settled, target]);

  useEffect(() => {
    let current = true;
    void api.lastExport(planId, targetId).then((answer) => {
      if (current && answer.ok) setLast(answer.value.last);
    });
    return () => {
      current = false;
    };
  }, [planId, targetId]);

  /** Remembers what was taken away, so that later changes can be shown against it. */
  const record = useCallback(
    async (seq: number): Promise<string | null> => {
      // What was taken away of a moment long past is no export of the plan as it is; what somebody only looks at, nobody's.
      if (at !== undefined || !mayEdit) return null;
      const answer = await api.recordExport(planId, seq, targetId);
      if (!answer.ok) return answer.problems[0]?.message ?? 'the export could not be recorded';
      setLast(answer.value.last);
      return null;
    },
    [planId, at, targetId, mayEdit],
  );
  return { target, targetId, setTargetId, files, lack, last, record };
}
