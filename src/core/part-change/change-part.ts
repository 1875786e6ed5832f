import { derive } from '../derive/derive';
import { functionsFor, isAnalog, isPlain, resolveNet, whyNot } from '../derive/resolve/resolve';
import { settingTitle } from '../description/settings';
import { type Package, type Pad, splitSignal } from '../description/types';
import { deviceIn } from '../device/compile/package-device';
import type { Device } from '../device/device';
import { offerOf } from '../device/offers';
import { applyEdit, type Edit } from '../plan/edits/edits';
import { placeNet } from '../plan/edits/make-edits';
import type { Net, Placement, Plan } from '../plan/model/types';

/** By what a net finds its pad again in another package or part. */
export const CARRY_BY = [
  { id: 'pad', title: 'pad name', text: 'A net stays on the pad of the same name.' },
  { id: 'signal', title: 'signal', text: 'A net keeps its signal, on whichever pad carries it.' },
  { id: 'pin', title: 'pin', text: 'A net stays on the pin of the same number.' },
] as const;
export type CarryBy = (typeof CARRY_BY)[number]['id'];

/** What becomes of one net. */
export interface CarryRow {
  net: Net;
  from: { pad: string; pins: readonly string[] } | null;
  to: { pad: string; pins: readonly string[] } | null;
  outcome: 'stays' | 'moves' | 'breaks' | 'unplaced';
  /** Why it breaks, or what changes with the move. */
  why: string[];
}

export interface CarryPreview {
  rows: CarryRow[];
  /** The whole change; undone in one step. */
  edit: Edit;
  /** Findings before and after, by severity. */
  before: Record<'error' | 'warning' | 'note', number>;
  after: Record<'error' | 'warning' | 'note', number>;
}

/**
 * What taking a plan to another package or part does to each net, and the edit that does it. Nets that find no pad lose
 * their placement; nothing else about them changes.
 */
export function previewChange(
  plan: Plan,
  from: Device,
  part: Device,
  packageId: string,
  by: CarryBy,
): CarryPreview | undefined {
  const to = deviceIn(part, packageId);
  const pkg = to.packages.get(packageId);
  const old = derive(from, plan);
  if (!pkg || !old.ok) return undefined;
  const carrier: Carrier = {
    from,
    to,
    pkg,
    oldPackage: old.value.pkg,
    taken: new Map(),
    instances: new Map(),
    by,
  };
  const rows: CarryRow[] = [];
  const edits: Edit[] = [
    { kind: 'plan.set' as const, field: 'device' as const, from: plan.device, to: to.description.id },
    { kind: 'plan.set' as const, field: 'package' as const, from: plan.package, to: packageId },
    {
      kind: 'plan.set' as const,
      field: 'deviceFingerprint' as const,
      from: plan.deviceFingerprint,
      to: to.fingerprint,
    },
  ].filter((edit) => edit.from !== edit.to);
  const order = [...plan.nets].sort((a, b) => turnOf(carrier, a) - turnOf(carrier, b));
  const byId = new Map(order.map((net) => [net.id, carry(carrier, net)]));
  for (const net of plan.nets) {
    const { row, placement } = byId.get(net.id) as Carried;
    rows.push(row);
    if (JSON.stringify(placement) !== JSON.stringify(net.placement)) edits.push(placeNet(net, placement));
  }
  const label = `change to ${to.description.name} · ${pkg.name}, by ${CARRY_BY.find((one) => one.id === by)?.title}`;
  const edit: Edit = { kind: 'batch', label, edits };
  const next = applyEdit(plan, edit);
  const after = next.ok ? derive(to, next.value) : next;
  if (!after.ok) return undefined;
  return { rows, edit, before: old.value.counts, after: after.value.counts };
}

interface Carrier {
  from: Device;
  to: Device;
  oldPackage: Package;
  pkg: Package;
  by: CarryBy;
  /** Pads of the new package in use, by the name of their net. */
  taken: Map<string, string>;
  /** Which instance the nets of a circuit have gone to: those that belong together stay together. */
  instances: Map<string, string>;
}

/**
 * Who chooses a pad first: nets that can stay where they are; then those that need a signal; plain inputs and outputs, which can
 * go almost anywhere, last.
 */
function turnOf(carrier: Carrier, net: Net): number {
  if (canStay(carrier, net)) return 0;
  if (!isPlain(net.role)) return 1;
  return net.placement?.locked ? 2 : 3;
}

/** Whether the pad of the same name is there and is what the net asks, with the very signal it has now. */
function canStay({ to, pkg }: Carrier, net: Net): boolean {
  const pad = to.pads.get(net.placement?.pad ?? '');
  if (!pad || !to.pinsOf.get(pkg.id)?.has(pad.id) || whyNot(to, pkg, net.role, pad) !== undefined)
    return false;
  if (net.role.kind !== 'open-signal') return true;
  return functionsFor(to, pkg, net.role, pad).some((fn) => fn.signal === net.placement?.signal);
}

const losesNothing = ({ to, pkg }: Carrier, net: Net, pad: Pad): boolean =>
  resolveNet(to, pkg, { ...net, placement: { pad: pad.id, locked: false } }).unmet.length === 0;

const missingPad = ({ to, pkg }: Carrier, pad: string): string =>
  to.pads.has(pad) ? `${pad} is not bonded in ${pkg.name}` : `${to.description.name} has no pad ${pad}`;

/** Pads for nets that only need some pad: those that give least up first, those with a duty at boot not at all. */
function plainPads({ to, pkg }: Carrier): Pad[] {
  const offer = offerOf(to, pkg);
  return [...(to.pinsOf.get(pkg.id)?.keys() ?? [])]
    .flatMap((id) => to.pads.get(id) ?? [])
    .filter((pad) => pad.kind === 'io' && !pad.boot)
    .sort((a, b) => offer.of(a.id).length - offer.of(b.id).length);
}

interface Carried {
  row: CarryRow;
  placement: Placement | null;
}

function carry(carrier: Carrier, net: Net): Carried {
  const { from, oldPackage } = carrier;
  const seat = net.placement;
  if (!seat) return { row: { net, from: null, to: null, outcome: 'unplaced', why: [] }, placement: null };
  const pins = from.pinsOf.get(oldPackage.id)?.get(seat.pad) ?? [];
  const here = { pad: seat.pad, pins };
  const breaks = (why: string): Carried => ({
    row: { net, from: here, to: null, outcome: 'breaks', why: [why] },
    placement: null,
  });
  const wanted = targetsOf(carrier, net, pins);
  if (typeof wanted === 'string') return breaks(wanted);
  const reasons = wanted.map((pad) => whyNotTo(carrier, net, pad));
  const usable = wanted.filter((_pad, index) => reasons[index] === undefined);
  const best =
    usable[0]?.id === seat.pad
      ? usable[0]
      : (usable.find((pad) => losesNothing(carrier, net, pad)) ?? usable[0]);
  if (best) {
    carrier.taken.set(best.id, net.name);
    return settleOn(carrier, net, seat, here, best);
  }
  const reason = reasons.find((one) => one !== undefined);
  return breaks(reason ?? 'no pad of the new package can take it');
}

/** Pads the net could go to, most wanted first; or why there is none to ask. */
function targetsOf(carrier: Carrier, net: Net, pins: readonly string[]): Pad[] | string {
  const { from, oldPackage, to, pkg, by } = carrier;
  const pad = net.placement?.pad ?? '';
  const bonded = to.pinsOf.get(pkg.id);
  const same = bonded?.has(pad) ? to.pads.get(pad) : undefined;
  switch (by) {
    case 'pad':
      return same ? [same] : missingPad(carrier, pad);
    case 'pin': {
      const found = pins.map((pin) => pkg.pins[pin]).find((one) => one !== undefined);
      const target = to.pads.get(found ?? '');
      return target ? [target] : `${pkg.name} has no pin ${pins.join(', ') || 'of that number'}`;
    }
    case 'signal': {
      const before = from.pads.get(pad);
      const resolved = before && functionsFor(from, oldPackage, net.role, before);
      const signal =
        net.role.kind === 'signal' ? net.role.signal : (net.placement?.signal ?? resolved?.[0]?.signal);
      // Plain inputs and outputs have no signal to follow: they keep their pad, else take the pin of the same number, else
      // whichever gives least up.
      if (isPlain(net.role) || signal === undefined) {
        const other = to.pads.get(pkg.pins[pins[0] ?? ''] ?? '');
        return [...new Set([same, other, ...plainPads(carrier)])].filter((one) => one !== undefined);
      }
      const alternatives = alternativesOf(carrier, net, signal);
      if (alternatives.length === 0) return `no pin of ${pkg.name} carries ${signal}`;
      return alternatives.sort((a, b) => Number(b.id === pad) - Number(a.id === pad));
    }
  }
}

/** Pads with the very signal; for roles that leave the instance open, then those with the same line of another one. */
function alternativesOf({ to, pkg, instances }: Carrier, net: Net, signal: string): Pad[] {
  const offer = offerOf(to, pkg);
  const exact = offer.carrying(signal).flatMap((fn) => to.pads.get(fn.pad) ?? []);
  if (net.role.kind !== 'open-signal' && !isAnalog(net.role)) return exact;
  const bonded = [...(to.pinsOf.get(pkg.id)?.keys() ?? [])].flatMap((id) => to.pads.get(id) ?? []);
  const instance = instances.get(peripheralKey(net));
  const others = bonded.filter((pad) => {
    const functions = functionsFor(to, pkg, net.role, pad);
    return instance === undefined
      ? functions.length > 0
      : functions.some((fn) => splitSignal(fn.signal)[0] === instance);
  });
  // A circuit whose other nets have gone to another instance follows them there.
  const apart = instance !== undefined && splitSignal(signal)[0] !== instance;
  return [...(apart ? [] : exact), ...others.filter((pad) => apart || !exact.includes(pad))];
}

const peripheralKey = (net: Net): string =>
  `${net.circuit} ${net.role.kind === 'open-signal' ? net.role.peripheral : ''}`;

function whyNotTo({ to, pkg, taken }: Carrier, net: Net, pad: Pad): string | undefined {
  const owner = taken.get(pad.id);
  return whyNot(to, pkg, net.role, pad) ?? (owner ? `${pad.id} is taken by ${owner}` : undefined);
}

/** The placement on a pad that fits, and what the new pad does otherwise. */
function settleOn(carrier: Carrier, net: Net, seat: Placement, from: CarryRow['from'], pad: Pad): Carried {
  const { to, pkg } = carrier;
  const functions = functionsFor(to, pkg, net.role, pad);
  const before = seat.signal;
  const instance = carrier.instances.get(peripheralKey(net));
  const fn =
    functions.find((one) => instance !== undefined && splitSignal(one.signal)[0] === instance) ??
    functions.find((one) => one.signal === before) ??
    functions.find((one) => splitSignal(one.signal)[0] === splitSignal(before ?? '')[0]) ??
    functions[0];
  if (net.role.kind === 'open-signal' && fn)
    carrier.instances.set(peripheralKey(net), splitSignal(fn.signal)[0]);
  const placement: Placement = {
    pad: pad.id,
    locked: seat.locked,
    ...(net.role.kind === 'open-signal' && fn ? { signal: fn.signal } : {}),
  };
  const why: string[] = [];
  if (net.role.kind === 'open-signal' && before !== undefined && fn && fn.signal !== before)
    why.push(`${fn.signal} instead of ${before}`);
  for (const lost of resolveNet(to, pkg, { ...net, placement }).unmet)
    why.push(`no ${lost.wanted} ${settingTitle(lost.key)}: ${lost.why}`);
  if (pad.boot && !(fn && pad.boot.signals?.includes(fn.signal)))
    why.push(`${pad.id} is a ${pad.boot.kind} pad`);
  const pins = to.pinsOf.get(pkg.id)?.get(pad.id) ?? [];
  const moved = pad.id !== from?.pad;
  const row: CarryRow = {
    net,
    from,
    to: { pad: pad.id, pins },
    outcome: moved ? 'moves' : 'stays',
    why,
  };
  return { row, placement };
}
