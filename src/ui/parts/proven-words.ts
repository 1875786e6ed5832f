import type { Derived } from '@/core/derive/derive';

/** "50 of 50 pins are proven from every state, and 60 of 60 accessors": exactly what was shown. */
export function provenWords({ proof, accessors }: Pick<Derived, 'proof' | 'accessors'>): string {
  const total = accessors.list.length;
  const shown = accessors.list.filter((one) => one.fault === undefined).length;
  const from = proof.start === 'reset' ? 'reset' : 'every state';
  if (proof.pins === 0) return 'nothing to prove yet';
  const pins = `${proof.proven} of ${proof.pins} pins are proven from ${from}`;
  return total === 0 ? pins : `${pins}, and ${shown} of ${total} accessors`;
}
