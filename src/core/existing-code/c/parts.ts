import type { Expression } from './ast';
import type { Lvalue } from './bus';
import { type CType, INT, type IntType, sizeOf, UNSIGNED } from './types';
import {
  type CValue,
  converted,
  type Int,
  intOf,
  isKnown,
  numberOf,
  operated,
  promoted,
  UNKNOWN,
  unknownInt,
} from './value';

/** A value as the bus has it: number and known bits. */
export function numbersOf(value: CValue): { value: number; known: number } {
  if (value.kind === 'pointer') return { value: value.address, known: 0xffffffff };
  if (value.kind !== 'int') return { value: 0, known: 0 };
  const wide = converted(value, UNSIGNED);
  return { value: Number(wide.value & wide.known), known: Number(wide.known) };
}

/** Places for numbers in a type. */
export function placesIn(type: CType): number {
  if (type.kind === 'array') return Math.max(1, (type.count ?? 1) * placesIn(type.of));
  if (type.kind !== 'struct' || !type.body.members) return 1;
  const each = type.body.members.map((member) => placesIn(member.type));
  return Math.max(1, type.body.union ? (each[0] ?? 1) : each.reduce((sum, one) => sum + one, 0));
}

export interface Part {
  type: CType;
  offset: number;
  field?: { low: number; bits: number };
}

export function partAt(type: CType, at: number): Part | undefined {
  if (type.kind === 'array') {
    const size = sizeOf(type.of);
    return size === undefined || at < 0 || at >= (type.count ?? 0)
      ? undefined
      : { type: type.of, offset: at * size };
  }
  if (type.kind !== 'struct') return undefined;
  if (type.body.union && at > 0) return undefined;
  return type.body.members?.[at];
}

/** Whether a value without braces is all of a struct, or of an array of characters. */
export const isWhole = (value: Expression, type: CType): boolean =>
  type.kind === 'array'
    ? value.kind === 'string'
    : !['number', 'cast', 'binary', 'string', 'float', 'unary', 'size', 'offset'].includes(value.kind) &&
      value.kind !== 'name';

export const isVolatile = (outer: { volatile: boolean; address: number }, type: CType): boolean =>
  outer.volatile || (type.volatile ?? false);

/** What an assignment gives: the value as its place holds it. */
export function asKept(target: Lvalue, value: CValue): CValue {
  if (target.kind !== 'memory' || target.type.kind !== 'int' || value.kind !== 'int') return value;
  const own = converted(value, target.type);
  return target.field ? fieldOf(own, { ...target.field, low: 0 }, target.type) : own;
}

/** A bit-field's value. One that fits into int is promoted to int, whatever its type. Source: ISO C11, 6.3.1.1. */
export function fieldOf(whole: Int, { low, bits }: { low: number; bits: number }, type: IntType): Int {
  const mask = (1n << BigInt(bits)) - 1n;
  const own: Int = {
    kind: 'int',
    type: bits < 32 || type.signed ? INT : UNSIGNED,
    value: (whole.value >> BigInt(low)) & mask,
    known: ((whole.known >> BigInt(low)) & mask) | (0xffffffffn & ~mask),
  };
  if (!type.signed || type.bool || !isKnown(own) || own.value >> BigInt(bits - 1) === 0n) return own;
  return intOf(own.value | ~mask, INT);
}

export function withField(whole: Int, { low, bits }: { low: number; bits: number }, given: CValue): Int {
  const mask = ((1n << BigInt(bits)) - 1n) << BigInt(low);
  const part = given.kind === 'int' ? converted(given, UNSIGNED) : unknownInt(UNSIGNED);
  return {
    ...whole,
    value: (whole.value & ~mask) | ((part.value << BigInt(low)) & mask),
    known: (whole.known & ~mask) | ((part.known << BigInt(low)) & mask),
  };
}

export function pointerResult(operator: string, left: CValue, right: CValue): CValue {
  if (left.kind === 'pointer' && right.kind === 'pointer') {
    if (operator === '-') {
      const size = sizeOf(left.to) ?? 1;
      return intOf(BigInt(Math.trunc((left.address - right.address) / size)), INT);
    }
    return (
      operated(operator, intOf(BigInt(left.address), UNSIGNED), intOf(BigInt(right.address), UNSIGNED)) ??
      UNKNOWN
    );
  }
  const [pointer, number] = left.kind === 'pointer' ? [left, right] : [right, left];
  if (pointer.kind !== 'pointer' || number.kind !== 'int' || !isKnown(number)) return UNKNOWN;
  if (operator !== '+' && operator !== '-')
    return (
      operated(
        operator,
        left.kind === 'pointer' ? intOf(BigInt(left.address), UNSIGNED) : (left as Int),
        right.kind === 'pointer' ? intOf(BigInt(right.address), UNSIGNED) : (right as Int),
      ) ?? UNKNOWN
    );
  const by = Number(numberOf(promoted(number))) * (sizeOf(pointer.to) ?? 1);
  return { ...pointer, address: (pointer.address + (operator === '-' ? -by : by)) >>> 0 };
}
