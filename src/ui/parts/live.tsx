'use client';

import { type ReactNode, useSyncExternalStore } from 'react';

const never = (): (() => void) => () => undefined;

/**
 * Controls of a page as it comes from the server are disabled until its script answers them: a choice that is made before would show and
 * not be taken. Links work at once.
 */
export function Live({ children }: { children: ReactNode }) {
  const live = useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
  return (
    <fieldset role="presentation" disabled={!live} data-starting={live ? undefined : ''} className="contents">
      {children}
    </fieldset>
  );
}
