import type { Package, Pad, PadFunction, PadId, SignalId } from '../../description/types';
import type { Device } from '../../device/device';
import type { Constraint, Net, NetId } from '../../plan/model/types';
import { lacksLine, type ResolvedNet } from '../resolve/resolve';
import { whyBroken } from './constraints';
import type { Fault } from './terms';

/** What is placed where, as candidates need it. */
export interface Occupancy {
  device: Device;
  pkg: Package;
  resolved: readonly ResolvedNet[];
  byNet: ReadonlyMap<NetId, ResolvedNet>;
  byPad: ReadonlyMap<PadId, readonly ResolvedNet[]>;
  bySignal: ReadonlyMap<SignalId, readonly ResolvedNet[]>;
  pinOrder: ReadonlyMap<PadId, number>;
  constraints: readonly Constraint[];
}

/** Something asked for that would not hold on a pad. */
export interface Breach {
  fault: Fault;
  words: string;
  /** It is the net that asks for it: a setting, a demand, a constraint. */
  lack?: true;
}

/** Demands on several nets that would not hold. */
export function constraintBreaches(
  { device, pkg, byNet, constraints }: Occupancy,
  net: Net,
  pad: Pad,
  fn: PadFunction | undefined,
): Breach[] {
  return constraints.flatMap((constraint): Breach[] => {
    if (!constraint.nets.includes(net.id)) return [];
    const pins = device.pinsOf.get(pkg.id)?.get(pad.id) ?? [];
    const all = constraint.nets.flatMap((id) =>
      id === net.id ? { net, pad, fn, pins } : (byNet.get(id) ?? []),
    );
    if (whyBroken({ device, pkg }, constraint, all) === undefined) return [];
    const others = all.filter((one) => one.net.id !== net.id).map((one) => one.net.name);
    return [
      {
        fault: 'constraint',
        words: `not ${CONSTRAINT_SHORT[constraint.kind]} ${others.join(', ')}`,
        lack: true,
      },
    ];
  });
}

const CONSTRAINT_SHORT: Record<Constraint['kind'], string> = {
  bus: 'in order with',
  pair: 'a pair with',
  'same-instance': 'on the instance of',
  'other-instances': 'on another instance than',
  together: 'on the side of',
  apart: 'apart from',
};

const interruptLines = new WeakMap<Occupancy, Map<number, Net[]>>();

/** Placed nets that interrupt, by the bit of their pad. */
function interruptsOn(occupancy: Occupancy, bit: number): readonly Net[] {
  let byBit = interruptLines.get(occupancy);
  if (!byBit) {
    byBit = new Map();
    for (const { net, pad } of occupancy.resolved) {
      if (net.role.kind !== 'interrupt' || pad?.bit === undefined) continue;
      byBit.set(pad.bit, [...(byBit.get(pad.bit) ?? []), net]);
    }
    interruptLines.set(occupancy, byBit);
  }
  return byBit.get(bit) ?? [];
}

/** An interrupt line that pads of equal bit share. */
export function lineBreaches(occupancy: Occupancy, net: Net, pad: Pad): Breach[] {
  const { interrupts } = occupancy.device.description;
  if (net.role.kind !== 'interrupt' || interrupts?.lines !== 'bit') return [];
  if (lacksLine(occupancy.device, net.role, pad))
    return [{ fault: 'constraint', words: 'no interrupt line for its bit', lack: true }];
  const other =
    pad.bit === undefined ? undefined : interruptsOn(occupancy, pad.bit).find((one) => one.id !== net.id);
  return other
    ? [{ fault: 'constraint', words: `interrupt line ${pad.bit} is ${other.name}'s`, lack: true }]
    : [];
}

/** Whether some net, but for the one that is looked at, uses a signal on this very pad. */
export const carries = (
  { bySignal }: Pick<Occupancy, 'bySignal'>,
  signal: SignalId,
  on: PadId,
  but?: Net,
): boolean => bySignal.get(signal)?.some((one) => one.pad?.id === on && one.net.id !== but?.id) === true;
