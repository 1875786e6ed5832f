import type { Register } from '../../device/registers/types';

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
  | { kind: 'update'; register: Register; clear: number; set: number };
