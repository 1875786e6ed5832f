import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import type { Finding } from '@/core/derive/rules/types';
import type { Pad } from '@/core/description/types';
import type { NetState } from '../parts/state-glyph';

/** The state of a pad, as its shape tells it. */
export function padState(pad: Pad, nets: readonly ResolvedNet[], finding: Finding | undefined): NetState {
  if (finding) return 'finding';
  const first = nets[0];
  if (first) return first.net.placement?.locked ? 'locked' : 'placed';
  return pad.kind === 'io' ? 'free' : 'fixed';
}

export const KIND_WORDS: Partial<Record<Pad['kind'], string>> = {
  supply: 'supply',
  ground: 'ground',
  reset: 'reset',
  clock: 'crystal',
  strap: 'boot strap',
  usb: 'USB',
  flash: 'flash memory',
  reference: 'reference',
  'no-bond': 'not bonded',
  'no-connect': 'not connected',
};
