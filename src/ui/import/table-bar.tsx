'use client';

import { type TableDraft, withHeadings } from '@/core/import/compose/draft';
import type { Grid } from '@/core/import/tables/grid';
import type { Mapping, TableKind } from '@/core/import/tables/mapping';
import { countFates, type Fate } from '@/core/import/tables/records';
import type { FileTables } from './read-table-file';

interface Props {
  kind: TableKind;
  draft: TableDraft;
  fates: ReadonlyMap<number, Fate>;
  /** The file's sheets, where it has several. */
  sheets: FileTables | null;
  /** The columns are as they were when a table like this was last brought in. */
  remembered: boolean;
  onSheet: (grid: Grid) => void;
  onMapping: (mapping: Mapping) => void;
  onLeave: () => void;
}

/** Which rows headings may stand in. */
const MOST_HEADINGS = 20;

/** The table's name, what became of its rows, and where its headings are. */
export function TableBar({ kind, draft, fates, sheets, remembered, onSheet, onMapping, onLeave }: Props) {
  const { grid, mapping } = draft;
  const counts = Object.entries(countFates(fates));
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-6 py-1.5">
      <b className="font-semibold">{grid.name}</b>
      {sheets && (
        <select
          aria-label="Sheet"
          value={sheets.sheets.find((one) => one.grid.name === grid.name)?.title}
          onChange={(event) => {
            const sheet = sheets.sheets.find((one) => one.title === event.target.value);
            if (sheet) onSheet(sheet.grid);
          }}
        >
          {sheets.sheets.map((one) => (
            <option key={one.title}>{one.title}</option>
          ))}
        </select>
      )}
      <span role="status" data-testid="accounting" className="text-soft">
        {grid.rows.length} rows
        {counts.length > 0 && `: ${counts.map(([fate, count]) => `${count} ${fate}`).join(', ')}`}
      </span>
      {remembered && <span className="text-soft">columns as last time</span>}
      <label className="flex items-center gap-1.5 text-soft">
        headings in row
        <select
          className="m !h-6 !py-0"
          value={mapping.headerRow}
          onChange={(event) => onMapping(withHeadings(kind, grid, mapping, Number(event.target.value)))}
        >
          <option value={-1}>none</option>
          {grid.rows.slice(0, MOST_HEADINGS).map((row, index) => (
            <option key={row.line} value={index}>
              {row.line}
            </option>
          ))}
        </select>
      </label>
      <button type="button" className="link ml-auto" onClick={onLeave}>
        another table
      </button>
    </div>
  );
}
