'use client';

import { useEffect, useState } from 'react';
import { newId } from '@/core/base/text/new-id';
import { addNets } from '@/core/plan/edits/make-edits';
import { useActions, useDerived, usePlacing, useView } from '../workspace/context';
import { GUIDE, GUIDE_NETS, type GuideKept, keepGuide, nextStep, readGuide } from './steps';

interface Props {
  /** Grows when somebody asks for the guide. */
  asked: number;
}

/** A first plan, step by step: a line above the work, never over it. It can be left and taken up again. */
export function GuideBar({ asked }: Props) {
  const { planId, setView, dispatch, select } = useActions();
  const { derived } = useDerived();
  const { view } = useView();
  const { placer } = usePlacing();
  const [kept, setKept] = useState<GuideKept | undefined>(() => readGuide(planId, localStorage));

  useEffect(() => {
    if (asked === 0) return;
    setKept((old) => ({ on: true, step: old?.step ?? 0, seen: old?.seen ?? [] }));
  }, [asked]);
  useEffect(() => {
    if (kept) keepGuide(planId, kept, localStorage);
  }, [planId, kept]);
  useEffect(() => {
    setKept((old) => (old?.on && !old.seen.includes(view) ? { ...old, seen: [...old.seen, view] } : old));
  }, [view]);

  if (!kept?.on) return null;
  const state = { derived, seen: new Set(kept.seen) };
  const step = GUIDE[kept.step];
  const change = (to: Partial<GuideKept>): void => setKept({ ...kept, ...to });
  const goTo = (at: number): void => {
    change({ step: at });
    const next = GUIDE[at];
    if (next?.view) setView(next.view);
  };

  async function doIt() {
    if (step?.does === 'place') {
      select(null);
      placer.start();
      return;
    }
    const { parseTypedNets } = await import('@/core/plan/typed-nets/typed-nets');
    const typed = parseTypedNets(
      GUIDE_NETS.join('\n'),
      derived.plan,
      derived.device.description,
      undefined,
      newId,
    );
    if (typed.marks.length === 0)
      dispatch(addNets(derived.plan, typed.circuits, typed.nets, typed.constraints));
  }

  return (
    <section
      aria-label="Guided first plan"
      className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-ink bg-pickbg px-4 py-1.5"
    >
      <ol className="flex gap-1" aria-label="Steps">
        {GUIDE.map((one, at) => (
          <li key={one.id}>
            <button
              type="button"
              aria-current={at === kept.step ? 'step' : undefined}
              aria-label={`Step ${at + 1}: ${one.title}${one.done(state) ? ', done' : ''}`}
              title={one.title}
              className={`h-6 min-w-6 border px-1 ${at === kept.step ? 'border-ink bg-ink text-sheet' : 'border-rule bg-sheet'}`}
              onClick={() => goTo(at)}
            >
              {one.done(state) ? '✓' : at + 1}
            </button>
          </li>
        ))}
      </ol>
      {step ? (
        <>
          <p className="min-w-0 flex-1 basis-80">
            <b className="font-semibold">{step.title}.</b> {step.text}
          </p>
          <span className="flex gap-2">
            {step.does && !step.done(state) && (
              <button type="button" className="button" onClick={() => void doIt()}>
                {step.does === 'place' ? 'Place all' : 'Type some for me'}
              </button>
            )}
            {step.focus && (
              <button
                type="button"
                className="button"
                onClick={() => document.querySelector<HTMLElement>(step.focus ?? '')?.focus()}
              >
                Show me where
              </button>
            )}
            <button
              type="button"
              className={`button ${step.done(state) ? 'button-strong' : ''}`}
              onClick={() => goTo(step.done(state) ? nextStep(state, kept.step + 1) : kept.step + 1)}
            >
              {step.done(state) ? 'Next' : 'Skip'}
            </button>
          </span>
        </>
      ) : (
        <p className="flex-1">
          <b className="font-semibold">That is the whole way.</b> All keys stand under{' '}
          <span className="m">?</span>; everything that can be done is also found by{' '}
          <span className="m">/</span>.
        </p>
      )}
      <button type="button" className="link leading-6" onClick={() => change({ on: false })}>
        {step ? 'Leave the guide' : 'Close'}
      </button>
    </section>
  );
}
