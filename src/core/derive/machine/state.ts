import {
  type Follower,
  fullMask,
  heldBits,
  type Register,
  type RegisterMap,
} from '../../device/registers/types';
import type { HeldBits } from './held';

/**
 * A register machine: it knows memory, registers as views of it, access kinds, guards, keys and delays, and nothing about
 * settings. It can therefore contradict the encoder, which is the point of the proof.
 *
 * Every bit of memory is 0, 1, as it was before the first operation (or the opposite of that), or unknown. One run on such
 * bits stands for runs from all the states that they can have had.
 */
export interface Machine {
  map: RegisterMap;
  /**
   * By {@link Storage.word}: bits that are known, their values, and bits that nothing has changed. A bit that is not known but
   * as it was is the opposite of what it was where its value is 1.
   */
  known: Int32Array;
  value: Int32Array;
  was: Int32Array;
  /** Cycles that have passed at least. */
  cycle: number;
  /** For each key register how many keys of its sequence it may have seen, one bit for each number. */
  keys: Map<Register, number>;
  /** Values that are sure to have arrived in a following register at a later cycle. */
  pending: Arrival[];
  /** By word: registers that follow it. */
  followers: readonly (readonly Follower[] | undefined)[];
  /** By word: what its bits come back to by themselves. */
  returns: ReadonlyMap<number, Arriving>;
  /** Something arrives by itself, and is no write. */
  arriving: boolean;
  /** Keys that the access which is being carried out has used up. */
  spent: Set<Register>;
  /** What code holds of what it has read, by number. */
  held: Map<number, HeldBits>;
  /** Words that changed since somebody looked. */
  changed: ChangedWords;
  /** During an access: what every access does to bits of state, by their number (see `clause-access.ts`). */
  everyAccess?: Map<number, number>;
  /** Where somebody looks: bits of words that something was written to. */
  touched?: Map<number, number>;
  /** Called when time alone has changed something. */
  onArrival?: () => void;
  /** While something is tried out: what words and keys were before. */
  before?: Before;
}

/** Words that have changed, each once, in the order in which they did: emptied and filled again for every operation. */
export class ChangedWords {
  readonly list: Int32Array;
  count = 0;
  private readonly marks: Uint8Array;

  constructor(words: number) {
    this.list = new Int32Array(words);
    this.marks = new Uint8Array(words);
  }

  add(word: number): void {
    if (this.marks[word] === 1) return;
    this.marks[word] = 1;
    this.list[this.count++] = word;
  }

  clear(): void {
    for (let at = 0; at < this.count; at++) this.marks[this.list[at] as number] = 0;
    this.count = 0;
  }
}

/** Words that have changed, with known, value and was as they were; key registers likewise. */
export interface Before {
  words: Map<number, [known: number, value: number, was: number]>;
  keys: Map<Register, number>;
}

/** Tries something out on a machine, which is afterwards as it was. */
export function tryOut<T>(machine: Machine, work: (before: Before) => T): T {
  const { cycle, pending, changed, held, before: outer } = machine;
  const before: Before = { words: new Map(), keys: new Map() };
  machine.before = before;
  machine.changed = new ChangedWords(machine.map.words);
  machine.pending = [...pending];
  machine.held = new Map(held);
  try {
    return work(before);
  } finally {
    for (const [word, [known, value, was]] of before.words) {
      machine.known[word] = known;
      machine.value[word] = value;
      machine.was[word] = was;
    }
    for (const [key, seen] of before.keys) machine.keys.set(key, seen);
    Object.assign(machine, { cycle, pending, changed, held, before: outer });
  }
}

interface Arriving {
  follower: Follower;
  bits: Bits;
}

interface Arrival extends Arriving {
  at: number;
}

/** Bits as the machine knows them; see {@link Machine}. */
export interface Bits {
  known: number;
  value: number;
  was: number;
}

/** `reset`: bits start with their reset values. `every`: every bit of every register is as it was, whatever that is. */
export type Start = 'reset' | 'every';

const followersOf = new WeakMap<RegisterMap, (Follower[] | undefined)[]>();

function followersIn(map: RegisterMap): (Follower[] | undefined)[] {
  let followers = followersOf.get(map);
  if (!followers) {
    followers = new Array<Follower[] | undefined>(map.words).fill(undefined);
    for (const one of map.all.flatMap((register) => register.followers)) {
      const word = one.source.storage?.word;
      if (word !== undefined) followers[word] = [...(followers[word] ?? []), one];
    }
    followersOf.set(map, followers);
  }
  return followers;
}

const returnsOf = new WeakMap<RegisterMap, ReadonlyMap<number, Arriving>>();

/** Registers whose bits come back to a value by themselves, by word. */
export function returnsIn(map: RegisterMap): ReadonlyMap<number, Arriving> {
  let returns = returnsOf.get(map);
  if (!returns) {
    returns = new Map(
      map.all.flatMap((register): [number, Arriving][] => {
        if (!register.returns || !register.storage) return [];
        const { value, afterCycles } = register.returns;
        const mask = fullMask(heldBits(register));
        const follower: Follower = {
          register,
          mask,
          source: register,
          shift: 0,
          inverted: false,
          afterCycles,
        };
        return [[register.storage.word, { follower, bits: { known: mask, value, was: 0 } }]];
      }),
    );
    returnsOf.set(map, returns);
  }
  return returns;
}

interface StartImage {
  known: Int32Array;
  value: Int32Array;
}

const resetImages = new WeakMap<RegisterMap, StartImage>();

/** The bits of memory that have a reset value, and those values. */
export function resetImage(map: RegisterMap): StartImage {
  let image = resetImages.get(map);
  if (!image) {
    image = { known: new Int32Array(map.words), value: new Int32Array(map.words) };
    for (const register of map.all) {
      const { storage } = register;
      // What levels the pads have is nobody's to say.
      if (!storage || register.follows?.kind === 'pads') continue;
      const given = fullMask(heldBits(register)) & ~register.unknownReset;
      image.known[storage.word] = (image.known[storage.word] ?? 0) | (given << storage.shift);
      image.value[storage.word] = (image.value[storage.word] ?? 0) | (register.reset << storage.shift);
    }
    resetImages.set(map, image);
  }
  return image;
}

export function createMachine(map: RegisterMap, start: Start = 'reset'): Machine {
  const image = resetImage(map);
  const machine: Machine = {
    map,
    known: start === 'reset' ? image.known.slice() : new Int32Array(map.words),
    value: start === 'reset' ? image.value.slice() : new Int32Array(map.words),
    was: new Int32Array(map.words).fill(-1),
    cycle: 0,
    keys: new Map(
      map.all.flatMap((register) =>
        register.access.kind === 'key'
          ? [
              [
                register,
                start === 'reset'
                  ? 1
                  : 2 ** (register.access.keys.length + (register.access.writes ?? 1)) - 1,
              ],
            ]
          : [],
      ),
    ),
    pending: [],
    spent: new Set(),
    held: new Map(),
    followers: followersIn(map),
    returns: returnsIn(map),
    arriving: false,
    changed: new ChangedWords(map.words),
  };
  // What was written before the start may be on its way back.
  for (const word of machine.returns.keys()) comeBack(machine, word, -1);
  return machine;
}

/** A machine in the same state, that goes its own way from there. */
export const copyMachine = (machine: Machine): Machine => ({
  ...machine,
  known: machine.known.slice(),
  value: machine.value.slice(),
  was: machine.was.slice(),
  keys: new Map(machine.keys),
  pending: [...machine.pending],
  spent: new Set(),
  held: new Map(machine.held),
  changed: new ChangedWords(machine.map.words),
  onArrival: undefined,
  before: undefined,
  everyAccess: undefined,
  touched: undefined,
});

/** Bits of a word that are as they were before the first operation; one that has been turned since is not. */
export function untouchedBits({ known, value, was }: Machine, word: number): number {
  return (was[word] ?? 0) & ((known[word] ?? 0) | ~(value[word] ?? 0));
}

/** What is held in a register, without a bus access. */
export function bitsOf(machine: Machine, register: Register): Bits {
  const { storage } = register;
  if (!storage) return { known: 0, value: 0, was: 0 };
  const mask = fullMask(heldBits(register));
  const { word, shift } = storage;
  return {
    known: (((machine.known[word] ?? 0) >>> shift) & mask) >>> 0,
    value: (((machine.value[word] ?? 0) >>> shift) & mask) >>> 0,
    was: (((machine.was[word] ?? 0) >>> shift) & mask) >>> 0,
  };
}

/** One bit: 0 or 1, or undefined when that cannot be said. */
export function bitOf(machine: Machine, register: Register, bit: number): 0 | 1 | undefined {
  const { known, value } = bitsOf(machine, register);
  if (((known >>> bit) & 1) === 0) return undefined;
  return ((value >>> bit) & 1) as 0 | 1;
}

/** What a key register lets through: whether its lock is open, or whether that depends. */
export function lockState(machine: Machine, key: Register): 'open' | 'shut' | 'perhaps' {
  if (key.access.kind !== 'key') return 'open';
  const seen = machine.keys.get(key) ?? 1;
  // All keys seen, and any number of the writes that it is good for.
  const open = 2 ** key.access.keys.length * (2 ** (key.access.writes ?? 1) - 1);
  if ((seen & ~open) === 0) return 'open';
  return (seen & open) !== 0 ? 'perhaps' : 'shut';
}

/** Gives a word of memory its bits; those that changed come back. */
function setWord(machine: Machine, word: number, known: number, value: number, was: number): number {
  const [k = 0, v = 0, w = 0] = [machine.known[word], machine.value[word], machine.was[word]];
  if (k === known && v === value && w === was) return 0;
  if (machine.before && !machine.before.words.has(word)) machine.before.words.set(word, [k, v, w]);
  machine.known[word] = known;
  machine.value[word] = value;
  machine.was[word] = was;
  machine.changed.add(word);
  return (k ^ known) | (v ^ value) | (w ^ was);
}

export function setKey(machine: Machine, key: Register, seen: number): void {
  const old = machine.keys.get(key) ?? 1;
  if (machine.before && !machine.before.keys.has(key)) machine.before.keys.set(key, old);
  machine.keys.set(key, seen);
}

/** Takes bits of a register to hold a value, as if it had been found out; they count as untouched. */
export function assume(machine: Machine, register: Register, mask: number, value: number): void {
  const { storage } = register;
  if (!storage) return;
  const { word, shift } = storage;
  assumeWord(machine, word, mask << shift, value << shift);
}

/** The same of bits of a word of state. */
export function assumeWord(machine: Machine, word: number, bits: number, value: number): void {
  const held = ((machine.value[word] ?? 0) & ~bits) | (value & bits);
  setWord(machine, word, (machine.known[word] ?? 0) | bits, held, machine.was[word] ?? 0);
}

/** Bits of a register are given by the world: the level of a pad, the flag of an interrupt. */
export function showBits(
  machine: Machine,
  register: Register,
  mask: number,
  known: number,
  value: number,
): void {
  const { storage } = register;
  if (!storage) return;
  const { word, shift } = storage;
  const bits = mask << shift;
  const nowKnown = ((machine.known[word] ?? 0) & ~bits) | ((known << shift) & bits);
  const nowValue = ((machine.value[word] ?? 0) & ~bits) | (((value & known) << shift) & bits);
  follow(machine, word, setWord(machine, word, nowKnown, nowValue, (machine.was[word] ?? 0) & ~bits));
}

/** Bits of a register that a write reaches, for sure and perhaps. */
export interface Taken {
  sure: number;
  perhaps: number;
}

/** What has bits: a register, or a place of state. */
type Holder = Pick<Register, 'storage'>;

function touch({ touched }: Machine, word: number, bits: number): void {
  if (touched && bits !== 0) touched.set(word, (touched.get(word) ?? 0) | bits);
}

/** Does something, and says which bits of which words it wrote to; whoever looks from outside sees them as well. */
export function watchingWrites(machine: Machine, work: () => void): Map<number, number> {
  const outer = machine.touched;
  const touched = new Map<number, number>();
  machine.touched = touched;
  try {
    work();
  } finally {
    machine.touched = outer;
    for (const [word, bits] of touched) touch(machine, word, bits);
  }
  return touched;
}

/** What has been written comes back by itself: at any time from now on, and surely when its time is over. */
function comeBack(machine: Machine, word: number, bits: number): void {
  const back = machine.arriving || bits === 0 ? undefined : machine.returns.get(word);
  if (!back) return;
  machine.pending = machine.pending.filter(({ follower }) => follower !== back.follower);
  machine.pending.push({ at: machine.cycle + back.follower.afterCycles, ...back });
  arrive(machine, back.follower, back.bits, false);
}

/** Gives bits of a register a value. What is only perhaps written becomes unknown unless it held that already. */
export function put(machine: Machine, register: Holder, mask: number, value: number, taken: Taken): void {
  const { storage } = register;
  if (!storage) return;
  const { word, shift } = storage;
  const v = value << shift;
  touch(machine, word, (mask & (taken.sure | taken.perhaps)) << shift);
  let known = machine.known[word] ?? 0;
  let held = machine.value[word] ?? 0;
  let was = machine.was[word] ?? 0;
  const sure = (mask & taken.sure) << shift;
  const changed = sure & ~(known & ~(held ^ v));
  known |= sure;
  held = (held & ~sure) | (v & sure);
  was &= ~changed;
  const perhaps = (mask & taken.perhaps & ~taken.sure) << shift;
  const lost = perhaps & ~(known & ~(held ^ v));
  known &= ~lost;
  held &= ~lost;
  was &= ~lost;
  follow(machine, word, setWord(machine, word, known, held, was));
  comeBack(machine, word, (mask & (taken.sure | taken.perhaps)) << shift);
}

/**
 * Bits become what they were before the first operation, or where `turned` says so the opposite. What is only perhaps written becomes unknown
 * unless it is that already.
 */
export function putBack(
  machine: Machine,
  register: Holder,
  mask: number,
  turned: number,
  taken: Taken,
): void {
  const { storage } = register;
  if (!storage) return;
  const { word, shift } = storage;
  const v = turned << shift;
  touch(machine, word, (mask & (taken.sure | taken.perhaps)) << shift);
  const known = machine.known[word] ?? 0;
  const held = machine.value[word] ?? 0;
  const was = machine.was[word] ?? 0;
  const sure = (mask & taken.sure) << shift;
  const perhaps = (mask & taken.perhaps & ~taken.sure) << shift;
  const lost = perhaps & ~(was & ~known & ~(held ^ v));
  const gone = sure | lost;
  follow(
    machine,
    word,
    setWord(machine, word, known & ~gone, (held & ~gone) | (v & sure), (was | sure) & ~lost),
  );
  comeBack(machine, word, (mask & (taken.sure | taken.perhaps)) << shift);
}

/** Turns bits of a register into their opposites. */
export function flip(machine: Machine, register: Holder, mask: number, taken: Taken): void {
  const { storage } = register;
  if (!storage) return;
  const { word, shift } = storage;
  touch(machine, word, (mask & (taken.sure | taken.perhaps)) << shift);
  const sure = (mask & taken.sure) << shift;
  const lost = (mask & taken.perhaps & ~taken.sure) << shift;
  const known = machine.known[word] ?? 0;
  const was = (machine.was[word] ?? 0) & ~(sure & known) & ~lost;
  const turned = ((machine.value[word] ?? 0) ^ sure) & ~lost;
  follow(machine, word, setWord(machine, word, known & ~lost, turned, was));
  comeBack(machine, word, (mask & (taken.sure | taken.perhaps)) << shift);
}

/** Copies bits into a register from another place: what is as it was there is unknown here. */
export function copy(machine: Machine, register: Holder, mask: number, from: Bits, taken: Taken): void {
  put(machine, register, mask & from.known, from.value, taken);
  const unknown = mask & ~from.known;
  put(machine, register, unknown, 0, { sure: 0, perhaps: taken.sure | taken.perhaps });
  put(machine, register, unknown, ~0, { sure: 0, perhaps: taken.sure | taken.perhaps });
}

/** Where bits of a word have changed, what shows them changes too. */
function follow(machine: Machine, word: number, changed: number): void {
  if (changed === 0) return;
  const followers = machine.followers[word];
  if (!followers) return;
  for (const one of followers) {
    const { mask, shift, source } = one;
    const watched = (shift >= 0 ? mask >>> shift : mask << -shift) << (source.storage?.shift ?? 0);
    if ((watched & changed) === 0) continue;
    const bits = shownBits(machine, one);
    if (one.afterCycles === 0) arrive(machine, one, bits, true);
    else {
      // It may have arrived at any time from now on, and is sure to have when the delay is over.
      arrive(machine, one, bits, false);
      machine.pending.push({ at: machine.cycle + one.afterCycles, follower: one, bits });
    }
  }
}

/** The bits that a follower shows, where it shows them; the opposite of what is not known is not known. */
export function shownBits(machine: Machine, { source, shift, mask, inverted }: Follower): Bits {
  const { known, value, was } = bitsOf(machine, source);
  const moved = (bits: number): number => (shift >= 0 ? bits << shift : bits >>> -shift) & mask;
  const all = moved(known);
  // A bit of the source that has been turned is none that is as it was.
  const untouched = moved(was & ~known & ~value);
  return { known: all, value: inverted ? all & ~moved(value) : moved(known & value), was: untouched };
}

/**
 * What a followed register held arrives in the one that follows it. At the start nothing is under way, so a bit that is as it
 * was in one is so in the other.
 */
function arrive(machine: Machine, { register, mask }: Follower, bits: Bits, sure: boolean): void {
  const { storage } = register;
  if (!storage) return;
  const own = bitsOf(machine, register);
  const taken = sure ? { sure: mask, perhaps: mask } : { sure: 0, perhaps: mask };
  const untouched = bits.was & own.was & ~own.known & ~own.value;
  const { arriving } = machine;
  machine.arriving = true;
  put(machine, register, bits.known, bits.value, taken);
  copy(machine, register, mask & ~bits.known & ~untouched, { known: 0, value: 0, was: 0 }, taken);
  machine.arriving = arriving;
}

/** Lets time pass: what follows with a delay catches up. */
export function tick(machine: Machine, cycles: number): void {
  machine.cycle += cycles;
  if (machine.pending.length === 0) return;
  const due = machine.pending.filter((one) => one.at <= machine.cycle).sort((a, b) => a.at - b.at);
  if (due.length === 0) return;
  machine.pending = machine.pending.filter((one) => one.at > machine.cycle);
  for (const [position, arrival] of due.entries()) {
    arrive(machine, arrival.follower, arrival.bits, true);
    // Later values may have arrived as well by now.
    for (const later of [...due.slice(position + 1), ...machine.pending])
      if (later.follower === arrival.follower) arrive(machine, later.follower, later.bits, false);
    machine.onArrival?.();
  }
}

/** Why an operation had not, or perhaps not, the effect that it was written for. */
export type Reason =
  | 'guarded'
  | 'locked'
  | 'read-only'
  | 'reserved'
  | 'uncommitted'
  | 'unmet'
  | 'no-effect'
  | 'unreadable'
  | 'times-out';

/** An operation that the hardware did not take, or may not have taken. */
export interface Mishap {
  reason: Reason;
  register: Register;
  /** Bits of the register that it is about. */
  mask: number;
  /** It happens in some of the states that are possible, not in all. */
  perhaps: boolean;
  /** What stood in the way. */
  by?: { register: Register; bit?: number; wants?: 0 | 1 };
}
