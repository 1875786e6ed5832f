'use client';

import { useSyncExternalStore } from 'react';
import type { Plan } from '@/core/plan/model/types';

/** Which nets trials expect something of, and whether all of it came: shown in the list of nets. */
export type TrialMarks = ReadonlyMap<string, boolean>;

const NONE: TrialMarks = new Map();
/** They are of the plan that they were run on: after an edit nobody knows. */
const marks = new WeakMap<Plan, TrialMarks>();
const listeners = new Set<() => void>();

export function setTrialMarks(plan: Plan, value: TrialMarks): void {
  marks.set(plan, value);
  for (const one of listeners) one();
}

const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useTrialMarks = (plan: Plan): TrialMarks =>
  useSyncExternalStore(
    subscribe,
    () => marks.get(plan) ?? NONE,
    () => NONE,
  );
