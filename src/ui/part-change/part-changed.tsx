'use client';

import { useState } from 'react';
import type { Device } from '@/core/device/device';
import { openPart } from '../client/parts';
import { later } from '../parts/later';
import { useActions, useDerived } from '../workspace/context';

// Descriptions seldom change; what compares them is loaded when one has.
const PartComparisonDialog = later('The comparison', () =>
  import('./part-comparison').then((one) => one.PartComparisonDialog),
);

/**
 * The part's description is no longer the one that the plan was made against. The plan stays on its own until somebody takes
 * today's over; what that would change is shown before.
 */
export function PartChanged() {
  const { derived } = useDerived();
  const { today, dispatch } = useActions();
  const { plan, device } = derived;
  const [shown, setShown] = useState<Device | null>(null);
  const [problem, setProblem] = useState('');
  const name = device.description.name;
  if (plan.deviceFingerprint === today || plan.deviceFingerprint === '') return null;
  const recorded = device.fingerprint === plan.deviceFingerprint;
  // The recorded description was never on this server: today's is in use already.
  const unknown = !recorded && device.fingerprint === today;
  if (!recorded && !unknown) return null;

  async function show() {
    const part = await openPart(plan.device, today);
    if (part.ok) setShown(part.device);
    else setProblem(part.message);
  }

  function takeOver() {
    dispatch({ kind: 'plan.set', field: 'deviceFingerprint', from: plan.deviceFingerprint, to: today });
    setShown(null);
  }

  return (
    <div role="status" className="flex flex-wrap gap-x-4 border-b border-ink bg-pickbg px-4 py-1.5">
      <span className="mr-auto">
        {unknown
          ? `This plan was made against a description of the ${name} that is not here; today's is used.`
          : `The description of the ${name} has changed since this plan was made; the plan still uses its own.`}
        {problem !== '' && <span className="ml-2 text-err">{problem}</span>}
      </span>
      {unknown ? (
        <button type="button" className="link" onClick={takeOver}>
          Keep to today's
        </button>
      ) : (
        <button type="button" className="link" onClick={() => void show()}>
          See what that changes
        </button>
      )}
      {shown && (
        <PartComparisonDialog name={name} today={shown} onTake={takeOver} onClose={() => setShown(null)} />
      )}
    </div>
  );
}
