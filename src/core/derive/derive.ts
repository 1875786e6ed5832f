import { fingerprintOf } from '../base/fingerprint';
import { fail, ok, type Result } from '../base/result';
import { hasRecipe } from '../description/recipe';
import type { Package, PadId, SignalId } from '../description/types';
import { splitSignal } from '../description/types';
import { deviceIn } from '../device/compile/package-device';
import type { Device } from '../device/device';
import { orderOf } from '../device/geometry';
import type { PlannedPad } from '../device/planned-pad';
import { applyEdit, type Edit } from '../plan/edits/edits';
import { placeNet } from '../plan/edits/make-edits';
import type { Net, NetId, Plan } from '../plan/model/types';
import { type Accessors, accessorsOf } from './accessors/accessors';
import { crossCheck, type Difference } from './board/cross-check';
import { type SupplyFault, supplyFaults } from './board/supply-pins';
import { type Candidate, candidatesFor, placementAt } from './candidates/candidates';
import { fittingPads } from './candidates/fitting';
import type { Occupancy } from './candidates/occupancy';
import { check } from './check/check';
import { errorKeys } from './check/harmless';
import { lowerByCircuit } from './lower/by-circuit';
import { type Lowered, lower } from './lower/lower';
import { agreeing } from './resolve/agree';
import { type Budget, budgetsOf, type PadLoad, padLoads } from './resolve/budget';
import { isAnalog, type ResolvedNet, resolvedNet } from './resolve/resolve';
import { type UnusedPad, unusedPads } from './resolve/unused';
import { circuitPads, type Routine, routinesOf } from './routines/routines';
import type { Finding, Remedy, RuleContext, Severity } from './rules/types';
import { type Proof, prove } from './simulate/proof';

/** All that follows from a plan and a device. */
export interface Derived {
  plan: Plan;
  device: Device;
  pkg: Package;
  /** Fingerprint of the plan's content: what is printed into generated files. */
  readonly fingerprint: string;
  resolved: readonly ResolvedNet[];
  byNet: ReadonlyMap<NetId, ResolvedNet>;
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
  bySignal: ReadonlyMap<SignalId, readonly ResolvedNet[]>;
  /** Pads that are planned, in port order, with their final settings. */
  planned: readonly PlannedPad[];
  lowered: Lowered;
  proof: Proof;
  /** Functions beside the initialisation of everything. */
  readonly routines: readonly Routine[];
  accessors: Accessors;
  findings: Finding[];
  counts: Record<Severity, number>;
  occupancy: Occupancy;
}

/**
 * Everything that follows from a plan. `before` is what followed from the plan before an edit, or from any other: what is the
 * same is taken from there, and the answer is the same with it as without. Fails when the plan names another device, or a package
 * that the device does not have.
 */
export function derive(part: Device, plan: Plan, before?: Derived): Result<Derived> {
  const device = deviceIn(part, plan.package);
  const pkg = device.packages.get(plan.package);
  if (plan.device !== device.description.id) {
    return fail({ place: 'device', message: `the plan is for ${plan.device}, not ${device.description.id}` });
  }
  if (!pkg) {
    const known = [...device.packages.keys()].join(', ');
    return fail({
      place: 'package',
      message: `${device.description.name} has no package "${plan.package}"; it has ${known}`,
    });
  }
  const earlier = before?.device === device ? before : undefined;
  const nets = netsOf(device, pkg, plan, earlier);
  const unused = unusedPads(device, pkg, plan, (pad) => nets.byPad.has(pad));
  const planned = kept(plannedPads(device, nets.byPad, unused), earlier?.planned);
  const same = planned === earlier?.planned && sameOrder(plan, earlier.plan);
  const lowered = same ? earlier.lowered : loweredOf(device, plan, nets.byPad, planned, earlier?.lowered);
  const proof = same ? earlier.proof : prove(device, planned, lowered, earlier?.proof);
  const accessors = accessorsOf(device, plan, nets.byPad, lowered, earlier?.accessors);
  const occupancy: Occupancy = {
    device,
    pkg,
    ...nets,
    pinOrder: orderOf(device, pkg),
    constraints: plan.constraints ?? NONE,
  };
  let errors: Set<string> | undefined;
  let tries = 0;
  // A remedy is tried before it is offered. What is left when so many were tried is not offered: the first ones are done first.
  const harmless = (edit: Edit): boolean => {
    if (++tries > MOST_TRIED) return false;
    const after = applyEdit(plan, edit);
    const then = after.ok ? derive(part, after.value, whole) : after;
    if (!then.ok) return false;
    errors ??= errorKeys(findings);
    for (const key of errorKeys(then.value.findings)) if (!errors.has(key)) return false;
    return true;
  };
  const findings = check(new Context(plan, occupancy, unused, lowered, proof, accessors), harmless);
  const counts: Record<Severity, number> = { error: 0, warning: 0, note: 0 };
  for (const finding of findings) if (!finding.waived) counts[finding.severity]++;
  let fingerprint: string | undefined;
  let routines: Routine[] | undefined;
  const whole: Derived = {
    plan,
    device,
    pkg,
    // Worked out when somebody prints it: most derivations are followed by another before that.
    get fingerprint() {
      fingerprint ??= codeFingerprint(plan);
      return fingerprint;
    },
    get routines() {
      routines ??= routinesOf({ device, plan, ...nets, planned });
      return routines;
    },
    ...nets,
    planned,
    lowered,
    proof,
    accessors,
    findings,
    counts,
    occupancy,
  };
  return ok(whole);
}

/** Remedies of one plan that are tried: each is a derivation. */
const MOST_TRIED = 300;

/** Of what code follows from: what is tried on the bench changes no file. */
function codeFingerprint({ attachments: _attachments, trials: _trials, ...plan }: Plan): string {
  return fingerprintOf(plan);
}

/** Whether two plans ask for the same operations in the same order, for the same pads. */
function sameOrder(a: Plan, b: Plan): boolean {
  if (a.code.style !== b.code.style || a.code.functions !== b.code.functions) return false;
  if (a.code.peripheralClocks !== b.code.peripheralClocks) return false;
  return a.code.functions === undefined || (a.circuits === b.circuits && a.nets === b.nets);
}

function loweredOf(
  device: Device,
  plan: Plan,
  byPad: Derived['byPad'],
  planned: readonly PlannedPad[],
  earlier: Lowered | undefined,
): Lowered {
  const { style, functions, peripheralClocks = false } = plan.code;
  if (functions !== 'circuits') return lower(device, planned, style, earlier, peripheralClocks);
  return lowerByCircuit(device, planned, style, circuitPads({ plan, byPad, planned }), peripheralClocks);
}

const NONE: readonly never[] = [];

type Nets = Pick<Derived, 'resolved' | 'byNet' | 'byPad' | 'bySignal'>;

/** The plan's nets on their pads, in all the ways in which they are looked up. */
function netsOf(device: Device, pkg: Package, plan: Plan, before: Derived | undefined): Nets {
  if (before && before.plan.nets === plan.nets && before.pkg === pkg) {
    const { resolved, byNet, byPad, bySignal } = before;
    return { resolved, byNet, byPad, bySignal };
  }
  const resolved = agreeing(
    device,
    pkg,
    plan.nets.map((net) => resolvedNet(device, pkg, net)),
  );
  return {
    resolved,
    byNet: new Map(resolved.map((one) => [one.net.id, one])),
    byPad: group(resolved, (one) => one.net.placement?.pad, before?.byPad),
    bySignal: group(
      resolved,
      (one) => (isAnalog(one.net.role) || one.pins.length === 0 ? undefined : one.fn?.signal),
      before?.bySignal,
    ),
  };
}

/** Items by key; a group that is as it was is the very same list, for whoever compares. */
function group<T>(
  items: readonly T[],
  keyOf: (item: T) => string | undefined,
  before: ReadonlyMap<string, readonly T[]> | undefined,
): Map<string, readonly T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    if (key === undefined) continue;
    const list = groups.get(key);
    if (list) list.push(item);
    else groups.set(key, [item]);
  }
  const same: Map<string, readonly T[]> = groups;
  if (before) for (const [key, list] of groups) same.set(key, kept(list, before.get(key)));
  return same;
}

/** The earlier list where a new one holds the same things. */
const kept = <T>(list: readonly T[], earlier: readonly T[] | undefined): readonly T[] =>
  earlier?.length === list.length && list.every((one, at) => one === earlier[at]) ? earlier : list;

const portOrders = new WeakMap<Device, ReadonlyMap<PadId, number>>();

/** Pads in the order of their ports and bits. */
function portOrderOf(device: Device): ReadonlyMap<PadId, number> {
  let order = portOrders.get(device);
  if (!order) {
    const ports = new Map(Object.keys(device.description.recipe.ports).map((port, at) => [port, at]));
    const sorted = [...device.description.pads].sort(
      (a, b) =>
        (ports.get(a.port ?? '') ?? -1) - (ports.get(b.port ?? '') ?? -1) || (a.bit ?? 0) - (b.bit ?? 0),
    );
    order = new Map(sorted.map((pad, at) => [pad.id, at]));
    portOrders.set(device, order);
  }
  return order;
}

/** One entry a pad: where two nets meet, the first one counts until the conflict is resolved; then unused pads by policy. */
function plannedPads(
  device: Device,
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>,
  unused: readonly UnusedPad[],
): PlannedPad[] {
  if (!hasRecipe(device.description.recipe)) return [];
  const order = portOrderOf(device);
  const planned: PlannedPad[] = [];
  for (const sharing of byPad.values()) {
    const one = sharing.find((net) => net.planned && net.pins.length > 0)?.planned;
    if (one) planned.push(one);
  }
  for (const { result } of unused) if ('planned' in result) planned.push(result.planned);
  return planned.sort((a, b) => (order.get(a.pad.id) ?? 0) - (order.get(b.pad.id) ?? 0));
}

/** What rules may look at. What takes time is worked out when the first of them asks. */
class Context implements RuleContext {
  readonly device: Device;
  readonly pkg: Package;
  readonly resolved: readonly ResolvedNet[];
  readonly byNet: ReadonlyMap<NetId, ResolvedNet>;
  readonly byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
  readonly bySignal: ReadonlyMap<SignalId, readonly ResolvedNet[]>;
  private readonly candidates = new Map<NetId, Candidate[]>();
  private knownLoads: readonly PadLoad[] | undefined;
  private knownBudgets: readonly Budget[] | undefined;
  private knownDifferences: readonly Difference[] | undefined;
  private knownSupplyFaults: readonly SupplyFault[] | undefined;

  constructor(
    readonly plan: Plan,
    private readonly occupancy: Occupancy,
    readonly unused: readonly UnusedPad[],
    readonly lowered: Lowered,
    readonly proof: Proof,
    readonly accessors: Accessors,
  ) {
    const { device, pkg, resolved, byNet, byPad, bySignal } = occupancy;
    this.device = device;
    this.pkg = pkg;
    this.resolved = resolved;
    this.byNet = byNet;
    this.byPad = byPad;
    this.bySignal = bySignal;
  }

  get loads(): readonly PadLoad[] {
    this.knownLoads ??= padLoads(this.device, this.resolved);
    return this.knownLoads;
  }

  get budgets(): readonly Budget[] {
    this.knownBudgets ??= budgetsOf(this.device, this.pkg, this.loads);
    return this.knownBudgets;
  }

  get differences(): readonly Difference[] {
    this.knownDifferences ??= crossCheck(this);
    return this.knownDifferences;
  }

  get supplyFaults(): readonly SupplyFault[] {
    this.knownSupplyFaults ??= supplyFaults(this);
    return this.knownSupplyFaults;
  }

  pinsOf = (pad: PadId) => this.device.pinsOf.get(this.pkg.id)?.get(pad) ?? [];

  fittingPads = (net: Net): number => fittingPads(this.occupancy, net);

  candidatesFor = (net: Net, instance?: string): Candidate[] => {
    let list = this.candidates.get(net.id);
    if (!list) {
      list = candidatesFor(this.occupancy, net);
      this.candidates.set(net.id, list);
    }
    return instance === undefined
      ? list
      : list.filter((one) => splitSignal(one.fn?.signal ?? '')[0] === instance);
  };

  /** Moves to free pads that cost nothing, best first. */
  movesFor = (net: Net, count: number): Remedy[] =>
    this.candidatesFor(net)
      .filter((candidate) => candidate.clean && candidate.pad !== net.placement?.pad)
      .slice(0, count)
      .map((candidate) => ({
        label: `${net.placement ? 'move' : 'place'} ${net.name} ${net.placement ? 'to' : 'on'} ${candidate.pad}`,
        edit: placeNet(net, placementAt(net, candidate)),
      }));
}
