'use client';

import { type KeyboardEvent, type RefObject, useLayoutEffect, useRef, useState } from 'react';
import type { ScriptProblem } from '@/core/bench/script/steps';
import { CompletionList, completingProps, useCompletions } from './completion-list';

/** Height of a line, in pixels: that of `leading-5`. */
const LINE = 20;
const ROWS = 14;

/** The steps of a script as text: words complete as one types, and what is wrong is marked on its line. */
export function ScriptText({
  id,
  text,
  problems,
  onChange,
}: {
  id: string;
  text: string;
  problems: readonly ScriptProblem[];
  onChange: (text: string) => void;
}) {
  const [caret, setCaret] = useState(0);
  const [scroll, setScroll] = useState({ top: 0, left: 0 });
  const area = useRef<HTMLTextAreaElement>(null);
  // Where the caret goes when the text has been put in.
  const goTo = useRef<number | undefined>(undefined);
  const before = text.slice(0, caret);
  const start = before.lastIndexOf('\n') + 1;
  const rest = text.slice(caret).split('\n', 1)[0] ?? '';
  // Words complete at the end of a line, and before a space.
  const completing = useCompletions(/^(\s|$)/.test(rest) ? before.slice(start) : '');
  const row = before.split('\n').length - 1;

  useLayoutEffect(() => {
    if (goTo.current === undefined) return;
    area.current?.setSelectionRange(goTo.current, goTo.current);
    setCaret(goTo.current);
    goTo.current = undefined;
  });

  function take(index: number) {
    const line = completing.taken(index);
    const after = text.slice(caret).replace(/^ /, '');
    goTo.current = start + line.length;
    onChange(text.slice(0, start) + line + after);
    completing.close();
    area.current?.focus();
  }

  function onKeyDown(event: KeyboardEvent<HTMLTextAreaElement>) {
    if (completing.shown.length === 0) return;
    if (event.key === 'Tab' && !event.shiftKey) take(completing.chosen);
    else if (event.key === 'ArrowDown' || event.key === 'ArrowUp')
      completing.step(event.key === 'ArrowDown' ? 1 : -1);
    else if (event.key === 'Escape') {
      event.stopPropagation();
      completing.close();
    } else return;
    event.preventDefault();
  }

  return (
    <div className="relative">
      <Marks problems={problems} text={text} scroll={scroll} area={area} />
      <textarea
        ref={area}
        id={id}
        rows={ROWS}
        spellCheck={false}
        wrap="off"
        className="m relative w-full bg-transparent leading-5"
        aria-invalid={problems.length > 0}
        aria-describedby={problems.length > 0 ? `${id}-wrong` : undefined}
        {...completingProps(id, completing)}
        value={text}
        onChange={(event) => {
          setCaret(event.target.selectionEnd);
          onChange(event.target.value);
          completing.typed();
        }}
        onSelect={(event) => setCaret(event.currentTarget.selectionEnd)}
        onScroll={({ currentTarget: { scrollTop: top, scrollLeft: left } }) => setScroll({ top, left })}
        onBlur={completing.close}
        onKeyDown={onKeyDown}
      />
      <div className="absolute inset-x-2" style={{ top: (row + 1) * LINE - scroll.top + 8 }}>
        <CompletionList id={id} completing={completing} onTake={take} className="left-0" />
      </div>
    </div>
  );
}

/** Lines under what is wrong, behind the text. */
function Marks({
  problems,
  text,
  scroll,
  area,
}: {
  problems: readonly ScriptProblem[];
  text: string;
  scroll: { top: number; left: number };
  area: RefObject<HTMLTextAreaElement | null>;
}) {
  const lines = text.split('\n');
  const style = area.current ? getComputedStyle(area.current) : undefined;
  return (
    <div aria-hidden className="pointer-events-none absolute inset-0 overflow-hidden">
      <div
        className="m whitespace-pre leading-5"
        style={{
          padding: style?.padding ?? '4px 6px',
          transform: `translate(${1 - scroll.left}px, ${1 - scroll.top}px)`,
        }}
      >
        {lines.map((line, at) => {
          const problem = problems.find((one) => one.line === at);
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines are told by where they stand
            <div key={at} className="h-5 text-transparent">
              {problem && (
                <>
                  {line.slice(0, problem.from)}
                  <span className="underline decoration-err decoration-wavy underline-offset-2">
                    {line.slice(problem.from, Math.max(problem.to, problem.from + 1)) || ' '}
                  </span>
                </>
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}
