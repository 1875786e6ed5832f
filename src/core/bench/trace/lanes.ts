/** A level as the bench knows it. */
export const LOW = 0;
export const HIGH = 1;
/** Neither low nor high for sure: between the thresholds. */
export const BETWEEN = 2;
/** Nothing gives it a voltage. */
export const FLOATING = 3;
/** It depends on what is not known. */
export const UNKNOWN = 4;

/** Who gives a pad its level. */
export const STRONG = 0;
/** Its pull resistor alone. */
export const WEAK = 1;
/** Something at the far end. */
export const OUTSIDE = 2;
export const NOBODY = 3;
/** Two that drive against each other. */
export const CONTENTION = 4;
export const ANALOG = 5;

/** Level and who gives it, in one number. */
export const stateCode = (level: number, by: number): number => level | (by << 3);
export const levelOf = (code: number): number => code & 7;
export const byOf = (code: number): number => code >>> 3;

/** What a pad was over time: each change with its time in nanoseconds, what it became, its voltage, and what caused it. */
export interface Lane {
  times: Float64Array;
  codes: Uint8Array;
  volts: Float32Array;
  causes: Int32Array;
  length: number;
}

const FIRST = 64;

export const newLane = (): Lane => ({
  times: new Float64Array(FIRST),
  codes: new Uint8Array(FIRST),
  volts: new Float32Array(FIRST),
  causes: new Int32Array(FIRST),
  length: 0,
});

function grow(lane: Lane): void {
  const size = lane.times.length * 2;
  const larger = <T extends { set(from: T): void }>(to: T, from: T): T => {
    to.set(from);
    return to;
  };
  lane.times = larger(new Float64Array(size), lane.times);
  lane.codes = larger(new Uint8Array(size), lane.codes);
  lane.volts = larger(new Float32Array(size), lane.volts);
  lane.causes = larger(new Int32Array(size), lane.causes);
}

/** Notes a change. */
export function addChange(lane: Lane, time: number, code: number, volts: number, cause: number): void {
  const at = lane.length;
  if (at === lane.times.length) grow(lane);
  lane.times[at] = time;
  lane.codes[at] = code;
  lane.volts[at] = volts;
  lane.causes[at] = cause;
  lane.length = at + 1;
}

/** The last change at or before a time; -1 where it is before the first. */
export function changeAt({ times, length }: Lane, time: number): number {
  let [low, high] = [0, length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((times[middle] as number) <= time) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** A copy of its own, as long as what has been noted. */
export const copyLane = ({ times, codes, volts, causes, length }: Lane): Lane => ({
  times: times.slice(0, Math.max(length, 1)),
  codes: codes.slice(0, Math.max(length, 1)),
  volts: volts.slice(0, Math.max(length, 1)),
  causes: causes.slice(0, Math.max(length, 1)),
  length,
});
