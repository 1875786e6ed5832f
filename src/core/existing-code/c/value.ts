import { combined } from './constant';
import { type CType, INT, type IntType, LONG_LONG, UNSIGNED, UNSIGNED_LONG_LONG } from './types';

/** A whole number of which some bits may not be known: those that are 0 in `known`. Both are unsigned, of the type's bits. */
export interface Int {
  kind: 'int';
  type: IntType;
  value: bigint;
  known: bigint;
}

export type CValue =
  | Int
  | { kind: 'pointer'; to: CType; address: number }
  /** The bytes of a struct, each with its known bits. */
  | { kind: 'struct'; type: CType; bytes: Byte[] }
  /** What a register is called in a header that is not there: its names, in order. */
  | { kind: 'path'; path: readonly string[] }
  | { kind: 'unknown' };

export interface Byte {
  value: number;
  known: number;
}

export const UNKNOWN: CValue = { kind: 'unknown' };

const onesOf = (bits: number): bigint => (1n << BigInt(bits)) - 1n;

export const intOf = (value: bigint, type: IntType): Int => ({
  kind: 'int',
  type,
  value: type.bool ? (value === 0n ? 0n : 1n) : BigInt.asUintN(type.bits, value),
  known: onesOf(type.bits),
});

export const unknownInt = (type: IntType): Int => ({ kind: 'int', type, value: 0n, known: 0n });

export const isKnown = ({ known, type }: Int): boolean => known === onesOf(type.bits);

/** As a signed or unsigned number, as the type says; only for a number that is known. */
export const numberOf = ({ value, type }: Int): bigint =>
  type.signed ? BigInt.asIntN(type.bits, value) : value;

/** Whether it is another number than 0; undefined where that is not known. */
export function truthOf(value: CValue): boolean | undefined {
  if (value.kind === 'pointer') return value.address !== 0;
  if (value.kind !== 'int') return undefined;
  if ((value.value & value.known) !== 0n) return true;
  return isKnown(value) ? false : undefined;
}

/** A number in another type. Source: ISO C11, 6.3.1.3. */
export function converted(given: Int, type: IntType): Int {
  if (type.bool) {
    const truth = truthOf(given);
    return truth === undefined
      ? { kind: 'int', type, value: 0n, known: 0xfen }
      : intOf(truth ? 1n : 0n, type);
  }
  const { bits } = given.type;
  if (type.bits <= bits) {
    const mask = onesOf(type.bits);
    return { kind: 'int', type, value: given.value & mask, known: given.known & mask };
  }
  const high = onesOf(type.bits) & ~onesOf(bits);
  if (!given.type.signed) return { kind: 'int', type, value: given.value, known: given.known | high };
  const sign = 1n << BigInt(bits - 1);
  if ((given.known & sign) === 0n) return { kind: 'int', type, value: given.value, known: given.known };
  const value = (given.value & sign) === 0n ? given.value : given.value | high;
  return { kind: 'int', type, value, known: given.known | high };
}

/** Small types become int before anything is done with them. */
export const promoted = (value: Int): Int =>
  value.type.bits < 32 ? converted(value, INT) : value.type.bool ? converted(value, INT) : value;

const commonType = (a: IntType, b: IntType): IntType => {
  if (a.bits === 64 || b.bits === 64) {
    const unsigned = (a.bits === 64 && !a.signed) || (b.bits === 64 && !b.signed);
    return unsigned ? UNSIGNED_LONG_LONG : LONG_LONG;
  }
  return a.signed && b.signed ? INT : UNSIGNED;
};

/** A number in the type that it has beside one of another type. */
export const inCommon = (value: Int, other: IntType): Int => {
  const one = promoted(value);
  return converted(one, commonType(one.type, promoted(unknownInt(other)).type));
};

export function negated(given: Int): Int {
  const one = promoted(given);
  return isKnown(one) ? intOf(-one.value, one.type) : unknownInt(one.type);
}

export function inverted(given: Int): Int {
  const one = promoted(given);
  return { ...one, value: ~one.value & one.known };
}

/** Two numbers. Undefined where C says nothing of the result. */
export function operated(operator: string, a: Int, b: Int): Int | undefined {
  if (operator === '<<' || operator === '>>') return shifted(operator, promoted(a), promoted(b));
  const type = commonType(promoted(a).type, promoted(b).type);
  const [left, right] = [converted(promoted(a), type), converted(promoted(b), type)];
  const [both, zeros] = [left.known & right.known, (one: Int): bigint => one.known & ~one.value];
  switch (operator) {
    case '&': {
      const known = both | zeros(left) | zeros(right);
      return { kind: 'int', type, value: left.value & right.value & known, known };
    }
    case '|': {
      const known = both | (left.known & left.value) | (right.known & right.value);
      return { kind: 'int', type, value: (left.value | right.value) & known, known };
    }
    case '^':
      return { kind: 'int', type, value: (left.value ^ right.value) & both, known: both };
    case '==':
    case '!=': {
      const differ = (both & (left.value ^ right.value)) !== 0n;
      if (differ) return intOf(operator === '!=' ? 1n : 0n, INT);
      if (isKnown(left) && isKnown(right)) return intOf(operator === '==' ? 1n : 0n, INT);
      return unknownInt(INT);
    }
  }
  const compares = ['<', '>', '<=', '>='].includes(operator);
  if (!isKnown(left) || !isKnown(right)) return unknownInt(compares ? INT : type);
  const result = combined(operator, numberOf(left), numberOf(right));
  return result === undefined ? undefined : intOf(result, compares ? INT : type);
}

function shifted(operator: '<<' | '>>', left: Int, right: Int): Int | undefined {
  const { type } = left;
  if (!isKnown(right)) return unknownInt(type);
  const by = numberOf(right);
  if (by < 0n || by >= BigInt(type.bits)) return undefined;
  const ones = onesOf(type.bits);
  if (operator === '<<') {
    const low = (1n << by) - 1n;
    return { kind: 'int', type, value: (left.value << by) & ones, known: ((left.known << by) | low) & ones };
  }
  const high = ones & ~(ones >> by);
  const sign = 1n << BigInt(type.bits - 1);
  if (!type.signed) return { kind: 'int', type, value: left.value >> by, known: (left.known >> by) | high };
  if ((left.known & sign) === 0n)
    return { kind: 'int', type, value: left.value >> by, known: (left.known >> by) & ~high };
  const filled = (left.value & sign) === 0n ? 0n : high;
  return { kind: 'int', type, value: (left.value >> by) | filled, known: (left.known >> by) | high };
}
