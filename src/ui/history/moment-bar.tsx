'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { api } from '../client/api';
import { May } from '../people/me';
import { useActions, useSession } from '../workspace/context';
import { bringBack } from './bring-back';

/** Above a plan that is looked at as it was once: what moment that is, and what can be done with it. */
export function MomentBar({ moment }: { moment: string }) {
  const { planId, at } = useActions();
  const { plan } = useSession();
  const router = useRouter();
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);

  async function back() {
    setBusy(true);
    const fault = await bringBack(planId, plan, moment);
    setBusy(false);
    if (fault === null) router.push(`/plans/${planId}`);
    else setSaid(fault);
  }
  async function branch() {
    setBusy(true);
    const answer = await api.branch(planId, at ?? 0);
    setBusy(false);
    if (answer.ok) router.push(`/plans/${answer.value.id}`);
    else setSaid(answer.problems[0]?.message ?? 'the plan could not be branched');
  }

  return (
    <section
      aria-label="A moment of the plan"
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-ink bg-pickbg px-4 py-1.5"
    >
      <span className="mr-auto">
        <b className="font-semibold">As it was:</b> {moment}. Nothing can be changed here.
      </span>
      {said && (
        <span role="alert" className="text-err">
          {said}
        </span>
      )}
      <May right="edit">
        <button type="button" className="button" disabled={busy} onClick={() => void back()}>
          Bring this back
        </button>
        <button type="button" className="button" disabled={busy} onClick={() => void branch()}>
          Branch into a new plan
        </button>
      </May>
      <Link className="link" href={`/plans/${planId}/compare?from=${planId}@${at}&to=${planId}`}>
        Compare with now
      </Link>
      <Link className="link" href={`/plans/${planId}/history`}>
        History
      </Link>
      <Link className="link" href={`/plans/${planId}`}>
        Back to now
      </Link>
    </section>
  );
}
