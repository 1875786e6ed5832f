import { linesBelongTogether, splitSignal } from '../../description/types';
import type { Device } from '../../device/device';
import type { Net, Role } from '../../plan/model/types';

/** The kind of peripheral a role speaks of; undefined for roles that name none. */
export function kindOfRole(device: Device, role: Role): string | undefined {
  if (role.kind === 'open-signal') return role.peripheral;
  if (role.kind !== 'signal') return undefined;
  const [instance] = splitSignal(role.signal);
  return device.description.peripherals.find((one) => one.id === instance)?.kind;
}

export function lineOfRole(role: Role): string | undefined {
  if (role.kind === 'open-signal') return role.line;
  return role.kind === 'signal' ? splitSignal(role.signal)[1] : undefined;
}

/** A role with its instance left open. */
export function openRole(device: Device, role: Role): Role {
  const peripheral = kindOfRole(device, role);
  const line = lineOfRole(role);
  return role.kind === 'signal' && peripheral !== undefined && line !== undefined
    ? { kind: 'open-signal', peripheral, line }
    : role;
}

/** Kinds whose lines are of use only together; timers and converters have independent channels. */
export function belongTogether(device: Device, kind: string): boolean {
  const known = device.description.peripheralKinds[kind];
  return known !== undefined && linesBelongTogether(known);
}

/** The instance that a role names, of a kind whose lines belong together; undefined for all other roles. */
export function namedInstance(device: Device, role: Role): { kind: string; instance: string } | undefined {
  const kind = role.kind === 'signal' ? kindOfRole(device, role) : undefined;
  return role.kind === 'signal' && kind !== undefined && belongTogether(device, kind)
    ? { kind, instance: splitSignal(role.signal)[0] }
    : undefined;
}

/** Nets of one circuit that must share an instance. */
export interface InstanceGroup<Member> {
  circuit: string;
  kind: string;
  members: Member[];
}

/**
 * Nets with an open instance, by circuit and kind. A line that a circuit asks for twice begins a second group: two serial lines
 * of one circuit are two instances.
 */
export function instanceGroups<Member extends { net: Net }>(
  device: Device,
  members: readonly Member[],
): InstanceGroup<Member>[] {
  const groups = new Map<string, InstanceGroup<Member>>();
  const seen = new Map<string, number>();
  for (const member of members) {
    const { role, circuit } = member.net;
    if (role.kind !== 'open-signal' || !belongTogether(device, role.peripheral)) continue;
    const stem = `${circuit}\n${role.peripheral}`;
    const line = `${stem}\n${role.line}`;
    const times = seen.get(line) ?? 0;
    seen.set(line, times + 1);
    const key = `${stem}\n${times}`;
    const group = groups.get(key) ?? { circuit, kind: role.peripheral, members: [] };
    group.members.push(member);
    groups.set(key, group);
  }
  return [...groups.values()];
}
