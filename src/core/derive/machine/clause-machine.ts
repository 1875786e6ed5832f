import { FALSE, type Formula, Formulas, TRUE } from '../../base/logic/formulas';
import type { HeldValue } from '../../description/language/held-value';
import {
  type BoundCondition,
  type BoundTerm,
  type Clauses,
  type Place,
  placeOf,
} from '../../device/clauses/clauses';
import { type Follower, fullMask, type Register } from '../../device/registers/types';
import { storeOf } from './machine';
import type { Operation } from './operations';
import { type Bits, resetImage, returnsIn, type Start } from './state';
import {
  anyBit,
  numberWord,
  placeFormulas,
  termFormulas,
  variableOf,
  type Word,
  withinWidth,
  ZERO,
} from './term-formulas';

/**
 * A machine that executes clauses on symbolic state (bounded symbolic simulation): every bit of state is a formula over the bits that the
 * hardware had before the first operation (levels at pads among them), and over choices that nobody knows (when something arrives). One
 * run stands for the runs from all states, and says of each bit exactly in which of them it is 1. What registers do is in their clauses
 * alone; only what an operation was meant to reach is read off the register.
 */
export interface ClauseMachine {
  clauses: Clauses;
  formulas: Formulas;
  /** 32 formulas for each word of state. */
  state: Formula[];
  /** What is known to be so since something was waited for. */
  given: Formula;
  cycle: number;
  /** What is on its way, and sure to have arrived at a cycle. */
  pending: { at: number; follower: Follower; bits: Formula[]; changed: number }[];
  /** What each follower was last given to show, so that only changes set out. */
  sent: Map<Follower, Formula[]>;
  /** What code holds of what it has read. */
  held: Map<number, Word>;
  /** The first variable that is no bit of the state before the first operation. */
  fresh: number;
}

/** An access that, in some states or all, the hardware refuses, or bits that are not what they were to become. */
export interface Loss {
  register: Register;
  mask: number;
  /** In some of the possible states only. */
  perhaps: boolean;
  /** A condition that is not met there. */
  condition?: BoundCondition['source'];
}

export function createClauseMachine(clauses: Clauses, start: Start, mostFormulas?: number): ClauseMachine {
  const formulas = new Formulas(mostFormulas);
  const { map, words } = clauses;
  const state: Formula[] = Array.from({ length: words * 32 }, (_, at) => formulas.variable(variableOf(at)));
  const machine: ClauseMachine = {
    clauses,
    formulas,
    state,
    given: TRUE,
    cycle: 0,
    pending: [],
    sent: new Map(),
    held: new Map(),
    fresh: words * 32,
  };
  if (start === 'reset') {
    const { known, value } = resetImage(map);
    for (let word = 0; word < map.words; word++)
      for (let bit = 0; bit < 32; bit++)
        if (((known[word] ?? 0) >>> bit) & 1)
          state[word * 32 + bit] = ((value[word] ?? 0) >>> bit) & 1 ? TRUE : FALSE;
    for (const { place } of clauses.hidden) store(machine, place, ZERO, numberWord(-1));
  }
  followAll(machine);
  for (const word of returnsIn(map).keys()) comeBack(machine, word);
  return machine;
}

export const copyClauseMachine = (machine: ClauseMachine): ClauseMachine => ({
  ...machine,
  state: [...machine.state],
  pending: [...machine.pending],
  sent: new Map(machine.sent),
  held: new Map(machine.held),
});

function choiceOf(machine: ClauseMachine): Formula {
  return machine.formulas.variable(variableOf(machine.fresh++));
}

const load = (machine: ClauseMachine, place: Place): Word => placeFormulas(bitOfState(machine), place);

/** Gives the bits of a place where `mask` holds a new value. */
function store(machine: ClauseMachine, { word, shift, bits }: Place, value: Word, mask: Word): void {
  const { state, formulas } = machine;
  for (let bit = 0; bit < bits; bit++) {
    const at = word * 32 + shift + bit;
    state[at] = formulas.choose(mask[bit] as Formula, value[bit] as Formula, state[at] as Formula);
  }
}

const bitOfPlace = ({ word, shift }: Place, bit: number): number => word * 32 + shift + bit;

const bitOfState =
  (machine: ClauseMachine) =>
  (at: number): Formula =>
    machine.state[at] as Formula;

const wordOf = (machine: ClauseMachine, term: BoundTerm, written: Word): Word =>
  termFormulas(machine.formulas, bitOfState(machine), term, written);

const truth = ({ formulas }: ClauseMachine, word: Word): Formula => anyBit(formulas, word);

/** In which states all conditions are met. */
const allOf = (machine: ClauseMachine, conditions: readonly BoundCondition[], written: Word): Formula =>
  conditions.reduce(
    (all, { holds }) => machine.formulas.and(all, truth(machine, wordOf(machine, holds, written))),
    TRUE,
  );

/** Whether a formula holds in all states that are possible. */
export const holds = ({ formulas, given }: ClauseMachine, formula: Formula): boolean =>
  formula === TRUE || formulas.and(given, formulas.not(formula)) === FALSE;

/** What every access of a kind does, before anything has changed. */
const everyAccess = (machine: ClauseMachine, access: 'read' | 'write'): Change[] =>
  [...machine.clauses.anyAccess, ...(access === 'write' ? machine.clauses.anyWrite : [])].map(
    ({ to, value }) => ({ to, value: wordOf(machine, value, ZERO), mask: numberWord(-1) }),
  );

interface Change {
  to: Place;
  value: Word;
  mask: Word;
}

/** Carries out a write of a word to an address; answers what it would make of bits of state if nothing stood in its way. */
function write(machine: ClauseMachine, register: Register, word: Word): Map<number, Formula> {
  const { clauses, formulas } = machine;
  const ideal = new Map<number, Formula>();
  const changes = everyAccess(machine, 'write');
  for (const { register: inner, shift } of clauses.within(register)) {
    const { write: clause } = clauses.of(inner);
    if (!clause) continue;
    const part = ZERO.map((_, bit) => (bit < inner.bits ? (word[bit + shift] ?? FALSE) : FALSE));
    const open = allOf(machine, clause.when, part);
    const takes = clause.takes
      .map((term) => wordOf(machine, term, part))
      .reduce(
        (mask, taken) => mask.map((bit, at) => formulas.and(bit, taken[at] as Formula)),
        numberWord(-1),
      );
    const mask = takes.map((bit) => formulas.and(bit, open));
    for (const { to, value } of clause.effects) {
      const wanted = wordOf(machine, value, part);
      if (inner === register)
        for (let bit = 0; bit < to.bits; bit++) ideal.set(bitOfPlace(to, bit), wanted[bit] as Formula);
      changes.push({ to, value: wanted, mask });
    }
    for (const { to, value } of clause.after)
      changes.push({ to, value: wordOf(machine, value, part), mask: numberWord(-1).map(() => open) });
  }
  for (const { to, value } of clauses.of(register).breaks)
    changes.push({ to, value: wordOf(machine, value, word), mask: numberWord(-1) });
  // All are of the state before the access; where two are about one bit, the later one decides.
  for (const { to, value, mask } of changes) store(machine, to, value, mask);
  comeBackAll(machine, changes);
  followAll(machine);
  return ideal;
}

/** What a read of an address gives, and in which states there is something to read; undefined where there never is. */
function read(machine: ClauseMachine, register: Register): { word: Word; open: Formula } | undefined {
  const { read: clause, afterRead } = machine.clauses.of(register);
  const changes = everyAccess(machine, 'read');
  const open = clause ? allOf(machine, clause.when, ZERO) : FALSE;
  const gives = clause ? withinWidth(wordOf(machine, clause.gives, ZERO), register) : ZERO;
  const mask = ZERO.map(() => open);
  for (const { to, value } of afterRead) changes.push({ to, value: wordOf(machine, value, ZERO), mask });
  for (const change of changes) store(machine, change.to, change.value, change.mask);
  comeBackAll(machine, changes);
  if (changes.length > 0) followAll(machine);
  if (!clause) return undefined;
  return { word: gives.map((bit) => machine.formulas.and(bit, open)), open };
}

/** What a follower's source makes of it, where it stands. */
function shown(machine: ClauseMachine, { source, shift, mask, inverted }: Follower): Formula[] {
  const place = placeOf(source);
  return Array.from({ length: 32 }, (_, bit) => {
    if (!place || ((mask >>> bit) & 1) === 0) return FALSE;
    const from = machine.state[bitOfPlace(place, bit - shift)] as Formula;
    return inverted ? machine.formulas.not(from) : from;
  });
}

const same = (a: Word, b: Word): boolean => a.every((bit, at) => bit === b[at]);

/** What is shown elsewhere arrives there: at once, or at some time from now on. */
function followAll(machine: ClauseMachine): void {
  const { sent, clauses } = machine;
  for (let settled = false; !settled; ) {
    settled = true;
    for (const follower of clauses.followers) {
      const to = placeOf(follower.register);
      const before = sent.get(follower);
      const now = shown(machine, follower);
      if (!to || (before && same(before, now))) continue;
      // At the start nothing is on its way; what is shown then is as it was.
      sent.set(follower, now);
      if (!before) continue;
      settled = false;
      const changed = now.reduce((mask, bit, at) => (bit === before[at] ? mask : mask | (1 << at)), 0);
      arrive(machine, { follower, bits: now, changed }, follower.afterCycles === 0);
      if (follower.afterCycles > 0)
        machine.pending.push({ at: machine.cycle + follower.afterCycles, follower, bits: now, changed });
    }
  }
}

/** What has been written comes back by itself: at any time from now on, and surely when its time is over. */
function comeBack(machine: ClauseMachine, word: number): void {
  const back = returnsIn(machine.clauses.map).get(word);
  if (!back) return;
  const { follower } = back;
  const bits = numberWord(back.bits.value);
  machine.pending = machine.pending.filter((each) => each.follower !== follower);
  const arrival = { follower, bits, changed: back.bits.known };
  machine.pending.push({ at: machine.cycle + follower.afterCycles, ...arrival });
  arrive(machine, arrival, false);
}

const comeBackAll = (machine: ClauseMachine, changes: readonly Change[]): void => {
  for (const word of new Set(changes.map(({ to }) => to.word))) comeBack(machine, word);
};

type OnItsWay = Omit<ClauseMachine['pending'][number], 'at'>;

/** What has changed in a source stands where it is shown, or in the states of a new choice only. */
function arrive(machine: ClauseMachine, { follower, bits, changed }: OnItsWay, sure: boolean): void {
  const to = placeOf(follower.register);
  if (!to) return;
  const arrived = sure ? TRUE : choiceOf(machine);
  store(
    machine,
    to,
    bits,
    bits.map((_, bit) => ((changed >>> bit) & 1 ? arrived : FALSE)),
  );
}

/** Lets time pass: what was on its way for long enough has arrived. */
export function tickClauses(machine: ClauseMachine, cycles: number): void {
  machine.cycle += cycles;
  const due = machine.pending.filter(({ at }) => at <= machine.cycle).sort((a, b) => a.at - b.at);
  if (due.length === 0) return;
  machine.pending = machine.pending.filter(({ at }) => at > machine.cycle);
  for (const [position, arrival] of due.entries()) {
    arrive(machine, arrival, true);
    for (const later of [...due.slice(position + 1), ...machine.pending])
      if (later.follower === arrival.follower) arrive(machine, later, false);
  }
  followAll(machine);
}

/** The bits of a register, packed: known, their values, and those that are as they were (or, with value 1, the opposite). */
export function packedBits(machine: ClauseMachine, register: Register): Bits {
  const place = placeOf(register);
  const bits: Bits = { known: 0, value: 0, was: 0 };
  if (!place) return bits;
  for (let bit = 0; bit < place.bits; bit++) {
    const at = bitOfPlace(place, bit);
    const formula = machine.state[at] as Formula;
    const mask = (1 << bit) >>> 0;
    if (holds(machine, formula)) {
      bits.known |= mask;
      bits.value |= mask;
    } else if (holds(machine, machine.formulas.not(formula))) bits.known |= mask;
    else {
      const literal = machine.formulas.literal(formula);
      if (literal?.variable !== variableOf(at)) continue;
      bits.was |= mask;
      if (literal.inverted) bits.value |= mask;
    }
  }
  return { known: bits.known >>> 0, value: bits.value >>> 0, was: bits.was >>> 0 };
}

/** Of bits that were to become something: those that surely or perhaps have not, and why. */
function lossesOf(
  machine: ClauseMachine,
  register: Register,
  wanted: ReadonlyMap<number, Formula>,
  conditions: readonly { source: BoundCondition['source']; open: Formula }[],
): Loss[] {
  const { formulas, state, given } = machine;
  let mask = 0;
  let sure = false;
  const place = placeOf(storeOf(register));
  for (const [at, want] of wanted) {
    const wrong = formulas.and(given, formulas.xor(state[at] as Formula, want));
    if (wrong === FALSE) continue;
    if (wrong === given) sure = true;
    if (place && at >= bitOfPlace(place, 0) && at < bitOfPlace(place, place.bits))
      mask |= 1 << (at - bitOfPlace(place, 0));
  }
  // An access that is refused is lost even where it would have changed nothing: a bus may answer it with a fault.
  const barred = conditions.find(({ open }) => !holds(machine, open));
  if (mask === 0 && !sure && !barred) return [];
  const never = barred !== undefined && formulas.and(given, barred.open) === FALSE;
  return [
    {
      register,
      mask: mask === 0 ? fullMask(register.bits) : mask >>> 0,
      perhaps: !sure && !never,
      ...(barred ? { condition: barred.source } : {}),
    },
  ];
}

/** The conditions of a write with the states in which they are met, before it. */
const conditionsOf = (machine: ClauseMachine, register: Register, word: Word) =>
  (machine.clauses.of(register).write?.when ?? []).map(({ holds: term, source }) => ({
    source,
    open: truth(machine, wordOf(machine, term, withinWidth(word, register))),
  }));

function writing(machine: ClauseMachine, register: Register, word: Word): Loss[] {
  tickClauses(machine, 1);
  const conditions = conditionsOf(machine, register, word);
  const clause = machine.clauses.of(register).write;
  const ideal = write(machine, register, word);
  if (!clause) return [{ register, mask: fullMask(register.bits), perhaps: false }];
  // Counting keys is no effect that anybody could lose.
  return lossesOf(machine, register, ideal, conditions);
}

/** Does one operation, and says what the hardware did not take. */
export function performClauses(machine: ClauseMachine, operation: Operation): Loss[] {
  switch (operation.kind) {
    case 'wait':
      tickClauses(machine, operation.cycles);
      return [];
    case 'await':
      return awaitBits(machine, operation);
    case 'write':
      return writing(machine, operation.register, numberWord(operation.value));
    case 'update':
      return update(machine, operation);
    case 'flip':
      return flip(machine, operation);
    case 'read': {
      tickClauses(machine, 1);
      const { register, holds: id } = operation;
      const given = read(machine, register);
      if (!given) return unreadable(register);
      if (id !== undefined) machine.held.set(id, given.word);
      const isOpen = holds(machine, given.open);
      return isOpen ? [] : [{ register, mask: fullMask(register.bits), perhaps: true }];
    }
    case 'write held':
      return writing(machine, operation.register, heldWord(machine, operation.value));
  }
}

/** What is worked out of what was held. */
function heldWord(machine: ClauseMachine, value: HeldValue): Word {
  const { formulas, held } = machine;
  const inner = (part: HeldValue): Word => heldWord(machine, part);
  switch (value.kind) {
    case 'number':
      return numberWord(value.value);
    case 'held':
      return held.get(value.id) ?? ZERO.map(() => choiceOf(machine));
    case 'not':
      return inner(value.of).map((bit) => formulas.not(bit));
    case 'shift': {
      const of = inner(value.of);
      return of.map((_, at) => of[at - value.by] ?? FALSE);
    }
    case 'bits': {
      const right = inner(value.right);
      const signs = { '&': 'and', '|': 'or', '^': 'xor' } as const;
      return inner(value.left).map((bit, at) => formulas[signs[value.operator]](bit, right[at] as Formula));
    }
  }
}

const unreadable = (register: Register): Loss[] => [
  { register, mask: fullMask(register.bits), perhaps: false },
];

/** What a read, or the copy in memory of what cannot be read, gives to change. */
function before(machine: ClauseMachine, register: Register, shadow: boolean): Word | undefined {
  if (!shadow) {
    tickClauses(machine, 1);
    return read(machine, register)?.word;
  }
  const place = placeOf(storeOf(register));
  return place && load(machine, place);
}

function update(machine: ClauseMachine, operation: Extract<Operation, { kind: 'update' }>): Loss[] {
  const { register, clear, set, shadow } = operation;
  const held = before(machine, register, shadow === true);
  if (!held) return unreadable(register);
  const { flagMask, zeroFlagMask } = storeOf(register);
  const word = held.map((bit, at) => {
    if (((set | (zeroFlagMask & ~clear)) >>> at) & 1) return TRUE;
    return ((clear | flagMask) >>> at) & 1 ? FALSE : bit;
  });
  const place = placeOf(storeOf(register));
  const conditions = conditionsOf(machine, register, word);
  tickClauses(machine, 1);
  write(machine, register, word);
  const wanted = new Map<number, Formula>();
  // What leaves a flag asks nothing of it.
  const meant = (set | clear) & ~((clear & ~set & flagMask) | (set & zeroFlagMask));
  for (let bit = 0; place && bit < place.bits; bit++)
    if ((meant >>> bit) & 1)
      wanted.set(bitOfPlace(place, bit), ((set & ~flagMask) >>> bit) & 1 ? TRUE : FALSE);
  return lossesOf(machine, register, wanted, conditions);
}

/** Turns bits into their opposites: by a write of what was read, or of halves that set and clear. */
function flip(machine: ClauseMachine, operation: Extract<Operation, { kind: 'flip' }>): Loss[] {
  const { register, mask, through, shadow } = operation;
  const held = before(machine, register, shadow === true);
  if (!held) return unreadable(register);
  const { formulas } = machine;
  const place = placeOf(storeOf(register));
  const wanted = new Map<number, Formula>();
  if (place)
    for (let bit = 0; bit < place.bits; bit++)
      if ((mask >>> bit) & 1)
        wanted.set(bitOfPlace(place, bit), formulas.not(machine.state[bitOfPlace(place, bit)] as Formula));
  const picked = (of: (bit: Formula) => Formula): Word =>
    held.map((bit, at) => ((mask >>> at) & 1 ? of(bit) : FALSE));
  const [ones, zeros] = [picked((bit) => bit), picked((bit) => formulas.not(bit))];
  const half = register.bits / 2;
  const words: [Register, Word][] = through
    ? [
        [through.clear, ones],
        [through.set, zeros],
      ]
    : register.access.kind === 'masked'
      ? [[register, zeros.map((bit, at) => (at < half ? bit : (mask >>> (at - half)) & 1 ? TRUE : FALSE))]]
      : [[register, held.map((bit, at) => ((mask >>> at) & 1 ? formulas.not(bit) : bit))]];
  const conditions = words.flatMap(([way, word]) => conditionsOf(machine, way, word));
  for (const [way, word] of words) {
    tickClauses(machine, 1);
    write(machine, way, word);
  }
  return lossesOf(machine, register, wanted, conditions);
}

/**
 * Reads until bits have a value, at most so many times. It may end as soon as they can have it; it must end, in every state, within the
 * bound, or when what nobody states the time of has come.
 */
function awaitBits(machine: ClauseMachine, operation: Extract<Operation, { kind: 'await' }>): Loss[] {
  const { register, mask, value, cycles } = operation;
  const matches = (at: ClauseMachine): Formula | undefined => {
    tickClauses(at, 1);
    const seen = read(at, register);
    if (!seen) return undefined;
    return seen.word.reduce(
      (all, bit, place) =>
        (mask >>> place) & 1 ? at.formulas.and(all, (value >>> place) & 1 ? bit : at.formulas.not(bit)) : all,
      seen.open,
    );
  };
  let match = matches(machine);
  if (match === undefined) return unreadable(register);
  let spent = 0;
  while (spent < cycles && machine.formulas.and(machine.given, match) === FALSE) {
    spent++;
    match = matches(machine) ?? FALSE;
  }
  if (holds(machine, match)) return [];
  const patient = copyClauseMachine(machine);
  let sure: Formula = match;
  for (let more = spent; more < cycles && !holds(patient, sure); more++) sure = matches(patient) ?? FALSE;
  const comes = holds(patient, sure) || arrivesSomeTime(machine, operation);
  machine.given = machine.formulas.and(machine.given, match);
  machine.fresh = Math.max(machine.fresh, patient.fresh);
  if (comes && machine.given !== FALSE) return [];
  const never = machine.given === FALSE;
  if (never) machine.given = TRUE;
  return [{ register, mask, perhaps: !never }];
}

/** Whether the bits will be what is waited for after a time that nobody states. */
function arrivesSomeTime(
  machine: ClauseMachine,
  { register, mask, value }: Extract<Operation, { kind: 'await' }>,
): boolean {
  const place = placeOf(register.access.kind === 'read' ? register : storeOf(register));
  const bits = place ? load(machine, place) : ZERO;
  for (const follower of register.followers)
    if (follower.afterCycles === Number.POSITIVE_INFINITY)
      for (const [bit, formula] of shown(machine, follower).entries())
        if ((follower.mask >>> bit) & 1) bits[bit] = formula;
  return bits.every((bit, at) => {
    if (((mask >>> at) & 1) === 0) return true;
    return holds(machine, (value >>> at) & 1 ? bit : machine.formulas.not(bit));
  });
}
