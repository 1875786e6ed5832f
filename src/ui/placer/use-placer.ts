'use client';

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Weights } from '@/core/derive/candidates/terms';
import type { Device } from '@/core/device/device';
import type { Placing } from '@/core/place/model/answer';
import { placingEdit } from '@/core/place/model/moves';
import type { PlaceProgress } from '@/core/place/place-task';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import type { Plan } from '@/core/plan/model/types';
import { type PlacerRun, runPlacer } from '../client/place-worker';

export interface PlacerOptions {
  weights: Partial<Weights>;
  keep: boolean;
}

/** The automatic placer of one plan: at work, with an answer to look at, or away. */
export interface Placer {
  phase: 'away' | 'working' | 'answered' | 'failed';
  options: PlacerOptions;
  progress?: PlaceProgress;
  /** Answers so far, the first one best; the last is shown. */
  answers: readonly Placing[];
  placing?: Placing;
  message?: string;
  /** The plan as it would be; the views show it. */
  preview?: Plan;
  start(options?: Partial<PlacerOptions>): void;
  another(): void;
  apply(): void;
  /** Takes a way out of what cannot be placed, and goes on with the plan as it then is. */
  takeWayOut(edit: Edit): void;
  leave(): void;
}

const NOTHING: readonly Placing[] = [];

export function usePlacer(plan: Plan, device: Device, dispatch: (edit: Edit) => boolean): Placer {
  const [phase, setPhase] = useState<Placer['phase']>('away');
  const [options, setOptions] = useState<PlacerOptions>({ weights: {}, keep: false });
  const [progress, setProgress] = useState<PlaceProgress | undefined>();
  const [answers, setAnswers] = useState<readonly Placing[]>(NOTHING);
  const [message, setMessage] = useState<string | undefined>();
  const [base, setBase] = useState<Plan | null>(null);
  const run = useRef<PlacerRun | null>(null);

  const begin = useCallback(
    (wanted: PlacerOptions, before: readonly Placing[]) => {
      run.current?.cancel();
      setPhase('working');
      setProgress(undefined);
      setMessage(undefined);
      setBase(plan);
      setOptions(wanted);
      const task = {
        kind: 'place' as const,
        description: device.original,
        plan,
        options: { ...wanted, unlike: before.map((one) => one.placements) },
      };
      const mine = runPlacer(task, setProgress);
      run.current = mine;
      void mine.result.then((result) => {
        if (run.current !== mine) return;
        run.current = null;
        if (result === 'stopped') setPhase('away');
        else if ('failed' in result) {
          setMessage(result.failed);
          setPhase('failed');
        } else {
          setAnswers([...before, result.placing]);
          setPhase('answered');
        }
      });
    },
    [plan, device],
  );

  const leave = useCallback(() => {
    run.current?.cancel();
    run.current = null;
    setPhase('away');
    setBase(null);
    setAnswers(NOTHING);
  }, []);

  // An answer is about the plan that was asked about. When somebody changes that, the placer asks again; but whoever mends by hand
  // what cannot be placed is left to it.
  const stale = base !== null && base !== plan;
  const stuck = phase === 'failed' || (phase === 'answered' && answers.at(-1)?.status === 'infeasible');
  useEffect(() => {
    if (!stale) return;
    if (stuck) leave();
    else begin(options, NOTHING);
  }, [stale, stuck, begin, leave, options]);
  useEffect(() => () => run.current?.cancel(), []);

  const placing = phase === 'answered' && !stale ? answers.at(-1) : undefined;
  const edit = useMemo(() => {
    if (!placing || placing.moves.length === 0) return undefined;
    const count = placing.moves.length;
    return placingEdit(placing.moves, count === 1 ? 'place a net' : `place ${count} nets`);
  }, [placing]);
  const preview = useMemo(() => {
    if (!edit) return undefined;
    const next = applyEdit(plan, edit);
    return next.ok ? next.value : undefined;
  }, [edit, plan]);

  return {
    phase: stale ? (stuck ? 'away' : 'working') : phase,
    options,
    progress,
    answers,
    placing,
    message,
    preview,
    start: (wanted) => begin({ ...options, ...wanted }, NOTHING),
    another: () => begin(options, answers),
    apply: () => {
      leave();
      if (edit) dispatch(edit);
    },
    takeWayOut: (edit) => {
      // At work already when the plan changes, it begins anew.
      setPhase('working');
      if (!dispatch(edit)) setPhase('answered');
    },
    leave,
  };
}
