import type { Accessor } from '../../../derive/accessors/accessors';
import type { PadShare } from '../../../derive/machine/operations';
import type { ResolvedNet } from '../../../derive/resolve/resolve';
import type { Register } from '../../../device/registers/types';

/**
 * What generated code does, in no language: the operations and accessors spelled out as reads, writes and bit arithmetic. A target
 * prints this and decides nothing. Arithmetic is on unsigned numbers of the width that {@link bitsOf} says.
 */
export type Width = 8 | 16 | 32;

export type Value =
  | { kind: 'constant'; value: number; bits: Width }
  | { kind: 'read'; register: Register }
  /** The copy in memory of a register that cannot be read. */
  | { kind: 'copy'; register: Register }
  /** Something held before, always of 32 bits. */
  | { kind: 'held'; name: HeldName }
  /** The number that the function is given. */
  | { kind: 'given'; bits: Width }
  | { kind: 'both'; sign: '&' | '|' | '^'; left: Value; right: Value }
  /** To the left by a positive distance, to the right by a negative one; of 32 bits. */
  | { kind: 'shift'; of: Value; by: number }
  /** To 32 bits. */
  | { kind: 'wide'; of: Value }
  /** The low bits. */
  | { kind: 'narrow'; of: Value; bits: Width };

/** `held1`, `bits2`: names of a function's own. */
export type HeldName = `${'held' | 'bits'}${number}`;

export type Statement =
  | { kind: 'hold'; name: HeldName; value: Value }
  | { kind: 'write'; register: Register; value: Value }
  /** Into the copy in memory. */
  | { kind: 'keep'; register: Register; value: Value }
  /** One thing if a bit is set, another if it is not. */
  | { kind: 'choose'; register: Register; mask: number; set: Statement[]; clear: Statement[] }
  /** Reads until the bits have the value, at most `tries` times more; then leaves the function, or goes on. */
  | { kind: 'await'; register: Register; mask: number; value: number; tries: number; late: 'leave' | 'go on' }
  | { kind: 'wait'; cycles: number }
  /** Before and after what no interrupt may come between. */
  | { kind: 'enter' }
  | { kind: 'leave' }
  | { kind: 'give'; value: Value }
  /** Gives whether the one bit of the mask is set, or is clear. */
  | { kind: 'give level'; register: Register; mask: number; asserted: 'set' | 'clear' };

/** An operation of initialisation. */
export interface ProgramStep {
  /** What the stage is for; at its first step only. */
  stage?: string;
  /** The nets whose pins it decides. */
  about?: string;
  pads: readonly PadShare[];
  statements: Statement[];
}

/** A function of an accessor. Without statements there is none: the part has no such access. */
export interface ProgramFunction {
  accessor: Accessor;
  takes?: Width;
  gives?: 'level' | Width;
  /** Why it is not proven. */
  fault?: string;
  statements: Statement[];
}

/** Numbers that the application's own driver of a peripheral needs. */
export const FACT_KINDS = ['INSTANCE', 'RATE_WANTED', 'RATE_GOT', 'DIVIDER'] as const;
export type FactKind = (typeof FACT_KINDS)[number];

/** One of them, of a net; rates in hertz. */
export interface ProgramFact {
  net: string;
  kind: FactKind;
  value: number;
}

/** The functions of one net, or of several nets together. */
export interface ProgramSection {
  about: string;
  /** The bits of the group's number. */
  bits?: { net: string; bit: number }[];
  /** The one net. */
  one?: ResolvedNet;
  group?: string;
  facts: ProgramFact[];
  functions: ProgramFunction[];
}

export interface Program {
  /** All that are read or written, by address. */
  registers: readonly Register[];
  /** Copies in memory, and what they hold before initialisation writes. */
  copies: readonly { register: Register; reset: number }[];
  steps: readonly ProgramStep[];
  sections: readonly ProgramSection[];
  /** Whether anything needs the hooks around what is not one access. */
  torn: boolean;
  waits: { initialisation: boolean; accessors: boolean };
  /** Widths that registers have. */
  widths: readonly Width[];
}

export function bitsOf(value: Value): Width {
  switch (value.kind) {
    case 'constant':
    case 'given':
    case 'narrow':
      return value.bits;
    case 'read':
    case 'copy':
      return value.register.bits;
    case 'both':
      return bitsOf(value.left);
    default:
      return 32;
  }
}
