'use client';

import { useMemo, useState } from 'react';
import { type Completion, completionsFor } from '@/core/bench/script/complete';
import { namesIn } from '@/core/bench/script/names';
import { useDerived } from '../workspace/context';

const MOST_SHOWN = 8;

/** What a line of a script could go on with, and which of that is chosen. */
export interface Completing {
  /** Empty while nobody types. */
  shown: readonly Completion[];
  chosen: number;
  /** The line with a completion in place of the word that is being typed. */
  taken(index: number): string;
  step(by: 1 | -1): void;
  typed(): void;
  close(): void;
}

/** Completions of a line up to where one types in it. */
export function useCompletions(line: string): Completing {
  const { derived } = useDerived();
  const [chosen, setChosen] = useState(0);
  const [open, setOpen] = useState(false);
  const { from, list } = useMemo(() => completionsFor(line, namesIn(derived)), [line, derived]);
  const shown = open && line.trim() !== '' ? list.slice(0, MOST_SHOWN) : [];
  return {
    shown,
    chosen: Math.min(chosen, Math.max(0, shown.length - 1)),
    taken(index) {
      setChosen(0);
      const one = list[index];
      return one ? `${line.slice(0, from)}${one.text} ` : line;
    },
    step(by) {
      if (shown.length > 0) setChosen((chosen + by + shown.length) % shown.length);
    },
    typed() {
      setChosen(0);
      setOpen(true);
    },
    close() {
      setOpen(false);
    },
  };
}

/** The list of them: at the field that has `id`, above it or below. */
export function CompletionList({
  id,
  completing: { shown, chosen },
  onTake,
  className,
}: {
  id: string;
  completing: Completing;
  onTake: (index: number) => void;
  className: string;
}) {
  if (shown.length === 0) return null;
  return (
    <div
      id={`${id}-list`}
      role="listbox"
      aria-label="What could come next"
      className={`absolute z-10 min-w-56 border border-ink bg-sheet py-0.5 shadow-sm ${className}`}
    >
      {shown.map((one, at) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: the field handles keys
        <div
          key={one.text}
          id={`${id}-${at}`}
          role="option"
          aria-selected={at === chosen}
          tabIndex={-1}
          className={`flex gap-3 px-2.5 leading-6 ${at === chosen ? 'bg-pickbg' : ''}`}
          onPointerDown={(event) => event.preventDefault()}
          onClick={() => onTake(at)}
        >
          <span className="m leading-6">{one.text}</span>
          <span className="ml-auto text-[12px] text-soft">{one.says}</span>
        </div>
      ))}
    </div>
  );
}

/** What a field that completes says of itself. */
export const completingProps = (id: string, { shown, chosen }: Completing) => ({
  'aria-autocomplete': 'list' as const,
  'aria-controls': shown.length > 0 ? `${id}-list` : undefined,
  'aria-activedescendant': shown.length > 0 ? `${id}-${chosen}` : undefined,
});
