'use client';

import {
  addRow,
  deleteRows,
  joinToAbove,
  type Lines,
  leaveOut,
  splitRows,
  takeIn,
} from '@/core/import/tables/edit-rows';
import type { Grid } from '@/core/import/tables/grid';

interface Props {
  grid: Grid;
  selected: Lines;
  onGrid: (grid: Grid) => void;
  onClear: () => void;
}

/** What can be done with the rows that are chosen at their numbers; each is undone by Ctrl Z. */
export function RowActions({ grid, selected, onGrid, onClear }: Props) {
  if (selected.size === 0) return null;
  const chosen = grid.rows.filter((row) => selected.has(row.line));
  const allOut = chosen.every((row) => row.out);
  const last = chosen.at(-1)?.line;
  const act = (title: string, make: () => Grid, hint: string) => (
    <button
      type="button"
      className="button !h-6 !py-0"
      title={hint}
      onClick={() => {
        onGrid(make());
        onClear();
      }}
    >
      {title}
    </button>
  );
  return (
    <div
      role="toolbar"
      aria-label="Chosen rows"
      className="flex flex-wrap items-center gap-2 border-b border-rule bg-pickbg px-6 py-1"
    >
      <span>
        {chosen.length} {chosen.length === 1 ? 'row' : 'rows'}
      </span>
      {allOut
        ? act('Take in', () => takeIn(grid, selected), 'read these rows')
        : act('Leave out', () => leaveOut(grid, selected), 'keep these rows in sight, and do not read them')}
      {act('Join to the row above', () => joinToAbove(grid, selected), 'cell by cell')}
      {act(
        'Split',
        () => splitRows(grid, selected),
        'one row for each line of a cell, or for each of its words',
      )}
      {last !== undefined && act('Add a row below', () => addRow(grid, last), 'an empty row')}
      {act('Delete', () => deleteRows(grid, selected), 'take these rows away')}
      <button type="button" className="link" onClick={onClear}>
        none
      </button>
      <span className="text-[12px] text-soft">Ctrl Z goes back</span>
    </div>
  );
}
