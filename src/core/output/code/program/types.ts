import type { Accessor } from '../../../derive/accessors/accessors';
import type { PadShare } from '../../../derive/machine/operations';
import type { ResolvedNet } from '../../../derive/resolve/resolve';
import type { Routine } from '../../../derive/routines/routines';
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

/** `held1`, `bits2`: names within a function; `kept3`: of what steps of a stage read, for steps after it. */
export type HeldName = `${'held' | 'bits' | 'kept'}${number}`;

/** Whether a step needs a block of its own, so that names do not meet; what is kept for later steps has a name of its own. */
export const isLocal = (one: Statement): boolean => one.kind === 'hold' && !one.name.startsWith('kept');

export type Statement =
  | { kind: 'hold'; name: HeldName; value: Value }
  | { kind: 'write'; register: Register; value: Value }
  /** For what the read does. */
  | { kind: 'read'; register: Register }
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

/** An operation of initialisation, or of another routine. */
export interface ProgramStep {
  /** The stage that begins here, or ends after it, where the application's own code is called there. */
  begins?: string;
  ends?: string;
  /** What the stage is for; at its first step only. */
  stage?: string;
  /** The nets whose pins it decides. */
  about?: string;
  pads: readonly PadShare[];
  statements: Statement[];
}

/** A function beside the initialisation of everything; it gives whether it has run to its end. */
export interface ProgramRoutine {
  routine: Routine;
  about: string;
  /** Why it is not proven. */
  fault?: string;
  steps: readonly ProgramStep[];
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
export const FACT_KINDS = [
  'PORT',
  'BIT',
  'INSTANCE',
  'RATE_WANTED',
  'RATE_GOT',
  'DIVIDER',
  'DATA_BITS',
  'PARITY',
  'STOP_HALF_BITS',
  'SPI_MODE',
  'LSB_FIRST',
  'INTERRUPT_NUMBER',
] as const;
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

/** A line to the interrupt controller, and the nets that come in by it. */
export interface InterruptLine {
  /** `A7`, `3`, `PA`: the pad, bit or port that it is of. */
  id: string;
  nets: readonly InterruptNet[];
}

export interface InterruptNet {
  net: string;
  name: string;
  /** Whether its handler is to be called, and taking that back; absent where the part shows nothing of it. */
  pending?: ProgramFunction;
  acknowledge?: ProgramFunction;
  /** By a level: it stays until its cause is gone, and is taken back after that. */
  byLevel: boolean;
}

export interface Program {
  /** All that are read or written, by address. */
  registers: readonly Register[];
  /** Copies in memory, and what they hold before initialisation writes. */
  copies: readonly { register: Register; reset: number }[];
  steps: readonly ProgramStep[];
  routines: readonly ProgramRoutine[];
  /** Those that initialisation is made of, in order, where circuits have functions of their own; their steps are its own. */
  calls: readonly ProgramRoutine[] | undefined;
  /** Stages before and after which the application's own code is called. */
  hooks: readonly string[];
  sections: readonly ProgramSection[];
  interrupts: readonly InterruptLine[];
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
