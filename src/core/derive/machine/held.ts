import { FALSE, type Formula, Formulas, TRUE } from '../../base/logic/formulas';
import type { HeldValue } from '../../description/language/held-value';

/**
 * What code holds between a read and a write. Each bit is 0, 1, unknown, or a formula over what bits of state were before the first
 * operation: as decisions on one such bit after the other, so that it outlives the formulas of an access. Bit operations are worked out by
 * formulas (BDD), so that a bit taken apart and put together again is itself.
 */
export type HeldBit = 0 | 1 | 'unknown' | HeldNode;

/** What a bit is where another one, of the state before the first operation, was 0, and where it was 1. */
interface HeldNode {
  at: number;
  low: HeldBit;
  high: HeldBit;
}

export type HeldBits = readonly HeldBit[];

/** Beyond so many decisions a bit is unknown. */
const MOST_NODES = 64;

/** Words of state: bits that are known, their values, and bits that are as they were. */
interface Words {
  known: Int32Array;
  value: Int32Array;
  was: Int32Array;
}

/** A bit of state now, in terms of what it was before the first operation. */
export function stateBit({ known, value, was }: Words, at: number): HeldBit {
  const [word, mask] = [at >> 5, 1 << (at & 31)];
  const high = ((value[word] ?? 0) & mask) !== 0;
  if (((known[word] ?? 0) & mask) !== 0) return high ? 1 : 0;
  if (((was[word] ?? 0) & mask) === 0) return 'unknown';
  return high ? { at, low: 1, high: 0 } : { at, low: 0, high: 1 };
}

/** The bit of state that a held bit is, or is the opposite of; undefined for any other. */
export function literalOf(bit: HeldBit): { at: number; inverted: boolean } | undefined {
  if (typeof bit !== 'object') return undefined;
  const { at, low, high } = bit;
  if (low === 0 && high === 1) return { at, inverted: false };
  return low === 1 && high === 0 ? { at, inverted: true } : undefined;
}

/** A formula as a held bit; `bitOf` says what its variables are, undefined where nobody knows. */
export function heldOf(formulas: Formulas, formula: Formula, bitOf: (variable: number) => HeldBit): HeldBit {
  let left = MOST_NODES;
  const convert = (at: Formula): HeldBit => {
    const node = formulas.split(at);
    if (!node) return at === TRUE ? 1 : 0;
    const bit = left-- > 0 ? bitOf(node.variable) : 'unknown';
    if (bit === 'unknown') return 'unknown';
    const [low, high] = [convert(node.low), convert(node.high)];
    if (low === 'unknown' || high === 'unknown') return 'unknown';
    if (typeof bit === 'number') return bit === 1 ? high : low;
    const literal = literalOf(bit);
    if (!literal) return 'unknown';
    return literal.inverted ? { at: literal.at, low: high, high: low } : { at: literal.at, low, high };
  };
  return convert(formula);
}

/** A held bit as a formula over variables for bits of state; `unknown` makes one that stands for nothing known. */
export function formulaOfHeld(
  formulas: Formulas,
  bit: HeldBit,
  variable: (at: number) => Formula,
  unknown: () => Formula,
): Formula {
  if (bit === 0) return FALSE;
  if (bit === 1) return TRUE;
  if (bit === 'unknown') return unknown();
  const inner = (part: HeldBit): Formula => formulaOfHeld(formulas, part, variable, unknown);
  return formulas.choose(variable(bit.at), inner(bit.high), inner(bit.low));
}

/** The value of what was held; what nobody has read is unknown. */
export function bitsOfHeld(value: HeldValue, held: ReadonlyMap<number, HeldBits>): HeldBits {
  const formulas = new Formulas();
  /** Variables from 0 on are bits of state, those below are bits of which nothing is known, the same ones wherever they are read. */
  const unknowns = new Map<string, number>();
  const unknown = (key: string) => (): Formula => {
    const number = unknowns.get(key) ?? -1 - unknowns.size;
    unknowns.set(key, number);
    return formulas.variable(number);
  };
  const word = (bit: (at: number) => Formula): Formula[] => Array.from({ length: 32 }, (_, at) => bit(at));
  const evaluate = (part: HeldValue): Formula[] => {
    switch (part.kind) {
      case 'number':
        return word((at) => ((part.value >>> at) & 1 ? TRUE : FALSE));
      case 'held': {
        const bits = held.get(part.id);
        return word((at) =>
          formulaOfHeld(
            formulas,
            bits ? (bits[at] ?? 0) : 'unknown',
            (state) => formulas.variable(state),
            unknown(`${part.id} ${at}`),
          ),
        );
      }
      case 'not': {
        const of = evaluate(part.of);
        return word((at) => formulas.not(of[at] as Formula));
      }
      case 'shift': {
        const of = evaluate(part.of);
        return word((at) => of[at - part.by] ?? FALSE);
      }
      case 'bits': {
        const [left, right] = [evaluate(part.left), evaluate(part.right)];
        const name = ({ '&': 'and', '|': 'or', '^': 'xor' } as const)[part.operator];
        return word((at) => formulas[name](left[at] as Formula, right[at] as Formula));
      }
    }
  };
  return evaluate(value).map((formula) =>
    heldOf(formulas, formula, (at) => (at < 0 ? 'unknown' : { at, low: 0, high: 1 })),
  );
}
