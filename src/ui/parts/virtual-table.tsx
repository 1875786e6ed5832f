'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useRef } from 'react';

export interface Column<Item> {
  title: string;
  /** Width in CSS grid terms. */
  width: string;
  className?: string;
  cell: (item: Item) => ReactNode;
  /** The whole text, where the cell may be cut off. */
  hint?: (item: Item) => string;
}

interface Props<Item> {
  label: string;
  columns: readonly Column<Item>[];
  items: readonly Item[];
  keyOf: (item: Item) => string;
}

const ROW = 24;

/** A table of any length: only the rows in sight are drawn. It scrolls by key as well. */
export function VirtualTable<Item>({ label, columns, items, keyOf }: Props<Item>) {
  const area = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => area.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  const template = columns.map((one) => one.width).join(' ');
  return (
    <div
      ref={area}
      tabIndex={0}
      role="table"
      aria-label={label}
      aria-rowcount={items.length + 1}
      className="h-full overflow-auto px-6"
    >
      <div role="rowgroup" className="sticky top-0 z-10 w-max min-w-full bg-paper">
        <div
          role="row"
          aria-rowindex={1}
          className="grid border-b border-ink text-soft"
          style={{ gridTemplateColumns: template }}
        >
          {columns.map(({ title }) => (
            <span key={title} role="columnheader" className="py-0.5">
              {title}
            </span>
          ))}
        </div>
      </div>
      <div role="rowgroup" className="relative w-max min-w-full" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((row) => {
          const item = items[row.index] as Item;
          return (
            <div
              key={keyOf(item)}
              role="row"
              aria-rowindex={row.index + 2}
              className="absolute left-0 grid w-full items-center whitespace-nowrap border-b border-rule"
              style={{ gridTemplateColumns: template, height: ROW, top: row.start }}
            >
              {columns.map(({ title, className, cell, hint }) => (
                <span
                  key={title}
                  role="cell"
                  title={hint?.(item)}
                  className={`overflow-hidden text-ellipsis pr-2 ${className ?? ''}`}
                >
                  {cell(item)}
                </span>
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}
