'use client';

import { useEffect } from 'react';
import type { Finding } from '@/core/derive/rules/types';
import type { Net } from '@/core/plan/model/types';
import { type Subject, subjectOf } from '@/core/review/review';
import { later } from '../parts/later';
import { useActions, useDerived, usePlacing, useSelection, useView } from '../workspace/context';
import type { Selection } from '../workspace/selection';
import { PlanInspector } from './plan-inspector';
import { FieldOwner } from './text-field';

// A plan opens with what it is as a whole; what is said of a net, a pad, a finding is fetched as soon as it has opened.
/** What is below them may come first: its headings stand below one all the same. */
const HEADED = true;
const NetInspector = later(
  'What the net is',
  () => import('./net-inspector').then((one) => one.NetInspector),
  HEADED,
);
const PadInspector = later(
  'What the pad is',
  () => import('./pad-inspector').then((one) => one.PadInspector),
  HEADED,
);
const FindingInspector = later(
  'What the finding means',
  () => import('./finding-inspector').then((one) => one.FindingInspector),
  HEADED,
);
const SOON = [NetInspector, PadInspector, FindingInspector];
const BitsInspector = later(
  'What the bits are',
  () => import('../registers/bits-inspector').then((one) => one.BitsInspector),
  HEADED,
);
const BenchInspector = later(
  'What the bench says',
  () => import('../bench/bench-inspector').then((one) => one.BenchInspector),
  HEADED,
);
const Comments = later('What is said about it', () =>
  import('../review/comments').then((one) => one.Comments),
);
// Seldom in sight, so loaded when they are.
const SeveralInspector = later(
  'The choice of several nets',
  () => import('./several-inspector').then((one) => one.SeveralInspector),
  HEADED,
);
const PlacerInspector = later(
  "The placer's answer",
  () => import('../placer/placer-inspector').then((one) => one.PlacerInspector),
  HEADED,
);

/** What one would say something about: what is selected, else the plan. */
function subjectFor(
  net: Net | undefined,
  finding: Finding | undefined,
  selection: Selection,
): Subject | undefined {
  if (net) return { kind: 'net', net: net.id };
  if (finding) return subjectOf(finding);
  if (selection?.kind === 'pad') return { kind: 'pad', pad: selection.id };
  return selection ? undefined : { kind: 'plan' };
}

/** What is selected, in full. */
export function Inspector() {
  const { derived } = useDerived();
  const { selectedNet, selectedFinding, selection, marked } = useSelection();
  const { placer } = usePlacing();
  const { view } = useView();
  const { planId } = useActions();
  useEffect(() => {
    for (const one of SOON) one.preload();
  }, []);
  const about =
    marked.length > 1 || view === 'bench' || placer.phase !== 'away'
      ? undefined
      : subjectFor(selectedNet, selectedFinding, selection);
  const owner = `${planId} ${marked.length > 1 ? marked.map((net) => net.id).join('+') : (selection?.id ?? '')}`;
  return (
    <FieldOwner value={owner}>
      <section aria-label="Inspector" className="pane-area h-full bg-sheet px-3.5 py-2.5">
        {marked.length > 1 ? (
          <SeveralInspector nets={marked} />
        ) : view === 'bench' && placer.phase === 'away' ? (
          <BenchInspector />
        ) : selectedNet ? (
          <NetInspector key={selectedNet.id} net={selectedNet} />
        ) : selectedFinding ? (
          <FindingInspector finding={selectedFinding} />
        ) : selection?.kind === 'pad' && derived.device.pads.has(selection.id) ? (
          <PadInspector key={selection.id} padId={selection.id} />
        ) : selection?.kind === 'bits' ? (
          <BitsInspector key={selection.id} id={selection.id} />
        ) : placer.phase !== 'away' ? (
          <PlacerInspector />
        ) : (
          <PlanInspector />
        )}
        {about && <Comments key={JSON.stringify(about)} about={about} />}
      </section>
    </FieldOwner>
  );
}
