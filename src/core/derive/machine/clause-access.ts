import { FALSE, type Formula, Formulas, TooManyFormulas, TRUE } from '../../base/logic/formulas';
import {
  type BoundCondition,
  type BoundTerm,
  type Clauses,
  clausesOf,
  type Effect,
} from '../../device/clauses/clauses';
import { fullMask, type Register, type RegisterMap, shownMask } from '../../device/registers/types';
import { formulaOfHeld, type HeldBits, heldOf, literalOf, stateBit } from './held';
import type { Mishap } from './state';
import {
  assumeWord,
  type Bits,
  copy,
  flip,
  type Machine,
  put,
  putBack,
  shownBits,
  type Taken,
} from './state';
import {
  anyBit,
  bitOfVariable,
  termFormulas,
  variableOf,
  type Word,
  withinWidth,
  ZERO,
} from './term-formulas';

/**
 * Accesses by clauses on the machine of the proof: one step of symbolic simulation. Each bit that an access assigns becomes a formula over
 * the state before it (bits that the machine knows being constants). What that formula is, is written back: a constant, the bit itself,
 * its opposite; anything else is unknown from then on.
 */

/** New values of bits of state, by their number: formulas over the state before the access. */
type Assigned = Map<number, Formula>;

interface Workshop {
  formulas: Formulas;
  /** The next variable that stands for what nobody knows. */
  fresh: number;
}

const workshops = new WeakMap<RegisterMap, Workshop>();
const MOST_FORMULAS = 50_000;

/** Before an access of which nothing is known yet: formulas last for one access, and are thrown away when there are many. */
export function renewFormulas({ map }: Machine): void {
  if (!map.inClauses) return;
  const workshop = workshops.get(map);
  if (workshop && workshop.formulas.size > MOST_FORMULAS) workshops.delete(map);
}

function workshopOf(map: RegisterMap): Workshop {
  let workshop = workshops.get(map);
  if (!workshop) {
    workshop = { formulas: new Formulas(2 * MOST_FORMULAS), fresh: 0 };
    workshops.set(map, workshop);
  }
  return workshop;
}

const bitOf =
  ({ known, value }: Machine, formulas: Formulas) =>
  (at: number): Formula => {
    const [word, bit] = [at >> 5, at & 31];
    if (((known[word] ?? 0) >>> bit) & 1) return ((value[word] ?? 0) >>> bit) & 1 ? TRUE : FALSE;
    return formulas.variable(variableOf(at));
  };

function assign(
  machine: Machine,
  effects: readonly Effect[],
  written: Word,
  into: Assigned,
  open: Formula,
): void {
  const { formulas } = workshopOf(machine.map);
  const bits = bitOf(machine, formulas);
  for (const { to, value } of effects) {
    const word = evaluated(machine, value, written);
    for (let bit = 0; bit < to.bits; bit++) {
      const at = to.word * 32 + to.shift + bit;
      const otherwise = into.get(at) ?? machine.everyAccess?.get(at) ?? bits(at);
      const chosen = orAnything(machine, () => formulas.choose(open, word[bit] as Formula, otherwise));
      into.set(at, chosen);
    }
  }
}

/** What is too entangled to be said may be anything. */
function orAnything(machine: Machine, work: () => Formula): Formula {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof TooManyFormulas)) throw error;
    return anything(machine);
  }
}

/** A bit that nobody knows. */
const anything = (machine: Machine): Formula => wordOfBits(machine, NOTHING)[0] as Formula;

/** The value of a term in the state before an access. What is too entangled to be said may be anything. */
function evaluated(
  machine: Machine,
  term: BoundTerm,
  written: Word,
  bitsOf?: (formulas: Formulas) => (at: number) => Formula,
): Word {
  const { formulas } = workshopOf(machine.map);
  try {
    return termFormulas(formulas, bitsOf?.(formulas) ?? bitOf(machine, formulas), term, written);
  } catch (error) {
    if (!(error instanceof TooManyFormulas)) throw error;
    return wordOfBits(machine, NOTHING);
  }
}

/** Begins an access: works out what every access does, from the state before it. */
export function beginAccess(machine: Machine, access: 'read' | 'write'): void {
  if (!machine.map.inClauses) return;
  const clauses = clausesOf(machine.map);
  machine.everyAccess = undefined;
  if (clauses.anyAccess.length === 0 && (access === 'read' || clauses.anyWrite.length === 0)) return;
  const assigned: Assigned = new Map();
  assign(machine, clauses.anyAccess, ZERO, assigned, TRUE);
  if (access === 'write') assign(machine, clauses.anyWrite, ZERO, assigned, TRUE);
  machine.everyAccess = assigned;
}

/** Ends an access: what every access does is done, but for bits that the access itself has assigned. */
export function endAccess(machine: Machine): void {
  const { everyAccess } = machine;
  if (!everyAccess) return;
  machine.everyAccess = undefined;
  apply(machine, everyAccess, SURE);
}

/** Bits of which nothing is known. */
export const NOTHING: Bits = { known: 0, value: 0, was: 0 };

const SURE: Taken = { sure: -1, perhaps: -1 };
const PERHAPS: Taken = { sure: 0, perhaps: -1 };

/** Writes back what bits have become. */
function apply(machine: Machine, assigned: Assigned, taken: Taken): void {
  const { formulas } = workshopOf(machine.map);
  const words = new Map<number, Record<'ones' | 'zeros' | 'flipped' | 'back' | 'turned' | 'open', number>>();
  for (const [at, formula] of assigned) {
    const [word, mask] = [at >> 5, 1 << (at & 31)];
    let masks = words.get(word);
    if (!masks) {
      masks = { ones: 0, zeros: 0, flipped: 0, back: 0, turned: 0, open: 0 };
      words.set(word, masks);
    }
    const literal = formulas.literal(formula);
    if (formula === TRUE) masks.ones |= mask;
    else if (formula === FALSE) masks.zeros |= mask;
    else if (literal?.variable === earlierVariable(at)) {
      masks.back |= mask;
      if (literal.inverted) masks.turned |= mask;
    } else if (literal?.variable !== variableOf(at)) masks.open |= mask;
    else if (literal.inverted) masks.flipped |= mask;
  }
  for (const [word, { ones, zeros, flipped, back, turned, open }] of words) {
    const holder = { storage: { word, shift: 0 } };
    if ((ones | zeros) !== 0) put(machine, holder, ones | zeros, ones, taken);
    if (flipped !== 0) flip(machine, holder, flipped, taken);
    if (back !== 0) putBack(machine, holder, back, turned, taken);
    if (open !== 0) copy(machine, holder, open, NOTHING, taken);
  }
}

/** Does what an access assigns instead of what every access does; where it may not have come through, perhaps only. */
function carryOut(machine: Machine, assigned: Assigned, sure: boolean): void {
  const { everyAccess } = machine;
  const either: Assigned = new Map();
  for (const [at, formula] of assigned) {
    const every = everyAccess?.get(at);
    if (every === undefined) continue;
    everyAccess?.delete(at);
    if (sure) continue;
    // One of both surely: unless they are the same nobody can say which.
    either.set(at, every === formula ? every : anything(machine));
    assigned.delete(at);
  }
  if (either.size > 0) apply(machine, either, SURE);
  apply(machine, assigned, sure ? SURE : PERHAPS);
}

/** A word of which bits are known; the others may be anything. */
export function wordOfBits({ map }: Machine, { known, value }: Bits): Word {
  const workshop = workshopOf(map);
  const { words } = clausesOf(map);
  return Array.from({ length: 32 }, (_, bit) => {
    if (((known >>> bit) & 1) === 0)
      return workshop.formulas.variable(variableOf(words * 32 + workshop.fresh++));
    return ((value >>> bit) & 1) === 1 ? TRUE : FALSE;
  });
}

/** The variable of what a bit of state was before the first operation. */
const earlierVariable = (at: number): number => -1 - at;

/** A word of what code has held. A bit that is now what it was before the first operation stands for itself. */
export function wordOfHeld(machine: Machine, bits: HeldBits): Word {
  const { formulas } = workshopOf(machine.map);
  const variable = (at: number): Formula => {
    const now = literalOf(stateBit(machine, at));
    if (!now) return formulas.variable(earlierVariable(at));
    const current = formulas.variable(variableOf(at));
    return now.inverted ? formulas.not(current) : current;
  };
  return Array.from({ length: 32 }, (_, place) =>
    orAnything(machine, () => formulaOfHeld(formulas, bits[place] ?? 0, variable, () => anything(machine))),
  );
}

/** What code holds of a word that was read, in terms of the state before the first operation. */
export function heldOfWord(machine: Machine, word: Word): HeldBits {
  const { formulas } = workshopOf(machine.map);
  return word.map((formula) =>
    heldOf(formulas, formula, (variable) => {
      const at = bitOfVariable(variable);
      const isState = variable >= 0 && at < machine.map.words * 32 && !isRestless(machine, at);
      return isState ? stateBit(machine, at) : 'unknown';
    }),
  );
}

const restless = new WeakMap<RegisterMap, Int32Array>();

/** Bits that change by themselves between two reads: what the pads show, flags, what comes back. */
export function isRestless({ map }: Machine, at: number): boolean {
  let bits = restless.get(map);
  if (!bits) {
    bits = new Int32Array(map.words);
    for (const register of map.all) {
      const { storage, follows, flagMask, zeroFlagMask, returns } = register;
      if (!storage) continue;
      const all = follows?.kind === 'pads' || returns !== undefined;
      const changing = all ? -1 : flagMask | zeroFlagMask | shownMask(register);
      bits[storage.word] = (bits[storage.word] ?? 0) | (changing << storage.shift);
    }
    restless.set(map, bits);
  }
  return (((bits[at >> 5] ?? 0) >>> (at & 31)) & 1) === 1;
}

/** What of a word is known. */
export function bitsOfWord(word: Word): Bits {
  const bits: Bits = { known: 0, value: 0, was: 0 };
  for (const [bit, formula] of word.entries()) {
    if (formula > TRUE) continue;
    bits.known |= 1 << bit;
    if (formula === TRUE) bits.value |= 1 << bit;
  }
  return bits;
}

const clausesIn = ({ map }: Machine, register: Register): ReturnType<Clauses['of']> =>
  clausesOf(map).of(register);

/** In which states the stated condition of a write is met. */
function openFor(machine: Machine, when: readonly BoundCondition[], written: Word): Formula {
  const { formulas } = workshopOf(machine.map);
  return orAnything(machine, () =>
    when
      .filter(({ source }) => source.reason === 'unmet')
      .map(({ holds }) => anyBit(formulas, evaluated(machine, holds, written)))
      .reduce((all, holds) => formulas.and(all, holds), TRUE),
  );
}

/** A write that has come through guards and locks; `sure`: surely. */
export function writeByClauses(machine: Machine, register: Register, word: Word, sure: boolean): Mishap[] {
  const { write } = clausesIn(machine, register);
  const whole = (reason: Mishap['reason'], perhaps: boolean): Mishap => ({
    reason,
    register,
    mask: fullMask(register.bits),
    perhaps,
  });
  if (!write) return [whole('read-only', false)];
  const written = withinWidth(word, register);
  const open = openFor(machine, write.when, written);
  if (open === FALSE) return [whole('unmet', false)];
  const assigned: Assigned = new Map();
  assign(machine, write.effects, written, assigned, open);
  const idle = isIdle(machine, write.effects, written);
  carryOut(machine, assigned, sure);
  if (idle) return [whole('no-effect', false)];
  return open === TRUE ? [] : [whole('unmet', true)];
}

/** Whether a word that is known changes nothing, in whatever state. */
function isIdle(machine: Machine, effects: readonly Effect[], written: Word): boolean {
  if (effects.length === 0 || written.some((formula) => formula > TRUE)) return false;
  const { formulas } = workshopOf(machine.map);
  const bits = (at: number): Formula => formulas.variable(variableOf(at));
  return effects.every(({ to, value }) => {
    const word = evaluated(machine, value, written, () => bits);
    return word.every((formula, bit) => bit >= to.bits || formula === bits(to.word * 32 + to.shift + bit));
  });
}

/** What a read gives, over the state before it; its effects are carried out, `sure`: surely. */
export function readByClauses(machine: Machine, register: Register, sure: boolean): Word | undefined {
  const { read, afterRead } = clausesIn(machine, register);
  if (!read) return undefined;
  const word = givenBy(machine, register);
  if (afterRead.length > 0) {
    const assigned: Assigned = new Map();
    assign(machine, afterRead, ZERO, assigned, TRUE);
    carryOut(machine, assigned, sure);
  }
  return word;
}

/** What a read gives, without its effects. */
export function givenBy(machine: Machine, register: Register): Word {
  const { read } = clausesIn(machine, register);
  return read ? withinWidth(evaluated(machine, read.gives, ZERO), register) : ZERO;
}

/** Bits that stand for state that has changed since they were read may be anything. */
export function outdated(machine: Machine, word: Word, changed: ReadonlyMap<number, number>): Word {
  const { formulas } = workshopOf(machine.map);
  if (changed.size === 0) return word;
  return word.map((formula) => {
    const stale = formulas
      .support(formula)
      .map(bitOfVariable)
      .some((at) => ((changed.get(at >> 5) ?? 0) >>> (at & 31)) & 1);
    return stale ? anything(machine) : formula;
  });
}

/** A word with bits replaced; `flipped` ones become their opposites. */
export function wordWith(machine: Machine, word: Word, set: number, clear: number, flipped: number): Word {
  const { formulas } = workshopOf(machine.map);
  return word.map((formula, bit) => {
    if ((set >>> bit) & 1) return TRUE;
    if ((clear >>> bit) & 1) return FALSE;
    return (flipped >>> bit) & 1 ? orAnything(machine, () => formulas.not(formula)) : formula;
  });
}

/** Takes what a read has given to be so: of bits that show a bit of state, or its opposite. */
export function assumeRead(machine: Machine, register: Register, mask: number, value: number): void {
  const { formulas } = workshopOf(machine.map);
  for (const [bit, formula] of givenBy(machine, register).entries()) {
    const literal = formulas.literal(formula);
    const at = literal ? bitOfVariable(literal.variable) : Number.POSITIVE_INFINITY;
    if (((mask >>> bit) & 1) === 0 || !literal || at >= machine.map.words * 32) continue;
    const high = (((value >>> bit) & 1) === 1) !== literal.inverted;
    assumeWord(machine, at >> 5, 1 << (at & 31), high ? -1 : 0);
  }
}

/** The bit of state that a bit of what is read shows, or shows inverted; undefined where it is anything else. */
export function shownBit(
  machine: Machine,
  register: Register,
  bit: number,
): { word: number; bit: number; inverted: boolean } | undefined {
  const literal = workshopOf(machine.map).formulas.literal(givenBy(machine, register)[bit] as Formula);
  if (!literal) return undefined;
  const at = bitOfVariable(literal.variable);
  return { word: at >> 5, bit: at & 31, inverted: literal.inverted };
}

/** What a read will give when all that is under way has arrived, however long that takes. */
export function givenInTheEnd(machine: Machine, register: Register): Bits {
  const { read } = clausesIn(machine, register);
  if (!read) return NOTHING;
  const late = clausesOf(machine.map).followers.filter(
    ({ afterCycles }) => afterCycles === Number.POSITIVE_INFINITY,
  );
  const word = evaluated(machine, read.gives, ZERO, (formulas) => {
    const now = bitOf(machine, formulas);
    return (at) => {
      for (const follower of late) {
        const { storage } = follower.register;
        const bit = at - (storage?.word ?? -1) * 32 - (storage?.shift ?? 0);
        if (bit < 0 || bit > 31 || ((follower.mask >>> bit) & 1) === 0) continue;
        const { known, value } = shownBits(machine, follower);
        if ((known >>> bit) & 1) return (value >>> bit) & 1 ? TRUE : FALSE;
      }
      return now(at);
    };
  });
  return bitsOfWord(word);
}
