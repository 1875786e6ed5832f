import type { HeldValue } from '../../description/language/held-value';
import type { Register } from '../../device/registers/types';

/** One step of initialisation or of an accessor. Values are whole-register, unsigned. */
export type Operation = Access | Pause;

type Bare<T> = T extends unknown ? Omit<T, keyof Purpose> : never;

/** What an operation does, without whom it is for. */
export type BareOperation = Bare<Operation>;

/** Who an operation is for. */
interface Purpose {
  stage: string;
  /** Pads that it decides something for, and their bits of the value. */
  pads: PadShare[];
  /** For a statement: the pads that it is carried out for. */
  scope?: readonly string[];
  /** Where it stands in code that was read, "board.c:12". */
  at?: string;
}

type Access = Purpose &
  (
    | { kind: 'write'; register: Register; value: number }
    /** Reads, clears and sets bits, writes. `shadow`: what the register holds is kept in memory, since it cannot be read. */
    | { kind: 'update'; register: Register; clear: number; set: number; shadow?: true }
    /** Turns bits into their opposites, `through` a register that sets and one that clears where the part has them. */
    | {
        kind: 'flip';
        register: Register;
        mask: number;
        through?: { set: Register; clear: Register };
        shadow?: true;
      }
    /** Reads, for what the read does; or, with a number, holds what it gives until the code of the stage ends. */
    | { kind: 'read'; register: Register; holds?: number }
    /** Writes what is worked out of what was held. */
    | { kind: 'write held'; register: Register; value: HeldValue }
  );

type Pause = Purpose &
  (
    | { kind: 'await'; register: Register; mask: number; value: number; cycles: number }
    | { kind: 'wait'; cycles: number }
  );

/** What is held, in texts and in code. */
export const heldName = (id: number): `kept${number}` => `kept${id}`;

/** A pad that an operation decides something for, and its bits of the value. */
export interface PadShare {
  pad: string;
  value: number;
  /** Which bits of the register are the pad's. */
  mask: number;
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

/** Two pads that want different values in the same bits of a register. */
export interface Clash {
  register: Register;
  mask: number;
  pads: [string, string];
}
