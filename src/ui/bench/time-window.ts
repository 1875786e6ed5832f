/** A stretch of time in sight, in nanoseconds. */
export interface TimeWindow {
  from: number;
  to: number;
}

/** No closer than so many nanoseconds from edge to edge. */
const CLOSEST = 100;

/** Everything from power-up to now, with a little air. */
export const whole = (end: number): TimeWindow => ({ from: 0, to: Math.max(end * 1.02, 1000) });

/** Closer or further by a factor, the time at a part of the width (0 to 1) staying where it is. */
export function zoomed({ from, to }: TimeWindow, factor: number, at: number, end: number): TimeWindow {
  const width = Math.min(Math.max((to - from) * factor, CLOSEST), Math.max(end * 4, 10_000));
  const held = from + (to - from) * at;
  return kept({ from: held - width * at, to: held + width * (1 - at) }, end);
}

/** Later or earlier by a part of what is in sight. */
export function panned({ from, to }: TimeWindow, part: number, end: number): TimeWindow {
  const by = (to - from) * part;
  return kept({ from: from + by, to: to + by }, end);
}

/** Never all of it before power-up or after the end. */
function kept({ from, to }: TimeWindow, end: number): TimeWindow {
  const width = to - from;
  const least = -width * 0.05;
  const most = Math.max(end - width * 0.1, 0);
  const start = Math.min(Math.max(from, least), most);
  return { from: start, to: start + width };
}

/** Round times to be marked, about so many of them. */
export function ticks({ from, to }: TimeWindow, about: number): number[] {
  const rough = (to - from) / about;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? power * 10;
  const list: number[] = [];
  for (let at = Math.ceil(Math.max(from, 0) / step) * step; at <= to && list.length < 100; at += step)
    list.push(at);
  return list;
}
