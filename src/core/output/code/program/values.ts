import { fullMask, type Register } from '../../../device/registers/types';
import { bitsOf, type Value, type Width } from './types';

export const constant = (value: number, bits: Width): Value => ({
  kind: 'constant',
  value: (value & fullMask(bits)) >>> 0,
  bits,
});

export const read = (register: Register): Value => ({ kind: 'read', register });
export const copyOf = (register: Register): Value => ({ kind: 'copy', register });

function both(sign: '&' | '|' | '^', left: Value, right: Value): Value {
  if (bitsOf(left) !== bitsOf(right)) throw new Error('both sides of a value need one width');
  return { kind: 'both', sign, left, right };
}

const isConstant = (value: Value, wanted: number): boolean =>
  value.kind === 'constant' && value.value === wanted;

/** The bits of a value that a mask names. */
export function and(left: Value, mask: number): Value {
  const bits = bitsOf(left);
  const own = (mask & fullMask(bits)) >>> 0;
  return own === fullMask(bits) ? left : both('&', left, constant(own, bits));
}

/** Both of two values. */
export function or(left: Value, right: Value): Value {
  if (isConstant(right, 0)) return left;
  return isConstant(left, 0) ? right : both('|', left, right);
}

export const anyOf = (values: readonly Value[]): Value =>
  values.length === 0 ? constant(0, 32) : values.reduce(or);

/** Some bits of a value turned into their opposites. */
export function xor(left: Value, mask: number): Value {
  const bits = bitsOf(left);
  const own = (mask & fullMask(bits)) >>> 0;
  return own === 0 ? left : both('^', left, constant(own, bits));
}

export const shifted = (of: Value, by: number): Value =>
  by === 0 ? wide(of) : { kind: 'shift', of: wide(of), by };

export const wide = (of: Value): Value => (bitsOf(of) === 32 ? of : { kind: 'wide', of });

export const narrow = (of: Value, bits: Width): Value =>
  bitsOf(of) === bits ? of : { kind: 'narrow', of, bits };
