'use client';

import { type KeyboardEvent, useEffect, useId, useRef, useState } from 'react';
import { namesIn } from '@/core/bench/script/names';
import { type BenchStore, useBenchVersion } from './bench-store';
import { CompletionList, completingProps, useCompletions } from './completion-list';

/** One line to type into: what is done to the bench, and what is expected of it. */
export function ScriptLine({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const [text, setText] = useState('');
  const [past, setPast] = useState<{ lines: string[]; at: number }>({ lines: [], at: 0 });
  const input = useRef<HTMLInputElement>(null);
  const said = useRef<HTMLDivElement>(null);
  const id = useId();
  const completing = useCompletions(text);
  const { shown } = completing;

  useEffect(() => {
    const element = said.current;
    if (element) element.scrollTop = element.scrollHeight;
  });

  function take(index: number) {
    setText(completing.taken(index));
    input.current?.focus();
  }

  function submit() {
    if (text.trim() === '') return;
    const { problems } = store.play(text.trim());
    completing.close();
    const [problem] = problems;
    if (problem) {
      input.current?.setSelectionRange(problem.from, Math.max(problem.to, problem.from));
      return;
    }
    setPast(({ lines }) => ({ lines: [...lines, text.trim()], at: lines.length + 1 }));
    setText('');
  }

  function onKeyDown(event: KeyboardEvent<HTMLInputElement>) {
    if (event.key === 'Enter') {
      event.preventDefault();
      submit();
    } else if (event.key === 'Tab' && !event.shiftKey && shown.length > 0) {
      event.preventDefault();
      take(completing.chosen);
    } else if (event.key === 'Escape') {
      if (shown.length > 0) {
        event.preventDefault();
        event.stopPropagation();
        completing.close();
      } else input.current?.blur();
    } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault();
      const step = event.key === 'ArrowDown' ? 1 : -1;
      if (shown.length > 0) completing.step(step);
      else recall(step);
    }
  }

  function recall(step: number) {
    const at = Math.max(0, Math.min(past.lines.length, past.at + step));
    setPast({ ...past, at });
    setText(past.lines[at] ?? '');
  }

  return (
    <section aria-label="Script" className="relative border-t border-ink bg-sheet">
      {store.said.length > 0 && (
        <div
          ref={said}
          role="log"
          aria-label="What came of it"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by key
          tabIndex={0}
          className="max-h-[74px] overflow-auto px-3.5 py-0.5"
        >
          {store.said.map((one, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines come at the end, and go from there
            <p key={at} className={`m whitespace-pre-wrap ${one.bad ? 'text-err' : 'text-soft'}`}>
              {one.text}
              {one.says !== '' && (
                <>
                  <span aria-hidden> → </span>
                  <span className={one.bad ? '' : 'text-ink'}>{one.says}</span>
                </>
              )}
            </p>
          ))}
        </div>
      )}
      <CompletionList id={id} completing={completing} onTake={take} className="bottom-full left-3.5" />
      <div className="flex items-center gap-2.5 px-3.5">
        <span aria-hidden className="m text-soft">
          &gt;
        </span>
        <input
          ref={input}
          id="bench-line"
          role="combobox"
          aria-label="A step: what is done, or expected"
          aria-expanded={shown.length > 0}
          {...completingProps(id, completing)}
          autoComplete="off"
          spellCheck={false}
          className="m min-w-0 flex-1 border-0 bg-sheet px-0 py-2"
          placeholder={exampleFor(store)}
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            completing.typed();
          }}
          onBlur={completing.close}
          onKeyDown={onKeyDown}
        />
        <span className="text-[12px] text-soft max-lg:hidden">
          Enter plays · Tab completes · ↑ earlier lines
        </span>
      </div>
    </section>
  );
}

/** A line in the nets of the plan. */
function exampleFor(store: BenchStore): string {
  const names = namesIn(store.recording.derived);
  const driven = names.targets.find((one) => one.driven && !one.group);
  const pressed = names.targets.find((one) => names.sorts.get(one.id)?.has('button'));
  return [
    pressed && `press ${pressed.name} 30 ms bounce`,
    driven && `${driven.name} on`,
    'wait 20 ms',
    driven && `expect ${driven.name} on`,
  ]
    .filter(Boolean)
    .join(' · ');
}
