'use client';

import { type KeyboardEvent, type PointerEvent, useState } from 'react';
import type { TableArea } from '@/core/import/pdf/page';

interface Props {
  area: TableArea;
  title: string;
  chosen: boolean;
  onChoose: () => void;
  onChange: (area: TableArea) => void;
}

type Held = { axis: 'columns' | 'rows'; index: number; at: number };

/** Points of the page under the pointer. */
function pointOf(event: PointerEvent<SVGElement>): { x: number; y: number } {
  const svg = event.currentTarget.ownerSVGElement ?? (event.currentTarget as unknown as SVGSVGElement);
  const rect = svg.getBoundingClientRect();
  const view = svg.viewBox.baseVal;
  return {
    x: ((event.clientX - rect.left) * view.width) / rect.width,
    y: ((event.clientY - rect.top) * view.height) / rect.height,
  };
}

/**
 * The outline of a table on its page. The chosen one shows its borders, which are dragged, moved with the arrow keys, or taken away
 * with Delete; a double click inside sets one, of a row with Alt.
 */
export function TableOutline({ area, title, chosen, onChoose, onChange }: Props) {
  const [held, setHeld] = useState<Held | null>(null);
  const { box } = area;
  const moved = (axis: 'columns' | 'rows', index: number, at: number): TableArea => {
    const list = area[axis].map((one, i) => (i === index ? at : one)).sort((a, b) => a - b);
    const first = list[0] ?? 0;
    const last = list.at(-1) ?? 0;
    const edges = axis === 'columns' ? { left: first, right: last } : { top: first, bottom: last };
    return { ...area, [axis]: list, box: { ...box, ...edges } };
  };
  function onKey(event: KeyboardEvent, axis: 'columns' | 'rows', index: number, at: number) {
    const step = event.shiftKey ? 5 : 1;
    const back = axis === 'columns' ? 'ArrowLeft' : 'ArrowUp';
    const forth = axis === 'columns' ? 'ArrowRight' : 'ArrowDown';
    if (event.key === back || event.key === forth) {
      event.preventDefault();
      onChange(moved(axis, index, at + (event.key === back ? -step : step)));
    } else if ((event.key === 'Delete' || event.key === 'Backspace') && area[axis].length > 2) {
      event.preventDefault();
      onChange({ ...area, [axis]: area[axis].filter((_, i) => i !== index) });
    }
  }
  const border = (axis: 'columns' | 'rows', at: number, index: number) => {
    const place = held?.axis === axis && held.index === index ? held.at : at;
    const line =
      axis === 'columns'
        ? { x1: place, x2: place, y1: box.top, y2: box.bottom }
        : { x1: box.left, x2: box.right, y1: place, y2: place };
    return (
      <g key={`${axis} ${index}`}>
        <line
          {...line}
          className="pointer-events-none stroke-pick"
          strokeWidth={axis === 'columns' ? 1.2 : 0.6}
        />
        <line
          {...line}
          role="slider"
          tabIndex={0}
          aria-label={`${axis === 'columns' ? 'Border of columns' : 'Border of rows'} ${index + 1}`}
          aria-orientation={axis === 'columns' ? 'horizontal' : 'vertical'}
          aria-valuenow={Math.round(place)}
          aria-valuemin={0}
          aria-valuemax={2000}
          className={`stroke-transparent outline-none focus-visible:stroke-pick/40 ${axis === 'columns' ? 'cursor-col-resize' : 'cursor-row-resize'}`}
          strokeWidth={axis === 'columns' ? 7 : 4}
          onPointerDown={(event) => {
            event.stopPropagation();
            event.currentTarget.setPointerCapture(event.pointerId);
            setHeld({ axis, index, at });
          }}
          onPointerMove={(event) => {
            if (held?.axis !== axis || held.index !== index) return;
            const point = pointOf(event);
            setHeld({ ...held, at: axis === 'columns' ? point.x : point.y });
          }}
          onPointerUp={() => {
            if (held && held.at !== at) onChange(moved(axis, index, held.at));
            setHeld(null);
          }}
          onKeyDown={(event) => onKey(event, axis, index, at)}
        />
      </g>
    );
  };
  return (
    <g>
      {/* biome-ignore lint/a11y/useSemanticElements: a rectangle on a picture cannot be a button of HTML */}
      <rect
        x={box.left}
        y={box.top}
        width={box.right - box.left}
        height={box.bottom - box.top}
        role="button"
        tabIndex={0}
        aria-label={`${title}${chosen ? ', chosen' : ''}`}
        aria-pressed={chosen}
        className={`cursor-pointer outline-none focus-visible:fill-pick/15 ${chosen ? 'fill-pick/5 stroke-pick' : 'fill-transparent stroke-warn'}`}
        strokeWidth={chosen ? 2 : 1.2}
        strokeDasharray={chosen ? undefined : '5 3'}
        onClick={onChoose}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' && event.key !== ' ') return;
          event.preventDefault();
          onChoose();
        }}
        onDoubleClick={(event) => {
          const point = pointOf(event as unknown as PointerEvent<SVGElement>);
          const axis = event.altKey ? 'rows' : 'columns';
          const at = event.altKey ? point.y : point.x;
          onChange({ ...area, [axis]: [...area[axis], at].sort((a, b) => a - b) });
        }}
      />
      {chosen && area.rows.map((at, index) => border('rows', at, index))}
      {chosen && area.columns.map((at, index) => border('columns', at, index))}
    </g>
  );
}
