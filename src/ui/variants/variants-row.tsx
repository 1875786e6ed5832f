'use client';

import Link from 'next/link';
import { useEffect, useState } from 'react';
import { isAgreed } from '@/core/variants/print';
import type { FoundVariants } from '@/core/variants/variants';
import { api } from '../client/api';
import { Row } from '../inspector/section';
import { useActions, useSession } from '../workspace/context';

/** Whether the variants of the open plan agree with it; nothing where it has none. */
export function VariantsRow() {
  const { planId, at } = useActions();
  const { seq, pending } = useSession();
  const [found, setFound] = useState<FoundVariants | null>(null);
  const [has, setHas] = useState(true);
  const settled = pending.length === 0;
  // Asked again when edits are stored; of a plan without variants once.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the number stands for the edits
  useEffect(() => {
    if (!settled || !has || at !== undefined) return;
    let current = true;
    const soon = setTimeout(() => {
      void api.variants(planId).then((answer) => {
        if (!current || !answer.ok) return;
        setFound(answer.value.found);
        setHas(answer.value.found !== null);
      });
    }, 400);
    return () => {
      current = false;
      clearTimeout(soon);
    };
  }, [planId, seq, settled, has, at]);
  if (!found) return null;
  const { report } = found;
  const open = report.lacks.length + report.differences.length;
  return (
    <Row label="variants">
      <span className={isAgreed(report) ? '' : 'text-warn'}>
        {isAgreed(report)
          ? `${report.variants.length} agree`
          : `△ ${open} ${open === 1 ? 'thing differs' : 'things differ'}`}
      </span>{' '}
      <Link className="link" href={`/plans/${planId}/variants`}>
        compare and take over
      </Link>
    </Row>
  );
}
