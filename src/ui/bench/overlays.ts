import { recordedLines, replayed } from '@/core/bench/recording/recording';
import { type Signal, signalsOf } from '@/core/bench/recording/signals';
import { type Difference, differences, joined, offsetBetween } from '@/core/bench/trace/compare';
import type { Lane } from '@/core/bench/trace/lanes';
import { type LaidOver, laidOver } from '@/core/bench/trace/lay-over';
import type { Vcd } from '@/core/bench/trace/vcd-read';
import { derive } from '@/core/derive/derive';
import type { Plan } from '@/core/plan/model/types';
import { openPart } from '../client/parts';
import type { BenchStore, Overlay } from './bench-store';

/** Edges within this of each other are the same one, unless somebody says otherwise. Nanoseconds. */
const BOARD_TOLERANCE = 1e6;
const PLAN_TOLERANCE = 1e3;

/** Signals of a dump on the nets and buses of the same names, with the first edge of both at one time. */
export function boardOverlay(store: BenchStore, vcd: Vcd, name: string): Overlay {
  const signals = signalsOf(store.recording.play.bench);
  const lanes = laidOver(vcd, signals);
  return compared(store, {
    name,
    lanes,
    offset: offsetOf(signals, lanes),
    tolerance: BOARD_TOLERANCE,
    differences: new Map(),
    upTo: 0,
  });
}

/** What is to be added to the times of a recording from elsewhere: by the first net that has an edge in both. */
function offsetOf(signals: readonly Signal[], lanes: LaidOver): number {
  for (const signal of signals) {
    const lane = lanes.get(signal.id)?.[0];
    const by = lane && offsetBetween(signal.lanes[0] as Lane, lane);
    if (by !== undefined) return by;
  }
  return 0;
}

/** The same play on another plan: its lanes on the nets of the same names. Says what is wrong where that cannot be. */
export async function planOverlay(store: BenchStore, other: Plan): Promise<Overlay | string> {
  const part = await openPart(other.device, other.deviceFingerprint);
  if (!part.ok) return part.message;
  const derived = derive(part.device, other);
  if (!derived.ok) return derived.problems[0]?.message ?? 'that plan cannot be read';
  const { recording } = store;
  const lines = recordedLines({ ...recording, start: undefined });
  const { play } = replayed(derived.value, recording.start, lines);
  const theirs = signalsOf(play.bench);
  const lanes = new Map<string, readonly Lane[]>();
  for (const signal of signalsOf(recording.play.bench)) {
    const found = theirs.find(
      (one) =>
        one.kind === signal.kind && one.name === signal.name && one.lanes.length === signal.lanes.length,
    );
    if (found) lanes.set(signal.id, found.lanes);
  }
  const name = `${other.name}${other.revision ? ` rev ${other.revision}` : ''}`;
  if (lanes.size === 0) return `${name} has no net of the same name`;
  return compared(store, {
    name,
    lanes,
    offset: 0,
    tolerance: PLAN_TOLERANCE,
    differences: new Map(),
    upTo: 0,
  });
}

/** Where what is laid over differs from what is played. */
export function compared(store: BenchStore, overlay: Overlay): Overlay {
  const { bench } = store.recording.play;
  const found = new Map<string, readonly Difference[]>();
  for (const signal of signalsOf(bench)) {
    const lanes = overlay.lanes.get(signal.id);
    if (!lanes) continue;
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
