import { FALSE, type Formula, Formulas, TRUE } from '../../base/logic/formulas';
import type { HeldValue } from '../../description/language/held-value';

/**
 * What code holds between a read and a write. Each bit is 0, 1, what a bit of state was before the first operation (or the opposite), or
 * unknown; bit operations on them are worked out by formulas, so that a bit taken apart and put together again is itself.
 */
export type HeldBit = 0 | 1 | { at: number; inverted: boolean } | 'unknown';

export type HeldBits = readonly HeldBit[];

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
  return ((was[word] ?? 0) & mask) === 0 ? 'unknown' : { at, inverted: high };
}

/** The value of what was held; what nobody has read is unknown. */
export function bitsOfHeld(value: HeldValue, held: ReadonlyMap<number, HeldBits>): HeldBits {
  const formulas = new Formulas();
  const meanings: HeldBit[] = [];
  const numbers = new Map<string, number>();
  /** The same variable for the same bit, wherever it was read. */
  const variable = (key: string, bit: HeldBit): Formula => {
    const known = numbers.get(key) ?? meanings.push(bit) - 1;
    numbers.set(key, known);
    return formulas.variable(known);
  };
  const formulaOf = (bit: HeldBit, key: string): Formula => {
    if (bit === 0) return FALSE;
    if (bit === 1) return TRUE;
    if (bit === 'unknown') return variable(key, bit);
    const plain = variable(`state ${bit.at}`, { at: bit.at, inverted: false });
    return bit.inverted ? formulas.not(plain) : plain;
  };
  const word = (bit: (at: number) => Formula): Formula[] => Array.from({ length: 32 }, (_, at) => bit(at));
  const evaluate = (part: HeldValue): Formula[] => {
    switch (part.kind) {
      case 'number':
        return word((at) => ((part.value >>> at) & 1 ? TRUE : FALSE));
      case 'held': {
        const bits = held.get(part.id);
        return word((at) => formulaOf(bits ? (bits[at] ?? 0) : 'unknown', `${part.id} ${at}`));
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
        const combine = { '&': formulas.and, '|': formulas.or, '^': formulas.xor }[part.operator].bind(
          formulas,
        );
        return word((at) => combine(left[at] as Formula, right[at] as Formula));
      }
    }
  };
  return evaluate(value).map((formula): HeldBit => {
    if (formula === TRUE) return 1;
    if (formula === FALSE) return 0;
    const literal = formulas.literal(formula);
    const bit = literal ? meanings[literal.variable] : undefined;
    if (literal === undefined || typeof bit !== 'object') return 'unknown';
    return { at: bit.at, inverted: literal.inverted };
  });
}
