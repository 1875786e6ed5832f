'use client';

import dynamic from 'next/dynamic';
import { useId, useMemo, useRef, useState } from 'react';
import { newId } from '@/core/base/text/new-id';
import { trialLines } from '@/core/bench/recording/recording';
import { namesIn } from '@/core/bench/script/names';
import { parseScript } from '@/core/bench/script/parse';
import { withIds, withNames } from '@/core/bench/script/rename';
import { timeText } from '@/core/bench/script/time-text';
import { type TrialResult, whyFailed } from '@/core/bench/trials/run-trial';
import { addTrial, changeTrial, removeTrial } from '@/core/plan/edits/make-edits';
import type { Trial } from '@/core/plan/model/types';
import { type BenchRun, runBenchTask } from '../client/bench-worker';
import { useActions, useDerived } from '../workspace/context';
import type { BenchStore } from './bench-store';
import { ScriptSteps } from './script-steps';
import { setTrialMarks } from './trial-marks';
import { UnnoticedFaults } from './unnoticed-faults';

/** The trials of the plan: run, look at, keep what was played as one. */
export function Trials({ store }: { store: BenchStore }) {
  const { derived } = useDerived();
  const trials = derived.plan.trials ?? [];
  const [results, setResults] = useState<ReadonlyMap<string, TrialResult>>(new Map());
  const [working, setWorking] = useState<{ done: number; of: number } | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const run = useRef<BenchRun | null>(null);
  const [editing, setEditing] = useState<Trial | 'new' | null>(null);

  async function runAll() {
    setWorking({ done: 0, of: trials.length });
    setSaid(null);
    run.current = runBenchTask(
      { kind: 'trials', description: derived.device.description, plan: derived.plan },
      (done, of) => setWorking({ done, of }),
    );
    const answer = await run.current.result;
    setWorking(null);
    if (answer === 'stopped') return;
    if (answer.kind !== 'trials') {
      setSaid(answer.kind === 'failed' ? answer.message : null);
      return;
    }
    setResults(new Map(answer.results.map((one) => [one.trial.id, one])));
    const marks = new Map<string, boolean>();
    for (const { nets } of answer.results)
      for (const [net, passed] of nets) marks.set(net, passed && (marks.get(net) ?? true));
    setTrialMarks(derived.plan, marks);
  }

  if (editing)
    return (
      <TrialEditor
        key={editing === 'new' ? 'new' : editing.id}
        store={store}
        trial={editing === 'new' ? undefined : editing}
        onDone={() => setEditing(null)}
      />
    );
  const failed = trials.filter((one) => results.get(one.id)?.passed === false).length;
  return (
    <section aria-label="Trials">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="mr-auto text-[17px] font-semibold">Trials</h2>
        {working ? (
          <button type="button" className="button" onClick={() => run.current?.stop()}>
            Stop ({working.done} of {working.of})
          </button>
        ) : (
          <button
            type="button"
            id="run-trials"
            className="button button-strong"
            disabled={trials.length === 0}
            title="Plays all trials from power-up (Shift T)"
            onClick={() => void runAll()}
          >
            Run all <kbd className="kbd">⇧T</kbd>
          </button>
        )}
      </div>
      {trials.length === 0 ? (
        <p className="mt-1 text-soft">
          None yet. Play something, say what you <span className="m text-ink">expect</span>, and keep it:
          whoever changes the plan later sees at once whether it still holds.{' '}
          <span className="m text-ink">mavrek trial</span> runs them on a build server.
        </p>
      ) : (
        <p className="text-soft" role="status">
          {results.size === 0
            ? `${trials.length} kept in the plan`
            : failed === 0
              ? 'all passed'
              : `${failed} of ${trials.length} failed`}
        </p>
      )}
      {said && (
        <p role="alert" className="text-err">
          {said}
        </p>
      )}
      <ul className="mt-1">
        {trials.map((trial) => (
          <TrialRow
            key={trial.id}
            trial={trial}
            result={results.get(trial.id)}
            onPlay={() => playOnBench(store, trial)}
            onEdit={() => setEditing(trial)}
          />
        ))}
      </ul>
      <p className="mt-2">
        <button type="button" className="button" onClick={() => setEditing('new')}>
          {store.recording.lines.length > 0 ? 'Keep what was played …' : 'New trial …'}
        </button>
      </p>
      <div className="mt-3 border-t border-rule pt-2">
        <UnnoticedFaults store={store} />
      </div>
    </section>
  );
}

/** Plays a trial on the bench, for whoever wants to see it. */
function playOnBench(store: BenchStore, trial: Trial): void {
  const names = namesIn(store.recording.derived);
  const [first, ...rest] = trial.lines;
  const starts = first !== undefined && /^\s*start\b/.test(first);
  store.restartFrom(starts ? first : undefined);
  const lines = starts ? rest : trial.lines;
  const { steps } = parseScript(lines, names);
  if (!steps.some(({ form }) => form === 'initialise' || form === 'step' || form === 'stage'))
    store.play('initialise');
  store.play(lines.map((line) => withNames(line, names)).join('\n'));
}

function TrialRow({
  trial,
  result,
  onPlay,
  onEdit,
}: {
  trial: Trial;
  result: TrialResult | undefined;
  onPlay: () => void;
  onEdit: () => void;
}) {
  const why = result && whyFailed(result);
  return (
    <li className="border-b border-rule py-1" data-trial={trial.name} data-passed={result?.passed}>
      <div className="flex items-baseline gap-2">
        <span aria-hidden className={result && !result.passed ? 'text-err' : 'text-soft'}>
          {result === undefined ? '○' : result.passed ? '✓' : '▲'}
        </span>
        <span className="mr-auto">
          {trial.name}
          {result && <span className="sr-only">{result.passed ? ' passed' : ' failed'}</span>}
        </span>
        <button type="button" className="link leading-6" onClick={onPlay}>
          play
        </button>
        <button type="button" className="link leading-6" onClick={onEdit}>
          edit
        </button>
      </div>
      {result && (
        <p className={`pl-5 text-[12px] ${result.passed ? 'text-soft' : 'text-err'}`}>
          {why ?? `${result.checks.length} as expected, ${timeText(result.nanoseconds)} on the bench`}
        </p>
      )}
    </li>
  );
}

const STEPS_LABEL = 'Steps, one a line';

/** The editor comes when a trial is edited. */
const TrialText = dynamic(() => import('./trial-text/trial-text').then((module) => module.TrialText), {
  ssr: false,
  loading: () => (
    <p className="h-72 border border-rule p-2 text-soft" aria-busy="true">
      Opening the text …
    </p>
  ),
});

/** A trial as text: its name and its lines. */
function TrialEditor({
  store,
  trial,
  onDone,
}: {
  store: BenchStore;
  trial: Trial | undefined;
  onDone: () => void;
}) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const names = namesIn(derived);
  const id = useId();
  const [name, setName] = useState(trial?.name ?? '');
  const [text, setText] = useState(() =>
    (trial ? trial.lines.map((line) => withNames(line, names)) : trialLines(store.recording)).join('\n'),
  );
  const lines = useMemo(() => {
    const all = text.split('\n');
    while (all.at(-1)?.trim() === '') all.pop();
    return all;
  }, [text]);
  const { problems, steps } = useMemo(() => parseScript(lines, names), [lines, names]);
  const taken = derived.plan.trials?.some((one) => one.name === name.trim() && one.id !== trial?.id) ?? false;
  const expects = JSON.stringify(steps.map((one) => one.form)).includes('expect') || text.includes('expect');

  function keep() {
    const kept: Trial = {
      id: trial?.id ?? newId(),
      name: name.trim(),
      lines: lines.map((line) => withIds(line, names)),
    };
    if (dispatch(trial ? changeTrial(derived.plan, trial, kept) : addTrial(derived.plan, kept))) onDone();
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (problems.length === 0 && name.trim() !== '' && !taken) keep();
      }}
    >
      <h2 className="text-[17px] font-semibold">{trial ? 'Trial' : 'New trial'}</h2>
      <label className="mt-1 block" htmlFor={`${id}-name`}>
        Name
      </label>
      <input
        id={`${id}-name`}
        className="w-full"
        value={name}
        placeholder="what it shows: contactors stay open"
        aria-invalid={taken}
        onChange={(event) => setName(event.target.value)}
      />
      {taken && <p className="text-err">There is a trial of that name.</p>}
      <p className="mt-2" aria-hidden>
        {STEPS_LABEL}
      </p>
      <TrialText label={STEPS_LABEL} text={text} problems={problems} onChange={setText} />
      {problems.length > 0 && (
        <ul id={`${id}-lines-wrong`} className="text-err" aria-label="What is wrong">
          {problems.slice(0, 5).map((one) => (
            <li key={`${one.line} ${one.from} ${one.message}`}>
              line {one.line + 1}, column {one.from + 1}: {one.message}
            </li>
          ))}
        </ul>
      )}
      <p className="mt-1 text-[12.5px] text-soft">
        Tab takes what is offered, Ctrl Space offers; F12 and F2 go to what a repetition counts and rename it;
        Esc and then Tab leaves the text.
      </p>
      {problems.length === 0 && !expects && (
        <p className="text-soft">Without an expectation a trial cannot pass: say what must be so.</p>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <button
          type="submit"
          className="button button-strong"
          disabled={problems.length > 0 || name.trim() === '' || taken || lines.length === 0}
        >
          Keep
        </button>
        <button type="button" className="button" onClick={onDone}>
          Cancel
        </button>
        {trial && (
          <button
            type="button"
            className="button ml-auto"
            onClick={() => {
              if (dispatch(removeTrial(derived.plan, trial))) onDone();
            }}
          >
            Remove
          </button>
        )}
      </div>
      <ScriptSteps />
    </form>
  );
}
