'use client';

import { POLICY_TITLES, policyOf, unusedPad } from '@/core/derive/resolve/unused';
import { setEntry } from '@/core/plan/edits/make-edits';
import { tableOf, UNUSED_POLICIES } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { Row } from './section';

/** What becomes of a pad that nobody planned; without a pad, of all of them. */
export function UnusedChoice({ pad }: { pad?: string }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan, device } = derived;
  const key = pad ?? '*';
  const own = tableOf(plan, 'unused')[key] ?? '';
  const known = pad === undefined ? undefined : device.pads.get(pad);
  const result = known && unusedPad(device, known, policyOf(plan, pad ?? ''));
  return (
    <Row label={pad === undefined ? 'unused pads' : 'unused'}>
      <select
        aria-label={pad === undefined ? 'Unused pads' : `Unused pad ${pad}`}
        className="w-full py-0"
        value={own}
        onChange={(event) =>
          dispatch(setEntry(plan, 'unused', key, event.target.value === '' ? null : event.target.value))
        }
      >
        <option value="">
          {pad === undefined ? POLICY_TITLES.reset : `as all: ${POLICY_TITLES[policyOf(plan, '*')]}`}
        </option>
        {UNUSED_POLICIES.filter((policy) => pad !== undefined || policy !== 'reset').map((policy) => (
          <option key={policy} value={policy}>
            {POLICY_TITLES[policy]}
          </option>
        ))}
      </select>
      {result && 'lack' in result && <span className="text-[12px] text-warn">{result.lack}</span>}
    </Row>
  );
}
