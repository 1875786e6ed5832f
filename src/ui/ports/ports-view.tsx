'use client';

import { type KeyboardEvent, type PointerEvent, useMemo, useRef, useState } from 'react';
import { setEntry } from '@/core/plan/make-edits';
import { UNUSED_POLICIES } from '@/core/plan/types';
import { POLICY_TITLES } from '@/core/plan/unused';
import { functionWords } from '../package/pad-row';
import { padState } from '../package/pad-state';
import { circuitColour } from '../parts/circuit-colour';
import { ScrollRegion } from '../parts/scroll-region';
import { StateGlyph } from '../parts/state-glyph';
import { standsFor, useInSight } from '../parts/use-in-sight';
import { useWorkspace } from '../workspace/context';
import { maskTexts, type PortRow, portRows } from './masks';

/** A cell: row of the port, and bit. */
interface Cell {
  row: number;
  bit: number;
}
const keyOf = ({ row, bit }: Cell): string => `${row}:${bit}`;
const NO_NETS: never[] = [];

/** Ports as registers see them. Any selection of bits reads as a mask in hexadecimal, decimal and binary. */
export function PortsView() {
  const { derived, select, selectedPad, worst } = useWorkspace();
  const { device, pkg, plan } = derived;
  const rows = useMemo(() => portRows(device), [device]);
  const widest = Math.max(0, ...rows.flatMap((row) => [...row.pads.keys()])) + 1;
  const bits = useMemo(() => Array.from({ length: widest }, (_, i) => widest - 1 - i), [widest]);
  const bonded = device.terminalsOf.get(pkg.id);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [anchor, setAnchor] = useState<Cell | null>(null);
  const [focus, setFocus] = useState<Cell | null>(null);
  const dragging = useRef(false);
  const grid = useRef<HTMLTableElement>(null);
  useInSight(grid, standsFor('pad', selectedPad));

  const here = (cell: Cell): string | undefined => rows[cell.row]?.pads.get(cell.bit);
  const box = (a: Cell, b: Cell): string[] => {
    const cells: string[] = [];
    for (let row = Math.min(a.row, b.row); row <= Math.max(a.row, b.row); row++)
      for (let bit = Math.min(a.bit, b.bit); bit <= Math.max(a.bit, b.bit); bit++)
        if (here({ row, bit }) !== undefined) cells.push(keyOf({ row, bit }));
    return cells;
  };
  const show = (cell: Cell): void => {
    const pad = here(cell);
    if (pad === undefined) return;
    const nets = derived.byPad.get(pad);
    const only = nets?.length === 1 ? nets[0] : undefined;
    select(only ? { kind: 'net', id: only.net.id } : { kind: 'pad', id: pad });
  };

  function press(event: PointerEvent, cell: Cell) {
    if (here(cell) === undefined || event.button !== 0) return;
    setFocus(cell);
    if (event.shiftKey && anchor) setChosen(new Set(box(anchor, cell)));
    else if (event.ctrlKey || event.metaKey) {
      const next = new Set(chosen);
      if (!next.delete(keyOf(cell))) next.add(keyOf(cell));
      setChosen(next);
      setAnchor(cell);
    } else {
      dragging.current = true;
      setAnchor(cell);
      setChosen(new Set([keyOf(cell)]));
      show(cell);
    }
  }

  function walk(event: KeyboardEvent) {
    const move = MOVES[event.key];
    const from = focus ?? { row: 0, bit: bits[0] ?? 0 };
    if (event.key === ' ' || event.key === 'Enter') {
      event.preventDefault();
      const next = new Set(event.key === ' ' ? chosen : []);
      if (!next.delete(keyOf(from))) next.add(keyOf(from));
      setChosen(next);
      setAnchor(from);
      if (event.key === 'Enter') show(from);
      return;
    }
    if (event.key === 'Escape' && chosen.size > 0) {
      event.preventDefault();
      setChosen(new Set());
      return;
    }
    if (!move) return;
    event.preventDefault();
    const next = {
      row: Math.max(0, Math.min(rows.length - 1, from.row + move[0])),
      bit: Math.max(0, Math.min(widest - 1, from.bit + move[1])),
    };
    setFocus(next);
    if (event.shiftKey) setChosen(new Set(box(anchor ?? from, next)));
    else {
      setAnchor(next);
      setChosen(new Set(here(next) === undefined ? [] : [keyOf(next)]));
    }
    grid.current?.querySelector<HTMLElement>(`[data-cell="${keyOf(next)}"]`)?.focus();
  }

  const choosePads = (wanted: (pad: string) => boolean): void => {
    const cells = rows.flatMap((row, index) =>
      [...row.pads].filter(([, pad]) => wanted(pad)).map(([bit]) => keyOf({ row: index, bit })),
    );
    setChosen(new Set(cells));
  };
  const roleAt = (pad: string): string | undefined => derived.byPad.get(pad)?.[0]?.net.role.kind;
  const tab = focus ?? { row: 0, bit: bits[0] ?? 0 };

  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-1.5 border-b border-rule px-3 py-1">
        <span className="text-soft">Select</span>
        <button
          type="button"
          className="button"
          onClick={() => choosePads((pad) => roleAt(pad) === 'output')}
        >
          outputs
        </button>
        <button type="button" className="button" onClick={() => choosePads((pad) => roleAt(pad) === 'input')}>
          inputs
        </button>
        <button
          type="button"
          className="button"
          onClick={() => choosePads((pad) => !derived.byPad.has(pad) && bonded?.has(pad) === true)}
        >
          free pads
        </button>
        <select
          aria-label="Select the pads of a circuit"
          value=""
          onChange={(event) =>
            choosePads(
              (pad) => derived.byPad.get(pad)?.some((one) => one.net.circuit === event.target.value) === true,
            )
          }
        >
          <option value="">circuit …</option>
          {plan.circuits.map((circuit) => (
            <option key={circuit.id} value={circuit.id}>
              {circuit.name}
            </option>
          ))}
        </select>
        <span className="ml-auto text-soft max-xl:hidden">
          drag, or Shift with a click or arrow, for several
        </span>
      </div>
      <ScrollRegion label="Ports and their bits" className="min-h-0 flex-1 px-3 pb-2">
        <table
          ref={grid}
          role="grid"
          aria-label="Bits of the ports"
          aria-multiselectable="true"
          className="w-full table-fixed border-separate border-spacing-0 select-none"
          style={{ minWidth: widest * 43 + 40 }}
          onKeyDown={walk}
          onPointerUp={() => {
            dragging.current = false;
          }}
          onPointerLeave={() => {
            dragging.current = false;
          }}
        >
          <thead>
            <tr>
              <th
                scope="col"
                className="sticky left-0 top-0 z-20 w-9 bg-paper pr-2 text-left font-medium text-soft"
              >
                port
              </th>
              {bits.map((bit) => (
                <th key={bit} scope="col" className="m sticky top-0 z-10 bg-paper py-1 font-normal text-soft">
                  {bit}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ port, pads }, row) => (
              <tr key={port}>
                <th scope="row" className="sticky left-0 z-10 bg-paper pr-2 text-left">
                  <button
                    type="button"
                    className="m !text-[13px] font-medium hover:underline"
                    title={`Select all of port ${port}`}
                    onClick={() => setChosen(new Set([...pads.keys()].map((bit) => keyOf({ row, bit }))))}
                  >
                    {port}
                  </button>
                </th>
                {bits.map((bit) => {
                  const cell = { row, bit };
                  const id = pads.get(bit);
                  const pad = id === undefined ? undefined : device.pads.get(id);
                  const isTab = tab.row === row && tab.bit === bit;
                  if (!pad || id === undefined)
                    return (
                      <td
                        key={bit}
                        data-cell={keyOf(cell)}
                        tabIndex={isTab ? 0 : -1}
                        aria-label={`port ${port} bit ${bit}, no pad`}
                        className="border-b border-r border-rule bg-transparent"
                      />
                    );
                  const nets = derived.byPad.get(id) ?? NO_NETS;
                  const first = nets[0];
                  const terminals = bonded?.get(id) ?? [];
                  const finding = nets.length > 0 ? worst.pads.get(id) : undefined;
                  const state = terminals.length === 0 && !first ? 'unbonded' : padState(pad, nets, finding);
                  const isChosen = chosen.has(keyOf(cell));
                  const words = first
                    ? `${first.net.name} ${functionWords(first)}`
                    : state === 'unbonded'
                      ? 'not bonded'
                      : 'free';
                  return (
                    <td
                      key={bit}
                      data-cell={keyOf(cell)}
                      data-pad={id}
                      aria-selected={isChosen}
                      tabIndex={isTab ? 0 : -1}
                      title={`${id}${terminals.length > 0 ? `, terminal ${terminals.join(' ')}` : ''}: ${words}`}
                      aria-label={`port ${port} bit ${bit}, pad ${id}, ${words}`}
                      className={`relative h-[46px] cursor-pointer overflow-hidden border-b border-r border-rule pl-1.5 pr-0.5 align-top leading-[1.2] ${
                        isChosen ? 'bg-pickbg' : ''
                      } ${selectedPad === id ? 'shadow-[inset_0_0_0_1.5px_var(--pick)]' : ''}`}
                      onPointerDown={(event) => press(event, cell)}
                      onPointerEnter={() => {
                        if (dragging.current && anchor) setChosen(new Set(box(anchor, cell)));
                      }}
                    >
                      <span
                        className="absolute inset-y-0 left-0 w-[3px]"
                        style={{ background: first ? circuitColour(plan, first.net.circuit) : 'transparent' }}
                      />
                      <span className="flex items-center text-soft">
                        <span className="m !text-[10.5px]">{terminals[0] ?? ''}</span>
                        <span className="ml-auto">
                          <StateGlyph state={state} severity={finding?.severity} />
                        </span>
                      </span>
                      <span
                        className={`line-clamp-2 text-[11px] [overflow-wrap:anywhere] leading-[1.1] ${finding?.severity === 'error' ? 'text-err' : ''}`}
                      >
                        {first ? breakable(nets.map((one) => one.net.name).join('+')) : ' '}
                      </span>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollRegion>
      <Masks rows={rows} chosen={chosen} />
    </div>
  );
}

/** Names may break behind an underscore, where their words do. */
const breakable = (name: string): string => name.replace(/_/g, '_\u200b');

const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, 1],
  ArrowRight: [0, -1],
};

/** The selection as masks, one line a port. Each text is copied by a click. */
function Masks({ rows, chosen }: { rows: readonly PortRow[]; chosen: ReadonlySet<string> }) {
  const [copied, setCopied] = useState('');
  const lines = rows.flatMap(({ port, width }, index) => {
    const bits = [...chosen].flatMap((key) =>
      key.startsWith(`${index}:`) ? [Number(key.split(':')[1])] : [],
    );
    return bits.length > 0
      ? [{ port, width, bits: bits.sort((a, b) => b - a), ...maskTexts(bits, width) }]
      : [];
  });
  const copy = (text: string): void => {
    void navigator.clipboard?.writeText(text).then(
      () => setCopied(text),
      () => setCopied(''),
    );
  };
  return (
    <ScrollRegion
      label="Masks of the selection"
      className="max-h-[40%] shrink-0 border-t border-rule bg-sheet px-3 py-1.5"
    >
      {lines.length === 0 ? (
        <p className="text-soft">Select bits to read their mask.</p>
      ) : (
        <table className="border-separate border-spacing-x-4 border-spacing-y-0.5 -ml-4">
          <thead>
            <tr className="text-left text-soft">
              <th className="font-normal">port</th>
              <th className="font-normal">hexadecimal</th>
              <th className="font-normal">decimal</th>
              <th className="font-normal">binary</th>
              <th className="font-normal">bits</th>
            </tr>
          </thead>
          <tbody>
            {lines.map(({ port, bits, hex, decimal, binary }) => (
              <tr key={port}>
                <th scope="row" className="m text-left">
                  {port}
                </th>
                {[hex, decimal, binary].map((text) => (
                  <td key={text}>
                    <button
                      type="button"
                      className="m hover:underline"
                      title="Copy"
                      onClick={() => copy(text.replaceAll(' ', ''))}
                    >
                      {text}
                    </button>
                  </td>
                ))}
                <td className="m text-soft">{bits.join(' ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {lines.length > 0 && <OnBits rows={rows} chosen={chosen} />}
      <span className="sr-only" role="status">
        {copied && `${copied} copied`}
      </span>
    </ScrollRegion>
  );
}

/** What can be done with the pads of the chosen bits, all at once: change their nets, or say what the unused ones become. */
function OnBits({ rows, chosen }: { rows: readonly PortRow[]; chosen: ReadonlySet<string> }) {
  const { derived, mark, dispatch } = useWorkspace();
  const bonded = derived.device.terminalsOf.get(derived.pkg.id);
  const pads = [...chosen].flatMap((key) => {
    const [row, bit] = key.split(':').map(Number);
    const pad = rows[row ?? -1]?.pads.get(bit ?? -1);
    return pad !== undefined && bonded?.has(pad) ? [pad] : [];
  });
  const nets = pads.flatMap((pad) => derived.byPad.get(pad) ?? []).map((one) => one.net);
  const unused = pads.filter(
    (pad) => !derived.byPad.has(pad) && derived.device.pads.get(pad)?.boot === undefined,
  );
  return (
    <div className="mt-1 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      {nets.length > 0 && (
        <button
          type="button"
          className="button"
          onClick={() =>
            mark(
              nets.map((net) => net.id),
              'only',
            )
          }
        >
          {nets.length === 1 ? 'Choose the net there' : `Choose the ${nets.length} nets there`}
        </button>
      )}
      {unused.length > 0 && (
        <label className="flex items-baseline gap-1.5">
          <span className="text-soft">
            {unused.length} unused {unused.length === 1 ? 'pad' : 'pads'}:
          </span>
          <select
            className="py-0"
            value=""
            onChange={(event) => {
              const { value } = event.target;
              dispatch({
                kind: 'batch',
                label: `unused pads ${unused.join(', ')}`,
                edits: unused.map((pad) =>
                  setEntry(derived.plan, 'unused', pad, value === 'as all' ? null : value),
                ),
              });
            }}
          >
            <option value="" disabled>
              become …
            </option>
            <option value="as all">as all others</option>
            {UNUSED_POLICIES.map((policy) => (
              <option key={policy} value={policy}>
                {POLICY_TITLES[policy]}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}
