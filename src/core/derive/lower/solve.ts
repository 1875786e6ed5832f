import { type Formula, Formulas, TooManyFormulas, TRUE } from '../../base/logic/formulas';
import { clausesOf, type WriteClause } from '../../device/clauses/clauses';
import { canRead, canWrite, type Register } from '../../device/registers/types';
import { perform } from '../machine/perform';
import { bitOf, type Machine, tryOut } from '../machine/state';
import { termFormulas, type Word, withinWidth, ZERO } from '../machine/term-formulas';
import { computedStep } from './solve-computed';
import { type Change, operationsOfStep, type RegisterStep } from './steps';
import {
  answer,
  assignedBits,
  condition,
  type Goal,
  isMeant,
  type Kept,
  setUp,
  WORD,
} from './write-conditions';

/**
 * How bits that clauses alone reach are given their values: by solving. The bits of the word to be written are variables above those of
 * the state; wanted is a word with which, in every state that is possible, the bits meant become what is planned and no other bit changes
 * (BDD, and a path to true over the variables of the word). Bits of the word that say nothing of those meant may also go back as they
 * were read. Where no single write does it, the bits to be set and those to be cleared are written after one another, and then each alone.
 */
export function stepsByClauses(machine: Machine, change: Change): RegisterStep[] | undefined {
  const { register, mask, value, explicit } = change;
  const word = register.storage?.word;
  if (word === undefined) return undefined;
  const ways = clausesOf(machine.map).assigning(word).filter(canWrite);
  if (ways.length === 0) return undefined;
  const open = explicit ? mask : notYet(machine, register, mask, value);
  if (open === 0) return [];
  const groups = [[open], [open & value, open & ~value], bitsIn(open)];
  const effort = new Effort();
  for (const kept of ['all', 'register', 'known'] as const) {
    for (const group of groups) {
      const steps = inTurn(machine, ways, register, group, value, kept, effort);
      if (steps) return steps;
    }
    if (kept !== 'all') continue;
    const goal: Goal = { register, mask: open >>> 0, value };
    const computed = firstOf(ways, (way) =>
      effort.attempt((formulas) => computedStep(machine, way, goal, formulas)),
    );
    if (computed) return [computed];
  }
  return undefined;
}

export type Turn = RegisterStep | { kind: 'flip'; register: Register; mask: number };

/** Writes that turn bits into their opposites, whatever they are; undefined where no single one does. */
export function turnByClauses(machine: Machine, register: Register, mask: number): Turn[] | undefined {
  const ways = clausesOf(machine.map)
    .assigning(register.storage?.word ?? -1)
    .filter(canWrite);
  const effort = new Effort();
  const goal: Goal = { register, mask, value: 'opposite' };
  const turn = firstOf(
    ways,
    (way): Turn | undefined =>
      effort.attempt((formulas) => solve(machine, way, goal, 'all', formulas)) ??
      effort.attempt((formulas) => turnedBack(machine, way, goal, formulas)) ??
      effort.attempt((formulas) => computedStep(machine, way, goal, formulas)),
  );
  return turn && [turn];
}

/** The first answer that there is. */
function firstOf<T, U>(list: readonly T[], answer: (item: T) => U | undefined): U | undefined {
  for (const item of list) {
    const found = answer(item);
    if (found !== undefined) return found;
  }
  return undefined;
}

const notYet = (machine: Machine, register: Register, mask: number, value: number): number =>
  bitsIn(mask).reduce(
    (open, bit) =>
      bitOf(machine, register, 31 - Math.clz32(bit)) === ((value & bit) === 0 ? 0 : 1)
        ? open
        : (open | bit) >>> 0,
    0,
  );

function bitsIn(mask: number): number[] {
  const bits: number[] = [];
  for (let bit = 0; bit < 32; bit++) if ((mask >>> bit) & 1) bits.push((1 << bit) >>> 0);
  return bits;
}

/** Writes for each of some masks in turn, each solved in the state after those before it. */
function inTurn(
  machine: Machine,
  ways: readonly Register[],
  register: Register,
  masks: readonly number[],
  value: number,
  kept: Kept,
  effort: Effort,
): RegisterStep[] | undefined {
  return tryOut(machine, () => {
    const steps: RegisterStep[] = [];
    for (const mask of masks) {
      if (mask === 0) continue;
      const goal: Goal = { register, mask: mask >>> 0, value };
      const step = firstOf(ways, (way) =>
        effort.attempt((formulas) => solve(machine, way, goal, kept, formulas)),
      );
      if (!step) return undefined;
      steps.push(step);
      const { before, write } = operationsOfStep(step, 1);
      for (const operation of [...before, write]) perform(machine, { ...operation, stage: '', pads: [] });
    }
    return steps;
  });
}

/** A way that is more entangled is no way. */
const MOST_FORMULAS = 50_000;

/** How much all ways together may take; beyond it none is found. */
class Effort {
  private left = 10 * MOST_FORMULAS;

  attempt<T>(work: (formulas: Formulas) => T): T | undefined {
    if (this.left <= 0) return undefined;
    const formulas = new Formulas(Math.min(MOST_FORMULAS, this.left));
    try {
      return work(formulas);
    } catch (error) {
      if (!(error instanceof TooManyFormulas)) throw error;
      return undefined;
    } finally {
      this.left -= formulas.size;
    }
  }
}

/** A read whose bits go back as their opposites where they say something of the bits meant. */
function turnedBack(machine: Machine, way: Register, goal: Goal, formulas: Formulas): Turn | undefined {
  const start = setUp(machine, way, formulas);
  if (!start?.read || !canRead(way)) return undefined;
  const { write, read, stateBit, free } = start;
  const meant = meantBits(formulas, stateBit, write, free, goal);
  const word = withinWidth(termFormulas(formulas, stateBit, read.gives, ZERO), way).map((bit, at) =>
    meant.has(WORD + at) ? formulas.not(bit) : bit,
  );
  if (condition(formulas, stateBit, write, word, goal, 'all') !== TRUE) return undefined;
  return { kind: 'flip', register: way, mask: maskOfWord(meant) };
}

const maskOfWord = (variables: Iterable<number>): number =>
  [...variables].reduce((mask, variable) => (mask | (1 << (variable - WORD))) >>> 0, 0);

/** Variables of the word on which the bits meant depend. */
const meantBits = (
  formulas: Formulas,
  stateBit: (at: number) => Formula,
  write: WriteClause,
  free: Word,
  goal: Goal,
): Set<number> =>
  new Set(
    assignedBits(formulas, stateBit, write, free).flatMap(({ at, becomes }) =>
      isMeant(goal, at) ? formulas.support(becomes).filter((variable) => variable < 0) : [],
    ),
  );

function solve(
  machine: Machine,
  way: Register,
  goal: Goal,
  kept: Kept,
  formulas: Formulas,
): RegisterStep | undefined {
  const start = setUp(machine, way, formulas);
  if (!start) return undefined;
  const { write, read, stateBit, free } = start;
  const constant = answer(formulas, condition(formulas, stateBit, write, free, goal, kept));
  if (constant) return { kind: 'write', register: way, value: wordIn(constant) };
  if (!read || !canRead(way) || kept === 'known') return undefined;
  // Bits of the word on which those meant depend are chosen; the others go back as they are read.
  const meant = meantBits(formulas, stateBit, write, free, goal);
  const given = withinWidth(termFormulas(formulas, stateBit, read.gives, ZERO), way);
  const mixed = free.map((bit, at) => (meant.has(WORD + at) ? bit : (given[at] as Formula)));
  const chosen = answer(formulas, condition(formulas, stateBit, write, mixed, goal, kept));
  if (!chosen) return undefined;
  const set = wordIn(chosen);
  const decided = maskOfWord(meant);
  return { kind: 'update', register: way, clear: (decided & ~set) >>> 0, set };
}

const wordIn = (values: ReadonlyMap<number, boolean>): number =>
  [...values].reduce((word, [variable, high]) => (high ? word | (1 << (variable - WORD)) : word), 0) >>> 0;
