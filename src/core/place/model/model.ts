import type { IndexOf } from '../../base/index-of';
import type { PadTerms } from '../../derive/candidates/pad-terms';
import type { Terms, Weights } from '../../derive/candidates/terms';
import type { AskedKey } from '../../description/settings';
import type { Package, PadFunction, PadId } from '../../description/types';
import type { Device } from '../../device/device';
import type { Mode } from '../../device/shared-fields';
import type { Constraint, Net, Plan } from '../../plan/model/types';
import type { Option } from '../solver/problem';

export type RequirementIndex = IndexOf<'requirements'>;
export type SlotIndex = IndexOf<'slots'>;

/** Something the plan asks for that can be given up: what an explanation is made of, and what a suggestion takes away. */
export interface Requirement {
  index: RequirementIndex;
  kind: 'net' | 'locked' | 'setting' | 'demand' | 'constraint';
  /** In words, with names between backticks. */
  words: string;
  nets: Net[];
  setting?: AskedKey;
  demand?: string;
  constraint?: Constraint;
}

/** A pad that can be chosen. */
export interface Slot {
  pad: PadId;
  /** Position along the package. */
  place: number;
  side?: string;
}

/**
 * One pad and function that could carry a net, with what it would cost and who forbids it. Nets of one role share those that
 * nothing of their own bears on.
 */
export interface Choice {
  pad: PadId;
  slot: SlotIndex;
  fn?: PadFunction | undefined;
  instance?: string | undefined;
  /** Requirements that rule it out when they are in force. */
  forbidden: readonly RequirementIndex[];
  /** Numbers of the things that only one choice may use. */
  resources: readonly number[];
  modes?: Mode[] | undefined;
  terms: Terms;
  /** Weighted sum of the terms. */
  cost: number;
  /** What the solver gets when costs do not matter; made when first needed. */
  bare?: Option | undefined;
}

/** A net that wants a pad. */
export interface NetItem {
  net: Net;
  requirement: RequirementIndex;
  choices: Choice[];
  /** Kind of the peripheral whose lines need each other, for the nets it concerns. */
  kind?: string;
  /** It stays where it is. */
  locked: boolean;
}

/** A plan as a question: which choice for which net. Everything that does not depend on what is in force is worked out. */
export interface Model {
  device: Device;
  pkg: Package;
  plan: Plan;
  weights: Weights;
  slots: readonly Slot[];
  /** How many things there are that only one choice may use. */
  resources: number;
  requirements: readonly Requirement[];
  items: readonly NetItem[];
  constraints: readonly { constraint: Constraint; requirement: RequirementIndex }[];
  /** Nets that want an interrupt line of which there are only so many. */
  interrupts: { items: readonly NetItem[]; lines: number };
  terms: PadTerms;
}
