'use client';

import { useSyncExternalStore } from 'react';
import type { PlanSession } from '../client/plan-session';

/** Which nets trials expect something of, and whether all of it came: shown in the list of nets. */
export type TrialMarks = ReadonlyMap<string, boolean>;

const NONE: TrialMarks = new Map();
const marks = new WeakMap<PlanSession, TrialMarks>();
const listeners = new Set<() => void>();

export function setTrialMarks(session: PlanSession, value: TrialMarks): void {
  marks.set(session, value);
  for (const one of listeners) one();
}

export const useTrialMarks = (session: PlanSession): TrialMarks =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => marks.get(session) ?? NONE,
    () => NONE,
  );
