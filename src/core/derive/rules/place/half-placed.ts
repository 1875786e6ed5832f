import { freeName, takenBy } from '../../../base/text/free-name';
import { splitSignal } from '../../../description/types';
import { offerOf } from '../../../device/offers';
import { placeNet } from '../../../plan/edits/make-edits';
import { placementAt } from '../../candidates/candidates';
import { instanceGroups, namedInstance } from '../../candidates/groups';
import { isAnalog, type ResolvedNet } from '../../resolve/resolve';
import type { Remedy, Report, Rule, RuleContext } from '../types';
import { listNames } from '../words';

export const halfPlaced: Rule = {
  meta: {
    id: 'half-placed',
    severity: 'warning',
    title: 'Peripheral half placed',
    means:
      'Some lines of a peripheral have a pad and others that it needs have none, or the lines of one circuit are spread over two instances.',
    fix: 'Place the missing lines on the same instance, or add the nets that are missing.',
  },
  per: 'plan',
  check(context) {
    const { open, named } = groups(context);
    return [...scattered(open), ...unfinished([...open, ...named]), ...withoutNeeded(context)];
  },
};

interface Group {
  kind: string;
  placed: ResolvedNet[];
  unplaced: ResolvedNet[];
}

/** Nets that must share an instance: those that leave it open, by circuit; those that name it, by circuit and instance. */
function groups(context: RuleContext): { open: Group[]; named: Group[] } {
  const { device, resolved } = context;
  const split = (kind: string, members: readonly ResolvedNet[]): Group => ({
    kind,
    placed: members.filter((one) => one.fn && one.fits),
    unplaced: members.filter((one) => !one.net.placement),
  });
  const named = new Map<string, { kind: string; members: ResolvedNet[] }>();
  for (const one of resolved) {
    const names = namedInstance(device, one.net.role);
    if (!names) continue;
    const key = `${one.net.circuit}\n${names.instance}`;
    const group = named.get(key) ?? { kind: names.kind, members: [] };
    group.members.push(one);
    named.set(key, group);
  }
  return {
    open: instanceGroups(device, resolved).map(({ kind, members }) => split(kind, members)),
    named: [...named.values()].map(({ kind, members }) => split(kind, members)),
  };
}

const instanceOf = (one: ResolvedNet): string => splitSignal(one.fn?.signal ?? '')[0];

/** Lines of one circuit, all left open, that ended on different instances. */
function scattered(groupsLeftOpen: readonly Group[]): Report[] {
  return groupsLeftOpen.flatMap(({ kind, placed: open }): Report[] => {
    const instances = [...new Set(open.map(instanceOf))];
    if (instances.length < 2) return [];
    const list = open.map((one) => `\`${one.net.name}\` is ${one.fn?.signal}`).join(', ');
    return [
      {
        message: `The ${kind} lines of one circuit are on ${listNames(instances)}: ${list}. They must share one instance.`,
        pads: open.map((one) => one.pad?.id ?? ''),
        nets: open.map((one) => one.net.id),
        remedies: (now) => gatherRemedies(now, open, instances),
        severity: 'error',
      },
    ];
  });
}

/** Moves all lines of a circuit onto one of the instances they are on, when each finds a free pad there. */
function gatherRemedies(
  context: RuleContext,
  open: readonly ResolvedNet[],
  instances: readonly string[],
): Remedy[] {
  return instances.flatMap((instance): Remedy[] => {
    const used = new Set<string>();
    const steps = open
      .filter((one) => instanceOf(one) !== instance)
      .map((one) => {
        if (one.net.placement?.locked) return undefined;
        const candidate = context
          .candidatesFor(one.net, instance)
          .find((other) => other.takenBy.length === 0 && !used.has(other.pad));
        if (!candidate) return undefined;
        used.add(candidate.pad);
        return { pad: candidate.pad, net: one.net, edit: placeNet(one.net, placementAt(one.net, candidate)) };
      });
    if (steps.length === 0 || steps.some((step) => step === undefined)) return [];
    const label = steps.map((step) => `${step?.net.name} to ${step?.pad}`).join(', ');
    const edits = steps.flatMap((step) => (step ? [step.edit] : []));
    return [
      {
        label: `all on ${instance}: ${label}`,
        edit: { kind: 'batch', label: `gather on ${instance}`, edits },
      },
    ];
  });
}

/** Some lines of a circuit's peripheral are placed, others are not. */
function unfinished(all: readonly Group[]): Report[] {
  return all.flatMap(({ placed, unplaced }): Report[] => {
    if (placed.length === 0 || unplaced.length === 0) return [];
    const instances = [...new Set(placed.map(instanceOf))];
    return [
      {
        message: `${listNames(instances)} is half placed: ${listNames(unplaced.map((one) => one.net.name))} ${unplaced.length > 1 ? 'have' : 'has'} no pad yet.`,
        pads: placed.map((one) => one.pad?.id ?? ''),
        nets: unplaced.map((one) => one.net.id),
        remedies: (now) => placeAll(now, unplaced),
      },
    ];
  });
}

/** Places all unplaced lines, one after the other on the best free pad. */
function placeAll(context: RuleContext, unplaced: readonly ResolvedNet[]): Remedy[] {
  const used = new Set<string>();
  const steps = unplaced.map((one) => {
    const candidate = context
      .candidatesFor(one.net)
      .find((other) => other.takenBy.length === 0 && !used.has(other.pad));
    if (!candidate) return undefined;
    used.add(candidate.pad);
    return { net: one.net, pad: candidate.pad, edit: placeNet(one.net, placementAt(one.net, candidate)) };
  });
  if (steps.some((step) => step === undefined)) return [];
  const edits = steps.flatMap((step) => (step ? [step.edit] : []));
  const label = `place ${steps.map((step) => `${step?.net.name} on ${step?.pad}`).join(', ')}`;
  return [{ label, edit: edits.length === 1 && edits[0] ? edits[0] : { kind: 'batch', label, edits } }];
}

/** An instance is used without a line that it cannot do without. */
function withoutNeeded(context: RuleContext): Report[] {
  const instances = new Map<string, ResolvedNet[]>();
  for (const one of context.resolved) {
    if (!one.fn || isAnalog(one.net.role)) continue;
    const instance = instanceOf(one);
    instances.set(instance, [...(instances.get(instance) ?? []), one]);
  }
  const unplaced = context.resolved.filter((one) => !one.net.placement).map((one) => one.net.role);
  return [...instances].flatMap(([instance, placed]): Report[] => {
    const kind = context.device.kindOf(`${instance}.`);
    const present = placed.map((one) => splitSignal(one.fn?.signal ?? '')[1]);
    const missing = (kind?.needs ?? []).filter(
      (line) =>
        !present.includes(line) &&
        !unplaced.some(
          (role) =>
            (role.kind === 'signal' && role.signal === `${instance}.${line}`) ||
            (role.kind === 'open-signal' &&
              role.line === line &&
              context.device.description.peripheralKinds[role.peripheral] === kind),
        ),
    );
    if (missing.length === 0) return [];
    return [
      {
        message: `\`${instance}\` is used by ${listNames(placed.map((one) => one.net.name))} but no net carries its ${listNames(missing)}.`,
        pads: placed.map((one) => one.pad?.id ?? ''),
        nets: placed.map((one) => one.net.id),
        remedies: (now) => addMissing(now, instance, missing, placed),
      },
    ];
  });
}

/** Adds the missing nets beside the placed ones and puts them on free pads of the instance. */
function addMissing(
  context: RuleContext,
  instance: string,
  missing: readonly string[],
  placed: readonly ResolvedNet[],
): Remedy[] {
  const first = placed[0];
  if (!first) return [];
  const used = new Set<string>();
  const nets = missing.map((line, position) => {
    const signal = `${instance}.${line}`;
    const free = offerOf(context.device, context.pkg)
      .carrying(signal)
      .find((fn) => !context.byPad.has(fn.pad) && !used.has(fn.pad));
    if (!free) return undefined;
    used.add(free.pad);
    const stem = `${instance}_${line}`.replace(/[^A-Za-z0-9_]/g, '_');
    const name = freeName(stem, takenBy(context.plan.nets));
    let id = `${first.net.id}-${line.toLowerCase()}`;
    while (context.byNet.has(id)) id += '-';
    return {
      kind: 'net.add' as const,
      at: context.plan.nets.indexOf(first.net) + 1 + position,
      net: {
        id,
        name,
        circuit: first.net.circuit,
        role: { kind: 'signal' as const, signal },
        placement: { pad: free.pad, locked: false },
        settings: {},
      },
    };
  });
  const edits = nets.flatMap((edit) => (edit ? [edit] : []));
  if (edits.length !== missing.length) return [];
  const label = `add ${edits.map((edit) => `${edit.net.name} on ${edit.net.placement.pad}`).join(', ')}`;
  return [{ label, edit: { kind: 'batch', label, edits } }];
}
