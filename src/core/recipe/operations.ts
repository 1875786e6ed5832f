import type { Register } from './registers';

/** One step of initialisation. Values are whole-register, unsigned. */
export type Operation =
  | { kind: 'write'; stage: string; register: Register; value: number; pads: PadShare[] }
  | { kind: 'update'; stage: string; register: Register; clear: number; set: number; pads: PadShare[] }
  | { kind: 'await'; stage: string; register: Register; mask: number; value: number; cycles: number }
  | { kind: 'wait'; stage: string; cycles: number };

/** A pad that an operation decides something for, and its bits of the value. */
export interface PadShare {
  pad: string;
  value: number;
}

/** Some bits of a planned register and whose they are. */
export interface BitOwner {
  low: number;
  bits: number;
  pad: string;
  field: string;
}

/** A touched register: its value out of reset and as planned, and which bits the plan decides. */
export interface ImageRegister {
  register: Register;
  reset: number;
  planned: number;
  mask: number;
  owners: BitOwner[];
}

/** One pad's contribution: the canonical settings it shall end with, as field values in their places. */
export interface Contribution {
  pad: string;
  field: string;
  register: Register;
  low: number;
  bits: number;
  mask: number;
  value: number;
  setBy?: Register;
  clearedBy?: Register;
}

/** Two pads that want different values in the same bits of a register. */
export interface Clash {
  register: Register;
  mask: number;
  pads: [string, string];
}

export type CodeStyle = 'from-reset' | 'preserving';
