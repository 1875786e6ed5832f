import { FALSE, type Formula, type Formulas, TooManyFormulas, TRUE } from '../../base/logic/formulas';
import { clausesOf } from '../../device/clauses/clauses';
import { canRead, type Register } from '../../device/registers/types';
import type { Machine } from '../machine/state';
import { termFormulas, type Word, withinWidth, ZERO } from '../machine/term-formulas';
import type { ComputedStep } from './steps';
import { assignedBits, bitZero, type Goal, isMeant, setUp, WORD } from './write-conditions';

/**
 * Words that must be worked out of what is read, where no constant and no changed bits of one register do it. Where every bit of state that
 * a write gives depends on one bit of the word at most, each bit of the word is chosen by itself: 0, 1, a bit that some register shows, its
 * opposite, or where two differ; what is chosen must hold in every state (two cofactors of a BDD).
 */
export function computedStep(
  machine: Machine,
  way: Register,
  goal: Goal,
  formulas: Formulas,
): ComputedStep | undefined {
  const start = setUp(machine, way, formulas);
  if (!start) return undefined;
  const { write, stateBit, free } = start;
  const needs = needsByBit(assignedBits(formulas, stateBit, write, free), goal, formulas);
  if (!needs) return undefined;
  const shown = shownNear(machine, way, goal, stateBit, formulas);
  for (const reads of readSets(shown)) {
    const step = choose(way, needs, reads, formulas);
    if (step) return step;
  }
  return undefined;
}

/** What must hold of each bit of the word, each by itself; undefined where one bit of state depends on several, or cannot become what it shall. */
function needsByBit(
  bits: ReturnType<typeof assignedBits>,
  goal: Goal,
  formulas: Formulas,
): Map<number, Formula[]> | undefined {
  const needs = new Map<number, Formula[]>();
  if (!bits.some(({ at }) => isMeant(goal, at))) return undefined;
  for (const { at, before, becomes } of bits) {
    const value = goal.value === 'opposite' ? formulas.not(before) : wantedOf(goal, at);
    const wanted = isMeant(goal, at) ? value : before;
    const holds = formulas.not(formulas.xor(becomes, wanted));
    const [bit, ...more] = formulas.support(holds).filter((variable) => variable < 0);
    if (more.length > 0 || (bit === undefined && holds !== TRUE)) return undefined;
    if (bit !== undefined) needs.set(bit - WORD, [...(needs.get(bit - WORD) ?? []), holds]);
  }
  return needs;
}

const wantedOf = ({ register, value }: Goal, at: number): Formula =>
  value !== 'opposite' && ((value >>> (at - bitZero(register))) & 1) === 1 ? TRUE : FALSE;

interface Shown {
  register: Register;
  word: Word;
}

/** Registers beside the one that is written, or in which the bits meant lie, and what they show. */
function shownNear(
  machine: Machine,
  way: Register,
  { register }: Goal,
  stateBit: (at: number) => Formula,
  formulas: Formulas,
): Shown[] {
  const { all } = machine.map;
  const clauses = clausesOf(machine.map);
  const near = all.filter(
    (each) =>
      canRead(each) &&
      each.bits <= way.bits &&
      !each.clauses?.afterRead &&
      (each === way || each.block === way.block || each.block === register.block) &&
      sameInstance(each, way, register),
  );
  return near.slice(0, MOST_NEAR).flatMap((each): Shown[] => {
    const { read } = clauses.of(each);
    if (!read) return [];
    try {
      const word = withinWidth(termFormulas(formulas, stateBit, read.gives, ZERO), each);
      return word.some((bit) => bit > TRUE) ? [{ register: each, word }] : [];
    } catch (error) {
      // What is too entangled to be said is no help.
      if (!(error instanceof TooManyFormulas)) throw error;
      return [];
    }
  });
}

const MOST_NEAR = 12;

const sameInstance = ({ context }: Register, ...others: readonly Register[]): boolean =>
  Object.keys(context).length === 0 ||
  others.some(({ context: near }) => near.port === context.port && near.pad === context.pad);

/** One register, then two. */
function* readSets(shown: readonly Shown[]): Generator<readonly Shown[]> {
  for (const single of shown) yield [single];
  for (const [at, first] of shown.entries()) for (const second of shown.slice(at + 1)) yield [first, second];
}

/** For each bit what it is to be, of what was read. */
function choose(
  way: Register,
  needs: ReadonlyMap<number, readonly Formula[]>,
  reads: readonly Shown[],
  formulas: Formulas,
): ComputedStep | undefined {
  const step: ComputedStep = {
    kind: 'computed',
    register: way,
    reads: reads.map(({ register }) => ({ register, mask: 0 })),
    turn: 0,
  };
  /** Which of the reads are put together, as masks; none for a constant. */
  const subsets = Array.from({ length: 1 << reads.length }, (_, mask) => mask);
  for (const [bit, conditions] of needs) {
    const nodes = conditions.flatMap((condition) => formulas.split(condition) ?? []);
    // Variables of the word stand above all others: a condition's first one is this very bit.
    const meets = (value: Formula): boolean =>
      nodes.every(({ low, high }) => formulas.choose(value, high, low) === TRUE);
    const options = subsets.flatMap((of) => {
      const value = reads.reduce<Formula>(
        (sum, { word }, at) => ((of >>> at) & 1 ? formulas.xor(sum, word[bit] as Formula) : sum),
        FALSE,
      );
      return [
        { of, turn: 0, value },
        { of, turn: 1, value: formulas.not(value) },
      ];
    });
    const chosen = options.find(({ value }) => meets(value));
    if (!chosen) return undefined;
    step.turn = (step.turn | (chosen.turn << bit)) >>> 0;
    for (const [at, read] of step.reads.entries())
      if ((chosen.of >>> at) & 1) read.mask = (read.mask | (1 << bit)) >>> 0;
  }
  return step.reads.every(({ mask }) => mask !== 0) ? step : undefined;
}
