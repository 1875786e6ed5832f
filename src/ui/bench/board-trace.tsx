'use client';

import { useRef, useState } from 'react';
import { fileName } from '@/core/base/text/file-name';
import { timeText } from '@/core/bench/script/time-text';
import { type Difference, differences, offsetBetween } from '@/core/bench/trace/compare';
import type { Lane } from '@/core/bench/trace/lanes';
import { type Signal, signalsOf } from '@/core/bench/trace/signals';
import type { Vcd } from '@/core/bench/trace/vcd-read';
import { vcdText } from '@/core/bench/trace/vcd-write';
import { type BenchRun, runBenchTask } from '../client/bench-worker';
import { downloadText } from '../code/download';
import { useDerived } from '../workspace/context';
import { type BenchStore, type Overlay, useBenchVersion } from './bench-store';

const MOST_BYTES = 200_000_000;
/** Edges within this of each other are the same one, unless somebody says otherwise. Nanoseconds. */
const TOLERANCE = 1e6;

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
    const laid = overlayOf(store, vcd, file.name);
    if (problem) setSaid(`${file.name}, line ${problem.line}: ${problem.message}`);
    else if (laid.lanes.size === 0)
      setSaid(
        `${file.name} has ${vcd.variables.length} signals, none of which is called like a net of the plan`,
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

/** Signals of a dump on the nets of the same names, with the first edge of both at one time. */
function overlayOf(store: BenchStore, vcd: Vcd, name: string): Overlay {
  const signals = signalsOf(store.recording.play.bench);
  const lanes = new Map<string, Lane>();
  for (const signal of signals) {
    const found = vcd.variables.find(
      (one) => one.lanes.length === 1 && sameName(one.name, signal.name) && signal.kind !== 'bus',
    );
    if (found) lanes.set(signal.id, found.lanes[0] as Lane);
  }
  let offset = 0;
  for (const signal of signals) {
    const lane = lanes.get(signal.id);
    const by = lane && offsetBetween(signal.lanes[0] as Lane, lane);
    if (by === undefined) continue;
    offset = by;
    break;
  }
  return compared(store, { name, lanes, offset, tolerance: TOLERANCE, differences: new Map() });
}

const sameName = (a: string, b: string): boolean => {
  const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]+/g, '_');
  return plain(a) === plain(b);
};

/** Where the board differs from the plan. */
function compared(store: BenchStore, overlay: Overlay): Overlay {
  const { bench } = store.recording.play;
  const found = new Map<string, readonly Difference[]>();
  for (const signal of signalsOf(bench)) {
    const lane = overlay.lanes.get(signal.id);
    if (!lane) continue;
    found.set(
      signal.id,
      differences(signal.lanes[0] as Lane, lane, {
        offset: overlay.offset,
        tolerance: overlay.tolerance,
        from: 0,
        to: bench.state.time,
      }),
    );
  }
  return { ...overlay, differences: found };
}

function OverlayLine({ store, overlay }: { store: BenchStore; overlay: Overlay }) {
  const signals = signalsOf(store.recording.play.bench);
  const named = (id: string): Signal | undefined => signals.find((one) => one.id === id);
  const differing = [...overlay.differences].filter(([, list]) => list.length > 0);
  const first = differing
    .map(([id, list]) => ({ id, at: list[0]?.from ?? 0 }))
    .sort((a, b) => a.at - b.at)[0];
  const change = (to: Partial<Overlay>): void => store.lay(compared(store, { ...overlay, ...to }));
  return (
    <>
      <span className="text-ink">{overlay.name}</span>
      <span>{overlay.lanes.size} nets</span>
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
