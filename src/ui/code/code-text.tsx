'use client';

import { memo, type Ref, useEffect, useMemo, useRef } from 'react';
import { largest } from '@/core/base/lists';
import { highlightLines } from './highlight';
import type { ShownLine } from './lines';

interface Props {
  label: string;
  language: string;
  /** Today's whole text: highlighting needs it even when only some lines are shown. */
  text: string;
  lines: readonly (ShownLine | null)[];
  /** Lines, by the numbers of the first and the last, to be shown and brought into view. */
  marked?: readonly [number, number];
  /** A line was clicked on, by its number. */
  onLine?: (line: number) => void;
  /** To the next marked place, or to the one before. */
  onWalk?: (step: 1 | -1) => void;
}

const MARK = { same: ' ', added: '+', removed: '−' } as const;
const GROUND = { same: '', added: 'bg-added', removed: 'bg-removed' } as const;

/** Lines of a piece that is laid out together. */
const PIECE = 24;
/** Height of a line. */
const LINE_EM = 1.45;
/** Number, sign and edges beside a line, in characters. */
const MARGIN = 12;

/**
 * Lines in pieces. A line is known by what it says, and the how-manieth of these it is, so that one that is put in before it
 * leaves it as it is.
 */
function piecesOf(lines: readonly (ShownLine | null)[]): { key: string; line: ShownLine | null }[][] {
  const seen = new Map<string, number>();
  const pieces: { key: string; line: ShownLine | null }[][] = [];
  for (const [at, line] of lines.entries()) {
    const text = line ? `${line.kind} ${line.text}` : '⋯';
    const times = seen.get(text) ?? 0;
    seen.set(text, times + 1);
    if (at % PIECE === 0) pieces.push([]);
    pieces.at(-1)?.push({ key: `${times} ${text}`, line });
  }
  return pieces;
}

/** Highlighted lines; added and removed ones carry a sign as well as a ground. */
export function CodeText({ label, language, text, lines, marked, onLine, onWalk }: Props) {
  const line = useRef<HTMLSpanElement>(null);
  const [from, to] = marked ?? [0, -1];
  useEffect(() => {
    if (from > 0) line.current?.scrollIntoView({ block: onLine ? 'nearest' : 'center' });
  }, [from, onLine]);
  const html = useMemo(() => highlightLines(text, language), [text, language]);
  const pieces = useMemo(() => piecesOf(lines), [lines]);
  const longest = useMemo(() => Math.max(0, largest(lines.map((one) => one?.text.length ?? 0))), [lines]);
  const isMarked = ({ number }: ShownLine): boolean => number !== null && number >= from && number <= to;
  return (
    <section
      aria-label={label}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
      tabIndex={0}
      className="pane-area m h-full whitespace-pre py-2 leading-[1.45]"
      onClick={(event) => {
        const number = (event.target as HTMLElement).closest<HTMLElement>('[data-line]')?.dataset.line;
        // Whoever selects text to copy it has not chosen a line.
        if (number !== undefined && window.getSelection()?.isCollapsed !== false) onLine?.(Number(number));
      }}
      onKeyDown={(event) => {
        const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
        const starts = event.key === 'Enter' && marked === undefined;
        if (!onWalk || !(starts || (step !== 0 && marked !== undefined))) return;
        event.preventDefault();
        event.stopPropagation();
        onWalk(step === -1 ? -1 : 1);
      }}
    >
      <code className="block min-w-max" style={{ minWidth: `${longest + MARGIN}ch` }}>
        {pieces.map((piece, at) => (
          <span
            // biome-ignore lint/suspicious/noArrayIndexKey: a piece is a place in the text
            key={at}
            className="text-piece"
            style={{ containIntrinsicSize: `auto ${longest + MARGIN}ch auto ${piece.length * LINE_EM}em` }}
          >
            {piece.map(({ key, line: one }) =>
              one === null ? (
                <span key={key} className="block px-3.5 text-soft">
                  ⋯
                </span>
              ) : (
                <Line
                  key={key}
                  {...(one.number === from ? { ref: line } : {})}
                  number={one.number}
                  kind={one.kind}
                  content={one.number === null ? one.text : (html[one.number - 1] ?? '')}
                  here={!isMarked(one) ? undefined : one.number === from ? 'first' : 'on'}
                />
              ),
            )}
          </span>
        ))}
      </code>
    </section>
  );
}

interface LineProps {
  number: number | null;
  kind: ShownLine['kind'];
  /** Text of a line that is gone; HTML of one that is there. */
  content: string;
  /** It is marked: as the first of its lines, or behind that. */
  here: 'first' | 'on' | undefined;
  ref?: Ref<HTMLSpanElement>;
}

/** A line of the code. Most stay as they are after an edit, and are not parsed or drawn anew. */
const Line = memo(function Line({ number, kind, content, here, ref }: LineProps) {
  return (
    <span
      ref={ref}
      {...(number === null ? {} : { 'data-line': number })}
      {...(here === 'first' ? { 'aria-current': 'location' as const } : {})}
      className={`block px-3.5 ${here ? 'bg-pickbg' : GROUND[kind]}`}
    >
      <span className="inline-block w-8 select-none pr-2 text-right text-soft" aria-hidden>
        {number ?? ''}
      </span>
      <span className="inline-block w-4 select-none text-soft">{MARK[kind]}</span>
      {number === null ? (
        content
      ) : (
        // biome-ignore lint/security/noDangerouslySetInnerHtml: escaped by the highlighter, see highlight.ts
        <span dangerouslySetInnerHTML={{ __html: content }} />
      )}
      {'\n'}
    </span>
  );
});
