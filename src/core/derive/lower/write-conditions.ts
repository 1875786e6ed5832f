import { FALSE, type Formula, type Formulas, TRUE } from '../../base/logic/formulas';
import { clausesOf, type WriteClause } from '../../device/clauses/clauses';
import { heldBits, type Register } from '../../device/registers/types';
import type { Machine } from '../machine/state';
import { anyBit, termFormulas, variableOf, type Word, ZERO } from '../machine/term-formulas';

/** What a write by clauses does to each bit of state, as formulas over the state before it and the word that is written. */

/**
 * Which of the other bits must stay: all; those of the register meant, where a write cannot but change others; or, where nothing can read
 * it, those that are known.
 */
export type Kept = 'all' | 'register' | 'known';

export interface Goal {
  register: Register;
  mask: number;
  value: number | 'opposite';
}

/** Variables of the word that is written stand above those of the state. */
export const WORD = -32;

/** A register with its clauses, the state, and a word of variables to be written. */
export function setUp(machine: Machine, way: Register, formulas: Formulas) {
  const { write, read } = clausesOf(machine.map).of(way);
  if (!write) return undefined;
  const stateBit = (at: number): Formula => {
    const [word, bit] = [at >> 5, at & 31];
    if (((machine.known[word] ?? 0) >>> bit) & 1)
      return ((machine.value[word] ?? 0) >>> bit) & 1 ? TRUE : FALSE;
    return formulas.variable(variableOf(at));
  };
  const free: Word = ZERO.map((_, bit) => (bit < way.bits ? formulas.variable(WORD + bit) : FALSE));
  return { write, read, stateBit, free };
}

export const answer = (formulas: Formulas, formula: Formula): Map<number, boolean> | undefined =>
  formulas.solve(formula, 0);

export function isMeant({ register, mask }: Goal, at: number): boolean {
  const { storage } = register;
  const bit = at - (storage?.word ?? -1) * 32 - (storage?.shift ?? 0);
  return bit >= 0 && bit < heldBits(register) && ((mask >>> bit) & 1) === 1;
}

export interface AssignedBit {
  at: number;
  before: Formula;
  becomes: Formula;
}

export function assignedBits(
  formulas: Formulas,
  stateBit: (at: number) => Formula,
  write: WriteClause,
  word: Word,
): AssignedBit[] {
  const assigned = new Map<number, Formula>();
  for (const { to, value } of write.effects) {
    const becomes = termFormulas(formulas, stateBit, value, word);
    for (let bit = 0; bit < to.bits; bit++)
      assigned.set(to.word * 32 + to.shift + bit, becomes[bit] as Formula);
  }
  return [...assigned].map(([at, becomes]) => ({ at, before: stateBit(at), becomes }));
}

/** With which words a write does what is wanted and nothing else, in every state. */
export function condition(
  formulas: Formulas,
  stateBit: (at: number) => Formula,
  write: WriteClause,
  word: Word,
  goal: Goal,
  kept: Kept,
): Formula {
  const stated = write.when.filter(({ source }) => source.reason === 'unmet');
  let all: Formula = TRUE;
  const also = (more: Formula): void => {
    all = formulas.and(all, formulas.always(more, 0));
  };
  const bits = assignedBits(formulas, stateBit, write, word);
  const meant = bits.filter(({ at }) => isMeant(goal, at));
  if (meant.length === 0) return FALSE;
  for (const { at, before, becomes } of meant) {
    if (goal.value === 'opposite') also(formulas.xor(becomes, before));
    else also((goal.value >>> (at - bitZero(goal.register))) & 1 ? becomes : formulas.not(becomes));
  }
  // Where no word does it in every state, what becomes of other bits does not matter.
  if (all === FALSE) return FALSE;
  for (const { at, before, becomes } of bits) {
    if (isMeant(goal, at)) continue;
    if (all === FALSE) return FALSE;
    if (kept !== 'all' && !isBeside(goal.register, at)) continue;
    else if (kept !== 'known' || before <= TRUE) also(formulas.not(formulas.xor(becomes, before)));
    else
      also(
        ((goal.register.reset >>> (at - bitZero(goal.register))) & 1) === 1 ? becomes : formulas.not(becomes),
      );
  }
  // A condition that is not met in every state is no reason not to try: the proof says what stands in the way.
  const open = stated
    .map(({ holds }) => anyBit(formulas, termFormulas(formulas, stateBit, holds, word)))
    .map((holds) => formulas.always(holds, 0))
    .reduce((both, holds) => formulas.and(both, holds), TRUE);
  const met = formulas.and(all, open);
  return met === FALSE ? all : met;
}

export const bitZero = ({ storage }: Register): number => (storage?.word ?? 0) * 32 + (storage?.shift ?? 0);

/** A bit of the very register: what nothing is known of is written with its reset value. */
export const isBeside = (register: Register, at: number): boolean =>
  at >= bitZero(register) && at < bitZero(register) + heldBits(register);
