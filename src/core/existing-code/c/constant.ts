import type { Expression } from './ast';
import { type CType, type IntType, memberOf, sizeOf } from './types';

/** The value of an expression of numbers, enumerators and sizes; undefined where it is more than that. */
export function wholeValue(expression: Expression, names: ReadonlyMap<string, bigint>): bigint | undefined {
  const of = (one: Expression): bigint | undefined => wholeValue(one, names);
  switch (expression.kind) {
    case 'number':
      return expression.value;
    case 'name':
      return names.get(expression.name);
    case 'size': {
      const { of: given } = expression;
      const size = expression.type
        ? sizeOf(expression.type)
        : given?.kind === 'string'
          ? given.bytes.length
          : given?.kind === 'number'
            ? given.type.bits / 8
            : undefined;
      return size === undefined ? undefined : BigInt(size);
    }
    case 'offset': {
      const offset = offsetOf(expression.type, expression.names);
      return offset === undefined ? undefined : BigInt(offset);
    }
    case 'cast': {
      const value = of(expression.of);
      return value === undefined || expression.type.kind !== 'int'
        ? undefined
        : fitted(value, expression.type);
    }
    case 'unary': {
      const value = of(expression.of);
      if (value === undefined) return undefined;
      const { operator } = expression;
      if (operator === '!') return value === 0n ? 1n : 0n;
      return operator === '~' ? ~value : operator === '-' ? -value : operator === '+' ? value : undefined;
    }
    case 'choose': {
      const value = of(expression.condition);
      return value === undefined ? undefined : of(value !== 0n ? expression.yes : expression.no);
    }
    case 'binary': {
      const [left, right] = [of(expression.left), of(expression.right)];
      return left === undefined || right === undefined
        ? undefined
        : combined(expression.operator, left, right);
    }
    default:
      return undefined;
  }
}

/** A number as a type holds it. */
export const fitted = (value: bigint, { bits, signed, bool }: IntType): bigint =>
  bool ? (value === 0n ? 0n : 1n) : signed ? BigInt.asIntN(bits, value) : BigInt.asUintN(bits, value);

/** Where a member of a member … begins, in bytes. */
export function offsetOf(type: CType, names: readonly string[]): number | undefined {
  let [own, offset]: [CType, number] = [type, 0];
  for (const name of names) {
    const member = own.kind === 'struct' ? memberOf(own, name) : undefined;
    if (!member) return undefined;
    offset += member.offset;
    own = member.type;
  }
  return offset;
}

/** Two whole numbers; undefined where C says nothing of it. */
export function combined(operator: string, left: bigint, right: bigint): bigint | undefined {
  const truth = (value: boolean): bigint => (value ? 1n : 0n);
  switch (operator) {
    case '*':
      return left * right;
    case '/':
      return right === 0n ? undefined : left / right;
    case '%':
      return right === 0n ? undefined : left % right;
    case '+':
      return left + right;
    case '-':
      return left - right;
    case '<<':
      return right < 0n || right > 63n ? undefined : left << right;
    case '>>':
      return right < 0n || right > 63n ? undefined : left >> right;
    case '<':
      return truth(left < right);
    case '>':
      return truth(left > right);
    case '<=':
      return truth(left <= right);
    case '>=':
      return truth(left >= right);
    case '==':
      return truth(left === right);
    case '!=':
      return truth(left !== right);
    case '&':
      return left & right;
    case '^':
      return left ^ right;
    case '|':
      return left | right;
    case '&&':
      return truth(left !== 0n && right !== 0n);
    case '||':
      return truth(left !== 0n || right !== 0n);
    default:
      return undefined;
  }
}
