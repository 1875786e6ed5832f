'use client';

import { useEffect, useRef, useState } from 'react';
import { flushSync } from 'react-dom';

type Combo = typeof import('./find-combo').FindCombo;

/** After opening; by then the page is in use, and the field's list costs nobody a wait. */
const IDLE_MS = 1500;

/**
 * The one search field: nets, pads, pins, signals, aliases, and everything that can be done. The field is there at once; the list
 * that it opens is loaded when somebody comes to it, or in a quiet moment. What has been typed by then stays.
 */
export function FindField() {
  const [combo, setCombo] = useState<{ Combo: Combo; focused: boolean } | null>(null);
  const [typed, setTyped] = useState('');
  const field = useRef<HTMLInputElement>(null);

  function load(): void {
    import('./find-combo')
      .then(({ FindCombo }) =>
        // At once: a key pressed between looking for the caret and drawing the other field would be lost.
        flushSync(() =>
          setCombo((old) => old ?? { Combo: FindCombo, focused: document.activeElement === field.current }),
        ),
      )
      .catch(() => undefined);
  }
  const loading = useRef(load);
  loading.current = load;
  useEffect(() => {
    const idle = window.setTimeout(() => loading.current(), IDLE_MS);
    return () => window.clearTimeout(idle);
  }, []);

  if (combo) return <combo.Combo typed={typed} focused={combo.focused} />;
  return (
    <div className="relative w-48 min-w-14 shrink">
      <input
        ref={field}
        data-find=""
        aria-label="Find"
        className="w-full"
        placeholder="net, pad, pin, signal, register …"
        value={typed}
        onFocus={load}
        onChange={(event) => setTyped(event.target.value)}
      />
    </div>
  );
}
