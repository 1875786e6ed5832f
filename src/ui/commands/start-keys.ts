'use client';

import { useEffect, useRef } from 'react';

/** What can be done by key on the start page: each is a link or a button there, named by `data-start`. */
export const START_KEYS = [
  { key: 'n', keys: 'N', starts: 'new', title: 'New plan' },
  { key: 'g', keys: 'G', starts: 'guided', title: 'Guided first plan' },
  { key: 'd', keys: 'D', starts: 'demo', title: 'Look at the demo' },
  { key: 'l', keys: 'L', starts: 'plans', title: 'Go to the list of plans; ↑ ↓ walk it, Enter opens one' },
  { key: 'i', keys: 'I', starts: 'import', title: 'Import a plan file' },
  { key: 'p', keys: 'P', starts: 'parts', title: 'Parts' },
] as const;

export type Starts = (typeof START_KEYS)[number]['starts'];

export const keyOf = (starts: Starts): string => START_KEYS.find((one) => one.starts === starts)?.keys ?? '';

/** Listens for them; `?` shows all keys. */
export function useStartKeys(onHelp: () => void): void {
  const help = useRef(onHelp);
  help.current = onHelp;
  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest('input, textarea, select, [role="dialog"], [role="menu"]')) return;
      if (event.key === '?') {
        event.preventDefault();
        help.current();
        return;
      }
      if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
        if (walk(target, event.key === 'ArrowDown' ? 1 : -1)) event.preventDefault();
        return;
      }
      const found = START_KEYS.find((one) => one.key === event.key.toLowerCase());
      const element = found && document.querySelector<HTMLElement>(`[data-start="${found.starts}"]`);
      if (!element) return;
      event.preventDefault();
      if (found.starts === 'plans') element.focus();
      else element.click();
    }
    window.addEventListener('keydown', onKeyDown);
    return () => window.removeEventListener('keydown', onKeyDown);
  }, []);
}

/** From one plan of the list to the next. */
function walk(from: HTMLElement, step: 1 | -1): boolean {
  const plans = [...document.querySelectorAll<HTMLElement>('[data-start="plans"]')];
  const at = plans.indexOf(from);
  if (at < 0) return false;
  plans[at + step]?.focus();
  return true;
}
