import type { Place } from './tokens';
import type { CType } from './types';

/** An access to what is no variable of the code. */
export interface BusAccess {
  place: Place;
  /** By its address, or by what it is called in a header that is not there. */
  at: { address: number } | { path: readonly string[] };
  /** Undefined where the type is not known: then as wide as the register. */
  bits: 8 | 16 | 32 | undefined;
  volatile: boolean;
  /** The member or macro by which it is reached. */
  said?: string;
}

export interface BusWrite extends BusAccess {
  value: number;
  known: number;
  /** `=`, or the sign of the compound assignment, with the number behind it; `field` for a bit-field. */
  how: { sign: string; value: number; known: number };
}

/** What lies outside of the code. Undefined: nothing is known of it there. */
export interface Bus {
  read(access: BusAccess): { value: number; known: number; bits: 8 | 16 | 32 } | undefined;
  write(access: BusWrite): void;
  /** Time that passes without an access. */
  wait(cycles: number): void;
}

/** What is told while code is followed. */
export interface Told {
  notUnderstood(place: Place, message: string): void;
  suspicious(
    rule: 'shift-too-far' | 'value-does-not-fit' | 'precedence' | 'endless-wait',
    place: Place,
    message: string,
  ): void;
}

/** A place that has an address: a variable of the code, or a register. */
export interface MemoryPlace {
  kind: 'memory';
  address: number;
  type: CType;
  volatile: boolean;
  /** The member by which it is reached. */
  said?: string;
  field?: { low: number; bits: number };
}
/** What can be assigned to. */
export type Lvalue = MemoryPlace | { kind: 'path'; path: readonly string[] } | { kind: 'unknown' };

/** As wide as the bus can be accessed; undefined for anything else. */
export const busWidth = (bytes: number): 8 | 16 | 32 | undefined =>
  bytes === 1 ? 8 : bytes === 2 ? 16 : bytes === 4 ? 32 : undefined;

export function accessTo(
  target: MemoryPlace | { kind: 'path'; path: readonly string[] },
  place: Place,
  bits: 8 | 16 | 32 | undefined,
): BusAccess {
  if (target.kind === 'path') return { place, at: { path: target.path }, bits, volatile: true };
  const said = target.said ?? place.macro;
  return {
    place,
    at: { address: target.address },
    bits,
    volatile: target.volatile,
    ...(said === undefined ? {} : { said }),
  };
}
