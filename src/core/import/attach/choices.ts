import type { FieldPlace } from './places';
import type { RegisterFamily } from './port-registers';
import type { FieldRole } from './roles';

/** What the user has settled on for a role: a place (null: the part has none), and which value means what. */
export interface FieldRoleChoice {
  role: FieldRole;
  place: string | null;
  values: Record<string, number>;
  /** Why it was proposed; empty for a choice by hand. */
  reason: string;
  /** The file itself says what the numbers mean. */
  said?: boolean;
}

/** A register with a bit for each port that opens its clock. */
export interface GateChoice {
  register: string;
  address: number;
  bits: 8 | 16 | 32;
  reset: number;
  /** Bit by port. */
  ports: Record<string, number>;
  /** 1 opens; 0 opens for registers that hold ports in reset. */
  opensAt: 0 | 1;
}

export interface Proposal {
  families: RegisterFamily[];
  places: FieldPlace[];
  choices: FieldRoleChoice[];
  gates: GateChoice[];
  /** Gates that the file offers besides. */
  otherGates: GateChoice[];
}
