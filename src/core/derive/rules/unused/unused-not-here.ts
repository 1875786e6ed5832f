import { setEntry } from '../../../plan/edits/make-edits';
import { tableOf } from '../../../plan/model/types';
import { POLICY_TITLES } from '../../resolve/unused';
import type { Report, Rule } from '../types';
import { listNames } from '../words';

export const unusedNotHere: Rule = {
  meta: {
    id: 'unused-not-here',
    severity: 'warning',
    title: 'Unused pad cannot be what the policy says',
    means:
      'The policy for pads that nobody planned asks for something the pad does not have; it stays as at reset.',
    fix: 'Give the pad a policy of its own.',
  },
  per: 'plan',
  check({ plan, unused }) {
    const byWhy = new Map<string, { pads: string[]; policy: string }>();
    for (const { pad, policy, result } of unused) {
      if (!('lack' in result)) continue;
      const key = `${policy}\n${result.lack}`;
      const group = byWhy.get(key) ?? { pads: [], policy };
      group.pads.push(pad.id);
      byWhy.set(key, group);
    }
    return [...byWhy].map(
      ([key, { pads, policy }]): Report => ({
        message: `${listNames(pads.slice(0, 6))}${pads.length > 6 ? ` and ${pads.length - 6} more` : ''}, unused, cannot be ${POLICY_TITLES[policy as keyof typeof POLICY_TITLES]}: ${key.split('\n')[1]}.`,
        pads,
        nets: [],
        remedies: () => [
          {
            label: pads.length === 1 ? 'leave it as at reset' : 'leave them as at reset',
            edit: {
              kind: 'batch',
              label: 'leave unused pads as at reset',
              edits: pads
                .filter((pad) => tableOf(plan, 'unused')[pad] !== 'reset')
                .map((pad) => setEntry(plan, 'unused', pad, 'reset')),
            },
          },
        ],
      }),
    );
  },
};
