'use client';

import { useState } from 'react';

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

/** A text that is changed in place: Enter or leaving the field makes it one edit, Escape takes it back. */
export function TextField({ id, label, value, placeholder, maxLength, className, refuse, onCommit }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  const problem = draft === null ? undefined : refuse?.(draft);

  function commit() {
    const text = draft?.trim();
    setDraft(null);
    if (text !== undefined && text !== value && problem === undefined) onCommit(text);
  }

  return (
    <>
      <input
        id={id}
        aria-label={label}
        aria-invalid={problem !== undefined}
        className={className}
        maxLength={maxLength}
        placeholder={placeholder}
        spellCheck={false}
        value={draft ?? value}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') {
            event.stopPropagation();
            setDraft(null);
          }
        }}
      />
      {problem && <span className="text-err">{problem}</span>}
    </>
  );
}
