import { FALSE, type Formula, type Formulas, TooManyFormulas, TRUE } from '../../base/logic/formulas';
import type { BoundTerm, Place } from '../../device/clauses/clauses';

/**
 * Terms of clauses as formulas over bits of state: bit-blasting, with ripple carry for sums and a comparison from the lowest bit on. Bits
 * of state are numbered by word and bit within the word.
 */

/** 32 formulas, the lowest bit first. */
export type Word = Formula[];

export const ZERO: Word = new Array<Formula>(32).fill(FALSE);

/** 32 bits; a loop, since this is where solving spends its time. */
function wordOf(bitAt: (bit: number) => Formula): Word {
  const word: Word = [];
  for (let bit = 0; bit < 32; bit++) word.push(bitAt(bit));
  return word;
}

export const numberWord = (value: number): Word => wordOf((bit) => ((value >>> bit) & 1 ? TRUE : FALSE));

/** The bits of a word that a register has. */
export const withinWidth = (word: Word, { bits }: { bits: number }): Word =>
  word.map((formula, bit) => (bit < bits ? formula : FALSE));

const MOST_WORDS = 2 ** 20;

const MOST_PICKED = 8;

/**
 * The variable of a bit of state: ordered by bit first and then by word, so that sums and comparisons of words stay small (bits of equal
 * weight stand together).
 */
export const variableOf = (at: number): number => (at & 31) * MOST_WORDS + (at >>> 5);

/** The bit of state that a variable stands for. */
export const bitOfVariable = (variable: number): number =>
  (variable % MOST_WORDS) * 32 + Math.floor(variable / MOST_WORDS);

/** What a place of state holds. */
export const placeFormulas = (bitOf: (at: number) => Formula, { word, shift, bits }: Place): Word =>
  wordOf((bit) => (bit < bits ? bitOf(word * 32 + shift + bit) : FALSE));

/** The value of a term before an access, `written` being what the access writes. */
export function termFormulas(
  formulas: Formulas,
  bitOf: (at: number) => Formula,
  term: BoundTerm,
  written: Word,
): Word {
  const inner = (part: BoundTerm): Word => termFormulas(formulas, bitOf, part, written);
  switch (term.kind) {
    case 'number':
      return numberWord(term.value);
    case 'written':
      return written;
    case 'place':
      return placeFormulas(bitOf, term.place);
    case 'not':
      return inner(term.of).map((bit) => formulas.not(bit));
    case 'each': {
      const of = inner(term.of);
      return wordOf((bit) => of[Math.floor(bit / term.times)] as Formula);
    }
    case 'choice': {
      const condition = anyBit(formulas, inner(term.condition));
      if (condition <= TRUE) return inner(condition === TRUE ? term.yes : term.no);
      const [yes, no] = [inner(term.yes), inner(term.no)];
      return yes.map((bit, at) => formulas.choose(condition, bit, no[at] as Formula));
    }
    case 'pick': {
      const index = inner(term.index);
      // Of many that hold bits of their own nothing useful can be said before it is known which is meant.
      if (term.of.length > MOST_PICKED && index.some((bit) => bit > TRUE)) throw new TooManyFormulas();
      return term.of.reduceRight<Word>((beyond, part, at) => {
        const isMeant = index.reduce(
          (all, bit, place) => formulas.and(all, (at >>> place) & 1 ? bit : formulas.not(bit)),
          TRUE,
        );
        if (isMeant === FALSE) return beyond;
        return inner(part).map((bit, place) => formulas.choose(isMeant, bit, beyond[place] as Formula));
      }, ZERO);
    }
    case 'binary':
      return combine(
        formulas,
        term.operator,
        inner(term.left),
        term.right.kind === 'number' ? term.right.value : undefined,
        inner(term.right),
      );
  }
}

/** Whether a word is not zero. */
export const anyBit = (formulas: Formulas, word: Word): Formula =>
  word.reduce((any, bit) => formulas.or(any, bit), FALSE);

const oneBit = (formula: Formula): Word => [formula, ...ZERO.slice(1)];

function combine(
  formulas: Formulas,
  operator: Extract<BoundTerm, { kind: 'binary' }>['operator'],
  left: Word,
  amount: number | undefined,
  right: Word,
): Word {
  const bitwise = (of: (a: Formula, b: Formula) => Formula): Word =>
    left.map((bit, at) => of(bit, right[at] as Formula));
  switch (operator) {
    case '&':
      return bitwise((a, b) => formulas.and(a, b));
    case '|':
      return bitwise((a, b) => formulas.or(a, b));
    case '^':
      return bitwise((a, b) => formulas.xor(a, b));
    case '<<':
    case '>>': {
      if (amount === undefined) throw new Error('a shift by what is no number');
      const by = operator === '<<' ? -amount : amount;
      return left.map((_, bit) => left[bit + by] ?? FALSE);
    }
    case '==':
    case '!=': {
      const differs = bitwise((a, b) => formulas.xor(a, b)).reduce(
        (any, bit) => formulas.or(any, bit),
        FALSE,
      );
      return oneBit(operator === '!=' ? differs : formulas.not(differs));
    }
    case '<':
    case '>=': {
      // From the lowest bit on: less where the higher bits are equal and it is less below.
      const less = left.reduce((below, bit, at) => {
        const against = right[at] as Formula;
        return formulas.choose(formulas.xor(bit, against), against, below);
      }, FALSE);
      return oneBit(operator === '<' ? less : formulas.not(less));
    }
    case '+':
    case '-': {
      let carry: Formula = operator === '-' ? TRUE : FALSE;
      return left.map((a, at) => {
        const b = operator === '-' ? formulas.not(right[at] as Formula) : (right[at] as Formula);
        const half = formulas.xor(a, b);
        const sum = formulas.xor(half, carry);
        carry = formulas.or(formulas.and(a, b), formulas.and(half, carry));
        return sum;
      });
    }
  }
}
