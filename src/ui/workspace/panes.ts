'use client';

import { useEffect, useRef, useState } from 'react';
import { type PanelImperativeHandle, usePanelRef } from 'react-resizable-panels';

export const PANES = ['nets', 'findings', 'inspector'] as const;
export type PaneId = (typeof PANES)[number];

/** Below this width the three panes leave too little for the view; the inspector starts folded. */
const NARROW = 900;

/**
 * The panes around the view: which are folded, and how to fold them. What the user chose is remembered with their sizes; the
 * findings fold by themselves to a line where there are none and the view is not the package.
 */
export function usePanes(quiet: boolean) {
  const nets = usePanelRef();
  const inspector = usePanelRef();
  const findings = usePanelRef();
  const refs = { nets, inspector, findings };
  const [folded, setFolded] = useState<Record<PaneId, boolean>>({
    nets: false,
    inspector: false,
    findings: false,
  });
  const foldedByItself = useRef(false);
  // Looked at before the panels write their first layout.
  const [known] = useState(() => Object.keys(localStorage).some((key) => key.includes('mavrek:columns')));

  const read = (): void => {
    setFolded((old) => {
      const now = { ...old };
      for (const pane of PANES) now[pane] = refs[pane].current?.isCollapsed() ?? false;
      return PANES.some((pane) => now[pane] !== old[pane]) ? now : old;
    });
  };

  // Once, on a screen that has room for two panes only; the panels are measured a moment after they are drawn.
  useEffect(() => {
    if (window.innerWidth >= NARROW || known) return;
    const timer = setTimeout(() => inspector.current?.collapse(), 50);
    return () => clearTimeout(timer);
  }, [inspector, known]);

  useEffect(() => {
    const panel = findings.current;
    if (!panel) return;
    if (quiet && !panel.isCollapsed()) {
      foldedByItself.current = true;
      panel.collapse();
    } else if (!quiet && foldedByItself.current) {
      foldedByItself.current = false;
      panel.expand();
    }
  }, [quiet, findings]);

  return {
    refs,
    folded,
    onResize: read,
    toggle(pane: PaneId): void {
      const panel: PanelImperativeHandle | null = refs[pane].current;
      if (!panel) return;
      if (pane === 'findings') foldedByItself.current = false;
      if (panel.isCollapsed()) panel.expand();
      else panel.collapse();
      read();
    },
  };
}

export type Panes = ReturnType<typeof usePanes>;
