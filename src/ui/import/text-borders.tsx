'use client';

import { type PointerEvent, useRef, useState } from 'react';

interface Props {
  text: string;
  borders: readonly number[];
  onBorders: (borders: number[]) => void;
}

const SHOWN = 14;
/** Width of a character and height of a line, in pixels. */
const CHARACTER = 7.2;
const LINE = 16;

/**
 * The first lines of a text as it is, with the borders of its columns: dragged with the pointer or moved with the arrow keys, set by
 * a double click, taken away with Delete.
 */
export function TextBorders({ text, borders, onBorders }: Props) {
  const lines = text
    .split(/\r?\n/, 200)
    .filter((line) => line.trim() !== '')
    .slice(0, SHOWN);
  const width = lines.reduce((most, line) => Math.max(most, line.length), 0) + 4;
  const area = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  const [moved, setMoved] = useState<number | null>(null);
  const at = (event: { clientX: number }): number => {
    const left = area.current?.getBoundingClientRect().left ?? 0;
    return Math.max(1, Math.min(width, Math.round((event.clientX - left) / CHARACTER)));
  };
  const put = (index: number, place: number): void =>
    onBorders([...new Set(borders.map((one, i) => (i === index ? place : one)))].sort((a, b) => a - b));
  function drop(event: PointerEvent) {
    if (held !== null) put(held, at(event));
    setHeld(null);
    setMoved(null);
  }
  return (
    <details className="border-b border-rule bg-sheet px-6 py-1">
      <summary className="text-soft">
        {borders.length} {borders.length === 1 ? 'border' : 'borders'} of columns
      </summary>
      <p className="mt-1 text-[12px] text-soft">
        Drag them, or move the focused one with the arrow keys; a double click sets one, Delete takes it away.
      </p>
      <div className="mt-1 overflow-x-auto">
        {/* biome-ignore lint/a11y/noStaticElementInteractions: the borders in it are buttons with keys of their own */}
        <div
          ref={area}
          className="m relative w-max text-[12px]"
          style={{ height: lines.length * LINE, width: width * CHARACTER, lineHeight: `${LINE}px` }}
          onPointerMove={(event) => held !== null && setMoved(at(event))}
          onPointerUp={drop}
          onDoubleClick={(event) => onBorders([...new Set([...borders, at(event)])].sort((a, b) => a - b))}
        >
          {lines.map((line, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines are told apart by their position only
            <div key={index} className="whitespace-pre" style={{ height: LINE }}>
              {[...line].map((char, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: so are characters
                <span key={i} className="inline-block text-center" style={{ width: CHARACTER }}>
                  {char}
                </span>
              ))}
            </div>
          ))}
          {borders.map((border, index) => (
            <button
              // biome-ignore lint/suspicious/noArrayIndexKey: a border that is moved stays the same border
              key={index}
              type="button"
              aria-label={`Border ${index + 1}, in front of character ${border + 1}`}
              className="absolute top-0 z-10 w-6 -translate-x-1/2 cursor-col-resize focus-visible:bg-pickbg/50"
              style={{
                left: (held === index && moved !== null ? moved : border) * CHARACTER,
                height: lines.length * LINE,
              }}
              onPointerDown={(event) => {
                area.current?.setPointerCapture(event.pointerId);
                setHeld(index);
                setMoved(border);
              }}
              onKeyDown={(event) => {
                if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
                  event.preventDefault();
                  put(index, border + (event.key === 'ArrowLeft' ? -1 : 1));
                } else if (event.key === 'Delete' || event.key === 'Backspace') {
                  event.preventDefault();
                  onBorders(borders.filter((_, i) => i !== index));
                }
              }}
            >
              <span className="-ml-0.5 block h-full w-px translate-x-[11px] bg-pick" />
            </button>
          ))}
        </div>
      </div>
    </details>
  );
}
