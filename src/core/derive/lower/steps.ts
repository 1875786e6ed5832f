import type { HeldValue } from '../../description/language/held-value';
import { fullMask, type Register } from '../../device/registers/types';
import type { BareOperation } from '../machine/operations';

/** Bits that are to be changed in one register, and how they may be reached. */
export interface Change {
  register: Register;
  mask: number;
  value: number;
  setBy?: Register;
  clearedBy?: Register;
  /** A statement: it is carried out even where the register holds the value already. */
  explicit: boolean;
  /** A statement about the whole register: its value is written as it stands. */
  whole?: boolean;
}

/** What an operation does, without who it is for. */
export type RegisterStep =
  | { kind: 'write'; register: Register; value: number }
  | { kind: 'update'; register: Register; clear: number; set: number }
  | ComputedStep;

/** Writes what is worked out of what was read before: bits of each register, one turned where another one is 1, and some turned at last. */
export interface ComputedStep {
  kind: 'computed';
  register: Register;
  reads: { register: Register; mask: number }[];
  turn: number;
}

/** The same change with the read apart, so that something can be done between it and the write. Flags among the bits it would not spare. */
export function readApart({
  register,
  clear,
  set,
}: Extract<RegisterStep, { kind: 'update' }>): ComputedStep | undefined {
  const mask = (fullMask(register.bits) & ~(clear | set)) >>> 0;
  if (mask === 0 || register.flagMask !== 0 || register.zeroFlagMask !== 0) return undefined;
  return { kind: 'computed', register, reads: [{ register, mask }], turn: set };
}

/** The value of a computed step, whose reads are held under numbers from `first` on. */
export function computedValue({ register, reads, turn }: ComputedStep, first: number): HeldValue {
  const all = fullMask(register.bits);
  const number = (value: number): HeldValue => ({ kind: 'number', value });
  const both = (operator: '&' | '^', left: HeldValue, right: HeldValue): HeldValue => ({
    kind: 'bits',
    operator,
    left,
    right,
  });
  const parts = reads.map(({ mask }, at): HeldValue => {
    const held: HeldValue = { kind: 'held', id: first + at };
    return mask === all ? held : both('&', held, number(mask));
  });
  const sum = parts.reduce((left, right) => both('^', left, right));
  return turn === 0 ? sum : both('^', sum, number(turn));
}

/** The operations that a step is, apart from what must be done between reading and writing; holds are numbered from `first` on. */
export function operationsOfStep(
  step: RegisterStep,
  first: number,
): { before: BareOperation[]; write: BareOperation } {
  if (step.kind !== 'computed') return { before: [], write: step };
  return {
    before: step.reads.map(({ register }, at) => ({ kind: 'read', register, holds: first + at })),
    write: { kind: 'write held', register: step.register, value: computedValue(step, first) },
  };
}
