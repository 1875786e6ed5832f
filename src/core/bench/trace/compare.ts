import { HIGH, type Lane, levelOf } from './lanes';

/** A time in which two lanes differ, in nanoseconds of the first. */
export interface Difference {
  from: number;
  to: number;
}

/** How far apart edges may be that count as the same one, and how many differences are listed. */
export interface CompareOptions {
  /** What is added to times of the other lane, in nanoseconds. */
  offset: number;
  tolerance: number;
  from: number;
  to: number;
}

const MOST = 10_000;

/**
 * Where two lanes say for sure different levels, for longer than a tolerance. Times in which one of them is neither low nor high, or
 * has not begun, are no differences.
 */
export function differences(
  lane: Lane,
  other: Lane,
  { offset, tolerance, from, to }: CompareOptions,
): Difference[] {
  const found: Difference[] = [];
  let [a, b] = [-1, -1];
  let time = from;
  const end = (of: Lane, at: number, by: number): number =>
    at + 1 < of.length ? (of.times[at + 1] as number) + by : Number.POSITIVE_INFINITY;
  while (end(lane, a, 0) <= time) a++;
  while (end(other, b, offset) <= time) b++;
  let open: number | undefined;
  while (time < to && found.length < MOST) {
    const next = Math.min(end(lane, a, 0), end(other, b, offset), to);
    const differs = isOther(lane, a, other, b);
    if (differs) open ??= time;
    if ((!differs || next >= to) && open !== undefined) {
      const until = differs ? next : time;
      if (until - open > tolerance) found.push({ from: open, to: until });
      open = undefined;
    }
    time = next;
    while (end(lane, a, 0) <= time) a++;
    while (end(other, b, offset) <= time) b++;
  }
  return found;
}

function isOther(lane: Lane, a: number, other: Lane, b: number): boolean {
  if (a < 0 || b < 0) return false;
  const [x, y] = [levelOf(lane.codes[a] as number), levelOf(other.codes[b] as number)];
  return x <= HIGH && y <= HIGH && x !== y;
}

/** What has to be added to the times of another lane, so that its first edge is where that of a lane is; undefined without edges. */
export function offsetBetween(lane: Lane, other: Lane): number | undefined {
  const [own, theirs] = [firstEdge(lane), firstEdge(other)];
  return own === undefined || theirs === undefined ? undefined : own - theirs;
}

/** The first change from one level that is sure to the other. */
function firstEdge(lane: Lane): number | undefined {
  let before: number | undefined;
  for (let at = 0; at < lane.length; at++) {
    const level = levelOf(lane.codes[at] as number);
    if (level > HIGH) continue;
    if (before !== undefined && before !== level) return lane.times[at] as number;
    before = level;
  }
  return undefined;
}

/** Differences of several lanes as those of one: in order, those that overlap as one. */
export function joined(list: readonly Difference[]): Difference[] {
  const found: Difference[] = [];
  for (const one of [...list].sort((a, b) => a.from - b.from)) {
    const last = found.at(-1);
    if (last && one.from <= last.to) last.to = Math.max(last.to, one.to);
    else found.push({ ...one });
  }
  return found;
}
