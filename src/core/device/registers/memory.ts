import { largest, smallest } from '../../base/lists';
import type { Problems } from '../../base/problems';
import { hexText } from '../../base/text/hex';
import type { Register, RegisterMap } from './types';

/** Access kinds with bits of their own; the others act on another register's, or hold nothing. */
const HOLDS: ReadonlySet<Register['access']['kind']> = new Set([
  'read-write',
  'read',
  'write',
  'masked',
  'internal',
]);

const isOnBus = (register: Register): boolean => register.access.kind !== 'internal';
const bytesOf = (register: Register): number => register.bits / 8;
const overlap = (a: Register, b: Register): boolean =>
  a.address < b.address + bytesOf(b) && b.address < a.address + bytesOf(a);

/**
 * Lays the registers out in one memory of bytes. Registers at overlapping addresses must say so (`overlaps`); they then show
 * the same bits, but for one that is only read and one that is only written, which share nothing but the address.
 */
export function layOutMemory(map: RegisterMap, endian: 'little' | 'big', problems: Problems): void {
  const sorted = map.all.filter(isOnBus).sort((a, b) => a.address - b.address || b.bits - a.bits);
  let group: Register[] = [];
  let end = -1;
  const groups: Register[][] = [];
  for (const register of sorted) {
    if (register.address >= end) {
      group = [];
      groups.push(group);
    } else {
      for (const other of group) {
        if (problems.full) return;
        if (overlap(register, other) && !mayOverlap(register, other))
          reportOverlap(register, other, problems);
      }
    }
    group.push(register);
    end = Math.max(end, register.address + bytesOf(register));
  }
  for (const members of groups) place(members, map, endian, problems);
  // State that no address reaches, and what clauses say that a register holds, is nobody else's.
  for (const register of map.all)
    if (!isOnBus(register) || (register.access.kind === 'clauses' && register.access.holds))
      register.storage = { word: map.words++, shift: 0 };
  refuseCircles(map, problems);
}

/** What follows something that, in the end, follows it would never come to rest. */
function refuseCircles(map: RegisterMap, problems: Problems): void {
  // Bits of memory, each with those that follow it.
  const next = new Map<number, { to: number; by: Register }[]>();
  const at = ({ storage }: Register, bit: number): number =>
    (storage?.word ?? -1) * 32 + (storage?.shift ?? 0) + bit;
  for (const one of map.all.flatMap((register) => register.followers)) {
    if (!one.source.storage || !one.register.storage) continue;
    for (let bit = 0; bit < one.register.bits; bit++) {
      if (((one.mask >>> bit) & 1) === 0) continue;
      const from = at(one.source, bit - one.shift);
      next.set(from, [...(next.get(from) ?? []), { to: at(one.register, bit), by: one.register }]);
    }
  }
  const done = new Set<number>();
  const path = new Set<number>();
  const circle = (bit: number): Register | undefined => {
    if (done.has(bit)) return undefined;
    path.add(bit);
    for (const { to, by } of next.get(bit) ?? []) {
      const found = path.has(to) ? by : circle(to);
      if (found) return found;
    }
    path.delete(bit);
    done.add(bit);
    return undefined;
  };
  for (const bit of next.keys()) {
    const found = circle(bit);
    if (!found) continue;
    problems.push({
      place: `recipe, block ${found.block}, register ${found.id}`,
      message: `${found.name} follows itself`,
    });
    return;
  }
}

/** Registers of which one names the other, or that are parts of a word that both name. */
function mayOverlap(a: Register, b: Register): boolean {
  return (
    a.overlaps.includes(b) || b.overlaps.includes(a) || a.overlaps.some((one) => b.overlaps.includes(one))
  );
}

function reportOverlap(second: Register, first: Register, problems: Problems): void {
  const address = Math.max(first.address, second.address);
  problems.push({
    place: `recipe, block ${second.block}, register ${second.id}`,
    message: `${first.name} and ${second.name} are both at ${hexText(address, address > 0xffff ? 32 : 16)}; if that is on purpose (parts of one register, or one that is read and one that is written), say so with "overlaps"`,
  });
}

/** Gives the members of one stretch of addresses their bits. */
function place(
  members: readonly Register[],
  map: RegisterMap,
  endian: 'little' | 'big',
  problems: Problems,
): void {
  const holding = members.filter((one) => HOLDS.has(one.access.kind));
  // What is only written and what is only read at one address have nothing but the address in common.
  const read = holding.filter((one) => one.access.kind === 'read');
  const written = holding.filter((one) => one.access.kind === 'write');
  const apart = read.length > 0 && written.length > 0 && read.length + written.length === holding.length;
  for (const sharing of apart ? [read, written] : [holding]) {
    if (sharing.length === 0) continue;
    const from = smallest(sharing.map((one) => one.address));
    const to = largest(sharing.map((one) => one.address + bytesOf(one)));
    // Registers are aligned to their widths, so what overlaps lies within one word of 32 bits.
    const word = map.words++;
    for (const register of sharing) {
      const bytes =
        endian === 'little' ? register.address - from : to - (register.address + bytesOf(register));
      register.storage = { word, shift: bytes * 8 };
    }
    agree(sharing, problems);
    shareProtection(sharing);
  }
}

/** What shuts one way to some bits shuts the others: a part of a guarded word is guarded. */
function shareProtection(sharing: readonly Register[]): void {
  if (sharing.length < 2) return;
  const guards = [...new Set(sharing.flatMap((one) => one.guards))];
  const locks = [...new Set(sharing.flatMap((one) => one.locks))];
  const fixed = sharing.reduce((mask, one) => mask | (one.readOnlyMask << (one.storage?.shift ?? 0)), 0);
  for (const register of sharing) {
    register.guards = guards;
    register.locks = locks;
    register.readOnlyMask = ((fixed >>> (register.storage?.shift ?? 0)) & (2 ** register.bits - 1)) >>> 0;
  }
}

/** Registers that show the same bits must say the same of them: their value out of reset, and which of them are read only. */
function agree(sharing: readonly Register[], problems: Problems): void {
  const shown = (register: Register, value: number): number =>
    (value << (register.storage?.shift ?? 0)) >>> 0;
  const maskOf = (register: Register): number => shown(register, 2 ** register.bits - 1);
  for (const [position, a] of sharing.entries()) {
    for (const b of sharing.slice(position + 1)) {
      const both = (maskOf(a) & maskOf(b)) >>> 0;
      const differ = (x: number, y: number): boolean => ((shown(a, x) ^ shown(b, y)) & both) !== 0;
      if (differ(a.reset, b.reset) || differ(a.unknownReset, b.unknownReset)) {
        problems.push({
          place: `recipe, block ${b.block}, register ${b.id}`,
          message: `${a.name} and ${b.name} show the same bits, but have different reset values`,
        });
      }
    }
  }
}
