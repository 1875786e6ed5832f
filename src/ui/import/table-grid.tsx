'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { type ClipboardEvent, type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { columnsOf, type Grid, type GridRow, headingsOf } from '@/core/import/tables/grid';
import type { Mapping, TableKind } from '@/core/import/tables/mapping';
import type { Fate, TableProblem } from '@/core/import/tables/records';
import { walkTo } from '../parts/walk';
import { type CellPlace, EditedCell, GridCell } from './grid-cell';
import { RoleField } from './role-field';

interface Props {
  kind: TableKind;
  grid: Grid;
  mapping: Mapping;
  fates: ReadonlyMap<number, Fate>;
  problems: readonly TableProblem[];
  active: CellPlace | null;
  /** Lines of the rows that are chosen. */
  selected: ReadonlySet<number>;
  onSelect: (lines: ReadonlySet<number>) => void;
  onActive: (place: CellPlace) => void;
  onRole: (column: number, role: string) => void;
  onCell: (place: CellPlace, text: string) => void;
  /** Several cells from the clipboard, the first at a place. */
  onPaste: (place: CellPlace, text: string) => void;
  onUndo: () => void;
}

const ROW = 23;
/** Height of the headings with their meanings. */
const HEAD = 50;

/** The user's table as it is, with what each column means above it; every cell can be changed. */
export function TableGrid(props: Props) {
  const { kind, grid, mapping, fates, problems, active, selected, onSelect } = props;
  const { onActive, onRole, onCell, onPaste, onUndo } = props;
  const anchor = useRef<number | null>(null);
  const headings = useMemo(() => headingsOf(grid, mapping), [grid, mapping]);
  const area = useRef<HTMLDivElement>(null);
  const [editing, setEditing] = useState<string | null>(null);
  const width = columnsOf(grid);
  const widths = useMemo(() => columnWidths(grid, mapping.roles, width), [grid, mapping.roles, width]);
  const virtual = useVirtualizer({
    count: grid.rows.length,
    getScrollElement: () => area.current,
    estimateSize: () => ROW,
    overscan: 12,
    // The head stays on top.
    scrollMargin: HEAD,
    scrollPaddingStart: HEAD,
  });
  const at = active ? grid.rows.findIndex((row) => row.line === active.line) : -1;
  const flawed = useMemo(() => {
    const cells = new Map<string, TableProblem>();
    const rows = new Map<number, TableProblem>();
    for (const one of problems) {
      if (one.line === undefined) continue;
      if (one.column !== undefined && !cells.has(`${one.line}:${one.column}`))
        cells.set(`${one.line}:${one.column}`, one);
      if (!rows.has(one.line) || one.severity === 'error') rows.set(one.line, one);
    }
    return { cells, rows };
  }, [problems]);

  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at);
  }, [at, virtual]);

  const focusCell = (place: CellPlace): void => {
    onActive(place);
    requestAnimationFrame(() =>
      area.current?.querySelector<HTMLElement>(`[data-cell="${place.line}:${place.column}"]`)?.focus(),
    );
  };
  const move = (rows: number, columns: number): void => {
    const from = Math.max(at, 0);
    const row = grid.rows[Math.max(0, Math.min(grid.rows.length - 1, from + rows))];
    const column = Math.max(0, Math.min(width - 1, (active?.column ?? 0) + columns));
    if (row) focusCell({ line: row.line, column });
  };
  /** One row, with Shift all from the one before, with Ctrl one more. */
  const select = (line: number, { shift, ctrl }: { shift: boolean; ctrl: boolean }): void => {
    const lines = grid.rows.map((row) => row.line);
    const from = anchor.current === null ? -1 : lines.indexOf(anchor.current);
    const to = lines.indexOf(line);
    if (shift && from >= 0) {
      onSelect(
        new Set([...(ctrl ? selected : []), ...lines.slice(Math.min(from, to), Math.max(from, to) + 1)]),
      );
      return;
    }
    anchor.current = line;
    const next = new Set(ctrl ? selected : []);
    if (selected.has(line) && (ctrl || selected.size === 1)) next.delete(line);
    else next.add(line);
    onSelect(next);
  };
  const commit = (): void => {
    if (editing !== null && active) onCell(active, editing);
    setEditing(null);
  };

  function onKey(event: KeyboardEvent) {
    if ((event.target as HTMLElement).matches('select, input:not([data-edit])')) return;
    if (editing !== null) {
      if (event.key === 'Enter' || event.key === 'Tab') {
        event.preventDefault();
        commit();
        move(event.key === 'Enter' ? 1 : 0, event.key === 'Tab' ? 1 : 0);
      } else if (event.key === 'Escape') {
        event.preventDefault();
        setEditing(null);
        if (active) focusCell(active);
      }
      return;
    }
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
      event.preventDefault();
      onUndo();
      return;
    }
    if (event.key === ' ' && event.shiftKey && active) {
      event.preventDefault();
      select(active.line, { shift: false, ctrl: true });
      return;
    }
    const from = { row: Math.max(at, 0), column: active?.column ?? 0 };
    const to = walkTo(event, from, { rows: grid.rows.length, columns: width });
    if (to) {
      const row = grid.rows[to.row];
      if (row) focusCell({ line: row.line, column: to.column });
    } else if ((event.key === 'Enter' || event.key === 'F2') && active) {
      event.preventDefault();
      setEditing(grid.rows[at]?.cells[active.column] ?? '');
    } else if (event.key === 'Delete' && active) {
      event.preventDefault();
      onCell(active, '');
    } else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && active) {
      event.preventDefault();
      setEditing(event.key);
    }
  }

  function onClipboard(event: ClipboardEvent) {
    if (editing !== null || !active) return;
    const text = event.clipboardData.getData('text/plain');
    if (text === '') return;
    event.preventDefault();
    onPaste(active, text);
  }

  const template = `54px ${widths.map((one) => `${one}px`).join(' ')}`;
  return (
    <div
      ref={area}
      role="grid"
      aria-label={kind === 'pinout' ? 'Pinout table' : 'Function table'}
      aria-rowcount={grid.rows.length}
      aria-colcount={width}
      tabIndex={-1}
      className="h-full overflow-auto"
      onKeyDown={onKey}
      onPaste={onClipboard}
    >
      <div className="relative w-max min-w-full" style={{ height: virtual.getTotalSize() + HEAD }}>
        <div
          role="row"
          className="sticky top-0 z-20 grid border-b border-ink bg-sheet"
          style={{ gridTemplateColumns: template, height: HEAD }}
        >
          <span role="columnheader" className="sticky left-0 z-10 bg-sheet pl-2 pt-1 text-[12px] text-soft">
            column is
          </span>
          {widths.map((_, column) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: columns of a table are told apart by their position only
            <span key={column} role="columnheader" className="border-l border-rule px-1 pt-0.5">
              <RoleField
                kind={kind}
                role={mapping.roles[column] ?? 'ignore'}
                heading={headings[column] || `column ${column + 1}`}
                onChange={(role) => onRole(column, role)}
              />
            </span>
          ))}
        </div>
        {virtual.getVirtualItems().map((item) => {
          const row = grid.rows[item.index] as GridRow;
          const fate = fates.get(row.line);
          const flaw = flawed.rows.get(row.line);
          const quiet = fate !== undefined && !['used', 'joined to the row above', 'refused'].includes(fate);
          return (
            <div
              key={row.line}
              role="row"
              aria-rowindex={item.index + 1}
              aria-selected={selected.has(row.line)}
              className={`absolute left-0 grid w-full border-b border-rule ${
                selected.has(row.line) ? 'bg-pickbg' : quiet ? 'bg-sheet text-soft' : ''
              } ${row.out ? 'line-through' : ''}`}
              style={{ gridTemplateColumns: template, height: ROW, top: item.start }}
            >
              <span
                role="rowheader"
                title={`${flaw?.message ?? fate ?? ''} · a click chooses the row, with Shift several`}
                className={`m sticky left-0 z-10 flex cursor-pointer select-none items-center justify-end gap-1 pr-1.5 text-soft ${
                  selected.has(row.line) ? 'bg-pickbg' : 'bg-sheet'
                }`}
                onClick={(event) =>
                  select(row.line, { shift: event.shiftKey, ctrl: event.ctrlKey || event.metaKey })
                }
              >
                {flaw ? (
                  <span className={FLAWS[flaw.severity][1]}>{FLAWS[flaw.severity][0]}</span>
                ) : (
                  <span>{FATE_SIGNS[fate ?? 'used']}</span>
                )}
                {row.line}
              </span>
              {widths.map((_, column) => {
                const place = { line: row.line, column };
                const isActive = active?.line === row.line && active.column === column;
                const text = row.cells[column] ?? '';
                return isActive && editing !== null ? (
                  // biome-ignore lint/suspicious/noArrayIndexKey: see above
                  <EditedCell key={column} place={place} text={editing} onText={setEditing} onDone={commit} />
                ) : (
                  <GridCell
                    // biome-ignore lint/suspicious/noArrayIndexKey: see above
                    key={column}
                    place={place}
                    text={text}
                    flaw={flawed.cells.get(`${row.line}:${column}`)}
                    active={isActive}
                    tabbed={isActive || (!active && item.index === 0 && column === 0)}
                    ignored={mapping.roles[column] === 'ignore'}
                    onClick={() => {
                      if (editing !== null) commit();
                      focusCell(place);
                    }}
                    onDoubleClick={() => {
                      onActive(place);
                      setEditing(text);
                    }}
                  />
                );
              })}
            </div>
          );
        })}
      </div>
    </div>
  );
}

const FLAWS: Record<TableProblem['severity'], [sign: string, colour: string]> = {
  error: ['▲', 'text-err'],
  question: ['?', 'text-pick'],
  warning: ['△', 'text-warn'],
};

const FATE_SIGNS: Record<Fate, string> = {
  headings: 'H',
  used: '',
  'joined to the row above': '↳',
  empty: '–',
  'section title': '§',
  'headings again': 'H',
  'note text': '¹',
  hidden: '·',
  'left out': '×',
  'asked about': '?',
  refused: '▲',
};

/** Wide enough for nearly all cells: a title in the first column should not make it wide. */
function columnWidths(grid: Grid, roles: readonly string[], width: number): number[] {
  const sample = [...grid.rows.slice(0, 80), ...grid.rows.slice(-20)];
  return Array.from({ length: width }, (_, column) => {
    const lengths = sample.map((row) => (row.cells[column] ?? '').length).sort((a, b) => a - b);
    const most = lengths[Math.floor(lengths.length * 0.92)] ?? 0;
    const least = roles[column]?.includes(':') ? 142 : 84;
    return Math.max(least, Math.min(230, most * 7 + 14));
  });
}
