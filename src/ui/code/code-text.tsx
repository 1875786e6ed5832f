'use client';

import { useMemo } from 'react';
import { highlightLines } from './highlight';
import type { ShownLine } from './lines';

interface Props {
  label: string;
  language: string;
  /** Today's whole text: highlighting needs it even when only some lines are shown. */
  text: string;
  lines: readonly (ShownLine | null)[];
}

const MARK = { same: ' ', added: '+', removed: '−' } as const;
const GROUND = { same: '', added: 'bg-added', removed: 'bg-removed' } as const;

/** Highlighted lines; added and removed ones carry a sign as well as a ground. */
export function CodeText({ label, language, text, lines }: Props) {
  const html = useMemo(() => highlightLines(text, language), [text, language]);
  return (
    <section
      aria-label={label}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
      tabIndex={0}
      className="m h-full overflow-auto whitespace-pre py-2 leading-[1.45]"
    >
      <code className="block min-w-max">
        {lines.map((line, index) => {
          const key = `${index} ${line?.number}`;
          if (line === null) {
            return (
              <span key={key} className="block px-3.5 text-soft">
                ⋯
              </span>
            );
          }
          return (
            <span key={key} className={`block px-3.5 ${GROUND[line.kind]}`}>
              <span className="inline-block w-8 select-none pr-2 text-right text-soft" aria-hidden>
                {line.number ?? ''}
              </span>
              <span className="inline-block w-4 select-none text-soft">{MARK[line.kind]}</span>
              {line.number === null ? (
                line.text
              ) : (
                // biome-ignore lint/security/noDangerouslySetInnerHtml: escaped by the highlighter, see highlight.ts
                <span dangerouslySetInnerHTML={{ __html: html[line.number - 1] ?? '' }} />
              )}
              {'\n'}
            </span>
          );
        })}
      </code>
    </section>
  );
}
