'use client';

import {
  type Context,
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
} from 'react';
import { type Candidate, candidatesFor } from '@/core/derive/candidates/candidates';
import { type Derived, derive } from '@/core/derive/derive';
import type { Finding } from '@/core/derive/rules/types';
import type { Device } from '@/core/device/device';
import type { Edit } from '@/core/plan/edits/edits';
import type { Net } from '@/core/plan/model/types';
import type { PlanSession, SessionState } from '../client/plan-session';
import { showPresence } from '../client/presence';
import { type Placer, usePlacer } from '../placer/use-placer';
import { readAddress, type Selection, sameSelection, type ViewId, writeAddress } from './selection';

/** What one can do with an open plan. Stays the same, so whoever only does something is not drawn again. */
export interface WorkspaceActions {
  planId: string;
  /** The plan is looked at as it was behind this edit. */
  at: number | undefined;
  /** Fingerprint of the part as it is described today. */
  today: string;
  session: PlanSession;
  select(selection: Selection): void;
  setView(view: ViewId): void;
  /** Opens the code at an operation. */
  showOperation(operation: number): void;
  /** Starts looking for another pad for a placed net, or stops. */
  setMoving(netId: string | null): void;
  dispatch(edit: Edit): boolean;
  /** Chooses nets, or adds them to those chosen or takes them out; an empty list chooses none. */
  mark(ids: readonly string[], how: 'only' | 'toggle'): void;
  /** Everything as it is at the moment, for commands: asking does not make anybody listen. */
  current(): WorkspaceState;
}

/** What follows from the plan, or from the plan as a preview would make it. */
export interface WorkspacePlan {
  derived: Derived;
  /** Worst finding of each net and pad. */
  worst: { nets: Map<string, Finding>; pads: Map<string, Finding> };
}

export interface WorkspaceSelection {
  selection: Selection;
  selectedNet: Net | undefined;
  selectedPad: string | undefined;
  selectedFinding: Finding | undefined;
  /** Several nets chosen at once, for changes to all of them; empty when there is only the selection. */
  marked: readonly Net[];
}

export interface WorkspaceView {
  view: ViewId;
  /** An operation (from 0) that the code view shows the line of, until another view is opened. */
  shownOperation: number | null;
}

export interface WorkspaceSearch {
  /** The net that is looking for a pad, with its candidates: the pads that can take it step forward. */
  placing: { net: Net; candidates: Candidate[] } | null;
}

export interface WorkspacePlacer {
  /** The automatic placer. While it shows a preview, `derived` is of the plan as it would be. */
  placer: Placer;
  /** Nets that a preview places or moves. */
  fresh: ReadonlyMap<string, 'new' | 'moved'>;
}

/** All of it: what commands look at. */
export type WorkspaceState = WorkspaceActions &
  WorkspacePlan &
  WorkspaceSelection &
  WorkspaceView &
  WorkspaceSearch &
  WorkspacePlacer & { state: SessionState };

/** Contexts by who listens: a part of the page is drawn again only when what it listens to has changed. */
const Actions = createContext<WorkspaceActions | null>(null);
const Planned = createContext<WorkspacePlan | null>(null);
const Selected = createContext<WorkspaceSelection | null>(null);
const Viewed = createContext<WorkspaceView | null>(null);
const Searched = createContext<WorkspaceSearch | null>(null);
const Placed = createContext<WorkspacePlacer | null>(null);

function useShared<T>(shared: Context<T | null>): T {
  const value = useContext(shared);
  if (!value) throw new Error('outside of a workspace');
  return value;
}

export const useActions = (): WorkspaceActions => useShared(Actions);
export const useDerived = (): WorkspacePlan => useShared(Planned);
export const useSelection = (): WorkspaceSelection => useShared(Selected);
export const useView = (): WorkspaceView => useShared(Viewed);
export const useSearch = (): WorkspaceSearch => useShared(Searched);
export const usePlacing = (): WorkspacePlacer => useShared(Placed);

/** The plan as it is stored, and how storing it goes. */
export function useSession(): SessionState {
  const { session } = useActions();
  return useSyncExternalStore(session.subscribe, session.getState, session.getState);
}

interface Props {
  planId: string;
  session: PlanSession;
  /** Of a moment of the plan: behind which edit. */
  at?: number | undefined;
  device: Device;
  today: string;
  children: ReactNode;
}

export function WorkspaceProvider({ planId, at, session, device, today, children }: Props) {
  const state = useSyncExternalStore(session.subscribe, session.getState, session.getState);
  const [address, setAddress] = useState(() => readAddress(window.location.search));
  const [moving, setMoving] = useState<string | null>(null);
  const { plan } = state;

  const placer = usePlacer(plan, device, session.dispatch);
  const shown = placer.preview ?? plan;
  const previewed = useRef(false);
  useEffect(() => {
    previewed.current = placer.preview !== undefined;
  }, [placer.preview]);
  const dispatch = useCallback(
    (edit: Edit): boolean => {
      // What one sees in a preview is not the plan that an edit would change.
      if (!previewed.current) return session.dispatch(edit);
      session.notify('This is a preview: apply or discard it, then change the plan.');
      return false;
    },
    [session],
  );

  const before = useRef<Derived | undefined>(undefined);
  const derived = useMemo(() => {
    const result = derive(device, shown, before.current);
    // Whoever renders this has made sure that the device is the plan's and has its package.
    if (!result.ok) throw new Error(result.problems[0]?.message);
    return result.value;
  }, [device, shown]);
  useEffect(() => {
    before.current = derived;
  }, [derived]);

  useEffect(() => {
    const url = writeAddress(address);
    if (url !== window.location.search) window.history.replaceState(window.history.state, '', url);
  }, [address]);

  // Others see where one is.
  useEffect(() => {
    const { selection, view } = address;
    if (at === undefined) showPresence(planId, selection ? `${selection.kind}:${selection.id}` : '', view);
  }, [planId, at, address]);

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
    selection?.kind === 'pad' && device.pads.has(selection.id)
      ? selection.id
      : selection?.kind === 'bits'
        ? padOfBits(derived, selection.id)
        : selectedNet?.placement?.pad;

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

  const { view } = address;
  const now = useRef<WorkspaceState | null>(null);
  const can = useMemo<WorkspaceActions>(
    () => ({
      planId,
      at,
      today,
      session,
      select,
      setView,
      showOperation,
      setMoving,
      dispatch,
      mark,
      current: () => now.current as WorkspaceState,
    }),
    [planId, at, today, session, select, setView, showOperation, dispatch, mark],
  );
  const plans = useMemo<WorkspacePlan>(() => ({ derived, worst }), [derived, worst]);
  const chosen = useMemo<WorkspaceSelection>(
    () => ({ selection, selectedNet, selectedPad, selectedFinding, marked }),
    [selection, selectedNet, selectedPad, selectedFinding, marked],
  );
  const views = useMemo<WorkspaceView>(() => ({ view, shownOperation }), [view, shownOperation]);
  const search = useMemo<WorkspaceSearch>(() => ({ placing }), [placing]);
  const places = useMemo<WorkspacePlacer>(() => ({ placer, fresh }), [placer, fresh]);
  now.current = { ...can, ...plans, ...chosen, ...views, ...search, ...places, state };
  return (
    <Actions.Provider value={can}>
      <Planned.Provider value={plans}>
        <Placed.Provider value={places}>
          <Viewed.Provider value={views}>
            <Selected.Provider value={chosen}>
              <Searched.Provider value={search}>{children}</Searched.Provider>
            </Selected.Provider>
          </Viewed.Provider>
        </Placed.Provider>
      </Planned.Provider>
    </Actions.Provider>
  );
}

/** Whose the bits are, `PD.FN1:0`. */
function padOfBits({ lowered, device }: Derived, id: string): string | undefined {
  const colon = id.lastIndexOf(':');
  const low = Number(id.slice(colon + 1));
  const name = id.slice(0, colon);
  const owner = lowered.image
    .find(({ register }) => register.name === name)
    ?.owners.find((one) => one.low <= low && low < one.low + one.bits);
  return owner && device.pads.has(owner.pad) ? owner.pad : undefined;
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
