'use client';

import { createContext, useContext, useId, useState } from 'react';
import { printable } from '@/core/base/text/printable';

interface Props {
  id?: string;
  label: string;
  value: string;
  placeholder?: string;
  maxLength: number;
  className?: string;
  /** Why a text cannot be taken; undefined when it can. */
  refuse?: (text: string) => string | undefined;
  onCommit: (text: string) => void;
}

/** Whose fields these are: the plan and what is selected in it. What was typed and not taken waits there until one comes back. */
export const FieldOwner = createContext('');
const drafts = new Map<string, string>();

/**
 * A text that is changed in place: Enter or leaving the field makes it one edit, Escape takes it back. A text that cannot be taken
 * stays where it was typed, beside the reason, until it is right or given up.
 */
export function TextField({ id, label, value, placeholder, maxLength, className, refuse, onCommit }: Props) {
  const key = `${useContext(FieldOwner)} ${label}`;
  const [state, setState] = useState<{ key: string; draft: string | null }>({ key, draft: null });
  const reason = useId();
  const draft = (state.key === key ? state.draft : null) ?? drafts.get(key) ?? null;
  const problem = draft === null ? undefined : (unprintable(draft) ?? refuse?.(draft));

  function setDraft(next: string | null) {
    if (next === null) drafts.delete(key);
    setState({ key, draft: next });
  }

  function commit() {
    if (draft === null) return;
    if (problem !== undefined) {
      drafts.set(key, draft);
      return;
    }
    const text = draft.trim();
    setDraft(null);
    if (text !== value) onCommit(text);
  }

  return (
    <>
      <input
        id={id}
        aria-label={label}
        aria-invalid={problem !== undefined}
        aria-describedby={problem === undefined ? undefined : reason}
        className={className}
        maxLength={maxLength}
        placeholder={placeholder}
        spellCheck={false}
        value={draft ?? value}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') {
            if (problem === undefined) event.currentTarget.blur();
            else commit();
          }
          if (event.key === 'Escape') {
            event.stopPropagation();
            setDraft(null);
          }
        }}
      />
      {problem && (
        <span id={reason} className="text-err">
          {problem} <span className="text-soft">Esc takes it back.</span>
        </span>
      )}
    </>
  );
}

const unprintable = (text: string): string | undefined =>
  printable(text) === text ? undefined : 'It holds characters that cannot be printed.';
