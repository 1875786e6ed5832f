'use client';

import Link from 'next/link';
import { useEffect, useState } from 'react';
import { type SignOff as Signed, signatureText } from '@/core/review/review';
import { api } from '../client/api';
import { Row } from '../inspector/section';
import { useActions, useDerived } from '../workspace/context';

/** Whether a revision of the plan is signed, and whether that holds for what the plan is now. */
export function SignOff() {
  const { planId } = useActions();
  const { derived } = useDerived();
  const [signed, setSigned] = useState<({ revision: string } & Signed) | null>(null);
  useEffect(() => {
    let current = true;
    void api.signOff(planId).then((answer) => {
      if (current && answer.ok) setSigned(answer.value.signed);
    });
    return () => {
      current = false;
    };
  }, [planId]);
  if (!signed) return null;
  const { holds, text } = signatureText(signed.revision, signed, derived.fingerprint);
  return (
    <Row label="sign-off">
      <span className={holds ? '' : 'text-warn'}>
        {holds ? '✓ ' : '▲ '}
        {text}
      </span>{' '}
      <Link className="link" href={`/plans/${planId}/review`}>
        review
      </Link>
    </Row>
  );
}
