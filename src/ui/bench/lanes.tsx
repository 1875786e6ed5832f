'use client';

import {
  type KeyboardEvent,
  type PointerEvent,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { stateWords, voltsWords } from '@/core/bench/engine/explain';
import { valueText } from '@/core/bench/engine/firmware';
import { entryOf } from '@/core/bench/engine/log';
import { type Signal, signalsOf } from '@/core/bench/recording/signals';
import { timeText } from '@/core/bench/script/time-text';
import { changeAt, type Lane } from '@/core/bench/trace/lanes';
import { useActions, useSelection } from '../workspace/context';
import { type BenchStore, useBenchVersion } from './bench-store';
import { AXIS_HEIGHT, busAt, type Inks, LANE_HEIGHT, type LanePicture, paintLanes } from './paint-lanes';
import {
  ChangeTimes,
  changesAxis,
  linearAxis,
  onAxis,
  panned,
  type Stretch,
  type TimeAxis,
  whole,
  zoomed,
} from './time-axis';

const inksOf = (element: Element): Inks => {
  const style = getComputedStyle(element);
  const ink = (name: string): string => style.getPropertyValue(name).trim();
  return {
    ink: ink('--ink'),
    soft: ink('--soft'),
    rule: ink('--rule'),
    pick: ink('--pick'),
    pickbg: ink('--pickbg'),
    err: ink('--err'),
    paper: ink('--paper'),
    other: ink('--c0'),
  };
};

/** When the last operation of initialisation was done. */
export function initialisedAt(store: BenchStore): number | undefined {
  const { setup, state } = store.recording.play.bench;
  if (state.operation < setup.operations.length) return undefined;
  const { entries } = state.log;
  for (let at = 0; at < entries.length; at++) {
    const entry = entries[at];
    if (entry?.kind === 'operation' && entry.index === setup.operations.length - 1) return entry.time;
  }
  return 0;
}

/** What a change was caused by, in words, and the operation where it was one. */
export function causeOf(store: BenchStore, cause: number): { text: string; operation?: number } {
  const { setup, state } = store.recording.play.bench;
  const entry = entryOf(state.log, cause);
  switch (entry?.kind) {
    case 'operation':
      return { text: `operation ${entry.index + 1}`, operation: entry.index };
    case 'call':
    case 'act':
      return { text: entry.text };
    case 'part': {
      const part = setup.parts[entry.part]?.attachment;
      return { text: part ? `the far end: ${part.kind.replaceAll('-', ' ')}` : 'the far end' };
    }
    case 'interrupt':
      return { text: `the handler of ${entry.net}` };
    case 'start':
      return { text: `power-up from ${entry.text}` };
    case 'wake':
      return { text: `wake-up by ${entry.net}` };
    default:
      return { text: 'an earlier step' };
  }
}

/** Levels over time: a lane for each net and bus, with cursors. */
export function Lanes({ store }: { store: BenchStore }) {
  const version = useBenchVersion(store);
  const { selectedNet } = useSelection();
  const { select } = useActions();
  const { bench } = store.recording.play;
  const [changing, setChanging] = useState(false);
  const all = signalsOf(bench);
  const signals = changing ? all.filter((one) => one.id === selectedNet?.id || changes(store, one)) : all;
  const end = bench.state.time;
  const [byChange, setByChange] = useState(false);
  const axis = useAxis(store, signals, byChange);
  const [stretch, setStretch] = useState<Stretch | undefined>(undefined);
  const shown = stretch ?? whole(axis);
  const latest = useRef(axis);
  latest.current = axis;
  const [scroll, setScroll] = useState(0);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const area = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [pointed, setPointed] = useState<{ signal: Signal; time: number } | null>(null);
  const drag = useRef<{ x: number; stretch: Stretch; moved: boolean } | null>(null);
  const theme = useTheme();

  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return;
    const watch = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    );
    watch.observe(element);
    return () => watch.disconnect();
  }, []);

  const initialised = initialisedAt(store);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || size.width === 0) return;
    void version;
    void theme;
    const ratio = globalThis.devicePixelRatio || 1;
    element.width = Math.round(size.width * ratio);
    element.height = Math.round(size.height * ratio);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    const picture: LanePicture = {
      signals,
      axis,
      shown,
      ...size,
      scroll,
      end,
      initialised,
      cursors: store.cursors,
      selected: selectedNet?.id,
      ...(store.overlay ? { overlay: store.overlay } : {}),
    };
    paintLanes(context, picture, inksOf(element));
  });

  const timeAt = (x: number): number =>
    axis.time(shown.from + (x / Math.max(1, size.width)) * (shown.to - shown.from));
  const placeOf = (event: PointerEvent): { x: number; y: number } => {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const signalAt = (y: number): Signal | undefined =>
    y < AXIS_HEIGHT ? undefined : signals[Math.floor((y - AXIS_HEIGHT + scroll) / LANE_HEIGHT)];

  function onPointerMove(event: PointerEvent) {
    const { x, y } = placeOf(event);
    if (drag.current && event.buttons === 1) {
      const by = (drag.current.x - x) / Math.max(1, size.width);
      if (Math.abs(drag.current.x - x) > 3) drag.current.moved = true;
      if (drag.current.moved) setStretch(panned(drag.current.stretch, by, axis));
      return;
    }
    const signal = signalAt(y);
    setPointed(signal ? { signal, time: timeAt(x) } : null);
  }

  function onPointerUp(event: PointerEvent) {
    const { x, y } = placeOf(event);
    const moved = drag.current?.moved;
    drag.current = null;
    if (moved) return;
    const time = snapped(
      signalAt(y),
      timeAt(x),
      axis,
      (4 / Math.max(1, size.width)) * (shown.to - shown.from),
    );
    if (event.shiftKey) store.setCursors({ ...store.cursors, b: time });
    else store.setCursors({ ...store.cursors, a: time });
    follow(signalAt(y), time);
  }

  /** A change leads to what made it. */
  function follow(signal: Signal | undefined, time: number) {
    const lane = signal?.lanes[0];
    if (!signal || !lane || signal.lanes.length > 1) return;
    const at = changeAt(lane, time);
    const cause = at < 0 ? undefined : causeOf(store, lane.causes[at] as number);
    if (cause?.operation !== undefined) store.lookAt(cause.operation);
    if (signal.kind !== 'bus') select({ kind: 'net', id: signal.id });
  }

  const zoom = useCallback(
    (factor: number, part = 0.5) =>
      setStretch((now) => zoomed(now ?? whole(latest.current), factor, part, latest.current)),
    [],
  );
  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return;
    // React's own wheel listener cannot keep the page from zooming.
    const onWheel = (event: WheelEvent): void => {
      const box = element.getBoundingClientRect();
      if (event.ctrlKey || event.metaKey) {
        event.preventDefault();
        zoom(1.2 ** Math.sign(event.deltaY), (event.clientX - box.left) / box.width);
      } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        event.preventDefault();
        const by = (event.deltaX || event.deltaY) / box.width;
        setStretch((now) => panned(now ?? whole(latest.current), by, latest.current));
      } else {
        setScroll((now) => limited(now + event.deltaY, signals.length, element.clientHeight));
        if (area.current)
          area.current.scrollTop = limited(
            area.current.scrollTop + event.deltaY,
            signals.length,
            element.clientHeight,
          );
      }
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [zoom, signals.length]);

  function onKeyDown(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const move = new Map<string, () => void>([
      ['ArrowRight', () => setStretch(panned(shown, 0.1, axis))],
      ['ArrowLeft', () => setStretch(panned(shown, -0.1, axis))],
      ['+', () => zoom(1 / 1.5)],
      ['-', () => zoom(1.5)],
      ['Home', () => setStretch(undefined)],
      ['[', () => jump(-1)],
      [']', () => jump(1)],
    ]);
    const run = move.get(event.key);
    if (!run) return;
    event.preventDefault();
    event.stopPropagation();
    run();
  }

  /** Cursor A to the next change of the chosen net, or of any. */
  function jump(way: 1 | -1) {
    const lanes = signals
      .filter((one) => selectedNet === undefined || one.id === selectedNet.id)
      .flatMap((one) => one.lanes);
    const now = store.cursors.a ?? (way === 1 ? -1 : end);
    let best: number | undefined;
    for (const lane of lanes) {
      const at = way === 1 ? changeAt(lane, now) + 1 : changeAt(lane, now - 1e-6);
      const time = at >= 0 && at < lane.length ? (lane.times[at] as number) : undefined;
      if (time === undefined) continue;
      if (best === undefined || (way === 1 ? time < best : time > best)) best = time;
    }
    if (best === undefined) return;
    store.setCursors({ ...store.cursors, a: best });
    const at = axis.at(best);
    if (at < shown.from || at > shown.to) {
      const width = shown.to - shown.from;
      setStretch({ from: at - width / 2, to: at + width / 2 });
    }
  }

  return (
    <section aria-label="Levels over time" className="flex h-full flex-col">
      <div
        className="grid min-h-0 flex-1 grid-cols-[124px_1fr] outline-offset-[-2px]"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: arrows, + and − move along the time here
        tabIndex={0}
        role="application"
        aria-label="Lanes: arrows move, + and − zoom, brackets go from change to change"
        onKeyDown={onKeyDown}
      >
        <div
          ref={area}
          className="overflow-hidden"
          onScroll={(event) => setScroll(event.currentTarget.scrollTop)}
        >
          <div className="sticky top-0 z-[1] h-5 border-b border-rule bg-paper pl-3.5 text-[11px] text-soft">
            lanes
          </div>
          {signals.map((signal) => (
            <div
              key={`${signal.kind} ${signal.id}`}
              className={`overflow-hidden text-ellipsis whitespace-nowrap border-b border-rule pl-3.5 text-[12px] leading-[22px] ${signal.id === selectedNet?.id ? 'bg-pickbg' : ''}`}
              style={{ height: LANE_HEIGHT }}
              title={
                signal.guarded ? `${signal.name} must keep its level until the firmware uses it` : signal.name
              }
            >
              {signal.name}
              {signal.guarded && <span className="text-soft"> ◆</span>}
              {signal.kind === 'bus' && <span className="m text-soft"> 0x</span>}
            </div>
          ))}
        </div>
        <div
          className="relative min-h-0 touch-none overflow-hidden"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            drag.current = { x: placeOf(event).x, stretch: shown, moved: false };
          }}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onPointerLeave={() => setPointed(null)}
        >
          {signals.length === 0 && (
            <p className="absolute left-3.5 top-7 z-[1] text-soft">
              {changing
                ? 'Nothing has changed since initialisation. Play something, or show all lanes.'
                : 'No net has a pad yet.'}
            </p>
          )}
          <canvas
            ref={canvas}
            className="absolute inset-0 h-full w-full"
            role="img"
            aria-label={levelsInWords(store, signals)}
          />
        </div>
      </div>
      <div className="flex items-baseline gap-3 border-t border-rule px-3.5 py-0.5 text-[12px] text-soft">
        <Readout store={store} pointed={pointed} />
        <span className="ml-auto flex gap-1">
          <button
            type="button"
            aria-pressed={byChange}
            className={`button py-0 ${byChange ? 'button-strong' : ''}`}
            title="Each change as wide as the next: initialisation and what is played in one picture"
            onClick={() => {
              const next = byChange
                ? linearAxis(end)
                : changesAxis(new ChangeTimes().upTo(bench.state, lanesOnAxis(store, signals), end));
              setStretch(stretch && onAxis(stretch, axis, next));
              setByChange(!byChange);
            }}
          >
            by change
          </button>
          <button
            type="button"
            aria-pressed={changing}
            className={`button py-0 ${changing ? 'button-strong' : ''}`}
            title="Only lanes that change after initialisation"
            onClick={() => setChanging(!changing)}
          >
            changing
          </button>
          <button
            type="button"
            className="button py-0"
            title="Closer (+)"
            aria-label="Zoom in"
            onClick={() => zoom(0.5)}
          >
            +
          </button>
          <button
            type="button"
            className="button py-0"
            title="Further (−)"
            aria-label="Zoom out"
            onClick={() => zoom(2)}
          >
            −
          </button>
          <button
            type="button"
            className="button py-0"
            title="From power-up to now (Home)"
            onClick={() => setStretch(undefined)}
          >
            all
          </button>
          <button
            type="button"
            className="button py-0"
            disabled={end === 0}
            title="Power-up and initialisation"
            onClick={() => setStretch(whole(axis, axis.at(initialised ?? end)))}
          >
            start-up
          </button>
        </span>
      </div>
    </section>
  );
}

/** Lanes that are there, and those that are laid over them, at their times. */
function lanesOnAxis({ overlay }: BenchStore, signals: readonly Signal[]): Lane[] {
  const laid = signals.flatMap((one) => overlay?.lanes.get(one.id) ?? []);
  const { offset = 0 } = overlay ?? {};
  const shifted = laid.map((lane) => ({
    ...lane,
    times: lane.times.subarray(0, lane.length).map((time) => time + offset),
  }));
  return [...signals.flatMap((one) => one.lanes), ...shifted];
}

/** Time as it goes, or change by change. */
function useAxis(store: BenchStore, signals: readonly Signal[], byChange: boolean): TimeAxis {
  const { version, overlay } = store;
  const { bench } = store.recording.play;
  const [times] = useState(() => new ChangeTimes());
  const end = bench.state.time;
  // biome-ignore lint/correctness/useExhaustiveDependencies: of equal number in one play, signals are the same
  const lanes = useMemo(
    () => (byChange ? lanesOnAxis(store, signals) : []),
    [store, bench.state.lanes, overlay, byChange, signals.length],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: lanes grow in place, and the version with them
  return useMemo(
    () => (byChange ? changesAxis(times.upTo(bench.state, lanes, end)) : linearAxis(end)),
    [times, lanes, version, byChange, end],
  );
}

/** Whether a signal changes after initialisation. */
function changes(store: BenchStore, signal: Signal): boolean {
  const since = initialisedAt(store) ?? 0;
  return signal.lanes.some((lane) => lane.length > 0 && (lane.times[lane.length - 1] as number) > since);
}

const limited = (scroll: number, lanes: number, height: number): number =>
  Math.max(0, Math.min(scroll, lanes * LANE_HEIGHT + AXIS_HEIGHT - height));

/** A time at the nearest change of a signal, when one is close. */
function snapped(signal: Signal | undefined, time: number, axis: TimeAxis, reach: number): number {
  let best = time;
  let distance = reach;
  for (const lane of signal?.lanes ?? []) {
    const at = changeAt(lane, time);
    for (const one of [at, at + 1]) {
      if (one < 0 || one >= lane.length) continue;
      const by = Math.abs(axis.at(lane.times[one] as number) - axis.at(time));
      if (by > distance) continue;
      best = lane.times[one] as number;
      distance = by;
    }
  }
  return Math.max(0, best);
}

/** What is pointed at, and what the cursors measure. */
function Readout({
  store,
  pointed,
}: {
  store: BenchStore;
  pointed: { signal: Signal; time: number } | null;
}) {
  const { a, b } = store.cursors;
  const { log } = store.recording.play.bench.state;
  const steps = (time: number): number => log.entries.filter((one) => one.time <= time).length + log.first;
  if (pointed)
    return (
      <span className="overflow-hidden text-ellipsis whitespace-nowrap">
        <b className="font-medium text-ink">{pointed.signal.name}</b> at {timeText(Math.max(0, pointed.time))}
        : {valueWords(pointed.signal, pointed.time)}, {causeAt(store, pointed.signal, pointed.time)}
      </span>
    );
  if (a === undefined && b === undefined)
    return (
      <span className="overflow-hidden text-ellipsis whitespace-nowrap">
        dashed: not driven · ◆ kept until it is used · click: cursor A, Shift click: B
      </span>
    );
  return (
    <span className="m text-ink">
      {a !== undefined && `A ${timeText(a)}`}
      {b !== undefined && `  B ${timeText(b)}`}
      {a !== undefined &&
        b !== undefined &&
        `  B − A ${timeText(b - a)}, ${Math.abs(steps(b) - steps(a))} steps`}{' '}
      <button type="button" className="link" onClick={() => store.setCursors({ a: undefined, b: undefined })}>
        clear
      </button>
    </span>
  );
}

function valueWords(signal: Signal, time: number): string {
  if (signal.kind === 'bus') return valueText(busAt(signal, time), signal.lanes.length);
  const lane = signal.lanes[0] as Lane;
  const at = changeAt(lane, time);
  if (at < 0) return 'not yet';
  const volts = voltsWords(lane.volts[at] as number);
  return signal.kind === 'analog' ? volts : `${stateWords(lane.codes[at] as number)}, ${volts}`;
}

function causeAt(store: BenchStore, signal: Signal, time: number): string {
  let latest = -1;
  let cause = -1;
  for (const lane of signal.lanes) {
    const at = changeAt(lane, time);
    if (at < 0 || (lane.times[at] as number) < latest) continue;
    latest = lane.times[at] as number;
    cause = lane.causes[at] as number;
  }
  return cause < 0 ? '' : `since ${timeText(latest)} by ${causeOf(store, cause).text}`;
}

/** The lanes for whoever does not see them: what each is now. */
const levelsInWords = (store: BenchStore, signals: readonly Signal[]): string =>
  `Levels at ${timeText(store.recording.play.bench.state.time)}: ${signals
    .slice(0, 40)
    .map((one) => `${one.name} ${valueWords(one, store.recording.play.bench.state.time)}`)
    .join('; ')}`;

/** Draws again when the theme changes. */
function useTheme(): string {
  const [theme, setTheme] = useState('');
  useEffect(() => {
    const root = document.documentElement;
    const watch = new MutationObserver(() => setTheme(root.dataset.theme ?? ''));
    watch.observe(root, { attributes: true, attributeFilter: ['data-theme'] });
    return () => watch.disconnect();
  }, []);
  return theme;
}
