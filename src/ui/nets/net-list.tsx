'use client';

import { type KeyboardEvent, memo, useCallback, useEffect, useMemo, useRef } from 'react';
import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import { placeNet } from '@/core/plan/edits/make-edits';
import { isOpen, type PlanComment } from '@/core/review/review';
import { walkTo } from '@/ui/parts/walk';
import { useTrialMarks } from '../bench/trial-marks';
import { useComments } from '../client/comments';
import { functionWords } from '../package/pad-row';
import { circuitColour } from '../parts/circuit-colour';
import { type NetState, StateGlyph } from '../parts/state-glyph';
import { OthersAt } from '../review/people';
import { useActions, useDerived, usePlacing, useSelection } from '../workspace/context';
import { AddNets } from './add-nets';

/** All nets by circuit: what they are and where they sit. */
export function NetList() {
  const { derived, worst } = useDerived();
  const { selection, marked } = useSelection();
  const { fresh } = usePlacing();
  const { planId, select, dispatch, mark } = useActions();
  const { plan } = derived;
  const trials = useTrialMarks(plan);
  const comments = useComments(planId);
  const said = useMemo(() => openByNet(comments), [comments]);
  const list = useRef<HTMLDivElement>(null);
  const selectedId = selection?.kind === 'net' ? selection.id : undefined;
  const ordered = plan.circuits.flatMap((circuit) =>
    derived.resolved.filter((one) => one.net.circuit === circuit.id),
  );
  const tabStop = selectedId ?? ordered[0]?.net.id;

  useEffect(() => {
    if (!selectedId) return;
    list.current
      ?.querySelector(`[data-net="${CSS.escape(selectedId)}"]`)
      ?.scrollIntoView({ block: 'nearest' });
  }, [selectedId]);

  /** Adds a net to those chosen, or takes it out; the selected one is the first. */
  function toggle(id: string) {
    if (marked.length > 0 || selectedId === undefined || selectedId === id) mark([id], 'toggle');
    else mark([selectedId, id], 'only');
  }

  /** Chooses all nets from the selected one to this. */
  function extendTo(id: string) {
    const from = ordered.findIndex((one) => one.net.id === (selectedId ?? id));
    const to = ordered.findIndex((one) => one.net.id === id);
    const range = ordered.slice(Math.min(from, to), Math.max(from, to) + 1);
    mark(
      range.map((one) => one.net.id),
      'only',
    );
  }

  function choose(id: string, event: Modifiers) {
    if (event.shiftKey) extendTo(id);
    else if (event.ctrlKey || event.metaKey) toggle(id);
    else select({ kind: 'net', id });
  }

  // Rows are given the same function each time, so that only those are drawn again that look different.
  const choosing = useRef(choose);
  choosing.current = choose;
  const onSelect = useCallback((id: string, event: Modifiers) => choosing.current(id, event), []);

  const chosenIds = new Set(marked.map((net) => net.id));

  function walk(event: KeyboardEvent) {
    const id = (event.target as HTMLElement).closest<HTMLElement>('[data-net]')?.dataset.net;
    const at = ordered.findIndex((one) => one.net.id === id);
    if (at < 0) return;
    if (event.key === ' ' || event.key === 'Insert') {
      event.preventDefault();
      toggle(id ?? '');
      return;
    }
    const next = walkTo(event, { row: at, column: 0 }, { rows: ordered.length, columns: 1 });
    const chosen = next && ordered[next.row];
    if (!chosen) return;
    if (event.shiftKey) extendTo(chosen.net.id);
    else select({ kind: 'net', id: chosen.net.id });
    list.current?.querySelector<HTMLElement>(`[data-net="${CSS.escape(chosen.net.id)}"]`)?.focus();
  }

  return (
    <div className="flex h-full flex-col">
      {plan.nets.length === 0 && (
        <div className="px-3.5 pt-3 text-soft">
          <h2 className="mb-1 font-semibold text-ink">What does the board need?</h2>
          <p>
            Type nets below, a circuit at a time. A peripheral and its lines:{' '}
            <span className="m text-ink">mast: uart tx rx</span>. Plain pins:{' '}
            <span className="m text-ink">fans: fan_1 fan_2 out low</span>. Then give each a pad.
          </p>
        </div>
      )}
      <div
        ref={list}
        role="listbox"
        aria-label="Nets"
        aria-multiselectable
        tabIndex={-1}
        className="pane-area min-h-0 flex-1 py-1"
        onKeyDown={walk}
        onDragOver={(event) => {
          if (event.dataTransfer.types.includes('text/mavrek-net')) event.preventDefault();
        }}
        onDrop={(event) => {
          const net = derived.byNet.get(event.dataTransfer.getData('text/mavrek-net'))?.net;
          if (net?.placement) dispatch(placeNet(net, null));
        }}
      >
        {plan.circuits.map((circuit) => {
          const nets = derived.resolved.filter((one) => one.net.circuit === circuit.id);
          const placed = nets.filter((one) => one.net.placement).length;
          return (
            // biome-ignore lint/a11y/useSemanticElements: a group within a listbox; fieldset has no place there
            <div key={circuit.id} role="group" aria-label={circuit.name}>
              <div className="mb-0.5 ml-2.5 mr-1.5 mt-1.5 flex items-center gap-[7px] text-[12px] font-semibold">
                <i className="block h-3 w-1" style={{ background: circuitColour(plan, circuit.id) }} />
                <span className="overflow-hidden text-ellipsis whitespace-nowrap">{circuit.name}</span>
                <span className="ml-auto font-normal text-soft tabular-nums">
                  {placed}/{nets.length}
                </span>
              </div>
              {nets.map((one) => (
                <NetRow
                  key={one.net.id}
                  one={one}
                  selected={chosenIds.size > 0 ? chosenIds.has(one.net.id) : one.net.id === selectedId}
                  fresh={fresh.get(one.net.id)}
                  trial={trials.get(one.net.id)}
                  comments={said.get(one.net.id) ?? 0}
                  tabStop={one.net.id === tabStop}
                  severity={worst.nets.get(one.net.id)?.severity}
                  onSelect={onSelect}
                />
              ))}
            </div>
          );
        })}
      </div>
      <PlaceAll />
      <AddNets />
    </div>
  );
}

/** How many open comments there are on each net and its settings. */
function openByNet(comments: readonly PlanComment[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const one of comments) {
    const { subject } = one;
    if (isOpen(one) && (subject.kind === 'net' || subject.kind === 'setting'))
      counts.set(subject.net, (counts.get(subject.net) ?? 0) + 1);
  }
  return counts;
}

/** How many nets have no pad yet, and the button that gives them one. */
function PlaceAll() {
  const { derived } = useDerived();
  const { placer } = usePlacing();
  const { select } = useActions();
  const { nets } = derived.plan;
  const unplaced = nets.filter((net) => !net.placement).length;
  if (nets.length === 0) return null;
  return (
    <div className="flex items-baseline gap-2 border-t border-rule px-3 pt-1.5">
      <button
        type="button"
        className="button"
        disabled={placer.phase === 'working' || placer.preview !== undefined}
        title="Finds pads for all nets that have none, keeps to all demands, and shows the result first (Shift P)"
        onClick={() => {
          select(null);
          placer.start();
        }}
      >
        {unplaced > 0 ? 'Place all' : 'Improve'}
      </button>
      <span className="text-[12px] text-soft">
        {unplaced > 0 ? `${unplaced} unplaced` : 'all nets have a pad'}
      </span>
    </div>
  );
}

/** Keys held while a row is clicked. */
interface Modifiers {
  shiftKey: boolean;
  ctrlKey: boolean;
  metaKey: boolean;
}

interface RowProps {
  one: ResolvedNet;
  selected: boolean;
  tabStop: boolean;
  severity: 'error' | 'warning' | 'note' | undefined;
  fresh: 'new' | 'moved' | undefined;
  /** Whether all that trials expect of it came; undefined where none does, or none has been run. */
  trial: boolean | undefined;
  /** Open ones. */
  comments: number;
  onSelect: (id: string, event: Modifiers) => void;
}

const NetRow = memo(function NetRow({
  one,
  selected,
  tabStop,
  severity,
  fresh,
  trial,
  comments,
  onSelect,
}: RowProps) {
  const { net } = one;
  const state: NetState = severity
    ? 'finding'
    : !net.placement
      ? 'free'
      : net.placement.locked
        ? 'locked'
        : 'placed';
  const words = functionWords(one);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list handles keys for all rows
    <div
      role="option"
      aria-selected={selected}
      tabIndex={tabStop ? 0 : -1}
      data-net={net.id}
      data-name={net.name}
      draggable
      className={`grid grid-cols-[18px_1fr_auto] items-baseline py-px pl-3 pr-3.5 ${selected ? 'bg-pickbg' : 'hover:bg-sheet'}`}
      onClick={(event) => onSelect(net.id, event)}
      onDragStart={(event) => {
        event.dataTransfer.setData('text/mavrek-net', net.id);
        event.dataTransfer.effectAllowed = 'move';
      }}
    >
      <StateGlyph state={state} severity={severity} />
      {/* The role whole or not at all: what does not fit wraps out of sight. */}
      <span className="flex h-5 flex-wrap content-start items-baseline gap-x-1.5 overflow-hidden whitespace-nowrap leading-5">
        <span className="max-w-full overflow-hidden text-ellipsis">{net.name}</span>
        <span className="text-[11.5px] leading-5 text-soft">
          {words}
          {net.settings.active === 'low' ? ' · low' : ''}
        </span>
      </span>
      <span className={`m pl-1 ${fresh ? 'text-pick' : 'text-soft'}`}>
        <OthersAt net={net.id} />{' '}
        {comments > 0 && (
          <span className="text-pick" title={`${comments} open comment${comments > 1 ? 's' : ''}`}>
            “{comments}
            <span className="sr-only"> open comments, </span>{' '}
          </span>
        )}
        {trial !== undefined && (
          <span
            className={trial ? 'text-soft' : 'text-err'}
            title={trial ? 'its trials passed' : 'a trial of it failed'}
          >
            {trial ? '✓' : '▲'}
            <span className="sr-only">{trial ? 'trials passed, ' : 'a trial failed, '}</span>{' '}
          </span>
        )}
        {fresh && <span className="sr-only">{fresh} on </span>}
        {net.placement?.pad ?? '–'}
      </span>
    </div>
  );
});
