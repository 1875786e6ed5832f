'use client';

import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import { whyNotAsleep } from '@/core/derive/routines/routines';
import { setSetting } from '@/core/plan/edits/make-edits';
import { CIRCUIT_SETTINGS } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { Row } from './section';

const WORDS: Record<(typeof CIRCUIT_SETTINGS)['sleep']['values'][number], string> = {
  keep: 'stays as it is',
  release: 'input, no pull',
  analog: 'analog, off',
  inactive: 'output, inactive',
  asserted: 'output, asserted',
};

/** What a net's pad is while the chip sleeps: code for it is there as soon as one net is something else than it was. */
export function SleepChoice({ resolved }: { resolved: ResolvedNet }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { net } = resolved;
  const lack = whyNotAsleep(derived.device, resolved);
  return (
    <Row label="asleep">
      <select
        aria-label="In low power"
        className="w-full py-0"
        value={net.settings.sleep ?? 'keep'}
        onChange={({ target }) =>
          dispatch(setSetting(net, 'sleep', target.value === 'keep' ? null : target.value))
        }
      >
        {CIRCUIT_SETTINGS.sleep.values.map((one) => (
          <option key={one} value={one}>
            {WORDS[one]}
          </option>
        ))}
      </select>
      {lack !== undefined && <p className="text-[12px] text-warn">It is released instead: {lack}.</p>}
    </Row>
  );
}
