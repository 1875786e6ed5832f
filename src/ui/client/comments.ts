import { useEffect, useSyncExternalStore } from 'react';
import type { PlanComment } from '@/core/review/review';
import { api } from './api';

/** Comments of plans that are open, for whoever shows them: fetched when they are first looked at, and again when some are new. */
const NONE: readonly PlanComment[] = [];
const known = new Map<string, readonly PlanComment[]>();
const listeners = new Set<() => void>();

/** Asks for them again; nothing happens for a plan whose comments nobody has looked at. */
export function refreshComments(id: string): void {
  if (known.has(id)) void fetchComments(id);
}

async function fetchComments(id: string): Promise<void> {
  if (!known.has(id)) known.set(id, NONE);
  const answer = await api.comments(id);
  if (!answer.ok) return;
  known.set(id, answer.value.comments);
  for (const one of listeners) one();
}

const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export function useComments(id: string): readonly PlanComment[] {
  useEffect(() => {
    if (!known.has(id)) void fetchComments(id);
  }, [id]);
  return useSyncExternalStore(
    subscribe,
    () => known.get(id) ?? NONE,
    () => NONE,
  );
}
