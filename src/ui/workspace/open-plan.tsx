'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import type { Plan } from '@/core/plan/types';
import { compileDevice, type Device } from '@/core/recipe/device';
import { formatProblems } from '@/core/result';
import { api } from '../client/api';
import { connectPlan } from '../client/connect';
import type { PlanSession } from '../client/plan-session';

// The workspace reads the browser's storage for its layout, so it is drawn in the browser only.
const Workspace = dynamic(() => import('./workspace').then((module) => module.Workspace), {
  ssr: false,
  loading: () => <Opening />,
});

interface Props {
  id: string;
  plan: Plan;
  seq: number;
  /** Whether the plan's part is installed on this server. */
  known: boolean;
}

/** Brings a plan, its part and a session together; says what is missing when that fails. */
export function OpenPlan({ id, plan, seq, known }: Props) {
  const [session, setSession] = useState<PlanSession | null>(null);
  const [device, setDevice] = useState<Device | null>(null);
  const [failure, setFailure] = useState<string | null>(
    known
      ? null
      : `The part "${plan.device}" is not installed here. The plan is safe; export it or install the part.`,
  );

  // The plan the page came with only starts the session; afterwards the session is the truth.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above
  useEffect(() => {
    const connection = connectPlan(id, { plan, seq });
    setSession(connection.session);
    return () => connection.close();
  }, [id]);

  useEffect(() => {
    if (!known) return;
    let current = true;
    void api.device(plan.device).then((answer) => {
      if (!current) return;
      const compiled = answer.ok ? compileDevice(answer.value) : answer;
      if (compiled.ok) setDevice(compiled.value);
      else setFailure(`The part could not be read. ${formatProblems(compiled.problems)}`);
    });
    return () => {
      current = false;
    };
  }, [plan.device, known]);

  if (failure !== null) {
    return (
      <main className="mx-auto max-w-xl p-16">
        <h1 className="text-2xl font-semibold">{plan.name}</h1>
        <p role="alert" className="mt-2 text-err">
          {failure}
        </p>
        <p className="mt-4 flex gap-4">
          <a className="link" href={`/api/plans/${id}/file`}>
            Export the plan
          </a>
          <Link className="link" href="/">
            All plans
          </Link>
        </p>
      </main>
    );
  }
  if (!session || !device) return <Opening />;
  return <Workspace id={id} session={session} device={device} />;
}

function Opening() {
  return (
    <main className="p-16 text-soft" aria-busy="true">
      Opening the plan …
    </main>
  );
}
