import { byOf, copyLane, HIGH, type Lane, LOW, levelOf, stateCode } from './lanes';
import type { Vcd, VcdVariable } from './vcd-read';
import type { VcdSignal } from './vcd-write';

/** What is found for a signal in a recording from elsewhere: a lane for each of its bits, as levels of pads. */
export type LaidOver = ReadonlyMap<string, readonly Lane[]>;

/** A signal that something can be laid over. */
export interface Underneath extends VcdSignal {
  id: string;
}

/** Analysers write names in their own way: only letters and digits count. */
const plainName = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_|_$/g, '');

/**
 * Finds a plan's signals in a value change dump, by their names: a net as one bit, or as a bit of its bus; a bus as a vector of as
 * many bits, as single bits that are numbered (`DISPLAY[3]`), or by its nets. A vector's bits are values, as the firmware writes
 * them; what comes back are levels.
 */
export function laidOver(vcd: Vcd, signals: readonly Underneath[]): LaidOver {
  const byName = variablesByName(vcd);
  const single = (name: string): Lane | undefined =>
    byName.get(plainName(name))?.find((one) => one.lanes.length === 1)?.lanes[0];
  const found = new Map<string, readonly Lane[]>();
  const byLane = new Map<Lane, Lane>();
  for (const { id, name, lanes } of signals) {
    const [own] = lanes;
    const lane = lanes.length === 1 ? single(name) : undefined;
    if (!lane || !own) continue;
    found.set(id, [lane]);
    byLane.set(own, lane);
  }
  for (const { id, name, lanes, inverted } of signals) {
    if (lanes.length < 2) continue;
    const bits = bitsOf(
      byName.get(plainName(name)),
      lanes.length,
      (bit) => single(`${name} ${bit}`) ?? partOf(byName.get(plainName(name)), bit),
    );
    if (bits) {
      const levels = bits.map((lane, bit) => (inverted?.[bit] ? turned(lane) : lane));
      found.set(id, levels);
      lanes.forEach((own, bit) => {
        if (!byLane.has(own)) byLane.set(own, levels[bit] as Lane);
      });
      continue;
    }
    const own = lanes.map((lane) => byLane.get(lane));
    if (own.every((lane) => lane !== undefined)) found.set(id, own);
  }
  // Nets of which only their bus is there.
  for (const { id, lanes } of signals) {
    const lane = byLane.get(lanes[0] as Lane);
    if (lanes.length === 1 && lane && !found.has(id)) found.set(id, [lane]);
  }
  return found;
}

/** By their names as they count, the outermost of those that are called alike first. */
function variablesByName(vcd: Vcd): Map<string, VcdVariable[]> {
  const byName = new Map<string, VcdVariable[]>();
  const add = (name: string, one: VcdVariable): void => {
    byName.set(plainName(name), [...(byName.get(plainName(name)) ?? []), one]);
  };
  for (const one of vcd.variables) add(one.name, one);
  // A signal of one bit that is numbered all the same.
  for (const one of vcd.variables) {
    const base = one.lanes.length === 1 ? /^(.+)\[0\]$/.exec(one.name)?.[1] : undefined;
    if (base !== undefined && !byName.has(plainName(`${base}[1]`)) && !byName.has(plainName(base)))
      add(base, one);
  }
  for (const list of byName.values()) list.sort((a, b) => depthOf(a) - depthOf(b));
  return byName;
}

const depthOf = ({ path }: VcdVariable): number => path.split('.').length;

/** A bit of a bus that comes in several pieces, by its number. */
function partOf(called: readonly VcdVariable[] | undefined, bit: number): Lane | undefined {
  for (const { range, lanes } of called ?? []) {
    if (!range) continue;
    const { first, last } = range;
    if (bit < Math.min(first, last) || bit > Math.max(first, last)) continue;
    // The last one that is written is the least significant.
    return lanes[Math.abs(bit - last)];
  }
  return undefined;
}

/** Names of nets and buses that several signals of a dump have, which are not one signal: one of them is laid over, and which. */
export function doublesIn(vcd: Vcd, signals: readonly Underneath[]): { name: string; path: string }[] {
  const byName = variablesByName(vcd);
  return signals.flatMap(({ name, lanes }) => {
    const called = (byName.get(plainName(name)) ?? []).filter((one) => one.lanes.length === lanes.length);
    const [first] = called;
    return first && called.some(({ code }) => code !== first.code) ? [{ name, path: first.path }] : [];
  });
}

function bitsOf(
  called: readonly VcdVariable[] | undefined,
  count: number,
  numbered: (bit: number) => Lane | undefined,
): readonly Lane[] | undefined {
  const wide = called?.filter((one) => one.lanes.length === count) ?? [];
  // Of several pieces of a wider one, the lowest.
  const vector = wide.find(({ range }) => !range || Math.min(range.first, range.last) === 0) ?? wide[0];
  if (vector) return vector.lanes;
  const bits = Array.from({ length: count }, (_, bit) => numbered(bit));
  return bits.every((lane) => lane !== undefined) ? bits : undefined;
}

/** High for low and low for high. */
function turned(lane: Lane): Lane {
  const copy = copyLane(lane);
  for (let at = 0; at < copy.length; at++) {
    const code = copy.codes[at] as number;
    const level = levelOf(code);
    if (level <= HIGH) copy.codes[at] = stateCode(level === HIGH ? LOW : HIGH, byOf(code));
  }
  return copy;
}
