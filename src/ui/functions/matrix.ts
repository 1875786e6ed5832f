import { hasWords, wordsOf } from '@/core/base/text/search-words';
import type { Derived } from '@/core/derive/derive';
import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import type { Package, PadFunction } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { offerOf } from '@/core/device/offers';

/** One function in the matrix: whose signal it is now, and how many free pads could still carry it. */
export interface MatrixEntry {
  fn: PadFunction;
  /** The net that carries the signal on this pad. */
  here?: ResolvedNet;
  /** The net that carries the signal elsewhere. */
  elsewhere?: ResolvedNet;
  /** Free pads that offer the signal while nobody has it. */
  alternatives: number;
  /** The note that takes it away in this package. */
  removed?: string;
}

export interface MatrixRow {
  pad: string;
  pins: readonly string[];
  nets: readonly ResolvedNet[];
  /** Entries by mux code; −1 is analog mode, −2 what no register selects. */
  cells: ReadonlyMap<number, MatrixEntry[]>;
}

export const ANALOG = -1;
const ITSELF = -2;
export const codeOf = (fn: PadFunction): number => fn.mux ?? (fn.itself ? ITSELF : ANALOG);
export const codeTitle = (code: number): string =>
  code === ANALOG ? 'analog' : code === ITSELF ? 'by itself' : String(code);

/** Mux codes that some pad of the package has, analog mode last. */
export function matrixCodes(device: Device, pkg: Package): number[] {
  const bonded = device.pinsOf.get(pkg.id);
  const codes = new Set(device.description.functions.filter((fn) => bonded?.has(fn.pad)).map(codeOf));
  return [...codes].sort((a, b) => Number(a < 0) - Number(b < 0) || a - b);
}

/** I/O pads of the package, in pin order, with all their functions. */
export function matrixRows(derived: Derived): MatrixRow[] {
  const { device, pkg, byPad, bySignal, occupancy } = derived;
  const offer = offerOf(device, pkg);
  const alternatives = new Map<string, number>();
  const alternativesOf = (signal: string): number => {
    let count = alternatives.get(signal);
    if (count === undefined) {
      count = offer.carrying(signal).filter((fn) => !byPad.has(fn.pad)).length;
      alternatives.set(signal, count);
    }
    return count;
  };
  const bonded = [...(device.pinsOf.get(pkg.id) ?? [])].filter(
    ([pad]) => device.pads.get(pad)?.kind === 'io',
  );
  const order = occupancy.pinOrder;
  bonded.sort(([a], [b]) => (order.get(a) ?? 0) - (order.get(b) ?? 0));
  return bonded.map(([pad, pins]) => {
    const cells = new Map<number, MatrixEntry[]>();
    for (const fn of device.functionsByPad.get(pad) ?? []) {
      const removed = offer.removal(fn)?.why;
      const users = bySignal.get(fn.signal) ?? [];
      const here =
        users.find((one) => one.pad?.id === pad) ??
        byPad.get(pad)?.find((one) => one.fn?.signal === fn.signal && one.net.role.kind === 'analog');
      const elsewhere = here ? undefined : users.find((one) => one.pad?.id !== pad);
      const entry: MatrixEntry = {
        fn,
        alternatives: here || elsewhere ? 0 : alternativesOf(fn.signal),
        ...(here ? { here } : {}),
        ...(elsewhere ? { elsewhere } : {}),
        ...(removed === undefined ? {} : { removed }),
      };
      const list = cells.get(codeOf(fn));
      if (list) list.push(entry);
      else cells.set(codeOf(fn), [entry]);
    }
    return { pad, pins, nets: byPad.get(pad) ?? [], cells };
  });
}

export type Show = 'all' | 'free' | 'scarce' | 'taken';

const matchesShow = (entry: MatrixEntry, show: Show, padTaken: boolean): boolean => {
  switch (show) {
    case 'all':
      return true;
    case 'free':
      return !entry.here && !entry.elsewhere && !entry.removed && !padTaken;
    case 'scarce':
      return !entry.here && !entry.elsewhere && !entry.removed && !padTaken && entry.alternatives === 1;
    case 'taken':
      return entry.here !== undefined || entry.elsewhere !== undefined;
  }
};

/**
 * Rows that hold something of what was typed (a signal, a pad, a pin, a net), and within them which entries it is. A word
 * that names the row shows all of the row.
 */
export function filterRows(
  rows: readonly MatrixRow[],
  text: string,
  show: Show,
): { row: MatrixRow; matches: (entry: MatrixEntry) => boolean }[] {
  const words = wordsOf(text);
  return rows.flatMap((row) => {
    const names = [row.pad, ...row.pins, ...row.nets.map((one) => one.net.name)].flatMap((one) => [
      one.toLowerCase(),
      wordsOf(one).join(' '),
    ]);
    // Words that name the row are found; the others are looked for in each of its entries.
    const others = words.filter((word) => !names.includes(word));
    const named = words.length > 0 && (others.length === 0 || names.includes(words.join(' ')));
    const matches = (entry: MatrixEntry): boolean => {
      if (!matchesShow(entry, show, row.nets.length > 0)) return false;
      if (named || words.length === 0) return true;
      return hasWords(others, [entry.fn.signal]);
    };
    const any = [...row.cells.values()].some((list) => list.some(matches));
    const byNet = words.length > 0 && show === 'all' && hasWords(words, names);
    return any || byNet || (words.length === 0 && show === 'all') ? [{ row, matches }] : [];
  });
}
