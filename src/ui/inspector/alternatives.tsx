'use client';

import { useDeferredValue, useMemo } from 'react';
import { candidatesFor } from '@/core/derive/candidates/candidates';
import type { Net } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { takePad } from '../workspace/place';
import { Row } from './section';

const SHOWN = 5;

/** Where else a placed net could be, at a glance; a click moves it there. */
export function Alternatives({ net: asked }: { net: Net }) {
  const { derived: now } = useDerived();
  // What else could be is not what an edit is waited for.
  const derived = useDeferredValue(now);
  const net = useDeferredValue(asked);
  const { dispatch } = useActions();
  const others = useMemo(
    () =>
      candidatesFor(derived.occupancy, net)
        .filter(
          (one) => one.pad !== net.placement?.pad && one.takenBy.every((other) => !other.placement?.locked),
        )
        .slice(0, SHOWN),
    [derived, net],
  );
  if (!net.placement || net.placement.locked || others.length === 0) return null;
  return (
    <Row label="could be on">
      <span className="flex flex-wrap gap-1">
        {others.map((one) => (
          <button
            key={one.pad}
            type="button"
            className={`button m min-h-6 px-1 ${one.takenBy.length > 0 ? 'border-dashed text-soft' : ''}`}
            title={[one.fn?.signal, ...one.reasons.slice(0, 3)].filter(Boolean).join(', ')}
            aria-label={`move ${net.name} to ${one.pad}`}
            onClick={() => takePad(derived, net, one, dispatch)}
          >
            {one.pad}
          </button>
        ))}
      </span>
    </Row>
  );
}
