import { type Accessors, accessorsOf } from './accessors';
import { orderOf } from './device/geometry';
import type { Package, PadId, SignalId } from './device/types';
import { splitSignal } from './device/types';
import { fingerprintOf } from './fingerprint';
import { LIMITS } from './limits';
import { type Candidate, candidatesFor, type Occupancy, placementAt } from './placing/candidates';
import { placeNet } from './plan/make-edits';
import { isAnalog, type ResolvedNet, resolveNet } from './plan/resolve';
import type { Net, NetId, Plan } from './plan/types';
import { unusedPads } from './plan/unused';
import type { PlannedPad } from './recipe/contributions';
import type { Device } from './recipe/device';
import { type Lowered, lower } from './recipe/lower';
import { type Proof, prove } from './recipe/proof';
import { hasRecipe } from './recipe/types';
import { fail, ok, type Result } from './result';
import { RULES } from './rules/catalogue';
import type { Finding, Remedy, Report, Rule, RuleContext, Severity } from './rules/types';
import { staleWaiver } from './rules/waiver/stale-waiver';
import { covers, severityIn, staleWaivers } from './rules/waivers';

/** All that follows from a plan and a device. */
export interface Derived {
  plan: Plan;
  device: Device;
  pkg: Package;
  /** Fingerprint of the plan's content: what is printed into generated files. */
  fingerprint: string;
  resolved: ResolvedNet[];
  byNet: Map<NetId, ResolvedNet>;
  byPad: Map<PadId, ResolvedNet[]>;
  bySignal: Map<SignalId, ResolvedNet[]>;
  /** Pads that are planned, in port order, with their final settings. */
  planned: PlannedPad[];
  lowered: Lowered;
  proof: Proof;
  accessors: Accessors;
  findings: Finding[];
  counts: Record<Severity, number>;
  occupancy: Occupancy;
}

/** Fails when the plan names another device, or a package that the device does not have. */
export function derive(device: Device, plan: Plan): Result<Derived> {
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
  const resolved = plan.nets.map((net) => resolveNet(device, pkg, net));
  const byNet = new Map(resolved.map((one) => [one.net.id, one]));
  const byPad = group(resolved, (one) => one.net.placement?.pad);
  const bySignal = group(
    resolved.filter((one) => !isAnalog(one.net.role) && one.terminals.length > 0),
    (one) => one.fn?.signal,
  );
  const planned = hasRecipe(device.description.recipe) ? plannedPads(device, pkg, plan, byPad) : [];
  const lowered = lower(device, planned, plan.code.style);
  const proof = prove(device, planned, lowered);
  const accessors = accessorsOf(device, plan, byPad, lowered);
  const occupancy: Occupancy = {
    device,
    pkg,
    resolved,
    byNet,
    byPad,
    bySignal,
    terminalOrder: orderOf(device, pkg),
    ties: plan.ties ?? [],
  };
  const findings = check(
    { plan, device, pkg, resolved, byNet, byPad, bySignal, lowered, proof, accessors },
    occupancy,
  );
  const counts: Record<Severity, number> = { error: 0, warning: 0, note: 0 };
  for (const finding of findings) if (!finding.waived) counts[finding.severity]++;
  let fingerprint: string | undefined;
  return ok({
    plan,
    device,
    pkg,
    // Worked out when somebody prints it: most derivations are followed by another before that.
    get fingerprint() {
      fingerprint ??= fingerprintOf(plan);
      return fingerprint;
    },
    resolved,
    byNet,
    byPad,
    bySignal,
    planned,
    lowered,
    proof,
    accessors,
    findings,
    counts,
    occupancy,
  });
}

function group<T>(items: readonly T[], keyOf: (item: T) => string | undefined): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    if (key === undefined) continue;
    const list = groups.get(key);
    if (list) list.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}

/** One entry a pad: where two nets meet, the first one counts until the conflict is resolved; then unused pads by policy. */
function plannedPads(
  device: Device,
  pkg: Package,
  plan: Plan,
  byPad: Map<PadId, ResolvedNet[]>,
): PlannedPad[] {
  const ports = Object.keys(device.description.recipe.ports);
  const unused = unusedPads(device, pkg, plan, (pad) => byPad.has(pad));
  return [
    ...[...byPad.values()].flatMap(
      (sharing) => sharing.find((one) => one.planned && one.terminals.length > 0)?.planned ?? [],
    ),
    ...unused.flatMap(({ result }) => ('planned' in result ? [result.planned] : [])),
  ].sort(
    (a, b) =>
      ports.indexOf(a.pad.port ?? '') - ports.indexOf(b.pad.port ?? '') ||
      (a.pad.bit ?? 0) - (b.pad.bit ?? 0),
  );
}

const SEVERITY_ORDER: Record<Severity, number> = { error: 0, warning: 1, note: 2 };

type Facts = Omit<RuleContext, 'terminalsOf' | 'candidatesFor' | 'movesFor'>;

function check(facts: Facts, occupancy: Occupancy): Finding[] {
  const known = new Map<NetId, Candidate[]>();
  const candidates = (net: Net, instance?: string): Candidate[] => {
    if (instance !== undefined) {
      return candidatesFor(occupancy, net).filter((one) => splitSignal(one.fn?.signal ?? '')[0] === instance);
    }
    let list = known.get(net.id);
    if (!list) {
      list = candidatesFor(occupancy, net);
      known.set(net.id, list);
    }
    return list;
  };
  const context: RuleContext = {
    ...facts,
    terminalsOf: (pad) => occupancy.device.terminalsOf.get(facts.pkg.id)?.get(pad) ?? [],
    candidatesFor: candidates,
    movesFor: (net, count) => movesFor(net, candidates(net), count),
  };
  const used = new Map<string, number>();
  const found = RULES.flatMap((rule) => complete(rule, rule.check(context), context, used));
  const stale = staleWaivers(facts.plan, found);
  const { waivers } = facts.plan;
  return [...found, ...complete(staleWaiver, stale, context, used)]
    .flatMap((finding): Finding[] => {
      const severity = severityIn(facts.plan, finding.rule, finding.severity);
      if (severity === undefined) return [];
      const waived = waivers?.find((waiver) => covers(waiver, finding));
      return [{ ...finding, severity, ...(waived ? { waived } : {}) }];
    })
    .sort(
      (a, b) =>
        Number(a.waived !== undefined) - Number(b.waived !== undefined) ||
        SEVERITY_ORDER[a.severity] - SEVERITY_ORDER[b.severity],
    );
}

function complete(
  rule: Rule,
  reports: readonly Report[],
  context: RuleContext,
  used: Map<string, number>,
): Finding[] {
  const shown =
    reports.length <= LIMITS.findings ? reports : [...reports.slice(0, LIMITS.findings), andMore(reports)];
  return shown.map((report) => {
    const about = report.about === undefined ? '' : `:${report.about}`;
    const stem = `${rule.meta.id}:${[...report.nets].sort().join('+')}:${[...report.pads].sort().join('+')}${about}`;
    const times = used.get(stem) ?? 0;
    used.set(stem, times + 1);
    return {
      ...report,
      id: times === 0 ? stem : `${stem}#${times + 1}`,
      rule: rule.meta.id,
      severity: report.severity ?? rule.meta.severity,
      terminals: report.pads.flatMap((pad) => context.terminalsOf(pad)),
    };
  });
}

/** In place of what a rule found beyond what anybody reads. It is as grave as the gravest of them. */
const andMore = (reports: readonly Report[]): Report => ({
  message: `… and ${reports.length - LIMITS.findings} more of these.`,
  pads: [],
  nets: [],
  remedies: [],
  ...(reports.some((one) => one.severity === 'error') ? { severity: 'error' as const } : {}),
});

/** Moves to free pads that cost nothing, best first. */
function movesFor(net: Net, candidates: readonly Candidate[], count: number): Remedy[] {
  return candidates
    .filter((candidate) => candidate.clean && candidate.pad !== net.placement?.pad)
    .slice(0, count)
    .map((candidate) => ({
      label: `${net.placement ? 'move' : 'place'} ${net.name} ${net.placement ? 'to' : 'on'} ${candidate.pad}`,
      edit: placeNet(net, placementAt(net, candidate)),
    }));
}
