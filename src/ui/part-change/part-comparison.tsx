'use client';

import { Dialog } from 'radix-ui';
import { useMemo } from 'react';
import { hexText } from '@/core/base/text/hex';
import type { Device } from '@/core/device/device';
import { compareParts, type PartComparison } from '@/core/part-change/compare-parts';
import { useDerived } from '../workspace/context';

interface Props {
  name: string;
  /** The part as it is described today. */
  today: Device;
  onTake: () => void;
  onClose: () => void;
}

/** What today's description of a part would change in the plan, before it is taken over. */
export function PartComparisonDialog({ name, today, onTake, onClose }: Props) {
  const { plan, device } = useDerived().derived;
  const comparison = useMemo(() => compareParts(plan, device, today), [plan, device, today]);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-shade" />
        <Dialog.Content className="dialog !w-[min(760px,calc(100vw-32px))]" aria-describedby={undefined}>
          <Dialog.Title className="mb-2 text-lg font-semibold">{name}, as it is described today</Dialog.Title>
          <Comparison comparison={comparison} />
          <div className="mt-4 flex justify-end gap-2">
            <Dialog.Close className="button">Leave it</Dialog.Close>
            <button
              type="button"
              className="button button-strong"
              disabled={comparison.problem !== undefined}
              onClick={onTake}
            >
              Take it over
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
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
