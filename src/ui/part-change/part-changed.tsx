'use client';

import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { compareParts, type PartComparison } from '@/core/plan/compare-parts';
import type { Device } from '@/core/recipe/device';
import { hexText } from '@/core/recipe/register-text';
import { openPart } from '../client/parts';
import { useWorkspace } from '../workspace/context';

/**
 * The part's description is no longer the one that the plan was made against. The plan stays on its own until somebody takes
 * today's over; what that would change is shown before.
 */
export function PartChanged() {
  const { derived, today, dispatch } = useWorkspace();
  const { plan, device } = derived;
  const [shown, setShown] = useState<{ device: Device; comparison: PartComparison } | null>(null);
  const [problem, setProblem] = useState('');
  const name = device.description.name;
  if (plan.deviceFingerprint === today || plan.deviceFingerprint === '') return null;
  const recorded = device.fingerprint === plan.deviceFingerprint;
  // The recorded description was never on this server: today's is in use already.
  const unknown = !recorded && device.fingerprint === today;
  if (!recorded && !unknown) return null;

  async function show() {
    const part = await openPart(plan.device, today);
    if (part.ok) setShown({ device: part.device, comparison: compareParts(plan, device, part.device) });
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
      <Dialog.Root open={shown !== null} onOpenChange={(open) => !open && setShown(null)}>
        <Dialog.Portal>
          <Dialog.Overlay className="dialog-shade" />
          <Dialog.Content className="dialog !w-[min(760px,calc(100vw-32px))]" aria-describedby={undefined}>
            <Dialog.Title className="mb-2 text-lg font-semibold">
              {name}, as it is described today
            </Dialog.Title>
            {shown && <Comparison comparison={shown.comparison} />}
            <div className="mt-4 flex justify-end gap-2">
              <Dialog.Close className="button">Leave it</Dialog.Close>
              <button
                type="button"
                className="button button-strong"
                disabled={shown?.comparison.problem !== undefined}
                onClick={takeOver}
              >
                Take it over
              </button>
            </div>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </div>
  );
}

const hex = (value: number | undefined, bits: number): string =>
  value === undefined ? 'not touched' : hexText(value, bits);

function Comparison({ comparison }: { comparison: PartComparison }) {
  const { data, findings, nets, registers, problem } = comparison;
  const plain = (text: string): string => text.replaceAll('`', '');
  return (
    <div className="grid gap-3">
      {problem !== undefined && <p className="text-err">The plan does not work on it: {problem}.</p>}
      <Part title="In the description" empty="Nothing differs but order.">
        {data.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </Part>
      <Part title="For the nets" empty="No net changes.">
        {nets.map(({ net, what }) => (
          <li key={net.id}>
            <b className="font-medium">{net.name}</b> <span className="text-soft">{what.join('; ')}</span>
          </li>
        ))}
      </Part>
      <Part title="In the findings" empty="No finding comes or goes.">
        {findings.fresh.map((one) => (
          <li key={one.id}>
            <span className={one.severity === 'error' ? 'text-err' : 'text-warn'}>new {one.severity}</span>{' '}
            {plain(one.message)}
          </li>
        ))}
        {findings.gone.map((one) => (
          <li key={one.id}>
            <span className="text-soft">gone</span> {plain(one.message)}
          </li>
        ))}
      </Part>
      <Part title="In the registers" empty="No planned value changes.">
        {registers.map(({ name, bits, before, after }) => (
          <li key={name} className="m">
            {name} {hex(before, bits)} → {hex(after, bits)}
          </li>
        ))}
      </Part>
    </div>
  );
}

function Part({
  title,
  empty,
  children,
}: {
  title: string;
  empty: string;
  children: React.ReactNode[] | React.ReactNode;
}) {
  const items = (Array.isArray(children) ? children : [children]).flat();
  return (
    <section>
      <h3 className="font-semibold">{title}</h3>
      {items.length === 0 ? (
        <p className="text-soft">{empty}</p>
      ) : (
        <ul className="max-h-44 overflow-auto">{items}</ul>
      )}
    </section>
  );
}
