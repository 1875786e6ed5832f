import { type RefObject, useEffect } from 'react';

/** Brings what is selected into sight, wherever it was selected; nothing moves when it is in sight already. */
export function useInSight(area: RefObject<HTMLElement | null>, selector: string | undefined): void {
  useEffect(() => {
    if (selector === undefined) return;
    area.current?.querySelector(selector)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [area, selector]);
}

/** Finds the element that stands for a pad, or for a net. */
export const standsFor = (what: 'pad' | 'net', id: string | undefined): string | undefined =>
  id === undefined ? undefined : `[data-${what}="${CSS.escape(id)}"]`;
