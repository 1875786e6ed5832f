'use client';

import { type TableDraft, withHeadings } from '@/core/import/compose/draft';
import type { StartedTable } from '@/core/import/compose/import-task';
import { type Mapping, PAD_NAMES, type PadName, type TableKind } from '@/core/import/tables/mapping';
import { DIVIDERS, type Divider, type TextLayout } from '@/core/import/tables/read-text';
import { countFates, type Fate } from '@/core/import/tables/records';

/** Where a table came from, as long as it can be taken otherwise. */
export interface TableOrigin {
  what: string;
  tables: StartedTable[];
  chosen: number;
  text?: string;
  layout?: TextLayout;
}

interface Props {
  kind: TableKind;
  draft: TableDraft;
  fates: ReadonlyMap<number, Fate>;
  origin: TableOrigin | null;
  /** The columns are as they were when a table like this was last brought in. */
  remembered: boolean;
  onSheet: (index: number) => void;
  onLayout: (layout: TextLayout) => void;
  onMapping: (mapping: Mapping) => void;
  /** Another column at the right. */
  onColumn: () => void;
  onLeave: () => void;
}

/** Which rows headings may stand in. */
const MOST_HEADINGS = 40;

/** The table's name, what became of its rows, where its headings are, and how it is divided. */
export function TableBar(props: Props) {
  const { kind, draft, fates, origin, remembered, onSheet, onLayout, onMapping, onColumn, onLeave } = props;
  const { grid, mapping } = draft;
  const counts = Object.entries(countFates(fates));
  const noPad = !mapping.roles.includes('pad') && mapping.roles.includes('bit');
  const headings = (headerRow: number, headerRows?: number): void =>
    onMapping(withHeadings(kind, grid, mapping, headerRow, headerRows ?? mapping.headerRows ?? 1));
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-6 py-1.5">
      <b className="font-semibold">{grid.name}</b>
      {origin && origin.tables.length > 1 && (
        <select
          aria-label="Sheet"
          value={origin.chosen}
          onChange={(event) => onSheet(Number(event.target.value))}
        >
          {origin.tables.map((one, index) => (
            <option key={one.title} value={index}>
              {one.title}
              {one.hidden ? ' (hidden)' : ''}
            </option>
          ))}
        </select>
      )}
      <span role="status" data-testid="accounting" className="text-soft">
        {grid.rows.length} rows
        {counts.length > 0 && `: ${counts.map(([fate, count]) => `${count} ${fate}`).join(', ')}`}
      </span>
      {origin?.tables[origin.chosen]?.matrix && (
        <span className="text-soft">a ball grid, read as a list of balls</span>
      )}
      {remembered && <span className="text-soft">columns as last time</span>}
      {origin?.text !== undefined && origin.layout && (
        <label className="flex items-center gap-1.5 text-soft">
          divided by
          <select
            className="!h-6 !py-0"
            value={origin.layout.divider}
            onChange={(event) => onLayout({ divider: event.target.value as Divider })}
          >
            {DIVIDERS.map((one) => (
              <option key={one.id} value={one.id}>
                {one.title}
              </option>
            ))}
          </select>
        </label>
      )}
      <label className="flex items-center gap-1.5 text-soft">
        headings end in row
        <select
          className="m !h-6 !py-0"
          value={mapping.headerRow}
          onChange={(event) => headings(Number(event.target.value))}
        >
          <option value={-1}>none</option>
          {grid.rows.slice(0, MOST_HEADINGS).map((row, index) => (
            <option key={row.line} value={index}>
              {row.line}
            </option>
          ))}
        </select>
      </label>
      {mapping.headerRow > 0 && (
        <label className="flex items-center gap-1.5 text-soft">
          and take
          <select
            className="m !h-6 !py-0"
            value={mapping.headerRows ?? 1}
            onChange={(event) => headings(mapping.headerRow, Number(event.target.value))}
          >
            {[1, 2, 3, 4].slice(0, mapping.headerRow + 1).map((count) => (
              <option key={count} value={count}>
                {count === 1 ? '1 row' : `${count} rows`}
              </option>
            ))}
          </select>
        </label>
      )}
      {noPad && (
        <label className="flex items-center gap-1.5 text-soft">
          pads are called
          <select
            className="m !h-6 !py-0"
            value={mapping.padName ?? PAD_NAMES[0]}
            onChange={(event) => onMapping({ ...mapping, padName: event.target.value as PadName })}
          >
            {PAD_NAMES.map((one) => (
              <option key={one} value={one}>
                {one.replace('{port}', 'A').replace('{bit}', '7')}
              </option>
            ))}
          </select>
        </label>
      )}
      <button type="button" className="link ml-auto" onClick={onColumn}>
        add a column
      </button>
      <button type="button" className="link" onClick={onLeave}>
        another table
      </button>
    </div>
  );
}
