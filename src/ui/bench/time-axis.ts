import type { Lane } from '@/core/bench/trace/lanes';

/** A part of the axis that is in sight, in the axis' own unit. */
export interface Stretch {
  from: number;
  to: number;
}

/** What is laid along the width: time as it goes, or each change as wide as the next. */
export interface TimeAxis {
  kind: 'time' | 'changes';
  /** Where a time in nanoseconds is. The later the further, without a jump. */
  at(time: number): number;
  /** The time at a place, in nanoseconds; the inverse of `at`. */
  time(at: number): number;
  /** Where the recording ends. */
  end: number;
  /** The shortest stretch that can be looked at, and the one that an empty recording shows. */
  closest: number;
  empty: number;
  /** Places to be marked, about so many of them. */
  ticks(stretch: Stretch, about: number): number[];
}

/** Time as it goes, in nanoseconds. */
export const linearAxis = (end: number): TimeAxis => ({
  kind: 'time',
  at: (time) => time,
  time: (at) => at,
  end,
  closest: 100,
  empty: 1000,
  ticks: (stretch, about) => multiples(stretch, roundAbove((stretch.to - stretch.from) / about)),
});

/** Before power-up and after the end there is no change: a place is so many nanoseconds there. */
const OUTSIDE = 1000;

/** Each change as wide as the next, whatever time lies between them: `times` has each time once, in order. */
export function changesAxis(times: Float64Array): TimeAxis {
  const last = times.length - 1;
  const timeOf = (index: number): number => times[index] as number;
  return {
    kind: 'changes',
    at(time) {
      if (time <= timeOf(0)) return (time - timeOf(0)) / OUTSIDE;
      if (time >= timeOf(last)) return last + (time - timeOf(last)) / OUTSIDE;
      let [low, high] = [0, last];
      while (high - low > 1) {
        const middle = (low + high) >> 1;
        if (timeOf(middle) <= time) low = middle;
        else high = middle;
      }
      return low + (time - timeOf(low)) / (timeOf(high) - timeOf(low));
    },
    time(at) {
      if (at <= 0) return timeOf(0) + at * OUTSIDE;
      if (at >= last) return timeOf(last) + (at - last) * OUTSIDE;
      const index = Math.floor(at);
      return timeOf(index) + (at - index) * (timeOf(index + 1) - timeOf(index));
    },
    end: last,
    closest: 2,
    empty: 4,
    ticks: (stretch, about) =>
      multiples(
        { from: stretch.from, to: Math.min(stretch.to, last) },
        Math.max(1, roundAbove((stretch.to - stretch.from) / about)),
      ),
  };
}

/**
 * When anything changes, power-up and the end with it: each time once, in order. Lanes grow at their ends while time runs; what has been
 * gathered is kept then, and only what is new is looked at.
 */
export class ChangeTimes {
  private play: object | undefined;
  private lanes: readonly Lane[] = [];
  private taken: number[] = [];
  /** Without the end. */
  private times: Float64Array = Float64Array.of(0);

  /** `play` is another one when lanes have been cut. */
  upTo(play: object, lanes: readonly Lane[], end: number): Float64Array {
    const isSame = lanes.length === this.lanes.length && lanes.every((lane, at) => lane === this.lanes[at]);
    if (play !== this.play || !isSame) {
      this.play = play;
      this.lanes = lanes;
      this.taken = [];
      this.times = Float64Array.of(0);
    }
    const fresh = lanes.flatMap(({ times, length }, at) => [...times.subarray(this.taken[at] ?? 0, length)]);
    this.taken = lanes.map(({ length }) => length);
    const known = this.times.at(-1) as number;
    const added = [...new Set(fresh)].filter((time) => time > known).sort((one, other) => one - other);
    if (added.length > 0) this.times = joined(this.times, added);
    const before = this.times.findLastIndex((time) => time < end) + 1;
    return joined(this.times.subarray(0, Math.max(before, 1)), end > 0 ? [end] : []);
  }
}

function joined(list: Float64Array, more: readonly number[]): Float64Array {
  const all = new Float64Array(list.length + more.length);
  all.set(list);
  all.set(more, list.length);
  return all;
}

/** Everything from power-up to now, with a little air. */
export const whole = (axis: TimeAxis, end = axis.end): Stretch => ({
  from: 0,
  to: Math.max(end * 1.02, axis.empty),
});

/** Closer or further by a factor, the place at a part of the width (0 to 1) staying where it is. */
export function zoomed({ from, to }: Stretch, factor: number, part: number, axis: TimeAxis): Stretch {
  const most = Math.max(axis.end * 4, axis.empty * 10);
  const width = Math.min(Math.max((to - from) * factor, axis.closest), most);
  const held = from + (to - from) * part;
  return kept({ from: held - width * part, to: held + width * (1 - part) }, axis);
}

/** Later or earlier by a part of what is in sight. */
export function panned({ from, to }: Stretch, part: number, axis: TimeAxis): Stretch {
  const by = (to - from) * part;
  return kept({ from: from + by, to: to + by }, axis);
}

/** The same times on another axis. */
export const onAxis = ({ from, to }: Stretch, before: TimeAxis, axis: TimeAxis): Stretch =>
  kept(
    {
      from: axis.at(before.time(from)),
      to: Math.max(axis.at(before.time(to)), axis.at(before.time(from)) + axis.closest),
    },
    axis,
  );

/** Never all of it before power-up or after the end. */
function kept({ from, to }: Stretch, axis: TimeAxis): Stretch {
  const width = to - from;
  const start = Math.min(Math.max(from, -width * 0.05), Math.max(axis.end - width * 0.1, 0));
  return { from: start, to: start + width };
}

/** The next of 1, 2, 5, 10, 20 … */
function roundAbove(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(rough));
  return [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? power * 10;
}

const MOST_TICKS = 100;

function multiples({ from, to }: Stretch, step: number): number[] {
  const list: number[] = [];
  for (let at = Math.ceil(Math.max(from, 0) / step) * step; at <= to && list.length < MOST_TICKS; at += step)
    list.push(at);
  return list;
}
