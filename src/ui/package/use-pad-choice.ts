'use client';

import { useCallback, useMemo, useRef } from 'react';
import { candidatesFor } from '@/core/derive/candidates/candidates';
import type { Edit } from '@/core/plan/edits/edits';
import { useActions, useDerived, useSearch } from '../workspace/context';
import { dropStep, takePad } from '../workspace/place';

/** As many as there are digits to take them with. */
const RANKED = 9;

/** What choosing a pad means: placing the net that looks for one, or else selecting what sits there. */
export function usePadChoice() {
  const { derived } = useDerived();
  const { placing } = useSearch();
  const { select, dispatch, session } = useActions();
  // Plain inputs and outputs could go almost anywhere; only the best step forward, the other free pads keep their place.
  const ranks = useMemo(
    () => new Map(placing?.candidates.slice(0, RANKED).map((candidate, index) => [candidate.pad, index + 1])),
    [placing],
  );
  const open = useMemo(
    () => new Set(placing?.candidates.filter((one) => one.takenBy.length === 0).map((one) => one.pad)),
    [placing],
  );

  // Rows are memoised; they reach the newest state through this box instead of through new callbacks.
  const now = useRef({ derived, placing, dispatch, select, session });
  now.current = { derived, placing, dispatch, select, session };
  const onSelect = useCallback((pad: string) => {
    const { placing: looking, derived: current, dispatch: send, select: choose } = now.current;
    const at = looking?.candidates.findIndex((one) => one.pad === pad) ?? -1;
    const candidate = looking?.candidates[at];
    // A net is only pushed aside when the offer to do so is in sight.
    if (looking && candidate && (at < RANKED || candidate.takenBy.length === 0)) {
      takePad(current, looking.net, candidate, send);
      choose({ kind: 'net', id: looking.net.id });
      return;
    }
    const nets = current.byPad.get(pad);
    const only = nets?.length === 1 ? nets[0] : undefined;
    choose(only ? { kind: 'net', id: only.net.id } : { kind: 'pad', id: pad });
  }, []);
  const onDropNet = useCallback((netId: string, pad: string) => {
    const { derived: current, dispatch: send, select: choose } = now.current;
    const net = current.byNet.get(netId)?.net;
    if (!net || net.placement?.pad === pad) return;
    // On a taken pad that could carry it, the nets there make room if they can; anything else becomes a finding.
    const candidate = current.byPad.has(pad)
      ? candidatesFor(current.occupancy, net).find((one) => one.pad === pad)
      : undefined;
    // Nothing announced what else would move, so it is said now.
    const sendAndSay = (edit: Edit): boolean => {
      const done = send(edit);
      if (done && edit.kind === 'batch')
        now.current.session.notify(`Made room: ${edit.label}. Ctrl Z takes it back.`);
      return done;
    };
    if (candidate) takePad(current, net, candidate, sendAndSay);
    else send(dropStep(current.occupancy, net, pad));
    choose({ kind: 'net', id: net.id });
  }, []);
  return { ranks, open, onSelect, onDropNet };
}
