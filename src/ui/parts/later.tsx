'use client';

import dynamic from 'next/dynamic';
import type { ComponentType } from 'react';

/**
 * A part of the page that is loaded when it is first shown. When it cannot be fetched (the server is away) the rest of the page
 * stays in use, and its place says so.
 */
export function later<Props extends object>(
  what: string,
  load: () => Promise<ComponentType<Props>>,
  /** It has a heading of the second level, and so has its place until it comes. */
  headed = false,
): ComponentType<Props> & { preload(): void } {
  const loaded = dynamic<Props>(() => load().catch(() => () => <NotLoaded what={what} />), {
    ssr: false,
    ...(headed ? { loading: () => <h2 className="sr-only">{what}</h2> } : {}),
  });
  // Fetched ahead of time it is only cached by the browser; a failure shows when the part is wanted.
  return Object.assign(loaded, { preload: () => void load().catch(() => undefined) });
}

function NotLoaded({ what }: { what: string }) {
  return (
    <p role="alert" className="p-4">
      {what} could not be fetched: the server does not answer. Your changes are kept in this browser; when it
      is back,{' '}
      <button type="button" className="link" onClick={() => window.location.reload()}>
        read the page again
      </button>
      .
    </p>
  );
}
