import type { Package, Pad, PadFunction, PadId, SignalId } from '../../description/types';
import type { Device } from '../../device/device';
import { exclusiveLine } from '../../device/interrupt-lines';
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

const interruptLines = new WeakMap<Occupancy, Map<string, Net[]>>();

/** Placed nets that interrupt, by the line that only one of them can have. */
function interruptsOn(occupancy: Occupancy, line: string): readonly Net[] {
  let byLine = interruptLines.get(occupancy);
  if (!byLine) {
    byLine = new Map();
    for (const { net, pad } of occupancy.resolved) {
      const own = net.role.kind === 'interrupt' ? exclusiveLine(occupancy.device, pad) : undefined;
      if (own !== undefined) byLine.set(own, [...(byLine.get(own) ?? []), net]);
    }
    interruptLines.set(occupancy, byLine);
  }
  return byLine.get(line) ?? [];
}

/** An interrupt line that the pad has not, or that another pad has. */
export function lineBreaches(occupancy: Occupancy, net: Net, pad: Pad): Breach[] {
  const { device } = occupancy;
  if (net.role.kind !== 'interrupt') return [];
  if (lacksLine(device, net.role, pad))
    return [{ fault: 'constraint', words: 'no interrupt line', lack: true }];
  const line = exclusiveLine(device, pad);
  const other =
    line === undefined ? undefined : interruptsOn(occupancy, line).find((one) => one.id !== net.id);
  return other
    ? [{ fault: 'constraint', words: `interrupt line ${line} is ${other.name}'s`, lack: true }]
    : [];
}

/** Whether some net, but for the one that is looked at, uses a signal on this very pad. */
export const carries = (
  { bySignal }: Pick<Occupancy, 'bySignal'>,
  signal: SignalId,
  on: PadId,
  but?: Net,
): boolean => bySignal.get(signal)?.some((one) => one.pad?.id === on && one.net.id !== but?.id) === true;
