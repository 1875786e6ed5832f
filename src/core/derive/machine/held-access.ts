import { type HeldValue, heldIn } from '../../description/language/held-value';
import { fullMask, heldBits, type Register } from '../../device/registers/types';
import {
  beginAccess,
  bitsOfWord,
  endAccess,
  givenBy,
  heldOfWord,
  isRestless,
  NOTHING,
  renewFormulas,
  wordOfHeld,
  writeByClauses,
} from './clause-access';
import { bitsOfHeld, type HeldBits, literalOf, stateBit } from './held';
import {
  ALL,
  act,
  actPerhaps,
  barred,
  barredBehind,
  both,
  countWrite,
  everyCount,
  given,
  locksOf,
  PERHAPS,
  refused,
  shownStore,
  spendAfterClauses,
  spendKeys,
  spendsSurely,
  storeOf,
  taken,
  writeBeside,
} from './machine';
import { bitsOf, copy, type Machine, type Mishap, put, putBack, setKey, type Taken, tick } from './state';

/** Accesses of code that holds what it has read, and writes it or what it works out of it. */

/** What a read would give, in terms of the state before the first operation. */
function heldNow(machine: Machine, register: Register): HeldBits {
  if (register.access.kind === 'clauses') return heldOfWord(machine, givenBy(machine, register));
  const store = shownStore(register);
  const { storage } = store;
  return Array.from({ length: register.bits }, (_, bit) => {
    const at = (storage?.word ?? 0) * 32 + (storage?.shift ?? 0) + bit;
    return !storage || bit >= heldBits(store) || isRestless(machine, at) ? 'unknown' : stateBit(machine, at);
  });
}

/** Reads a register; with a number, what it gives is held under that. */
export function holdRegister(machine: Machine, register: Register, holds?: number): Mishap[] {
  renewFormulas(machine);
  tick(machine, 1);
  const held = holds === undefined ? [] : heldNow(machine, register);
  beginAccess(machine, 'read');
  const { mishaps } = given(machine, register);
  endAccess(machine);
  if (holds !== undefined)
    machine.held.set(holds, mishaps.length === 0 ? held : new Array(register.bits).fill('unknown'));
  return mishaps;
}

/** Writes what is worked out of what was held. What the hardware did not take comes back. */
export function writeHeld(machine: Machine, register: Register, value: HeldValue): Mishap[] {
  const whole = { register, mask: fullMask(register.bits) };
  // Of what nobody has read anything may be written.
  const unread: Mishap[] = [...heldIn(value)].some((id) => !machine.held.has(id))
    ? [{ ...whole, reason: 'unreadable', perhaps: false }]
    : [];
  const bits = bitsOfHeld(value, machine.held).slice(0, register.bits);
  renewFormulas(machine);
  tick(machine, 1);
  const bar = barred(machine, register, 'write');
  machine.spent.clear();
  beginAccess(machine, 'write');
  const spends = spendsSurely(register, bar);
  const mishaps: Mishap[] = bar ? [...unread, bar] : unread;
  if (!bar || bar.perhaps) {
    const word = wordOfHeld(machine, bits);
    if (register.access.kind === 'clauses') {
      const lost = writeByClauses(machine, register, word, !bar);
      spendAfterClauses(machine, register, lost, spends);
      mishaps.push(...lost);
    } else mishaps.push(...actOn(machine, register, bits, bar ? PERHAPS : ALL, spends));
    writeBeside(machine, register, bitsOfWord(word));
  } else writeBeside(machine, register, NOTHING);
  countWrite(machine, register);
  endAccess(machine);
  return mishaps;
}

const maskOf = (bits: HeldBits, holds: (bit: HeldBits[number], at: number) => boolean): number =>
  bits.reduce<number>((mask, bit, at) => (holds(bit, at) ? mask | (1 << at) : mask), 0) >>> 0;

/** A write of bits of which some are not known, to a register of a kind. */
function actOn(
  machine: Machine,
  register: Register,
  bits: HeldBits,
  reach: Taken,
  spends: boolean,
): Mishap[] {
  const ones = maskOf(bits, (bit) => bit === 1);
  const open = maskOf(bits, (bit) => typeof bit !== 'number');
  const { kind } = register.access;
  if (open === 0) return act(machine, register, ones, reach, spends);
  if (kind === 'key') {
    setKey(machine, register, everyCount(register));
    return [];
  }
  const store = storeOf(register);
  const targetBar = store === register ? undefined : barredBehind(machine, store);
  if (kind !== 'read-write' && kind !== 'write' && kind !== 'alias')
    return actPerhaps(machine, register, ones, open, reach, spends);
  const mishaps: Mishap[] = targetBar ? [{ ...targetBar, register }] : [];
  if (targetBar && !targetBar.perhaps) return mishaps;
  const { always, flagMask, zeroFlagMask, readOnlyMask } = store;
  const reserved = always ? (ones ^ always.value) & always.mask & ~open : 0;
  if (reserved !== 0 || (open & (always?.mask ?? 0)) !== 0)
    mishaps.push({
      reason: 'reserved',
      register,
      mask: fullMask(register.bits),
      perhaps: reserved === 0,
    });
  if (reserved !== 0) return mishaps;
  const through = both(
    both(taken(machine, register), taken(machine, store)),
    targetBar || mishaps.length > 0 ? PERHAPS : reach,
  );
  const flags = flagMask | zeroFlagMask;
  const plain = ~flags & ~readOnlyMask & fullMask(heldBits(store));
  const first = store.storage ? store.storage.word * 32 + store.storage.shift : Number.NaN;
  const back = maskOf(bits, (bit, at) => literalOf(bit)?.at === first + at) & plain;
  const turned = maskOf(bits, (bit) => literalOf(bit)?.inverted === true) & back;
  const now = bitsOf(machine, store);
  const settled = now.known & ~(now.value ^ ones) & ~open;
  const same = now.was & ~now.known & ~(now.value ^ turned) & back;
  const lost = refused(machine, register, (plain & ~settled & ~same) >>> 0, through);
  // Where something may stand in the way that has been said.
  if (lost && !targetBar && reach !== PERHAPS) mishaps.push(lost);
  put(machine, store, plain & ~open, ones, through);
  putBack(machine, store, back, turned, through);
  copy(machine, store, plain & open & ~back, NOTHING, through);
  put(machine, store, ((flagMask & ones) | (zeroFlagMask & ~ones)) & ~open, 0, through);
  put(machine, store, flags & open, 0, { sure: 0, perhaps: through.perhaps });
  spendKeys(machine, locksOf(register), spends && spendsSurely(register, targetBar));
  return mishaps;
}
