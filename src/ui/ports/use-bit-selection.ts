import { type KeyboardEvent, type PointerEvent, type RefObject, useRef, useState } from 'react';
import { walkTo } from '../parts/walk';
import type { PortRow } from './masks';

/** A cell: row of the port, and bit. */
export interface Cell {
  row: number;
  bit: number;
}
export const keyOf = ({ row, bit }: Cell): string => `${row}:${bit}`;

export interface BitSelection {
  chosen: ReadonlySet<string>;
  /** The cell that Tab leads to. */
  tab: Cell;
  choose(keys: readonly string[]): void;
  choosePads(wanted: (pad: string) => boolean): void;
  press(event: PointerEvent, cell: Cell): void;
  /** The pointer comes over a cell, perhaps with the button down. */
  drag(cell: Cell): void;
  release(): void;
  onKeyDown(event: KeyboardEvent): void;
}

/**
 * Which bits of the ports are chosen, by pointer and by keys: one, a box from an anchor, or one by one. `show` is told of the pad
 * that was chosen by itself.
 */
export function useBitSelection(
  rows: readonly PortRow[],
  widest: number,
  grid: RefObject<HTMLElement | null>,
  show: (pad: string) => void,
): BitSelection {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [anchor, setAnchor] = useState<Cell | null>(null);
  const [focus, setFocus] = useState<Cell | null>(null);
  const dragging = useRef(false);
  const tab = focus ?? { row: 0, bit: widest - 1 };

  const padAt = (cell: Cell): string | undefined => rows[cell.row]?.pads.get(cell.bit);
  const choose = (keys: readonly string[]): void => setChosen(new Set(keys));
  const box = (a: Cell, b: Cell): string[] => {
    const cells: string[] = [];
    for (let row = Math.min(a.row, b.row); row <= Math.max(a.row, b.row); row++)
      for (let bit = Math.min(a.bit, b.bit); bit <= Math.max(a.bit, b.bit); bit++)
        if (padAt({ row, bit }) !== undefined) cells.push(keyOf({ row, bit }));
    return cells;
  };
  const toggle = (cell: Cell, among: Iterable<string>): void => {
    const next = new Set(among);
    if (!next.delete(keyOf(cell))) next.add(keyOf(cell));
    setChosen(next);
    setAnchor(cell);
  };
  const showAt = (cell: Cell): void => {
    const pad = padAt(cell);
    if (pad !== undefined) show(pad);
  };

  function press(event: PointerEvent, cell: Cell) {
    if (padAt(cell) === undefined || event.button !== 0) return;
    setFocus(cell);
    if (event.shiftKey && anchor) choose(box(anchor, cell));
    else if (event.ctrlKey || event.metaKey) toggle(cell, chosen);
    else {
      dragging.current = true;
      setAnchor(cell);
      choose([keyOf(cell)]);
      showAt(cell);
    }
  }

  /** Bits stand from the highest to the lowest, as in a register. */
  const toBit = (to: { row: number; column: number }): Cell => ({ row: to.row, bit: widest - 1 - to.column });

  function onKeyDown(event: KeyboardEvent) {
    if (event.key === ' ' || event.key === 'Enter') {
      event.preventDefault();
      toggle(tab, event.key === ' ' ? chosen : []);
      if (event.key === 'Enter') showAt(tab);
      return;
    }
    if (event.key === 'Escape' && chosen.size > 0) {
      event.preventDefault();
      choose([]);
      return;
    }
    const to = walkTo(
      event,
      { row: tab.row, column: widest - 1 - tab.bit },
      { rows: rows.length, columns: widest },
    );
    if (!to) return;
    const next = toBit(to);
    setFocus(next);
    if (event.shiftKey) choose(box(anchor ?? tab, next));
    else {
      setAnchor(next);
      choose(padAt(next) === undefined ? [] : [keyOf(next)]);
    }
    grid.current?.querySelector<HTMLElement>(`[data-cell="${keyOf(next)}"]`)?.focus();
  }

  return {
    chosen,
    tab,
    choose,
    choosePads: (wanted) =>
      choose(
        rows.flatMap((row, index) =>
          [...row.pads].filter(([, pad]) => wanted(pad)).map(([bit]) => keyOf({ row: index, bit })),
        ),
      ),
    press,
    drag: (cell) => {
      if (dragging.current && anchor) choose(box(anchor, cell));
    },
    release: () => {
      dragging.current = false;
    },
    onKeyDown,
  };
}
