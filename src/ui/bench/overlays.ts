import { linesOn, recordedLines, replayed } from '@/core/bench/recording/recording';
import { type Signal, signalsOf } from '@/core/bench/recording/signals';
import { type Difference, differences, joined, offsetBetween } from '@/core/bench/trace/compare';
import type { Lane } from '@/core/bench/trace/lanes';
import { type LaidOver, laidOver } from '@/core/bench/trace/lay-over';
import type { Vcd } from '@/core/bench/trace/vcd-read';
import { derive } from '@/core/derive/derive';
import type { Plan } from '@/core/plan/model/types';
import { openPart } from '../client/parts';
import { type BenchStore, NOT_YET, type Overlay, type OverlaySource } from './bench-store';

/** Edges within this of each other are the same one, unless somebody says otherwise. Nanoseconds. */
const BOARD_TOLERANCE = 1e6;
const PLAN_TOLERANCE = 1e3;

/** Signals of a dump on the nets and buses of the same names, with the first edge of both at one time. */
export function boardOverlay(store: BenchStore, vcd: Vcd, name: string): Overlay {
  const source = { kind: 'board', vcd } as const;
  const { lanes } = lanesOf(store, source);
  const offset = offsetOf(signalsOf(store.recording.play.bench), lanes);
  return laid(store, name, source, lanes, { offset, tolerance: BOARD_TOLERANCE });
}

const laid = (
  store: BenchStore,
  name: string,
  source: OverlaySource,
  lanes: LaidOver,
  how: { offset: number; tolerance: number; lacks?: string | undefined },
): Overlay => compared(store, { name, source, lanes, differences: new Map(), upTo: 0, ...how });

/** What is to be added to the times of a recording from elsewhere: by the first net that has an edge in both. */
function offsetOf(signals: readonly Signal[], lanes: LaidOver): number {
  for (const signal of signals) {
    const lane = lanes.get(signal.id)?.[0];
    const by = lane && offsetBetween(signal.lanes[0] as Lane, lane);
    if (by !== undefined) return by;
  }
  return 0;
}

/**
 * The same play on another plan, or on a kept revision of this one: its lanes on the same nets, which another plan calls by the same
 * names and a revision knows by their ids. Says what is wrong where that cannot be.
 */
export async function planOverlay(
  store: BenchStore,
  kind: 'plan' | 'revision',
  other: Plan,
  name: string,
): Promise<Overlay | string> {
  const part = await openPart(other.device, other.deviceFingerprint);
  if (!part.ok) return part.message;
  const derived = derive(part.device, other);
  if (!derived.ok) return derived.problems[0]?.message ?? `${name} cannot be read`;
  const source = { kind, derived: derived.value };
  const { lanes, lacks } = lanesOf(store, source);
  if (lanes.size === 0) return `${name} has no net of the same name`;
  return laid(store, name, source, lanes, { offset: 0, tolerance: PLAN_TOLERANCE, lacks });
}

/** What is laid over, on the signals of the plan as it is now; on another plan what has been played so far is played. */
function lanesOf({ recording }: BenchStore, source: OverlaySource): Pick<Overlay, 'lanes' | 'lacks'> {
  const signals = signalsOf(recording.play.bench);
  if (source.kind === 'board') return { lanes: laidOver(source.vcd, signals) };
  const isSame = source.kind === 'revision';
  const lines = recordedLines({ ...recording, start: undefined });
  const { play, refused } = replayed(
    source.derived,
    recording.start,
    isSame ? linesOn(lines, recording.derived, source.derived) : lines,
  );
  const theirs = signalsOf(play.bench);
  const lanes = new Map<string, readonly Lane[]>();
  for (const signal of signals) {
    const found = theirs.find(
      (one) =>
        one.kind === signal.kind &&
        (isSame ? one.id === signal.id : one.name === signal.name) &&
        one.lanes.length === signal.lanes.length,
    );
    if (found) lanes.set(signal.id, found.lanes);
  }
  const [lacks] = refused;
  return { lanes, lacks: lacks && `“${lacks.line}” cannot be played there: ${lacks.message}` };
}

/** After more was played, or the plan has changed. A board's recording is the same however much more is played. */
export const comparedAgain = (store: BenchStore, overlay: Overlay): Overlay =>
  overlay.source.kind === 'board' && overlay.upTo !== NOT_YET
    ? compared(store, overlay)
    : compared(store, { ...overlay, ...lanesOf(store, overlay.source) });

/** Where what is laid over differs from what is played. */
export function compared(store: BenchStore, overlay: Overlay): Overlay {
  const { bench } = store.recording.play;
  const found = new Map<string, readonly Difference[]>();
  for (const signal of signalsOf(bench)) {
    const lanes = overlay.lanes.get(signal.id);
    if (lanes?.length !== signal.lanes.length) continue;
    const options = {
      offset: overlay.offset,
      tolerance: overlay.tolerance,
      from: 0,
      to: bench.state.time,
    };
    found.set(
      signal.id,
      joined(signal.lanes.flatMap((own, bit) => differences(own, lanes[bit] as Lane, options))),
    );
  }
  return { ...overlay, differences: found, upTo: bench.state.time };
}
