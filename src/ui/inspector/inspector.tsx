'use client';

import { later } from '../parts/later';
import { useWorkspace } from '../workspace/context';
import { FindingInspector } from './finding-inspector';
import { NetInspector } from './net-inspector';
import { PadInspector } from './pad-inspector';
import { PlanInspector } from './plan-inspector';
import { FieldOwner } from './text-field';

// Seldom in sight, so loaded when they are.
const SeveralInspector = later('The choice of several nets', () =>
  import('./several-inspector').then((one) => one.SeveralInspector),
);
const PlacerInspector = later("The placer's answer", () =>
  import('../placer/placer-inspector').then((one) => one.PlacerInspector),
);

/** What is selected, in full. */
export function Inspector() {
  const { planId, selectedNet, selectedFinding, selection, derived, placer, marked } = useWorkspace();
  const owner = `${planId} ${marked.length > 1 ? marked.map((net) => net.id).join('+') : (selection?.id ?? '')}`;
  return (
    <FieldOwner value={owner}>
      <section aria-label="Inspector" className="h-full overflow-auto bg-sheet px-3.5 py-2.5">
        {marked.length > 1 ? (
          <SeveralInspector nets={marked} />
        ) : selectedNet ? (
          <NetInspector key={selectedNet.id} net={selectedNet} />
        ) : selectedFinding ? (
          <FindingInspector finding={selectedFinding} />
        ) : selection?.kind === 'pad' && derived.device.pads.has(selection.id) ? (
          <PadInspector key={selection.id} padId={selection.id} />
        ) : placer.phase !== 'away' ? (
          <PlacerInspector />
        ) : (
          <PlanInspector />
        )}
      </section>
    </FieldOwner>
  );
}
