import {
  fullMask,
  type Guard,
  heldBits,
  type Register,
  type RegisterMap,
} from '../../device/registers/types';
import { reachedBeside } from '../../device/registers/within';
import {
  beginAccess,
  bitsOfWord,
  endAccess,
  NOTHING,
  outdated,
  readByClauses,
  renewFormulas,
  wordOfBits,
  wordWith,
  writeByClauses,
} from './clause-access';
import type { Operation } from './operations';
import {
  type Bits,
  bitOf,
  bitsOf,
  copy,
  flip,
  lockState,
  type Machine,
  type Mishap,
  put,
  type Reason,
  setKey,
  type Taken,
  tick,
  watchingWrites,
} from './state';
import { numberWord, type Word } from './term-formulas';

/**
 * Accesses on the bus, as the hardware takes them: guards, keys, kinds of registers, and what of an operation is lost.
 */

/** Which guards stand in the way: not open for sure, or not open for all we know. */
export function barred(machine: Machine, register: Register, access: 'read' | 'write'): Mishap | undefined {
  let found: Mishap | undefined;
  for (const guard of register.guards) {
    if (guard.register === register || (access === 'read' && guard.stops === 'writes')) continue;
    const mishap = throughGuard(machine, register, guard);
    if (mishap && !mishap.perhaps) return mishap;
    found ??= mishap;
  }
  if (access === 'read') return found;
  for (const key of register.locks) {
    const state = lockState(machine, key);
    if (state === 'open') continue;
    const mishap: Mishap = {
      reason: 'locked',
      register,
      mask: fullMask(register.bits),
      perhaps: state === 'perhaps',
      by: { register: key },
    };
    if (!mishap.perhaps) return mishap;
    found ??= mishap;
  }
  return found;
}

function throughGuard(machine: Machine, register: Register, guard: Guard): Mishap | undefined {
  const state = bitOf(machine, guard.register, guard.bit);
  if (state === guard.openAt) return undefined;
  return {
    reason: 'guarded',
    register,
    mask: fullMask(register.bits),
    perhaps: state === undefined,
    by: { register: guard.register, bit: guard.bit, wants: guard.openAt },
  };
}

export const ALL: Taken = { sure: -1, perhaps: -1 };
export const PERHAPS: Taken = { sure: 0, perhaps: -1 };

/** Bits of a register that commit bits, read-only bits and a guard of its own let through. */
export function taken(machine: Machine, register: Register): Taken {
  let sure = fullMask(register.bits) & ~register.readOnlyMask;
  let perhaps = sure;
  const { commit } = register;
  if (commit) {
    const { known, value } = bitsOf(machine, commit.register);
    const [open, maybe] = [known & (commit.openAt === 1 ? value : ~value), ~known];
    // Lock bits in the register itself are there for those below them.
    const guarded = commit.register === register ? commit.from * commit.bitsEach : register.bits;
    for (let bit = 0; bit < Math.min(register.bits, guarded); bit++) {
      const at = commit.from + Math.floor(bit / commit.bitsEach);
      if (((open >>> at) & 1) === 0) sure &= ~(1 << bit);
      if ((((open | maybe) >>> at) & 1) === 0) perhaps &= ~(1 << bit);
    }
  }
  for (const guard of register.guards) {
    if (guard.register !== register) continue;
    // Shut from within: only the bit that opens it stays within reach.
    const state = bitOf(machine, register, guard.bit);
    if (state === guard.openAt) continue;
    const own = 1 << guard.bit;
    sure &= own;
    if (state !== undefined) perhaps &= own;
  }
  return { sure, perhaps };
}

export const both = (a: Taken, b: Taken): Taken => ({
  sure: a.sure & b.sure,
  perhaps: a.perhaps & b.perhaps,
});

/** Bits that were to change and may not have. */
export function refused(
  machine: Machine,
  register: Register,
  wanted: number,
  through: Taken,
): Mishap | undefined {
  const lost = (wanted & ~through.sure) >>> 0;
  if (lost === 0) return undefined;
  const fixed = (lost & register.readOnlyMask) >>> 0;
  const shut = register.guards.find((guard) => guard.register === register);
  const base = { register, mask: lost, perhaps: (lost & ~through.perhaps) === 0 };
  if (fixed !== 0) return { ...base, mask: fixed, reason: 'read-only', perhaps: false };
  if (shut && bitOf(machine, register, shut.bit) !== shut.openAt)
    return { ...base, reason: 'guarded', by: { register, bit: shut.bit, wants: shut.openAt } };
  return {
    ...base,
    reason: 'uncommitted',
    ...(register.commit ? { by: { register: register.commit.register, wants: register.commit.openAt } } : {}),
  };
}

/** Bits of a register that a value would change, as far as one knows. */
function differing(machine: Machine, register: Register, mask: number, value: number): number {
  const held = bitsOf(machine, register);
  return (mask & ~(held.known & ~(held.value ^ value)) & fullMask(heldBits(register))) >>> 0;
}

/** Writes a whole register. What the hardware did not take comes back. */
export function writeRegister(machine: Machine, register: Register, value: number): Mishap[] {
  renewFormulas(machine);
  tick(machine, 1);
  const bar = barred(machine, register, 'write');
  let mishaps: Mishap[];
  machine.spent.clear();
  beginAccess(machine, 'write');
  const spends = spendsSurely(register, bar);
  if (!bar) mishaps = act(machine, register, value, ALL, spends);
  else mishaps = bar.perhaps ? [bar, ...act(machine, register, value, PERHAPS, spends)] : [bar];
  writeBeside(machine, register, { known: -1, value, was: 0 });
  countWrite(machine, register);
  endAccess(machine);
  return mishaps;
}

/**
 * Registers within the bytes of a write that are no views of the same word take it too, each its part: two that act at one address both
 * act. What they do not take is not what the write was for.
 */
export function writeBeside(machine: Machine, register: Register, { known, value }: Bits): void {
  for (const { register: inner, shift } of reachedBeside(machine.map, register)) {
    const bar = barred(machine, inner, 'write');
    if (bar && !bar.perhaps) continue;
    const mask = fullMask(inner.bits);
    const ones = ((value & known) >>> shift) & mask;
    const open = (~known >>> shift) & mask;
    const behind = inner.target ? barredBehind(machine, inner.target) : undefined;
    const spends = spendsSurely(inner, bar) && spendsSurely(inner, behind);
    if (inner.access.kind === 'clauses') {
      const word = wordOfBits(machine, { known: ~open, value: ones, was: 0 });
      spendAfterClauses(machine, inner, writeByClauses(machine, inner, word, !bar), spends);
      continue;
    }
    const reach = bar ? PERHAPS : ALL;
    if (open === 0) act(machine, inner, ones >>> 0, reach, spends);
    else if (inner.access.kind === 'key') setKey(machine, inner, everyCount(inner));
    else actPerhaps(machine, inner, ones >>> 0, open >>> 0, reach, spends);
  }
}

/** A write of bits of which some are not known (`open`): the others for sure, and these perhaps. */
export function actPerhaps(
  machine: Machine,
  register: Register,
  ones: number,
  open: number,
  reach: Taken,
  spends: boolean,
): Mishap[] {
  const { kind } = register.access;
  const mishaps = act(machine, register, ones, reach, spends).filter(({ reason }) => reason !== 'no-effect');
  // Where each 1 acts, only those that nobody knows may act, too; elsewhere they may be held beside the others.
  const isHeld = kind === 'read-write' || kind === 'write' || kind === 'alias';
  act(machine, register, (isHeld ? ones | open : open) >>> 0, PERHAPS, false);
  // Halves that say together what becomes of a bit leave all open that they may mean.
  if (kind === 'masked' || kind === 'set-clear') {
    const half = register.bits / 2;
    const meant = ((ones | open) >>> half) | (kind === 'masked' ? 0 : ones | open);
    const store = storeOf(register);
    const concerned = (open >>> half) | open;
    copy(machine, store, meant & concerned & fullMask(half), NOTHING, both(PERHAPS, taken(machine, store)));
  }
  return mishaps;
}

/** Every count of keys that a key register can have seen. */
export const everyCount = (key: Register): number =>
  key.access.kind === 'key' ? 2 ** (key.access.keys.length + (key.access.writes ?? 1)) - 1 : 1;

/** Keys that a write to a register uses up: its own, and those of what it acts on. */
export const locksOf = ({ locks, target }: Register): readonly Register[] =>
  target ? [...new Set([...locks, ...target.locks])] : locks;

/**
 * Whether a write uses up the keys that opened the way, in every state in which they had: not where something else may have stopped it.
 * Of a single key that may be shut its own count says in which states it was open.
 */
export const spendsSurely = (register: Register, bar: Mishap | undefined): boolean =>
  bar === undefined || (bar.reason === 'locked' && locksOf(register).length === 1);

/** A write that has come through guards and locks; `reach` says whether for sure, `spends` whether keys are used up for sure. */
export function act(
  machine: Machine,
  register: Register,
  value: number,
  reach: Taken,
  spends: boolean,
): Mishap[] {
  const { access, always } = register;
  const whole = (reason: Reason): Mishap[] => [
    { reason, register, mask: fullMask(register.bits), perhaps: false },
  ];
  if (access.kind === 'read' || access.kind === 'internal') return whole('read-only');
  if (access.kind === 'clauses') {
    const lost = writeByClauses(machine, register, numberWord(value), reach !== PERHAPS);
    spendAfterClauses(machine, register, lost, spends);
    return lost;
  }
  if (access.kind === 'key') {
    turnKey(machine, register, access.keys, value, reach);
    return [];
  }
  if (always && (value & always.mask) >>> 0 !== always.value) return whole('reserved');
  const target = register.target ?? register;
  const behind = target === register ? undefined : barredBehind(machine, target);
  if (behind && !behind.perhaps) return [{ ...behind, register }];
  const sureness = behind ? PERHAPS : reach;
  const own = both(taken(machine, register), sureness);
  const through = target === register ? own : both(own, taken(machine, target));
  const mishaps: Mishap[] = behind ? [{ ...behind, register }] : [];
  const spendsBoth = spends && spendsSurely(register, behind);
  /** A word that asks for nothing uses up a key all the same. */
  const idle = (): Mishap[] => {
    spendKeys(machine, locksOf(register), spendsBoth);
    return whole('no-effect');
  };
  const note = (mishap: Mishap | undefined): void => {
    if (mishap && sureness !== PERHAPS) mishaps.push(mishap);
  };
  switch (access.kind) {
    case 'strobe':
      if (value === 0) return idle();
      break;
    case 'set':
    case 'clear': {
      if (value === 0) return idle();
      const level = access.kind === 'set' ? -1 : 0;
      note(refused(machine, register, differing(machine, target, value, level), through));
      put(machine, target, value, level, through);
      break;
    }
    case 'toggle':
      if (value === 0) return idle();
      note(refused(machine, register, value, through));
      flip(machine, target, value, through);
      break;
    case 'set-clear': {
      if (value === 0) return idle();
      const { set, clear, both: twice } = halvesOf(register, value);
      const [high, low] = [set & ~twice, clear & ~twice];
      const { both: outcome } = access;
      const ones = outcome === 'set' ? high | twice : high;
      const zeros = outcome === 'clear' ? low | twice : low;
      const turned = outcome === 'toggle' ? twice : 0;
      const lost = differing(machine, target, zeros, 0) | differing(machine, target, ones, -1) | turned;
      note(refused(machine, register, lost, through));
      put(machine, target, zeros, 0, through);
      put(machine, target, ones, -1, through);
      flip(machine, target, turned, through);
      break;
    }
    case 'masked': {
      const mask = (value >>> (register.bits / 2)) & fullMask(register.bits / 2);
      if (mask === 0) return idle();
      note(refused(machine, register, differing(machine, register, mask, value), through));
      put(machine, register, mask, value, through);
      break;
    }
    case 'act':
      if (value === 0) return idle();
      if (register.from) copy(machine, target, value, bitsOf(machine, register.from), through);
      note(refused(machine, register, value, through));
      break;
    case 'alias':
      mishaps.push(...act(machine, target, value, through, spendsBoth));
      break;
    default:
      writeBits(machine, register, -1, value, through, note);
  }
  spendKeys(machine, locksOf(register), spendsBoth);
  return mishaps;
}

/** What a word asks of whose halves set and clear bits: those to be set, those to be cleared, and those of which both is asked. */
export function halvesOf(register: Register, value: number): { set: number; clear: number; both: number } {
  const half = register.bits / 2;
  const [lower, upper] = [value & fullMask(half), (value >>> half) & fullMask(half)];
  const isLower = register.access.kind !== 'set-clear' || register.access.setting === 'lower';
  return { set: isLower ? lower : upper, clear: isLower ? upper : lower, both: lower & upper };
}

/** Stores into a register's own bits; to a flag, 1 (or 0) is a word to go. */
function writeBits(
  machine: Machine,
  register: Register,
  mask: number,
  value: number,
  through: Taken,
  note: (mishap: Mishap | undefined) => void,
): void {
  const { flagMask, zeroFlagMask } = register;
  const flags = (flagMask & mask & value) | (zeroFlagMask & mask & ~value);
  const plain = mask & ~flagMask & ~zeroFlagMask & fullMask(register.bits);
  // Written whole, what is read only goes along; it is not what the write is for, unless nothing else is there.
  const free = plain & ~register.readOnlyMask;
  const asked = mask === -1 && (free | flagMask | zeroFlagMask) !== 0 ? free : plain;
  // Reserved bits are given their value so that the write is taken; that is all they are for.
  const wanted = asked & ~(register.always?.mask ?? 0);
  note(refused(machine, register, differing(machine, register, wanted, value) | flags, through));
  put(machine, register, plain, value, through);
  put(machine, register, flags, 0, through);
}

/** A lock of the register that is acted on holds for those that act on it. */
export function barredBehind(machine: Machine, target: Register): Mishap | undefined {
  const state = target.locks.map((key) => ({ key, state: lockState(machine, key) }));
  const shut = state.find((one) => one.state === 'shut') ?? state.find((one) => one.state === 'perhaps');
  if (!shut) return undefined;
  return {
    reason: 'locked',
    register: target,
    mask: fullMask(target.bits),
    perhaps: shut.state === 'perhaps',
    by: { register: shut.key },
  };
}

function turnKey(machine: Machine, register: Register, keys: number[], value: number, reach: Taken): void {
  const before = machine.keys.get(register) ?? 1;
  let after = reach === PERHAPS ? before : 0;
  for (let seen = 0; before >>> seen !== 0; seen++) {
    if (((before >>> seen) & 1) === 0) continue;
    // A wrong value closes what was open; the first key of the sequence may start it anew.
    const next = seen < keys.length && keys[seen] === value ? seen + 1 : keys[0] === value ? 1 : 0;
    after |= 1 << next;
  }
  setKey(machine, register, after);
}

/** A key that is good for so many writes has one less to go; or, where the write may not have come through, perhaps. */
export function spendKeys(machine: Machine, locks: readonly Register[], surely: boolean): void {
  for (const key of locks) {
    // One access uses up a key once, however many registers at its address the key opens.
    if (key.access.kind !== 'key' || key.access.unbroken || machine.spent.has(key)) continue;
    if (surely) machine.spent.add(key);
    const before = machine.keys.get(key) ?? 1;
    setKey(machine, key, afterWrite(machine, key) | (surely ? 0 : before));
  }
}

/** The same after a write by clauses, whose condition may have stopped it. */
export function spendAfterClauses(
  machine: Machine,
  register: Register,
  lost: readonly Mishap[],
  spends: boolean,
): void {
  const refused = lost.filter(({ reason }) => reason !== 'no-effect');
  if (refused.some(({ perhaps }) => !perhaps)) return;
  spendKeys(machine, register.locks, spends && refused.length === 0);
}

/** How many keys may have been seen after a write: those left of one that has been seen whole, or none. */
function afterWrite(machine: Machine, key: Register, other = false): number {
  const before = machine.keys.get(key) ?? 1;
  if (key.access.kind !== 'key') return before;
  const { keys, writes } = key.access;
  let after = 0;
  for (let seen = 0; before >>> seen !== 0; seen++) {
    if (((before >>> seen) & 1) === 0) continue;
    if (seen < keys.length) after |= other ? 1 : 1 << seen;
    else if (writes === undefined) after |= 1 << seen;
    else after |= seen + 1 < keys.length + writes ? 1 << (seen + 1) : 1;
  }
  return after;
}

const unbrokenKeys = new WeakMap<RegisterMap, Register[]>();

/** Where every write counts, one to anything else breaks a sequence of keys, and uses up one of those that it is good for. */
export function countWrite(machine: Machine, register: Register): void {
  let keys = unbrokenKeys.get(machine.map);
  if (!keys) {
    keys = machine.map.all.filter(({ access }) => access.kind === 'key' && access.unbroken);
    unbrokenKeys.set(machine.map, keys);
  }
  for (const key of keys) if (key !== register) setKey(machine, key, afterWrite(machine, key, true));
}

/** What the bus reads, and what stood in the way. */
export function readRegister(machine: Machine, register: Register): Given {
  renewFormulas(machine);
  tick(machine, 1);
  beginAccess(machine, 'read');
  const result = given(machine, register);
  endAccess(machine);
  return result;
}

interface Given {
  bits: Bits;
  mishaps: Mishap[];
  /** By clauses: over the state before the read. */
  word?: Word;
}

export function given(machine: Machine, register: Register): Given {
  const bar = barred(machine, register, 'read');
  if (bar?.perhaps && register.access.kind === 'clauses') {
    // Zero where it is shut, and what the clauses say where it is not.
    readByClauses(machine, register, false);
    return { bits: NOTHING, mishaps: [bar], word: wordOfBits(machine, NOTHING) };
  }
  if (bar) return { bits: bar.perhaps ? NOTHING : { known: -1, value: 0, was: 0 }, mishaps: [bar] };
  if (register.access.kind === 'clauses') {
    const word = readByClauses(machine, register, true);
    if (word) return { bits: bitsOfWord(word), mishaps: [], word };
  }
  switch (register.access.kind) {
    case 'write':
    case 'key':
    case 'act':
    case 'strobe':
    case 'internal':
    case 'clauses':
      return {
        bits: { known: -1, value: 0, was: 0 },
        mishaps: [{ reason: 'unreadable', register, mask: fullMask(register.bits), perhaps: false }],
      };
    default:
      return { bits: bitsOf(machine, shownStore(register)), mishaps: [] };
  }
}

/** The register whose bits a read of this one gives. */
export const shownStore = (register: Register): Register =>
  /^(set|clear|toggle|set-clear|alias)$/.test(register.access.kind) && register.target
    ? register.target
    : register;

/** The register whose bits an access to this one changes. */
export const storeOf = (register: Register): Register =>
  register.access.kind === 'read-write' || register.access.kind === 'masked'
    ? register
    : (register.target ?? register);

/** Reads, changes some bits, writes: what was read goes back as it was, but for flags, to which 0 is written. */
export function update(
  machine: Machine,
  operation: Extract<Operation, { kind: 'update' | 'flip' }>,
): Mishap[] {
  const { register } = operation;
  machine.spent.clear();
  if (register.access.kind === 'clauses') return updateByClauses(machine, operation);
  const written = writtenBy(machine, operation);
  const mishaps = updated(machine, operation);
  writeBeside(machine, register, written);
  countWrite(machine, register);
  endAccess(machine);
  return mishaps;
}

/** Reads by clauses, changes bits of what is read, writes by clauses. */
function updateByClauses(
  machine: Machine,
  operation: Extract<Operation, { kind: 'update' | 'flip' }>,
): Mishap[] {
  const { register } = operation;
  let given: Given | undefined;
  const touched = watchingWrites(machine, () => {
    given = readRegister(machine, register);
    tick(machine, 1);
  });
  const { word, mishaps = [] }: Partial<Given> = given ?? {};
  beginAccess(machine, 'write');
  // What cannot be read is not written; the access is on the bus all the same.
  if (!word) {
    countWrite(machine, register);
    endAccess(machine);
    return mishaps;
  }
  const [set, clear, flipped] =
    operation.kind === 'flip' ? [0, 0, operation.mask] : [operation.set, operation.clear, 0];
  const written = wordWith(machine, outdated(machine, word, touched), set, clear, flipped);
  const bar = barred(machine, register, 'write');
  if (bar) mishaps.push(bar);
  if (!bar || bar.perhaps) {
    const lost = writeByClauses(machine, register, written, !bar);
    mishaps.push(...lost);
    spendAfterClauses(machine, register, lost, spendsSurely(register, bar));
  }
  writeBeside(machine, register, bitsOfWord(written));
  countWrite(machine, register);
  endAccess(machine);
  return mishaps;
}

/** The word that an update puts back, as far as it is known; flags get what leaves them. */
function writtenBy(machine: Machine, operation: Extract<Operation, { kind: 'update' | 'flip' }>): Bits {
  const { known, value } = bitsOf(machine, storeOf(operation.register));
  if (operation.kind === 'flip') return { known, value: value ^ operation.mask, was: 0 };
  const { set, clear } = operation;
  const { flagMask, zeroFlagMask } = storeOf(operation.register);
  const decided = set | clear | flagMask | zeroFlagMask;
  const ones = set | (zeroFlagMask & ~clear);
  return { known: known | decided, value: ones | (value & ~decided), was: 0 };
}

function updated(machine: Machine, operation: Extract<Operation, { kind: 'update' | 'flip' }>): Mishap[] {
  const { register } = operation;
  // A gate that opens between the read and the write lets zeros through to all bits that were to go back as they were.
  const underWay = machine.pending.length > 0;
  let unread: Mishap[] = [];
  const touched = watchingWrites(machine, () => {
    if (!operation.shadow) unread = readRegister(machine, register).mishaps;
    tick(machine, 1);
  });
  beginAccess(machine, 'write');
  // What cannot be read cannot go back as it was.
  if (unread.some((mishap) => !mishap.perhaps)) return unread;
  const store = register.access.kind === 'alias' ? storeOf(register) : register;
  const behind = store === register ? undefined : barredBehind(machine, store);
  const bar = barred(machine, register, 'write') ?? (behind ? { ...behind, register } : unread[0]);
  if (bar && !bar.perhaps) return [bar];
  const through = both(both(taken(machine, register), taken(machine, store)), bar ? PERHAPS : ALL);
  const mishaps: Mishap[] = bar ? [bar] : [];
  const note = (mishap: Mishap | undefined): void => {
    if (mishap && !bar) mishaps.push(mishap);
  };
  const mask = operation.kind === 'flip' ? operation.mask : operation.clear | operation.set;
  if (unread.length > 0 && underWay) {
    const rest = ~mask & fullMask(heldBits(store));
    put(machine, store, rest, 0, { sure: 0, perhaps: through.perhaps });
  }
  // What has changed since it was read goes back as it was before.
  const changed = ((touched.get(store.storage?.word ?? -1) ?? 0) >>> (store.storage?.shift ?? 0)) & ~mask;
  if (changed !== 0 && !operation.shadow) {
    const back = changed & fullMask(heldBits(store));
    copy(machine, store, back, NOTHING, { sure: through.perhaps, perhaps: through.perhaps });
  }
  const wrong = reservedBits(machine, register, store, mask, operation.kind === 'flip' ? 0 : operation.set);
  if (wrong) mishaps.push(wrong);
  if (wrong && !wrong.perhaps) return mishaps;
  if (operation.kind === 'flip') {
    note(refused(machine, register, mask, through));
    flip(machine, store, mask, through);
  } else writeBits(machine, store, mask, operation.set, through, note);
  spendKeys(machine, locksOf(register), spendsSurely(register, bar));
  return mishaps;
}

/** Whether reserved bits, put back as they were or given a value, are not what every write must give them. */
function reservedBits(
  machine: Machine,
  register: Register,
  store: Register,
  mask: number,
  set: number,
): Mishap | undefined {
  const { always } = store;
  if (!always) return undefined;
  const held = bitsOf(machine, store);
  const given = mask & always.mask & (set ^ always.value);
  const kept = always.mask & ~mask;
  const open = kept & ~(held.known & ~(held.value ^ always.value));
  if (given === 0 && open === 0) return undefined;
  const surely = given !== 0 || (kept & held.known & (held.value ^ always.value)) !== 0;
  return { reason: 'reserved', register, mask: fullMask(register.bits), perhaps: !surely };
}

/** Flips bits by way of two registers: those that are 1 through the one that clears, the others through the one that sets. */
export function flipThrough(
  machine: Machine,
  operation: Extract<Operation, { kind: 'flip' }>,
  through: { set: Register; clear: Register },
): Mishap[] {
  const { register, mask } = operation;
  const { mishaps } = readRegister(machine, register);
  if (mishaps.length > 0) return mishaps;
  tick(machine, 1);
  const found: Mishap[] = [];
  beginAccess(machine, 'write');
  let reach = ALL;
  for (const way of new Set([through.set, through.clear])) {
    const bar = barred(machine, way, 'write') ?? barredBehind(machine, register);
    if (bar) found.push(bar);
    reach = both(reach, bar ? PERHAPS : taken(machine, way));
  }
  const way = both(reach, taken(machine, register));
  const held = bitsOf(machine, storeOf(register));
  if (found.length === 0) {
    const lost = refused(machine, register, mask, way);
    if (lost) found.push(lost);
  }
  flip(machine, register, mask, way);
  machine.spent.clear();
  writeBeside(machine, through.clear, { known: held.known | ~mask, value: held.value & mask, was: 0 });
  if (through.set !== through.clear)
    writeBeside(machine, through.set, { known: held.known | ~mask, value: ~held.value & mask, was: 0 });
  countWrite(machine, through.set);
  endAccess(machine);
  return found;
}
