'use client';

import type { ReactNode } from 'react';
import type { PadReading } from '@/core/read-back/read-back';
import { useActions } from '../workspace/context';

/** A pad, what is planned there, and what its bits mean. */
export function ReadingLine({ reading, children }: { reading: PadReading; children?: ReactNode }) {
  const { select } = useActions();
  const { pad, net, meanings, state } = reading;
  return (
    <li className="flex flex-wrap items-baseline gap-x-2 py-px">
      <button
        type="button"
        className="m font-medium hover:underline"
        onClick={() => select(net ? { kind: 'net', id: net.id } : { kind: 'pad', id: pad })}
      >
        {pad}
      </button>
      <span>{net ? net.name : <span className="text-soft">no net</span>}</span>
      <span className={state === 'meaningless' ? 'text-err' : ''}>
        {state === 'meaningless'
          ? 'these bits are no setting of the pad'
          : meanings.length === 1
            ? meanings[0]?.text
            : `${meanings[0]?.text}, or ${meanings.length - 1} more`}
      </span>
      {children}
    </li>
  );
}
