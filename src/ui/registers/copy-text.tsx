'use client';

import { useState } from 'react';

/** A text that a click copies, and that says so. */
export function CopyText({ text, copied = text, title }: { text: string; copied?: string; title?: string }) {
  const [done, setDone] = useState(false);
  return (
    <button
      type="button"
      className="m min-h-6 min-w-6 text-left leading-6 hover:underline [overflow-wrap:anywhere]"
      title={title ?? 'Copy'}
      onClick={() =>
        void navigator.clipboard?.writeText(copied).then(
          () => setDone(true),
          () => setDone(false),
        )
      }
      onBlur={() => setDone(false)}
    >
      {text}
      <span role="status" className="text-soft">
        {done ? ' copied' : ''}
      </span>
    </button>
  );
}
