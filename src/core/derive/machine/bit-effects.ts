import { FALSE, type Formula, Formulas, TooManyFormulas, TRUE } from '../../base/logic/formulas';
import type { ReadEffect, WriteEffect } from '../../description/register-file';
import { type Clauses, clausesOf, type Effect } from '../../device/clauses/clauses';
import { canRead, type Register, type RegisterMap } from '../../device/registers/types';
import { bitOfVariable, numberWord, termFormulas, variableOf, type Word, ZERO } from './term-formulas';

/**
 * What a write and a read of a register do to each of its bits, in the words of the open register standards: the clauses are carried out
 * on formulas (`term-formulas.ts`), and the new bit is compared with the functions of the bit before and the bit that is written which
 * have a word. Conditions that stand before the access (guards, keys, commit bits) are not looked at.
 */
export interface BitEffect {
  /** `stores`: what is written; `nothing`; `beyond`: something that the standards have no word for. */
  write: 'stores' | 'nothing' | 'beyond' | Exclude<WriteEffect, 'modify'>;
  read: 'nothing' | ReadEffect;
  /** The register whose bit it is, where it is not this one's. */
  of?: Register;
}

/** By bit, the lowest first; undefined for what never holds anything that could be seen or written. */
export function bitEffects(map: RegisterMap, register: Register): (BitEffect | undefined)[] {
  const clauses = clausesOf(map);
  const { read, write, afterRead } = clauses.of(register);
  const formulas = new Formulas(MOST_FORMULAS);
  const before = (at: number): Formula => formulas.variable(variableOf(at));
  // The word that is written stands after all state.
  const written: Word = ZERO.map((_, bit) =>
    bit < register.bits ? before(clauses.words * 32 + bit) : FALSE,
  );
  try {
    const wordOf = (term: Parameters<typeof termFormulas>[2], word: Word): Word =>
      termFormulas(formulas, before, term, word);
    const shown = read ? wordOf(read.gives, ZERO) : undefined;
    // Bits that are never taken are; what depends on other bits is a condition.
    const taken = (write?.takes ?? [])
      .map((term) => wordOf(term, written))
      .reduce((mask, word) => mask.map((bit, at) => (word[at] === FALSE ? FALSE : bit)), numberWord(-1));
    const afterOf = (effects: readonly Effect[], word: Word, mask: Word): Map<number, Formula> => {
      const after = new Map<number, Formula>();
      for (const { to, value } of effects) {
        const given = wordOf(value, word);
        for (let bit = 0; bit < to.bits; bit++) {
          const at = to.word * 32 + to.shift + bit;
          after.set(
            at,
            formulas.choose(mask[bit] as Formula, given[bit] as Formula, after.get(at) ?? before(at)),
          );
        }
      }
      return after;
    };
    const afterWrite = afterOf(write?.effects ?? [], written, taken);
    const afterReading = afterOf(afterRead, ZERO, numberWord(-1));
    const holders = holdersOf(clauses);
    return Array.from({ length: register.bits }, (_, bit): BitEffect | undefined => {
      const at = heldAt(formulas, register, bit, shown?.[bit], write?.effects ?? []);
      // What counts keys is nobody's bit.
      if (at === undefined || at >= map.words * 32) return undefined;
      const holder = holders.get(at);
      return {
        write: writeEffect(formulas, before(at), written[bit] as Formula, afterWrite.get(at)),
        read: readEffect(before(at), afterReading.get(at)),
        ...(holder && holder !== register ? { of: holder } : {}),
      };
    });
  } catch (error) {
    if (!(error instanceof TooManyFormulas)) throw error;
    return Array.from({ length: register.bits }, () => ({ write: 'beyond', read: 'modify' }));
  }
}

const MOST_FORMULAS = 50_000;

/** The bit of state, by number (see {@link variableOf}), that a bit of a register shows; of one that cannot be read, the one that a write of it is about. */
function heldAt(
  formulas: Formulas,
  register: Register,
  bit: number,
  shown: Formula | undefined,
  effects: readonly Effect[],
): number | undefined {
  if (shown !== undefined) {
    const literal = formulas.literal(shown);
    return literal && !literal.inverted ? bitOfVariable(literal.variable) : undefined;
  }
  if (canRead(register)) return undefined;
  const [first] = effects;
  return first && bit < first.to.bits ? first.to.word * 32 + first.to.shift + bit : undefined;
}

const known = new WeakMap<Clauses, Map<number, Register>>();

/** The register that holds each bit of state: the first that does not act on another one. */
function holdersOf(clauses: Clauses): ReadonlyMap<number, Register> {
  let all = known.get(clauses);
  if (!all) {
    all = new Map();
    for (const register of clauses.map.all) {
      const { storage, target } = register;
      if (!storage || target) continue;
      for (let bit = 0; bit < register.bits; bit++) {
        const at = storage.word * 32 + storage.shift + bit;
        if (!all.has(at)) all.set(at, register);
      }
    }
    known.set(clauses, all);
  }
  return all;
}

function writeEffect(
  formulas: Formulas,
  state: Formula,
  written: Formula,
  after: Formula | undefined,
): BitEffect['write'] {
  const not = (formula: Formula): Formula => formulas.not(formula);
  const words: [Formula, BitEffect['write']][] = [
    [state, 'nothing'],
    [written, 'stores'],
    [FALSE, 'clear'],
    [TRUE, 'set'],
    [formulas.and(state, not(written)), 'oneToClear'],
    [formulas.or(state, written), 'oneToSet'],
    [formulas.xor(state, written), 'oneToToggle'],
    [formulas.and(state, written), 'zeroToClear'],
    [formulas.or(state, not(written)), 'zeroToSet'],
    [not(formulas.xor(state, written)), 'zeroToToggle'],
  ];
  return words.find(([formula]) => formula === (after ?? state))?.[1] ?? 'beyond';
}

const readEffect = (state: Formula, after: Formula | undefined): BitEffect['read'] =>
  after === undefined || after === state
    ? 'nothing'
    : after === FALSE
      ? 'clear'
      : after === TRUE
        ? 'set'
        : 'modify';
