import type { Derived } from '@/core/derive/derive';

/** "50 of 50 pins are proven from every state, and 60 of 60 accessors": exactly what was shown. */
export function provenWords({
  proof,
  accessors,
  device,
}: Pick<Derived, 'proof' | 'accessors' | 'device'>): string {
  const open = device.description.unconfirmed?.length ?? 0;
  const unless =
    open > 0 ? `, if ${open} statements about the registers that nobody has confirmed are right` : '';
  const total = accessors.list.length;
  const shown = accessors.list.filter((one) => one.fault === undefined).length;
  const from = proof.start === 'reset' ? 'reset' : 'every state';
  if (proof.pins === 0) return 'nothing to prove yet';
  const pins = `${proof.proven} of ${proof.pins} pins are proven from ${from}`;
  return (total === 0 ? pins : `${pins}, and ${shown} of ${total} accessors`) + unless;
}
