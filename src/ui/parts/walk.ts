import type { KeyboardEvent } from 'react';

/** A place in a grid of cells, both counted from 0. A list is a grid of one column. */
export interface Cell {
  row: number;
  column: number;
}

export interface Grid {
  rows: number;
  columns: number;
  /** Whether there is a cell; holes are stepped over. */
  there?(cell: Cell): boolean;
}

/** What one press of a page key skips. */
const PAGE = 20;

const MOVES: Readonly<Record<string, readonly [rows: number, columns: number]>> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  PageUp: [-PAGE, 0],
  PageDown: [PAGE, 0],
};

const within = (value: number, count: number): number => Math.max(0, Math.min(count - 1, value));

/** Where a key leads from a cell; the cell itself at an edge, undefined for keys that lead nowhere. */
export function cellAfter(key: string, from: Cell, { rows, columns, there }: Grid): Cell | undefined {
  if (rows === 0 || columns === 0) return undefined;
  if (columns === 1 && (key === 'Home' || key === 'End'))
    return { row: key === 'Home' ? 0 : rows - 1, column: 0 };
  const move = MOVES[key];
  if (!move || (columns === 1 && move[1] !== 0)) return undefined;
  const [down, right] = move;
  let next: Cell = { row: within(from.row + down, rows), column: within(from.column + right, columns) };
  const [stepDown, stepRight] = [Math.sign(down), Math.sign(right)];
  while (there && !there(next)) {
    const beyond: Cell = { row: next.row + stepDown, column: next.column + stepRight };
    if (beyond.row < 0 || beyond.row >= rows || beyond.column < 0 || beyond.column >= columns) return from;
    next = beyond;
  }
  return next;
}

/** The same for a key that was pressed, which then does nothing else. */
export function walkTo(event: KeyboardEvent, from: Cell, grid: Grid): Cell | undefined {
  const next = cellAfter(event.key, from, grid);
  if (next) event.preventDefault();
  return next;
}

/**
 * Where a key leads along columns that are one ring, as the edges of a package are: up and down from the last of one to the first
 * of the next, left and right to the same height of the neighbour. Undefined for keys that lead nowhere.
 */
export function placeAround(key: string, from: Cell, lengths: readonly number[]): Cell | undefined {
  const columns = lengths.length;
  const own = lengths[from.column];
  if (own === undefined) return undefined;
  switch (key) {
    case 'Home':
      return { row: 0, column: from.column };
    case 'End':
      return { row: own - 1, column: from.column };
    case 'ArrowLeft':
    case 'ArrowRight': {
      const column = (from.column + (key === 'ArrowRight' ? 1 : -1) + columns) % columns;
      return { row: within(from.row, lengths[column] ?? 0), column };
    }
    case 'ArrowUp':
    case 'ArrowDown': {
      const row = from.row + (key === 'ArrowDown' ? 1 : -1);
      if (row >= 0 && row < own) return { row, column: from.column };
      const column = (from.column + (row < 0 ? -1 : 1) + columns) % columns;
      return { row: row < 0 ? (lengths[column] ?? 1) - 1 : 0, column };
    }
    default:
      return undefined;
  }
}
