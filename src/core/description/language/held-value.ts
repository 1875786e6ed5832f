import { type Expression, ExpressionError, evaluate, type Scope, variablesOf } from './expression';

/**
 * Values that are known only when the code runs: of what was read and held before, with bits changed. Partial evaluation: what of an
 * expression names nothing held becomes a number, the rest stays bit operations that every target has.
 */
export type HeldValue =
  | { kind: 'number'; value: number }
  /** What a read has given, by its number. */
  | { kind: 'held'; id: number }
  | { kind: 'not'; of: HeldValue }
  | { kind: 'bits'; operator: BitOperator; left: HeldValue; right: HeldValue }
  /** To the left by a positive number of bits, to the right by a negative one. */
  | { kind: 'shift'; of: HeldValue; by: number };

type BitOperator = '&' | '|' | '^';

/** Whether an expression names something that was read. */
export const namesHeld = (expression: Expression, isHeld: (name: string) => boolean): boolean =>
  [...variablesOf(expression)].some(isHeld);

/** An expression of what was read. Throws {@link ExpressionError} where it takes more than bits of that. */
export function heldValue(
  expression: Expression,
  scope: Scope,
  held: (name: string) => number | undefined,
): HeldValue {
  if (!namesHeld(expression, (name) => held(name) !== undefined)) {
    const value = evaluate(expression, scope);
    if (value < 0 || value > 0xffffffff) throw new ExpressionError(`${value} is no word of 32 bits`, 1);
    return { kind: 'number', value };
  }
  const inner = (part: Expression): HeldValue => heldValue(part, scope, held);
  switch (expression.kind) {
    case 'number':
      return expression;
    case 'variable':
      return { kind: 'held', id: held(expression.name) ?? 0 };
    case 'not':
      return { kind: 'not', of: inner(expression.of) };
    case 'binary': {
      const { operator } = expression;
      if (operator === '&' || operator === '|' || operator === '^')
        return bits(operator, inner(expression.left), inner(expression.right));
      const by = inner(expression.right);
      if ((operator !== '<<' && operator !== '>>') || by.kind !== 'number' || by.value > 31)
        throw new ExpressionError(
          `"${operator}" cannot be worked out of what is read; "& | ^ ~", and "<< >>" by a number, can`,
          1,
        );
      const of = inner(expression.left);
      return by.value === 0 ? of : { kind: 'shift', of, by: operator === '<<' ? by.value : -by.value };
    }
  }
}

/** How many values must be at hand at once, which for whoever has three registers is at most three. */
function needs(value: HeldValue): number {
  switch (value.kind) {
    case 'number':
      return 1;
    case 'held':
      return 1;
    case 'not':
      return Math.max(needs(value.of), 2);
    case 'shift':
      return needs(value.of);
    case 'bits': {
      const [left, right] = [needs(value.left), needs(value.right)];
      return left === right ? left + 1 : Math.max(left, right);
    }
  }
}

const MOST_NEEDED = 3;

/** A bit operation, what needs more first: all of them may be turned around. */
function bits(operator: BitOperator, a: HeldValue, b: HeldValue): HeldValue {
  const isFirst = b.kind === 'number' || (a.kind !== 'number' && needs(a) >= needs(b));
  const value: HeldValue = { kind: 'bits', operator, left: isFirst ? a : b, right: isFirst ? b : a };
  if (needs(value) > MOST_NEEDED)
    throw new ExpressionError('too many values are held at once here; use fewer of what was read', 1);
  return value;
}

/** The same in as few bits as are written, where no bits above them come down. */
export function withinBits(value: HeldValue, mask: number): HeldValue {
  const shiftsDown = (part: HeldValue): boolean =>
    part.kind === 'bits'
      ? shiftsDown(part.left) || shiftsDown(part.right)
      : 'of' in part && ((part.kind === 'shift' && part.by < 0) || shiftsDown(part.of));
  const cut = (part: HeldValue): HeldValue => {
    switch (part.kind) {
      case 'held':
        return part;
      case 'number':
        return { kind: 'number', value: (part.value & mask) >>> 0 };
      case 'not':
        return { kind: 'bits', operator: '^', left: cut(part.of), right: { kind: 'number', value: mask } };
      case 'shift':
        return { ...part, of: cut(part.of) };
      case 'bits':
        return { ...part, left: cut(part.left), right: cut(part.right) };
    }
  };
  return shiftsDown(value) ? value : cut(value);
}

/** With other numbers for what was read. */
export function renumbered(value: HeldValue, of: (id: number) => number): HeldValue {
  switch (value.kind) {
    case 'number':
      return value;
    case 'held':
      return { kind: 'held', id: of(value.id) };
    case 'not':
    case 'shift':
      return { ...value, of: renumbered(value.of, of) };
    case 'bits':
      return { ...value, left: renumbered(value.left, of), right: renumbered(value.right, of) };
  }
}

/** The reads that a value is made of. */
export function heldIn(value: HeldValue, into = new Set<number>()): Set<number> {
  switch (value.kind) {
    case 'number':
      break;
    case 'held':
      into.add(value.id);
      break;
    case 'not':
    case 'shift':
      heldIn(value.of, into);
      break;
    case 'bits':
      heldIn(value.left, into);
      heldIn(value.right, into);
  }
  return into;
}

/** As text: "held1 & 0xF0 | 0x1". */
export function heldText(value: HeldValue, nameOf: (id: number) => string, power = 0): string {
  const text = ((): [string, number] => {
    switch (value.kind) {
      case 'number':
        return [`0x${value.value.toString(16).toUpperCase()}`, 9];
      case 'held':
        return [nameOf(value.id), 9];
      case 'not':
        return [`~${heldText(value.of, nameOf, 8)}`, 8];
      case 'shift':
        return [`${heldText(value.of, nameOf, 4)} ${value.by > 0 ? '<<' : '>>'} ${Math.abs(value.by)}`, 4];
      case 'bits': {
        const binding = { '|': 1, '^': 2, '&': 3 }[value.operator];
        return [
          `${heldText(value.left, nameOf, binding)} ${value.operator} ${heldText(value.right, nameOf, binding + 1)}`,
          binding,
        ];
      }
    }
  })();
  return text[1] < power ? `(${text[0]})` : text[0];
}
