'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import type { Derived } from '@/core/derive/derive';
import { functionsFor } from '@/core/derive/resolve/resolve';
import { placeNet } from '@/core/plan/edits/make-edits';
import { walkTo } from '@/ui/parts/walk';
import { circuitColour } from '../parts/circuit-colour';
import { Segments } from '../parts/segments';
import { useActions, useDerived, useSearch, useSelection } from '../workspace/context';
import {
  codeTitle,
  filterRows,
  type MatrixEntry,
  type MatrixRow,
  matrixCodes,
  matrixRows,
  type Show,
} from './matrix';

const ROW = 24;
const CELL = 92;

/** The functions of the open plan's package. */
export function FunctionsView() {
  const { derived } = useDerived();
  const { selectedPad, selectedNet } = useSelection();
  const { placing } = useSearch();
  const { select, dispatch } = useActions();
  const { device, pkg } = derived;
  const net = placing?.net;

  /** A net that looks for a pad takes the function; otherwise the pad is selected. */
  function choose(row: MatrixRow, entry: MatrixEntry | undefined) {
    const pad = device.pads.get(row.pad);
    if (net && pad && entry) {
      const fits = functionsFor(device, pkg, net.role, pad).some((fn) => fn === entry.fn);
      if (fits) {
        const signal = net.role.kind === 'open-signal' ? { signal: entry.fn.signal } : {};
        dispatch(placeNet(net, { pad: row.pad, locked: false, ...signal }));
        select({ kind: 'net', id: net.id });
        return;
      }
    }
    const only = row.nets.length === 1 ? row.nets[0] : undefined;
    select(only ? { kind: 'net', id: only.net.id } : { kind: 'pad', id: row.pad });
  }
  return (
    <FunctionMatrix
      derived={derived}
      selectedPad={selectedPad}
      selectedNet={selectedNet?.id}
      onChoose={choose}
    />
  );
}

interface MatrixProps {
  derived: Derived;
  selectedPad?: string;
  selectedNet?: string;
  onChoose?: (row: MatrixRow, entry: MatrixEntry | undefined) => void;
}

/** Pads × mux codes: where a signal can go, what is taken, what is scarce. */
export function FunctionMatrix({ derived, selectedPad, selectedNet, onChoose }: MatrixProps) {
  const { device, pkg, plan } = derived;
  const [text, setText] = useState('');
  const [show, setShow] = useState<Show>('all');
  const wanted = useDeferredValue(text);
  const rows = useMemo(() => matrixRows(derived), [derived]);
  const shown = useMemo(() => filterRows(rows, wanted, show), [rows, wanted, show]);
  const codes = useMemo(() => {
    const all = matrixCodes(device, pkg);
    if (wanted.trim() === '' && show === 'all') return all;
    return all.filter((code) => shown.some(({ row, matches }) => row.cells.get(code)?.some(matches)));
  }, [device, pkg, shown, wanted, show]);
  const area = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => area.current,
    estimateSize: () => ROW,
    overscan: 12,
    // The head stays on top and takes a row's height.
    scrollMargin: ROW,
    scrollPaddingStart: ROW,
  });
  const columns = `46px 62px 116px repeat(${codes.length}, ${CELL}px)`;
  const [focus, setFocus] = useState({ row: 0, column: 0 });
  const selectedRow = shown.findIndex(({ row }) => row.pad === selectedPad);
  useEffect(() => {
    if (selectedRow < 0) return;
    virtual.scrollToIndex(selectedRow);
    // Rows out of sight are not there: the way in by keyboard leads to one that is.
    setFocus((old) => (old.row === selectedRow ? old : { row: selectedRow, column: 0 }));
  }, [virtual, selectedRow]);
  function walk(event: KeyboardEvent) {
    const target = event.target as HTMLElement;
    if (event.key === ' ' && target.role === 'rowheader') {
      event.preventDefault();
      target.click();
      return;
    }
    const next = walkTo(event, focus, { rows: shown.length, columns: codes.length + 1 });
    if (!next) return;
    setFocus(next);
    virtual.scrollToIndex(next.row);
    requestAnimationFrame(() => {
      const cell = area.current?.querySelector<HTMLElement>(`[data-at="${next.row}:${next.column}"]`);
      cell?.focus({ preventScroll: false });
    });
  }

  const free = rows.reduce(
    (sum, row) =>
      sum +
      [...row.cells.values()]
        .flat()
        .filter((one) => one.alternatives === 1 && row.nets.length === 0 && !one.removed).length,
    0,
  );

  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3 py-1">
        <input
          aria-label="Filter the functions"
          className="w-52"
          placeholder="signal, pad, net …"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape' && text !== '') {
              event.stopPropagation();
              setText('');
            }
          }}
        />
        <Segments
          label="Show"
          value={show}
          choices={[
            { value: 'all', label: 'all' },
            { value: 'free', label: 'free' },
            { value: 'scarce', label: `scarce (${free})` },
            { value: 'taken', label: 'taken' },
          ]}
          onChange={(value) => setShow(value as Show)}
        />
        <span className="text-soft" role="status">
          {shown.length} of {rows.length} pads
        </span>
        <span className="ml-auto text-soft max-xl:hidden">
          <b className="font-semibold text-ink">●</b> carried here · <s>struck</s> elsewhere or taken away ·{' '}
          <u>underlined</u> last free pad
        </span>
      </div>
      <div
        ref={area}
        role="grid"
        aria-label="Functions of the pads"
        aria-rowcount={shown.length + 1}
        aria-colcount={codes.length + 1}
        tabIndex={-1}
        className="min-h-0 flex-1 overflow-auto"
        onKeyDown={walk}
      >
        <div className="relative w-max min-w-full" style={{ height: virtual.getTotalSize() + ROW }}>
          <div
            role="row"
            aria-rowindex={1}
            className="sticky top-0 z-20 grid border-b border-ink bg-paper text-soft"
            style={{ gridTemplateColumns: columns, height: ROW }}
          >
            <span
              role="columnheader"
              className="sticky left-0 z-10 col-span-3 h-[23px] bg-paper pl-3 leading-[23px]"
            >
              pin, pad, net
            </span>
            {codes.map((code) => (
              <span key={code} role="columnheader" className="m leading-[24px]">
                {codeTitle(code)}
              </span>
            ))}
          </div>
          {shown.length === 0 && (
            <p className="absolute left-3 top-8 text-soft">
              No pad of this package has that. Clear the filter to see all.
            </p>
          )}
          {virtual.getVirtualItems().map((item) => {
            const line = shown[item.index];
            if (!line) return null;
            const { row, matches } = line;
            const first = row.nets[0];
            const chosen = selectedPad === row.pad;
            return (
              <div
                key={row.pad}
                role="row"
                aria-rowindex={item.index + 2}
                className={`absolute left-0 grid w-full border-b border-rule ${chosen ? 'bg-pickbg' : ''}`}
                style={{ gridTemplateColumns: columns, height: ROW, top: item.start }}
              >
                <div
                  role="rowheader"
                  data-at={`${item.index}:0`}
                  data-pad={row.pad}
                  tabIndex={focus.row === item.index && focus.column === 0 ? 0 : -1}
                  className={`sticky left-0 z-10 col-span-3 grid grid-cols-[3px_43px_62px_1fr] items-center overflow-hidden whitespace-nowrap text-left ${chosen ? 'bg-pickbg' : 'bg-paper'}`}
                  onFocus={() => setFocus({ row: item.index, column: 0 })}
                  onClick={() => onChoose?.(row, undefined)}
                >
                  <span
                    className="h-full"
                    style={{ background: first ? circuitColour(plan, first.net.circuit) : 'transparent' }}
                  />
                  <span className="m pr-2 text-right text-soft">{row.pins[0]}</span>
                  <span className="m">{row.pad}</span>
                  <span className="overflow-hidden text-ellipsis pr-2 font-medium">
                    {row.nets.map((one) => one.net.name).join(' + ')}
                  </span>
                </div>
                {codes.map((code, column) => (
                  <MatrixCell
                    key={code}
                    at={`${item.index}:${column + 1}`}
                    tab={focus.row === item.index && focus.column === column + 1}
                    label={`${row.pad}, code ${codeTitle(code)}`}
                    entries={row.cells.get(code) ?? NONE}
                    matches={matches}
                    padTaken={row.nets.length > 0}
                    chosenNet={selectedNet}
                    onFocus={() => setFocus({ row: item.index, column: column + 1 })}
                    onChoose={(entry) => onChoose?.(row, entry)}
                  />
                ))}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

const NONE: MatrixEntry[] = [];

interface CellProps {
  at: string;
  tab: boolean;
  label: string;
  entries: readonly MatrixEntry[];
  matches: (entry: MatrixEntry) => boolean;
  padTaken: boolean;
  chosenNet: string | undefined;
  onFocus: () => void;
  onChoose: (entry: MatrixEntry | undefined) => void;
}

function MatrixCell({ at, tab, label, entries, matches, padTaken, chosenNet, onFocus, onChoose }: CellProps) {
  const visible = entries.filter(matches);
  const first = visible[0];
  const title = visible.map((one) => entryWords(one, padTaken)).join('\n');
  return (
    <button
      type="button"
      role="gridcell"
      data-at={at}
      tabIndex={tab ? 0 : -1}
      title={title || undefined}
      aria-label={`${label}: ${visible.length === 0 ? 'nothing' : title.replaceAll('\n', '; ')}`}
      className="m overflow-hidden text-ellipsis whitespace-nowrap border-l border-rule px-1 text-left"
      onFocus={onFocus}
      onClick={() => onChoose(first)}
    >
      {visible.map((entry) => (
        <span key={entry.fn.signal} className={`mr-1.5 ${entryLook(entry, padTaken, chosenNet)}`}>
          {entry.here && '● '}
          {entry.fn.signal}
        </span>
      ))}
    </button>
  );
}

function entryLook(entry: MatrixEntry, padTaken: boolean, chosenNet: string | undefined): string {
  if (entry.here) return entry.here.net.id === chosenNet ? 'font-medium text-pick' : 'font-medium';
  if (entry.removed || entry.elsewhere) return 'text-soft line-through';
  if (padTaken) return 'text-soft';
  return entry.alternatives === 1 ? 'underline underline-offset-2' : '';
}

function entryWords(entry: MatrixEntry, padTaken: boolean): string {
  const { signal } = entry.fn;
  if (entry.here) return `${signal}: ${entry.here.net.name}, here`;
  if (entry.removed) return `${signal}: ${entry.removed}`;
  if (entry.elsewhere) return `${signal}: ${entry.elsewhere.net.name} has it on ${entry.elsewhere.pad?.id}`;
  if (padTaken) return `${signal}: the pad is taken`;
  if (entry.alternatives === 1) return `${signal}: this is the last free pad for it`;
  return `${signal}: ${entry.alternatives} free pads`;
}
