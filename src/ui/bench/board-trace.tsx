'use client';

import { useEffect, useRef, useState } from 'react';
import { fileName } from '@/core/base/text/file-name';
import { type Signal, signalsOf } from '@/core/bench/recording/signals';
import { timeText } from '@/core/bench/script/time-text';
import { doublesIn } from '@/core/bench/trace/lay-over';
import { vcdText } from '@/core/bench/trace/vcd-write';
import type { RevisionHead } from '@/core/plan/history';
import { type PlanSummary, planTitles } from '@/core/plan/summary';
import { api } from '../client/api';
import { type BenchRun, runBenchTask } from '../client/bench-worker';
import { downloadText } from '../code/download';
import { useActions, useDerived } from '../workspace/context';
import { type BenchStore, type Overlay, useBenchVersion } from './bench-store';
import { boardOverlay, compared, comparedAgain, planOverlay } from './overlays';

const MOST_BYTES = 200_000_000;
/** Takes the lanes away as a VCD, and lays one from a logic analyser over them. */
export function BoardTrace({ store }: { store: BenchStore }) {
  useBenchVersion(store);
  const { derived } = useDerived();
  const [said, setSaid] = useState<string | null>(null);
  const [reading, setReading] = useState<{ done: number; of: number } | null>(null);
  const run = useRef<BenchRun | null>(null);
  const { overlay } = store;

  function exportVcd() {
    const { bench } = store.recording.play;
    const date = new Date().toISOString();
    const text = vcdText(signalsOf(bench), bench.state.time, `${derived.plan.name} on the bench`, date);
    downloadText(fileName([derived.plan.name, derived.plan.revision], '.vcd', 'bench'), text);
  }

  async function importVcd(file: File | undefined) {
    if (!file) return;
    setSaid(null);
    if (file.size > MOST_BYTES) {
      setSaid(`${file.name} has ${Math.round(file.size / 1e6)} MB; ${MOST_BYTES / 1e6} MB are read at most`);
      return;
    }
    setReading({ done: 0, of: file.size });
    const bytes = new Uint8Array(await file.arrayBuffer());
    run.current = runBenchTask({ kind: 'vcd', bytes }, (done, of) => setReading({ done, of }));
    const answer = await run.current.result;
    setReading(null);
    if (answer === 'stopped') return;
    if (answer.kind !== 'vcd') {
      setSaid(answer.kind === 'failed' ? answer.message : null);
      return;
    }
    const { vcd } = answer;
    const [problem] = vcd.problems;
    const laid = boardOverlay(store, vcd, file.name);
    const [double] = doublesIn(vcd, signalsOf(store.recording.play.bench));
    if (problem) setSaid(`${file.name}, line ${problem.line}: ${problem.message}`);
    else if (double) setSaid(`several signals are called ${double.name}; ${double.path} is laid over`);
    else if (laid.lanes.size === 0)
      setSaid(
        `${file.name} has ${vcd.variables.length} signals, none of which is called like a net or a bus of the plan`,
      );
    if (laid.lanes.size > 0) store.lay(laid);
  }

  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-rule px-3.5 py-1 text-[12px] text-soft">
      {reading ? (
        <>
          <progress value={reading.done} max={reading.of} aria-label="Reading" />
          <button type="button" className="link" onClick={() => run.current?.stop()}>
            Stop
          </button>
        </>
      ) : overlay ? (
        <OverlayLine store={store} overlay={overlay} />
      ) : (
        <label className="link cursor-pointer focus-within:outline focus-within:outline-2">
          lay a VCD from the board over it
          <input
            type="file"
            accept=".vcd"
            className="sr-only"
            onChange={(event) => {
              void importVcd(event.target.files?.[0]);
              event.target.value = '';
            }}
          />
        </label>
      )}
      {!overlay && !reading && <OtherPlays store={store} onSaid={setSaid} />}
      <button type="button" className="link" onClick={exportVcd}>
        export as VCD
      </button>
      {said && (
        <span role="alert" className="text-err">
          {said}
        </span>
      )}
    </div>
  );
}

/** Where the same play can be played too: asked for when somebody opens the list. */
interface Others {
  revisions: readonly RevisionHead[];
  plans: readonly PlanSummary[];
}

/** Kept revisions and other plans whose play can be laid over. */
function OtherPlays({ store, onSaid }: { store: BenchStore; onSaid: (text: string | null) => void }) {
  const { planId } = useActions();
  const [others, setOthers] = useState<Others | null>(null);
  async function open() {
    if (others) return;
    const [revisions, plans] = await Promise.all([api.revisions(planId), api.plans()]);
    setOthers({
      revisions: revisions.ok ? revisions.value.revisions : [],
      plans: plans.ok ? plans.value.plans.filter((one) => one.id !== planId && !one.deletedAt) : [],
    });
  }
  async function choose(value: string) {
    onSaid(null);
    const revision = others?.revisions.find((one) => `revision ${one.name}` === value);
    const answer = revision
      ? await api.planAt(planId, revision.seq)
      : await api.plan(value.replace(/^plan /, ''));
    if (!answer.ok) {
      onSaid(answer.problems[0]?.message ?? 'that plan cannot be fetched');
      return;
    }
    const { plan } = answer.value;
    const name = revision
      ? `revision ${revision.name}`
      : `${plan.name}${plan.revision ? ` rev ${plan.revision}` : ''}`;
    const laid = await planOverlay(store, revision ? 'revision' : 'plan', plan, name);
    if (typeof laid === 'string') onSaid(laid);
    else store.lay(laid);
  }
  return (
    <select
      aria-label="Compare with another revision or plan"
      className="max-w-60 py-0"
      value=""
      onPointerDown={() => void open()}
      onFocus={() => void open()}
      onChange={(event) => void choose(event.target.value)}
    >
      <option value="" disabled>
        compare with a revision or plan …
      </option>
      {others && others.revisions.length > 0 && (
        <optgroup label="Revisions of this plan">
          {others.revisions.map((one) => (
            <option key={one.name} value={`revision ${one.name}`}>
              revision {one.name}
            </option>
          ))}
        </optgroup>
      )}
      {others && others.plans.length > 0 && (
        <optgroup label="Other plans">
          {[...planTitles(others.plans)].map(([id, title]) => (
            <option key={id} value={`plan ${id}`}>
              {title}
            </option>
          ))}
        </optgroup>
      )}
      {others && others.revisions.length + others.plans.length === 0 && (
        <option disabled>no kept revision, and no other plan</option>
      )}
    </select>
  );
}

function OverlayLine({ store, overlay }: { store: BenchStore; overlay: Overlay }) {
  const signals = signalsOf(store.recording.play.bench);
  const named = (id: string): Signal | undefined => signals.find((one) => one.id === id);
  const differing = [...overlay.differences].filter(([, list]) => list.length > 0);
  const first = differing
    .map(([id, list]) => ({ id, at: list[0]?.from ?? 0 }))
    .sort((a, b) => a.at - b.at)[0];
  const { time } = store.recording.play.bench.state;
  useEffect(() => {
    // What has been played since is compared as soon as time stands still.
    if (!store.running && overlay.upTo !== time) store.lay(comparedAgain(store, overlay));
  }, [store, overlay, time]);
  const change = (to: Partial<Overlay>): void => store.lay(compared(store, { ...overlay, ...to }));
  return (
    <>
      <span className="text-ink">{overlay.name}</span>
      <span>{overlay.lanes.size} signals</span>
      {overlay.lacks && (
        <span role="alert" className="text-err">
          {overlay.lacks}
        </span>
      )}
      <label className="flex items-center gap-1">
        shifted by
        <input
          type="number"
          className="m w-24 py-0"
          step="any"
          value={Math.round(overlay.offset) / 1e6}
          onChange={(event) => change({ offset: Number(event.target.value) * 1e6 })}
        />
        ms
      </label>
      <label className="flex items-center gap-1">
        equal within
        <input
          type="number"
          className="m w-16 py-0"
          min={0}
          step="any"
          value={overlay.tolerance / 1e6}
          onChange={(event) => change({ tolerance: Math.max(0, Number(event.target.value) * 1e6) })}
        />
        ms
      </label>
      {first ? (
        <button
          type="button"
          className="link text-err"
          onClick={() => store.setCursors({ a: first.at, b: undefined })}
        >
          {differing.length} differ, first {named(first.id)?.name} at {timeText(first.at)}
        </button>
      ) : (
        <span role="status">no difference</span>
      )}
      <button type="button" className="link" onClick={() => store.lay(undefined)}>
        take it off
      </button>
    </>
  );
}
