'use client';

import { useMemo } from 'react';
import type { RecipeSource } from '@/core/description/recipe';
import type { DeviceDescription } from '@/core/description/types';
import { loadDevice } from '@/core/device/compile/load';
import type { HardwareAnswers } from '@/core/import/ask/answers';
import { bitsOfCodes, GATE, inPortOrder, recipeOfAnswers, WHERE } from '@/core/import/ask/hardware';
import { TOPICS } from '@/core/import/ask/topics';
import { Trial } from '../part/recipe-trial';
import { ProblemAlert } from '../parts/problem-alert';
import { GateQuestion } from './gate-question';
import {
  afterAnswer,
  afterText,
  back,
  forth,
  type HardwareSession,
  parsed,
  stateOf,
  textOf,
  withoutText,
} from './hardware-session';
import { PadAddresses, PortAddresses } from './port-addresses';
import { QuestionCard, StillOpen, Typed } from './question-card';

interface Props {
  description: DeviceDescription;
  session: HardwareSession;
  onSession: (session: HardwareSession) => void;
  onTake: (recipe: RecipeSource, padColumns: Record<string, Record<string, number>>) => void;
  onLeave: () => void;
}

/** The port hardware by questions, tried on a pad at once, with the recipe as text beside: both can be edited, neither is lost. */
export function HardwareQuestions({ description, session, onSession, onTake, onLeave }: Props) {
  const pads = useMemo(
    () => description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined),
    [description],
  );
  const ports = useMemo(() => inPortOrder([...new Set(pads.map((pad) => pad.port ?? ''))]), [pads]);
  const codeBits = useMemo(() => bitsOfCodes(description.functions.map((fn) => fn.mux)), [description]);
  const state = stateOf(session);
  const { answers } = state;
  const { built, problems } = useMemo(() => recipeOfAnswers(answers, ports, pads), [answers, ports, pads]);
  const text = textOf(state, built);
  const loaded = useMemo(() => {
    if (text === '') return undefined;
    const recipe = parsed(text);
    if (!recipe.ok) return recipe;
    const withColumns = description.pads.map((pad) => {
      const extra = built?.padColumns[pad.id];
      return extra ? { ...pad, columns: { ...pad.columns, ...extra } } : pad;
    });
    try {
      return loadDevice({ ...description, pads: withColumns, recipe: recipe.value });
    } catch {
      return {
        ok: false as const,
        problems: [{ place: 'recipe', message: 'lacks a part that every recipe has' }],
      };
    }
  }, [text, built, description]);

  const problemAt = (place: string): string | undefined =>
    problems.find((one) => one.place === place)?.message;
  const change = (next: Partial<HardwareAnswers>, about: string): void =>
    onSession(afterAnswer(session, { ...answers, ...next }, about, ports, pads));
  const each = answers.layout;
  const answered = TOPICS.filter((topic) => answers.topics[topic.id]?.shape !== 'none').length;

  return (
    <div className="grid h-full min-h-0 gap-x-6 lg:grid-cols-[minmax(0,1.05fr)_minmax(0,1fr)]">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <section aria-label="Questions" tabIndex={0} className="min-h-0 overflow-y-auto py-3 pl-6 pr-2">
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h2 className="text-[16px] font-semibold">The port hardware by questions</h2>
          <span className="text-soft">
            {answered} of {TOPICS.length} answered{problems.length > 0 && answered > 0 && ', not all whole'}
          </span>
          <span className="ml-auto flex gap-2">
            <button
              type="button"
              className="button"
              disabled={session.at === 0}
              onClick={() => onSession(back(session))}
            >
              Undo
            </button>
            <button
              type="button"
              className="button"
              disabled={session.at === session.states.length - 1}
              onClick={() => onSession(forth(session))}
            >
              Redo
            </button>
          </span>
        </div>
        <p className="text-[12px] text-soft">Names and numbers as the page of the document shows them.</p>
        <fieldset className="mt-2 py-1">
          <legend className="float-left w-full font-semibold">{WHERE}</legend>
          <div className="clear-both mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1">
            {(
              [
                ['port', 'registers of a port hold bits of all its pads'],
                ['pad', 'each pad has a word of its own'],
              ] as const
            ).map(([layout, title]) => (
              <label key={layout} className="inline-flex min-h-7 items-center gap-1">
                <input
                  type="radio"
                  name="layout"
                  checked={answers.layout === layout}
                  onChange={() => change({ layout }, 'layout')}
                />
                {title}
              </label>
            ))}
          </div>
          <div className="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1">
            <Typed
              label="address"
              what={`the first ${each}`}
              value={answers.base}
              placeholder="0x40000000"
              wide
              onChange={(base) => change({ base }, 'base')}
            />
            {(each === 'port' ? ports : pads).length > 1 && (
              <Typed
                label={`to the next ${each}`}
                what="registers"
                value={answers.step}
                placeholder="0x100"
                onChange={(step) => change({ step }, 'step')}
              />
            )}
            {each === 'pad' && ports.length > 1 && (
              <Typed
                label="to the next port"
                what="pads"
                value={answers.portStep}
                placeholder="no gap"
                onChange={(portStep) => change({ portStep }, 'port step')}
              />
            )}
            {each === 'pad' && (
              <Typed
                label="after reset"
                what="a word"
                value={answers.wordReset}
                placeholder="0"
                onChange={(wordReset) => change({ wordReset }, 'word reset')}
              />
            )}
            <label className="inline-flex items-baseline gap-1">
              <span className="text-soft">bits of a register</span>
              <select
                className="m !h-6 !py-0"
                value={answers.width}
                onChange={(event) => change({ width: Number(event.target.value) as 8 | 16 | 32 }, 'width')}
              >
                <option>8</option>
                <option>16</option>
                <option>32</option>
              </select>
            </label>
            <label className="inline-flex items-baseline gap-1">
              <span className="text-soft">byte order</span>
              <select
                className="!h-6 !py-0"
                value={answers.endian}
                onChange={(event) => change({ endian: event.target.value as 'little' | 'big' }, 'endian')}
              >
                <option value="little">little-endian</option>
                <option value="big">big-endian</option>
              </select>
            </label>
          </div>
          {each === 'port' && ports.length > 1 && (
            <PortAddresses
              answers={answers}
              ports={ports}
              onChange={(bases, port) => change({ bases }, `base of ${port}`)}
            />
          )}
          {each === 'pad' && <PadAddresses answers={answers} ports={ports} pads={pads} />}
          <StillOpen message={problemAt(WHERE)} />
        </fieldset>
        {TOPICS.map((topic) => {
          const answer = answers.topics[topic.id];
          return answer ? (
            <QuestionCard
              key={topic.id}
              topic={topic}
              answer={answer}
              answers={answers}
              problem={problemAt(topic.question)}
              codeBits={codeBits}
              onChange={(next, about) => change({ topics: { ...answers.topics, [topic.id]: next } }, about)}
            />
          ) : null;
        })}
        <GateQuestion
          gate={answers.gate}
          ports={ports}
          problem={problemAt(GATE)}
          onChange={(gate, about) => change({ gate }, about)}
        />
      </section>
      <div className="grid min-h-0 grid-rows-[minmax(0,1.1fr)_minmax(0,1fr)] border-rule lg:border-l">
        <section
          aria-label="Tried on a pad"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
          tabIndex={0}
          className="min-h-0 overflow-auto border-t border-rule px-4 py-3 lg:border-t-0"
        >
          <div className="mb-2 flex items-baseline gap-2">
            <h2 className="text-[16px] font-semibold">Tried on a pad</h2>
            <span className="ml-auto flex gap-2">
              <button type="button" className="button" onClick={onLeave}>
                Leave it
              </button>
              <button
                type="button"
                className="button button-strong"
                disabled={!loaded?.ok || (state.text === null && problems.length > 0)}
                title={problems.length > 0 ? problems[0]?.message : undefined}
                onClick={() => {
                  const recipe = parsed(text);
                  if (recipe.ok) onTake(recipe.value, built?.padColumns ?? {});
                }}
              >
                Take this recipe
              </button>
            </span>
          </div>
          {loaded === undefined ? (
            <p className="text-soft">
              As soon as the addresses and how direction is chosen are said, any pad can be tried here.
            </p>
          ) : loaded.ok ? (
            <Trial device={loaded.value} />
          ) : (
            <ProblemAlert problems={loaded.problems} most={8} title="It does not hold together yet:" />
          )}
        </section>
        <section
          aria-label="The recipe as text"
          className="flex min-h-0 flex-col border-t border-rule px-4 pb-3 pt-2"
        >
          <div className="flex flex-wrap items-baseline gap-x-3">
            <h2 className="font-semibold">The recipe as text</h2>
            <span className={state.text === null ? 'text-soft' : 'text-pick'}>
              {state.text === null ? 'as the answers give it' : 'edited by hand; answers are laid over it'}
            </span>
            {state.text !== null && built && (
              <button type="button" className="link" onClick={() => onSession(withoutText(session))}>
                as answered
              </button>
            )}
          </div>
          {state.replaced.length > 0 && (
            <p role="status" className="text-warn">
              The last answer replaced what was edited by hand at {state.replaced.join('; ')}. Undo brings it
              back.
            </p>
          )}
          <textarea
            aria-label="Text of the hardware"
            spellCheck={false}
            className="m mt-1 min-h-0 w-full flex-1 resize-none text-[12px]"
            value={text}
            placeholder="Empty as long as the answers give no recipe."
            onChange={(event) => onSession(afterText(session, event.target.value))}
          />
        </section>
      </div>
    </div>
  );
}
