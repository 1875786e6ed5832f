'use client';

import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useState,
  useSyncExternalStore,
} from 'react';
import { type Derived, derive } from '@/core/derive';
import { type Candidate, candidatesFor } from '@/core/placing/candidates';
import type { Edit } from '@/core/plan/edit';
import type { Net } from '@/core/plan/types';
import type { Device } from '@/core/recipe/device';
import type { Finding } from '@/core/rules/types';
import type { PlanSession, SessionState } from '../client/plan-session';
import { type Placer, usePlacer } from '../placer/use-placer';
import { readAddress, type Selection, sameSelection, type ViewId, writeAddress } from './selection';

/** All that the views of one open plan share. */
export interface WorkspaceState {
  planId: string;
  /** Fingerprint of the part as it is described today. */
  today: string;
  session: PlanSession;
  state: SessionState;
  derived: Derived;
  selection: Selection;
  select(selection: Selection): void;
  view: ViewId;
  setView(view: ViewId): void;
  /** An operation (from 0) that the code view shows the line of, until another view is opened. */
  shownOperation: number | null;
  /** Opens the code at an operation. */
  showOperation(operation: number): void;
  /** The net that is looking for a pad, with its candidates: the pads that can take it step forward. */
  placing: { net: Net; candidates: Candidate[] } | null;
  /** Starts looking for another pad for a placed net, or stops. */
  setMoving(netId: string | null): void;
  dispatch(edit: Edit): boolean;
  /** The automatic placer. While it shows a preview, `derived` is of the plan as it would be. */
  placer: Placer;
  /** Several nets chosen at once, for changes to all of them; empty when there is only the selection. */
  marked: readonly Net[];
  /** Chooses nets, or adds them to those chosen or takes them out; an empty list chooses none. */
  mark(ids: readonly string[], how: 'only' | 'toggle'): void;
  /** Nets that a preview places or moves. */
  fresh: ReadonlyMap<string, 'new' | 'moved'>;
  selectedNet: Net | undefined;
  selectedPad: string | undefined;
  selectedFinding: Finding | undefined;
  /** Worst finding of each net and pad. */
  worst: { nets: Map<string, Finding>; pads: Map<string, Finding> };
}

const Context = createContext<WorkspaceState | null>(null);

export function useWorkspace(): WorkspaceState {
  const value = useContext(Context);
  if (!value) throw new Error('useWorkspace outside of a workspace');
  return value;
}

interface Props {
  planId: string;
  session: PlanSession;
  device: Device;
  today: string;
  children: ReactNode;
}

export function WorkspaceProvider({ planId, session, device, today, children }: Props) {
  const state = useSyncExternalStore(session.subscribe, session.getState, session.getState);
  const [address, setAddress] = useState(() => readAddress(window.location.search));
  const [moving, setMoving] = useState<string | null>(null);
  const { plan } = state;

  const placer = usePlacer(plan, device, session.dispatch);
  const shown = placer.preview ?? plan;
  const dispatch = useCallback(
    (edit: Edit): boolean => {
      // What one sees in a preview is not the plan that an edit would change.
      if (!placer.preview) return session.dispatch(edit);
      session.notify('This is a preview: apply or discard it, then change the plan.');
      return false;
    },
    [placer.preview, session],
  );

  const derived = useMemo(() => {
    const result = derive(device, shown);
    // Whoever renders this has made sure that the device is the plan's and has its package.
    if (!result.ok) throw new Error(result.problems[0]?.message);
    return result.value;
  }, [device, shown]);

  useEffect(() => {
    const url = writeAddress(address);
    if (url !== window.location.search) window.history.replaceState(window.history.state, '', url);
  }, [address]);

  const [marks, setMarks] = useState<readonly string[]>([]);
  const mark = useCallback((ids: readonly string[], how: 'only' | 'toggle') => {
    const [one] = ids;
    // One net alone is the selection.
    if (how === 'only' && ids.length === 1 && one !== undefined) {
      setMarks([]);
      setAddress((old) => ({ ...old, selection: { kind: 'net', id: one } }));
      return;
    }
    setMarks((old) =>
      how === 'only'
        ? ids
        : [...old.filter((id) => !ids.includes(id)), ...ids.filter((id) => !old.includes(id))],
    );
  }, []);
  const select = useCallback((selection: Selection) => {
    setMoving(null);
    setMarks([]);
    setAddress((old) => (sameSelection(old.selection, selection) ? old : { ...old, selection }));
  }, []);
  const [shownOperation, setShownOperation] = useState<number | null>(null);
  const setView = useCallback((view: ViewId) => {
    setShownOperation(null);
    setAddress((old) => ({ ...old, view }));
  }, []);
  const showOperation = useCallback((operation: number) => {
    setShownOperation(operation);
    setAddress((old) => ({ ...old, view: 'code' }));
  }, []);

  const { selection } = address;
  const selectedFinding =
    selection?.kind === 'finding' ? derived.findings.find((one) => one.id === selection.id) : undefined;
  const selectedNet = selection?.kind === 'net' ? derived.byNet.get(selection.id)?.net : undefined;
  const selectedPad =
    selection?.kind === 'pad' && device.pads.has(selection.id) ? selection.id : selectedNet?.placement?.pad;

  const looking =
    selectedNet && (!selectedNet.placement || moving === selectedNet.id) ? selectedNet : undefined;
  const placing = useMemo(
    () =>
      looking
        ? {
            net: looking,
            candidates: candidatesFor(derived.occupancy, looking).filter(
              (one) => one.pad !== looking.placement?.pad,
            ),
          }
        : null,
    [derived, looking],
  );

  const moves = placer.placing?.moves;
  const fresh = useMemo(
    () => new Map((moves ?? []).map(({ net }) => [net.id, net.placement ? 'moved' : 'new'] as const)),
    [moves],
  );
  const marked = useMemo(
    () => (marks.length > 1 ? derived.plan.nets.filter((net) => marks.includes(net.id)) : NO_NETS),
    [derived, marks],
  );
  const worst = useMemo(() => worstFindings(derived), [derived]);

  const value: WorkspaceState = {
    planId,
    today,
    session,
    state,
    derived,
    selection,
    select,
    view: address.view,
    setView,
    shownOperation,
    showOperation,
    placing,
    setMoving,
    dispatch,
    placer,
    marked,
    mark,
    fresh,
    selectedNet,
    selectedPad,
    selectedFinding,
    worst,
  };
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

const NO_NETS: readonly Net[] = [];

function worstFindings(derived: Derived): WorkspaceState['worst'] {
  const nets = new Map<string, Finding>();
  const pads = new Map<string, Finding>();
  // Findings come worst first, so the first one met is the one to show.
  for (const finding of derived.findings) {
    if (finding.waived) continue;
    for (const net of finding.nets) if (!nets.has(net)) nets.set(net, finding);
    for (const pad of finding.pads) if (!pads.has(pad)) pads.set(pad, finding);
  }
  return { nets, pads };
}
