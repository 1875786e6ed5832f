import type { Rule } from '../types';

/** Reported by the engine, which alone knows all findings: see `applyWaivers`. */
export const staleWaiver: Rule = {
  meta: {
    id: 'stale-waiver',
    severity: 'warning',
    title: 'Waiver of nothing',
    means:
      'A waiver matches no finding any more: what it excused is gone, or was changed into something it does not cover.',
    fix: 'Take the waiver back, so that it does not hide something else later.',
  },
  per: 'plan',
  check: () => [],
};
