'use client';

import { type ComponentType, useEffect, useSyncExternalStore } from 'react';

/** Between two tries to fetch a part of the page that did not come, in milliseconds. */
const AGAIN_MS = 4_000;

/**
 * A part of the page that is loaded when it is first shown. When it cannot be fetched (the server is away) the rest of the page
 * stays in use, its place says so, and it is asked for again: after a while, when the network is back, and by a button.
 */
export function later<Props extends object>(
  title: string,
  load: () => Promise<ComponentType<Props>>,
  /** It has a heading of the second level, and so has its place until it comes. */
  headed = false,
): ComponentType<Props> & { preload(): void } {
  let state: Loading<Props> = { kind: 'loading' };
  let running = false;
  const listeners = new Set<() => void>();
  const enter = (next: Loading<Props>): void => {
    state = next;
    for (const listener of listeners) listener();
  };
  function loadPart(): void {
    if (running || state.kind === 'loaded') return;
    running = true;
    load()
      .then((Part) => enter({ kind: 'loaded', Part }))
      .catch(() => enter({ kind: 'failed' }))
      .finally(() => {
        running = false;
      });
  }
  const subscribe = (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  };
  const part: Deferred<Props> = { title, headed, subscribe, state: () => state, load: loadPart };
  // Fetched ahead of time it is only cached by the browser; a failure shows when the part is wanted.
  return Object.assign((props: Props) => <DeferredPart part={part} props={props} />, {
    preload: () => void load().catch(() => undefined),
  });
}

type Loading<Props> =
  | { kind: 'loading' }
  | { kind: 'failed' }
  | { kind: 'loaded'; Part: ComponentType<Props> };

/** How far the loading of a part of the page has come, for all places that show it. */
interface Deferred<Props> {
  title: string;
  headed: boolean;
  subscribe(listener: () => void): () => void;
  state(): Loading<Props>;
  load(): void;
}

function DeferredPart<Props extends object>({ part, props }: { part: Deferred<Props>; props: Props }) {
  const shown = useSyncExternalStore(part.subscribe, part.state, part.state);
  useEffect(() => part.load(), [part]);
  if (shown.kind === 'loaded') return <shown.Part {...props} />;
  if (shown.kind === 'failed') return <NotLoaded title={part.title} again={part.load} />;
  return part.headed ? <h2 className="sr-only">{part.title}</h2> : null;
}

function NotLoaded({ title, again }: { title: string; again: () => void }) {
  useEffect(() => {
    const timer = setInterval(again, AGAIN_MS);
    window.addEventListener('online', again);
    return () => {
      clearInterval(timer);
      window.removeEventListener('online', again);
    };
  }, [again]);
  return (
    <p role="alert" className="p-4">
      {title} could not be fetched: the server does not answer. Your changes are kept in this browser. It is
      asked for again every few seconds;{' '}
      <button type="button" className="link" onClick={again}>
        try now
      </button>
      .
    </p>
  );
}
