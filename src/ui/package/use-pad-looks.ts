'use client';

import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import type { Finding } from '@/core/derive/rules/types';
import { circuitColour } from '../parts/circuit-colour';
import { useDerived, usePlacing, useSearch, useSelection } from '../workspace/context';
import { usePadChoice } from './use-pad-choice';

/** What a pad shows, in whatever form the package is drawn. */
export interface PadLook {
  nets: readonly ResolvedNet[];
  colour: string;
  finding?: Finding;
  selected: boolean;
  /** Rank among the candidates of the net that is being placed. */
  rank?: number;
  /** A preview puts a net here. */
  fresh?: 'new' | 'moved';
  /** A net is being placed and this pad cannot take it. */
  back: boolean;
  onSelect: (pad: string) => void;
  onDropNet: (netId: string, pad: string) => void;
}

export const FRESH_SIGN = { new: '+', moved: '→' } as const;
export const FRESH_WORDS = { new: 'new here', moved: 'moved here' } as const;

const NO_NETS: never[] = [];

export function usePadLooks(): { lookOf(id: string): PadLook; onSelect: PadLook['onSelect'] } {
  const { derived, worst } = useDerived();
  const { selectedPad } = useSelection();
  const { placing } = useSearch();
  const { fresh } = usePlacing();
  const { ranks, open, onSelect, onDropNet } = usePadChoice();
  const lookOf = (id: string): PadLook => {
    const nets = derived.byPad.get(id) ?? NO_NETS;
    const first = nets[0];
    return {
      nets,
      colour: first ? circuitColour(derived.plan, first.net.circuit) : 'transparent',
      finding: first ? worst.pads.get(id) : undefined,
      selected: selectedPad === id,
      rank: ranks.get(id),
      fresh: first && fresh.get(first.net.id),
      back: placing !== null && !ranks.has(id) && !open.has(id),
      onSelect,
      onDropNet,
    };
  };
  return { lookOf, onSelect };
}
