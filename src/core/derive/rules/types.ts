import type { Package, Pad, PadId, PinNumber, SignalId } from '../../description/types';
import type { Device } from '../../device/device';
import type { Edit } from '../../plan/edits/edits';
import type { Net, NetId, Plan, Waiver } from '../../plan/model/types';
import type { Accessors } from '../accessors/accessors';
import type { Difference } from '../board/cross-check';
import type { SupplyFault } from '../board/supply-pins';
import type { Candidate } from '../candidates/candidates';
import type { Lowered } from '../lower/lower';
import type { Budget, PadLoad } from '../resolve/budget';
import type { ResolvedNet } from '../resolve/resolve';
import type { UnusedPad } from '../resolve/unused';
import type { Proof } from '../simulate/proof';

export type Severity = 'error' | 'warning' | 'note';

/** A remedy is an edit that can be applied with one click, and the words on the button. */
export interface Remedy {
  label: string;
  edit: Edit;
}

/** An operation (counted from 0) and a register with its bits, to be shown beside the message. */
export interface FindingPlace {
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
  pins: PinNumber[];
  nets: NetId[];
  /** What of them is wrong, for rules that can find several things wrong with the same nets and pads. */
  about?: string;
  remedies: Remedy[];
  /** Where in the generated code and in the part it is, for what the proof found. */
  place?: FindingPlace;
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

/** What stays from edit to edit: the part and the package. */
export interface PackagedPart {
  device: Device;
  pkg: Package;
  pinsOf(pad: PadId): PinNumber[];
}

/** A net on a pad that the package has. */
export interface PlacedNet extends ResolvedNet {
  pad: Pad;
}

/** One report, several, or nothing to say. */
export type Found = Report | readonly Report[] | undefined;

/**
 * A rule says what it looks at, and is given nothing else. What it finds about a net by itself is remembered until the net
 * changes; the engine walks over nets and pads once for all rules.
 */
export type Rule = { meta: RuleMeta } & (
  | { per: 'net'; check(net: ResolvedNet, part: PackagedPart): Found }
  | { per: 'placed net'; check(net: PlacedNet, part: PackagedPart): Found }
  /** A pad that carries a net, or several. */
  | { per: 'pad'; check(pad: PadId, nets: readonly ResolvedNet[], context: RuleContext): Found }
  | { per: 'plan'; check(context: RuleContext): readonly Report[] }
);

/** A finding before the engine completes it: the rule's id and severity are filled in, pins looked up. */
export type Report = Pick<Finding, 'message' | 'pads' | 'nets' | 'about' | 'place'> & {
  severity?: Severity;
  /** Worked out when somebody looks at them. */
  remedies?(context: RuleContext): Remedy[];
};

/** Everything that follows from the plan, but for what rules find. */
export interface RuleContext extends PackagedPart {
  plan: Plan;
  resolved: readonly ResolvedNet[];
  byNet: ReadonlyMap<NetId, ResolvedNet>;
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
  /** Placed nets by the signal their pad carries for them. */
  bySignal: ReadonlyMap<SignalId, readonly ResolvedNet[]>;
  lowered: Lowered;
  proof: Proof;
  accessors: Accessors;
  /** What each placed net draws, and the sums by supply, port and package. */
  readonly loads: readonly PadLoad[];
  readonly budgets: readonly Budget[];
  /** Where the netlist of the schematic and the plan do not agree. */
  readonly differences: readonly Difference[];
  /** Supply pins, and pins that must be left open, that the netlist has wrong. */
  readonly supplyFaults: readonly SupplyFault[];
  /** Pads that nobody planned, with what becomes of them. */
  readonly unused: readonly UnusedPad[];
  /** How many free pads can take an unplaced net with all that it asks for. */
  fittingPads(net: Net): number;
  /** Pads that can carry a net, best first; only those of one peripheral instance when it is named. */
  candidatesFor(net: Net, instance?: string): Candidate[];
  /** Up to `count` moves to free pads, best first, as remedies. */
  movesFor(net: Net, count: number): Remedy[];
}
