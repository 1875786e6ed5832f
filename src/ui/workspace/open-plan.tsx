'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useEffect, useState, useSyncExternalStore } from 'react';
import type { Plan } from '@/core/plan/model/types';
import { connectPlan } from '../client/connect';
import { usePart } from '../client/parts';
import { type PlanSession, pastSession } from '../client/plan-session';
import { useMay, useRoleWords } from '../people/me';

// The workspace reads the browser's storage for its layout, so it is drawn in the browser only.
const Workspace = dynamic(() => import('./workspace').then((module) => module.Workspace), {
  ssr: false,
  loading: () => <Opening />,
});

interface Props {
  id: string;
  plan: Plan;
  seq: number;
  /** Fingerprint of the part as it is today; null when the part is not here. */
  today: string | null;
  /** The plan is looked at as it was once: what that moment is called. */
  moment?: string;
}

/** Brings a plan, its part and a session together; says what is missing when that fails. */
export function OpenPlan({ id, plan, seq, today, moment }: Props) {
  const [session, setSession] = useState<PlanSession | null>(null);
  const role = useRoleWords();
  const refuses = useMay('edit')
    ? undefined
    : `${role}: an editor changes plans. An owner of the workspace can make you one.`;

  // The plan the page came with only starts the session; afterwards the session is the truth.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above
  useEffect(() => {
    if (moment !== undefined) {
      const why = `This is the plan as it was (${moment}); nothing is changed here. Bring it back, or branch it, to go on from it.`;
      setSession(pastSession(plan, seq, why));
      return;
    }
    const connection = connectPlan(id, { plan, seq }, refuses);
    setSession(connection.session);
    return () => connection.close();
  }, [id, moment, refuses]);

  if (today === null) {
    const message = `The part "${plan.device}" is not installed here. The plan is safe; export it or install the part.`;
    return <Failure id={id} plan={plan} message={message} />;
  }
  return session ? <WithPart id={id} session={session} today={today} moment={moment} /> : <Opening />;
}

/** The plan may change its part or package while it is open, here or elsewhere. */
function WithPart({
  id,
  session,
  today,
  moment,
}: {
  id: string;
  session: PlanSession;
  today: string;
  moment: string | undefined;
}) {
  const { plan } = useSyncExternalStore(session.subscribe, session.getState, session.getState);
  const part = usePart(plan.device, plan.deviceFingerprint);
  if (!part) return <Opening />;
  if (!part.ok)
    return <Failure id={id} plan={plan} message={`The part could not be read. ${part.message}`} />;
  const { device } = part;
  if (!device.packages.has(plan.package)) {
    const known = [...device.packages.keys()].join(', ');
    const message = `${device.description.name} has no package "${plan.package}"; it has ${known}.`;
    return <Failure id={id} plan={plan} message={message} />;
  }
  return <Workspace id={id} session={session} device={device} today={today} moment={moment} />;
}

function Failure({ id, plan, message }: { id: string; plan: Plan; message: string }) {
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="text-2xl font-semibold">{plan.name}</h1>
      <p role="alert" className="mt-2 text-err">
        {message}
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

function Opening() {
  return (
    <main className="p-16 text-soft" aria-busy="true">
      Opening the plan …
    </main>
  );
}
