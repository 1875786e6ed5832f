import { parseAssignments, parseTerm, type Term } from '../../description/language/clause';
import { ExpressionError } from '../../description/language/expression';
import { type Follower, heldBits, type Register, type RegisterMap } from '../registers/types';
import { reachedBeside, type Within } from '../registers/within';
import { brokenBy, type ClauseText, type Condition, clauseText, seenName } from './shorthands';

/**
 * Registers as clauses over the hardware's state: texts of the shorthands, parsed, with names bound to places. State is the words of the
 * register map, and after them one hidden word for each key register.
 */
export interface Place {
  word: number;
  shift: number;
  bits: number;
}

/** A term whose names are places, or the word that is written. */
export type BoundTerm =
  | { kind: 'number'; value: number }
  | { kind: 'written' }
  | { kind: 'place'; place: Place }
  | { kind: 'not'; of: BoundTerm }
  | {
      kind: 'binary';
      operator: Extract<Term, { kind: 'binary' }>['operator'];
      left: BoundTerm;
      right: BoundTerm;
    }
  | { kind: 'choice'; condition: BoundTerm; yes: BoundTerm; no: BoundTerm }
  | { kind: 'each'; of: BoundTerm; times: number }
  | { kind: 'pick'; index: BoundTerm; of: BoundTerm[] };

export interface Effect {
  to: Place;
  value: BoundTerm;
}

export interface BoundCondition {
  holds: BoundTerm;
  source: Condition;
}

export interface WriteClause {
  when: BoundCondition[];
  takes: BoundTerm[];
  effects: Effect[];
  after: Effect[];
}

export interface RegisterClauses {
  read?: { when: BoundCondition[]; gives: BoundTerm };
  write?: WriteClause;
  /** What a write to it does to keys that must not be interrupted, let through or not. */
  breaks: Effect[];
  /** What a read does, let through. */
  afterRead: Effect[];
}

export interface Clauses {
  map: RegisterMap;
  /** Words of state: those of the map, and hidden ones after them. */
  words: number;
  of(register: Register): RegisterClauses;
  /** A register, and those that a write to it reaches too. */
  within(register: Register): readonly Within[];
  /** Hidden counts of the keys that have been seen, which are 0 at reset. */
  hidden: readonly { place: Place }[];
  /** What every write, or every access, on the bus does. */
  anyWrite: readonly Effect[];
  anyAccess: readonly Effect[];
  /** Registers whose own clauses assign bits of a word of state. */
  assigning(word: number): readonly Register[];
  /** All that shows something elsewhere. */
  followers: readonly Follower[];
}

export const placeOf = (register: Register): Place | undefined =>
  register.storage && { ...register.storage, bits: heldBits(register) };

/** Keys, and the writes that they are good for, are few: see MOST_KEYS in `language/statement.ts`. */
const BITS_OF_COUNT = 6;

const known = new WeakMap<RegisterMap, Clauses>();

/** The clauses of a part's registers; each register's are read when they are first asked for. */
export function clausesOf(map: RegisterMap): Clauses {
  let clauses = known.get(map);
  if (!clauses) {
    clauses = compileClauses(map);
    known.set(map, clauses);
  }
  return clauses;
}

function compileClauses(map: RegisterMap): Clauses {
  const keys = map.all.filter(({ access }) => access.kind === 'key');
  const hidden = keys.map((key, at) => ({
    key,
    place: { word: map.words + at, shift: 0, bits: BITS_OF_COUNT },
  }));
  const places = new Map<string, Place>(hidden.map(({ key, place }) => [seenName(key), place]));
  for (const register of map.all) {
    const place = placeOf(register);
    if (place && !places.has(register.name)) places.set(register.name, place);
  }
  const unbroken = keys.filter(({ access }) => access.kind === 'key' && access.unbroken);
  const compiled = new Map<Register, RegisterClauses>();
  const every = (key: 'anyWrite' | 'anyAccess'): Effect[] =>
    map.all
      .filter(({ clauses }) => clauses?.[key])
      .flatMap((register) => effectsIn(clauseText(register)[key] ?? '', places));
  let [anyWrite, anyAccess]: (Effect[] | undefined)[] = [];
  let byWord: Map<number, Register[]> | undefined;
  const clauses: Clauses = {
    get anyWrite() {
      anyWrite ??= every('anyWrite');
      return anyWrite;
    },
    get anyAccess() {
      anyAccess ??= every('anyAccess');
      return anyAccess;
    },
    assigning(word) {
      byWord ??= assigningIn(clauses);
      return byWord.get(word) ?? [];
    },
    map,
    words: map.words + hidden.length,
    hidden,
    followers: map.all.flatMap(({ followers }) => followers),
    of(register) {
      let bound = compiled.get(register);
      if (!bound) {
        const text = clauseText(register);
        bound = bindClauses(text, brokenBy(unbroken, register), places);
        // Bound here, too, so that a name that holds nothing is found with its register.
        effectsIn(text.anyWrite ?? '', places);
        effectsIn(text.anyAccess ?? '', places);
        compiled.set(register, bound);
      }
      return bound;
    },
    within: (register) => [{ register, shift: 0 }, ...reachedBeside(map, register)],
  };
  return clauses;
}

function assigningIn({ map, of }: Clauses): Map<number, Register[]> {
  const byWord = new Map<number, Register[]>();
  for (const register of map.all) {
    if (register.access.kind !== 'clauses') continue;
    const words = new Set(of(register).write?.effects.map(({ to }) => to.word));
    for (const word of words) byWord.set(word, [...(byWord.get(word) ?? []), register]);
  }
  return byWord;
}

type Places = ReadonlyMap<string, Place>;

function bindTerm(term: Term, places: Places): BoundTerm {
  const bind = (part: Term): BoundTerm => bindTerm(part, places);
  switch (term.kind) {
    case 'number':
      return term;
    case 'name': {
      if (term.name === 'v') return { kind: 'written' };
      const place = places.get(term.name);
      if (!place) throw new ExpressionError(`${term.name} holds no bits`, term.column);
      return { kind: 'place', place };
    }
    case 'not':
      return { kind: 'not', of: bind(term.of) };
    case 'each':
      return { kind: 'each', of: bind(term.of), times: term.times };
    case 'pick':
      return { kind: 'pick', index: bind(term.index), of: term.of.map(bind) };
    case 'choice':
      return { kind: 'choice', condition: bind(term.condition), yes: bind(term.yes), no: bind(term.no) };
    case 'binary':
      if (/[<>]{2}/.test(term.operator) && term.right.kind !== 'number')
        throw new ExpressionError(
          `"${term.operator}" takes a number of bits, not a value of the hardware`,
          1,
        );
      return { ...term, left: bind(term.left), right: bind(term.right) };
  }
}

const effectsIn = (assignments: string, places: Places): Effect[] =>
  parseAssignments(assignments).map(({ target, value }) => {
    const to = places.get(target);
    if (!to) throw new ExpressionError(`${target} holds no bits`, 1);
    return { to, value: bindTerm(value, places) };
  });

function bindClauses(text: ClauseText, broken: string, places: Places): RegisterClauses {
  const bind = (term: string): BoundTerm => bindTerm(parseTerm(term), places);
  const conditionsOf = (conditions: readonly Condition[]): BoundCondition[] =>
    conditions.map((source) => ({ holds: bind(source.holds), source }));
  const { read, write } = text;
  return {
    ...(read ? { read: { when: conditionsOf(read.when), gives: bind(read.gives) } } : {}),
    ...(write
      ? {
          write: {
            when: conditionsOf(write.when),
            takes: write.takes.map(bind),
            effects: effectsIn(write.effects, places),
            after: effectsIn(write.after, places),
          },
        }
      : {}),
    breaks: effectsIn(broken, places),
    afterRead: effectsIn(text.afterRead ?? '', places),
  };
}
