import type { Register } from '../device/registers/types';
import type { Place } from './c/tokens';

/** What is looked for in code that sets registers: whether it is wrong, may be, or is only worth knowing. */
export const REVIEW_RULES = {
  'differs-from-plan': ['error', 'A pad does not end as planned'],
  'not-set-up': ['error', 'Pads of the plan that the code does nothing for'],
  'not-in-plan': ['warning', 'A pad that the plan has nothing on is set up'],
  'off-by-one-field': ['error', 'A value is in the field beside the one where it belongs'],
  'clobbers-bits': ['error', 'A write puts bits back that an earlier one has set'],
  'ored-over': ['error', 'Bits are added to a field that is not 0'],
  'not-clocked': [
    'error',
    'A register is written or read while it is shut, as that of a port without its clock',
  ],
  locked: ['error', 'A register is written while it is locked'],
  'lost-write': ['error', 'A write has no effect'],
  'not-readable': ['error', 'A register that cannot be read is read'],
  'unsafe-order': [
    'error',
    'A pad goes through a state that it must not, as a latch that is set after its direction',
  ],
  'wrong-address': ['error', 'A name stands for another address than that of its register'],
  'no-register': ['warning', 'The part has no register at an address'],
  'not-volatile': ['error', 'A register is accessed without volatile: compilers may leave it out'],
  'access-width': ['warning', 'A register is accessed in another width than its own'],
  'shift-too-far': ['error', 'A number is shifted by more bits than it has'],
  'value-does-not-fit': ['warning', 'A number is too large for where it is written'],
  precedence: ['warning', 'Operators are not done in the order in which they seem to be meant'],
  'endless-wait': ['error', 'The code waits for what never comes'],
  'nothing-followed': [
    'error',
    'Nothing of the code is understood as an access to a register: nothing is known of it, good or bad',
  ],
  'not-understood': ['note', 'What could not be followed'],
} as const satisfies Record<string, readonly ['error' | 'warning' | 'note', string]>;

export type ReviewRule = keyof typeof REVIEW_RULES;

export interface Finding {
  rule: ReviewRule;
  place: Place;
  message: string;
  /** The pads it is about. */
  pads: readonly string[];
  register?: Register;
  mask?: number;
}

export const levelOf = ({ rule }: { rule: ReviewRule }): 'error' | 'warning' | 'note' =>
  REVIEW_RULES[rule][0];
