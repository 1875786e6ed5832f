'use client';

import { useEffect, useRef } from 'react';
import type { WorkspaceState } from '../workspace/context';
import { COMMANDS } from './commands';

/** Listens for the commands' keys. Keys typed into a field stay there, but for those with Ctrl. */
export function useKeys(current: () => WorkspaceState, onHelp: () => void): void {
  const now = useRef({ current, onHelp });
  now.current = { current, onHelp };
  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      const typing = target.matches('input, textarea, select, [contenteditable]');
      const inDialog = target.closest('[role="dialog"], [role="menu"]') !== null;
      if (event.defaultPrevented || inDialog || (typing && !(event.ctrlKey || event.metaKey))) return;
      // A field's own undo comes first while one is typing in it.
      if (typing && event.key.toLowerCase() !== 'k') return;
      if (event.key === '?') {
        event.preventDefault();
        now.current.onHelp();
        return;
      }
      // On a button or link, Enter presses it; Space also chooses, or opens.
      if (event.key === 'Enter' && target.matches('button, a')) return;
      if (event.key === ' ' && target.matches('button, a, summary, [role="option"]')) return;
      const workspace = now.current.current();
      const command = COMMANDS.find((one) => one.matches(event) && one.applies(workspace));
      if (!command) return;
      event.preventDefault();
      command.run(workspace, event);
    }
    window.addEventListener('keydown', onKeyDown);
    return () => window.removeEventListener('keydown', onKeyDown);
  }, []);
}
