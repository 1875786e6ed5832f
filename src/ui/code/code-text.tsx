'use client';

import { useEffect, useMemo, useRef } from 'react';
import { highlightLines } from './highlight';
import type { ShownLine } from './lines';

interface Props {
  label: string;
  language: string;
  /** Today's whole text: highlighting needs it even when only some lines are shown. */
  text: string;
  lines: readonly (ShownLine | null)[];
  /** A line, by its number, to be shown and brought into view. */
  marked?: number;
}

const MARK = { same: ' ', added: '+', removed: '−' } as const;
const GROUND = { same: '', added: 'bg-added', removed: 'bg-removed' } as const;

/** Highlighted lines; added and removed ones carry a sign as well as a ground. */
export function CodeText({ label, language, text, lines, marked }: Props) {
  const line = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    if (marked !== undefined) line.current?.scrollIntoView({ block: 'center' });
  }, [marked]);
  const html = useMemo(() => highlightLines(text, language), [text, language]);
  return (
    <section
      aria-label={label}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
      tabIndex={0}
      className="m h-full overflow-auto whitespace-pre py-2 leading-[1.45]"
    >
      <code className="block min-w-max">
        {lines.map((one, index) => {
          const key = `${index} ${one?.number}`;
          if (one === null) {
            return (
              <span key={key} className="block px-3.5 text-soft">
                ⋯
              </span>
            );
          }
          const here = marked !== undefined && one.number === marked;
          return (
            <span
              key={key}
              {...(here ? { ref: line, 'aria-current': 'location' as const } : {})}
              className={`block px-3.5 ${here ? 'bg-pickbg outline outline-1 outline-pick' : GROUND[one.kind]}`}
            >
              <span className="inline-block w-8 select-none pr-2 text-right text-soft" aria-hidden>
                {one.number ?? ''}
              </span>
              <span className="inline-block w-4 select-none text-soft">{MARK[one.kind]}</span>
              {one.number === null ? (
                one.text
              ) : (
                // biome-ignore lint/security/noDangerouslySetInnerHtml: escaped by the highlighter, see highlight.ts
                <span dangerouslySetInnerHTML={{ __html: html[one.number - 1] ?? '' }} />
              )}
              {'\n'}
            </span>
          );
        })}
      </code>
    </section>
  );
}
