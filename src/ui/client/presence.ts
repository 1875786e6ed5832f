import { useCallback, useSyncExternalStore } from 'react';
import type { Present } from '@/core/review/presence';
import { authorName } from './author';

/** Who else has the open plan open, and where they are; and what is told to them. */
const NOBODY: readonly Present[] = [];
const others = new Map<string, readonly Present[]>();
const listeners = new Set<() => void>();
const selves = new Map<string, Self>();

interface Self {
  client: string;
  selection: string;
  view: string;
  timer: ReturnType<typeof setTimeout> | undefined;
}

/** Said again this often, so that one is not forgotten. */
const AGAIN_MS = 15_000;
/** Between two selections that are told. */
const PAUSE_MS = 120;

/** Begins to tell where one is in a plan; the answer ends that. */
export function openPresence(plan: string, client: string): () => void {
  const self: Self = { client, selection: '', view: '', timer: undefined };
  selves.set(plan, self);
  const again = setInterval(() => tell(plan, self, false), AGAIN_MS);
  const leave = (): void => tell(plan, self, true);
  window.addEventListener('pagehide', leave);
  return () => {
    clearInterval(again);
    clearTimeout(self.timer);
    window.removeEventListener('pagehide', leave);
    leave();
    selves.delete(plan);
    others.delete(plan);
  };
}

/** One is at another place. */
export function showPresence(plan: string, selection: string, view: string): void {
  const self = selves.get(plan);
  if (!self || (self.selection === selection && self.view === view)) return;
  self.selection = selection;
  self.view = view;
  clearTimeout(self.timer);
  self.timer = setTimeout(() => tell(plan, self, false), PAUSE_MS);
}

function tell(plan: string, { client, selection, view }: Self, left: boolean): void {
  // Whether it arrives matters to nobody: it is said again.
  void fetch(`/api/plans/${plan}/presence`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ client, author: authorName(), selection, view, left }),
    keepalive: true,
  }).catch(() => undefined);
}

/** The server says who is here. */
export function receivePresence(plan: string, present: readonly Present[]): void {
  const own = selves.get(plan)?.client;
  others.set(
    plan,
    present
      .filter((one) => one.client !== own)
      .sort((a, b) => (a.author + a.client < b.author + b.client ? -1 : 1)),
  );
  for (const one of listeners) one();
}

const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useOthers = (plan: string): readonly Present[] =>
  useSyncExternalStore(
    subscribe,
    () => others.get(plan) ?? NOBODY,
    () => NOBODY,
  );

/** Those at one of several places; drawn again only when those change. */
export function useOthersAt(plan: string, places: readonly string[]): readonly Present[] {
  const wanted = places.join('\n');
  const text = useSyncExternalStore(
    subscribe,
    useCallback(() => {
      const found = (others.get(plan) ?? NOBODY).filter((one) => wanted.split('\n').includes(one.selection));
      return found.length === 0 ? '' : JSON.stringify(found);
    }, [plan, wanted]),
    () => '',
  );
  return text === '' ? NOBODY : (JSON.parse(text) as Present[]);
}
