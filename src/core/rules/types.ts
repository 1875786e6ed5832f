import type { Accessors } from '../accessors';
import type { Package, PadId, SignalId, TerminalNo } from '../device/types';
import type { Candidate } from '../placing/candidates';
import type { Edit } from '../plan/edit';
import type { ResolvedNet } from '../plan/resolve';
import type { Net, NetId, Plan, Waiver } from '../plan/types';
import type { Device } from '../recipe/device';
import type { Lowered } from '../recipe/lower';
import type { Proof } from '../recipe/proof';

export type Severity = 'error' | 'warning' | 'note';

/** A remedy is an edit that can be applied with one click, and the words on the button. */
export interface Remedy {
  label: string;
  edit: Edit;
}

/** An operation (counted from 0) and a register with its bits, to be shown beside the message. */
export interface Place {
  operation?: number;
  register?: string;
  mask?: number;
}

/** What a rule reports. Messages put names between backticks, so that a view can show and link them. */
export interface Finding {
  /** Stable between derivations as long as the same thing is wrong. */
  id: string;
  rule: string;
  severity: Severity;
  message: string;
  pads: PadId[];
  terminals: TerminalNo[];
  nets: NetId[];
  /** What of them is wrong, for rules that can find several things wrong with the same nets and pads. */
  about?: string;
  remedies: Remedy[];
  /** Where in the generated code and in the part it is, for what the proof found. */
  place?: Place;
  /** Somebody let it stand, with a reason; it does not count. */
  waived?: Waiver;
}

export interface RuleMeta {
  id: string;
  severity: Severity;
  title: string;
  /** What the finding means for the board. */
  means: string;
  /** How one gets rid of it. */
  fix: string;
}

export interface Rule {
  meta: RuleMeta;
  check(context: RuleContext): Report[];
}

/** A finding before the engine completes it: the rule's id and severity are filled in, terminals looked up. */
export type Report = Pick<Finding, 'message' | 'pads' | 'nets' | 'about' | 'remedies' | 'place'> & {
  severity?: Severity;
};

/** Everything a rule may look at. */
export interface RuleContext {
  plan: Plan;
  device: Device;
  pkg: Package;
  resolved: readonly ResolvedNet[];
  byNet: ReadonlyMap<NetId, ResolvedNet>;
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
  /** Placed nets by the signal their pad carries for them. */
  bySignal: ReadonlyMap<SignalId, readonly ResolvedNet[]>;
  lowered: Lowered;
  proof: Proof;
  accessors: Accessors;
  terminalsOf(pad: PadId): TerminalNo[];
  /** Pads that can carry a net, best first; only those of one peripheral instance when it is named. */
  candidatesFor(net: Net, instance?: string): Candidate[];
  /** Up to `count` moves to free pads, best first, as remedies. */
  movesFor(net: Net, count: number): Remedy[];
}
