import { demandedMilliamps } from '../../derive/electrical/limits';
import { supplyOf } from '../../derive/resolve/budget';
import type { ResolvedNet } from '../../derive/resolve/resolve';
import type { Device } from '../../device/device';
import type { Attachment } from '../../plan/model/attachments';
import type { Plan } from '../../plan/model/types';

/** Words for a far end that somebody or something closes. */
const CONTACT_WORDS = /\b(button|switch|key|contact|reed|jumper|float|door|limit)\b/i;
const TIPPING_WORDS = /\b(tip|tipping|bucket|rain)\b/i;

/** Of a transistor's base; see `drivers.ts`. */
const BASE_VOLTS = 0.7;

/**
 * What sits at the far end of each net: what the plan says, and for nets of which it says nothing what follows from their demands,
 * role and settings.
 */
export function attachmentsOf(
  device: Device,
  plan: Plan,
  byNet: ReadonlyMap<string, ResolvedNet>,
): Attachment[] {
  const stated = plan.attachments ?? [];
  const spoken = new Set(stated.flatMap((one) => one.nets));
  return [
    ...stated,
    ...plan.nets.flatMap((net) => {
      const resolved = byNet.get(net.id);
      return resolved && !spoken.has(net.id) ? defaultsFor(device, resolved) : [];
    }),
  ];
}

/** What follows from a net: the resistor at its far end, and what drives it or is driven by it. */
export function defaultsFor(device: Device, one: ResolvedNet): Attachment[] {
  const { net } = one;
  const { farPull, farPullOhms, farVolts } = net.demands ?? {};
  const list: Attachment[] = [];
  const add = (kind: Attachment['kind'], figures: Record<string, number> = {}): void => {
    list.push({
      id: `${net.id}/${kind}`,
      kind,
      nets: [net.id],
      ...(Object.keys(figures).length > 0 ? { figures } : {}),
    });
  };
  if (farPull === 'up' || farPull === 'down')
    add(farPull === 'up' ? 'pull-up' : 'pull-down', {
      ...(farPullOhms === undefined ? {} : { ohms: farPullOhms }),
      ...(farPull === 'up' && farVolts !== undefined ? { volts: farVolts } : {}),
    });
  const way = wayOf(device, one);
  if (way === 'analog in') add('analog-source', { volts: (farVolts ?? supplyVolts(device, one)) / 2 });
  else if (way === 'out') load(device, one, add);
  else if (way === 'both') add('bus-partner');
  else if (way === 'in') source(one, add);
  return list;
}

const supplyVolts = (device: Device, { pad }: ResolvedNet): number =>
  (pad && supplyOf(device, pad)?.nominalVolts) ?? USUAL_VOLTS;

/** Where a part does not say what feeds a pad. */
export const USUAL_VOLTS = 3.3;

/** Which way a net goes, seen from the part. */
function wayOf(device: Device, { net, fn, pad }: ResolvedNet): 'in' | 'out' | 'both' | 'analog in' | 'none' {
  switch (net.role.kind) {
    case 'input':
    case 'interrupt':
      return 'in';
    case 'output':
      return 'out';
    case 'open-drain':
    case 'bidirectional':
      return 'both';
    case 'analog':
      return 'analog in';
    case 'analog-output':
      return 'none';
    default: {
      const line = fn && pad ? device.lineOf(fn.signal)?.direction : undefined;
      const serves = fn && device.kindOf(fn.signal)?.serves;
      if (serves === 'debug' || serves === 'crystal') return 'none';
      if (line === 'both')
        return device.lineOf(fn?.signal ?? '')?.defaults?.outputType === 'open-drain' ? 'both' : 'none';
      return line === 'in' || line === 'out' ? line : 'none';
    }
  }
}

type Add = (kind: Attachment['kind'], figures?: Record<string, number>) => void;

/** What an output drives. */
function load(device: Device, one: ResolvedNet, add: Add): void {
  const { demands } = one.net;
  if (demands?.load?.kind === 'led') {
    const { volts, dropVolts, ohms } = demands.load;
    add('led', { volts, dropVolts, ohms });
    return;
  }
  if (demands?.load?.kind === 'coil') {
    const { volts, ohms } = demands.load;
    add('coil', { volts, ohms });
    return;
  }
  const milliamps = demandedMilliamps(demands);
  // A current that is all that is said of the far end is that into a driver.
  if (milliamps !== undefined && one.net.role.kind === 'output') {
    const volts = supplyVolts(device, one);
    add('contactor', { ohms: Math.round(((volts - BASE_VOLTS) / milliamps) * 1000) });
  }
}

/** What an input listens to. */
function source({ net, planned, fn }: ResolvedNet, add: Add): void {
  const words = `${net.far?.part ?? ''} ${net.note ?? ''} ${net.name.replaceAll('_', ' ')}`;
  const pull = planned?.settings.values.pull;
  const held =
    (pull !== undefined && pull !== 'none') ||
    net.demands?.farPull === 'up' ||
    net.demands?.farPull === 'down';
  const isDriven = net.demands?.farPull === 'driven';
  const isContact = !isDriven && (CONTACT_WORDS.test(words) || (held && net.far?.part === undefined));
  if (isContact) {
    add(TIPPING_WORDS.test(words) ? 'tipping-contact' : 'button');
    return;
  }
  // A chip's line is at its idle level: a peripheral's high where nothing is said, an input's inactive.
  const activeLow = net.settings.active === 'low' || (fn !== undefined && net.settings.active === undefined);
  add('driven-line', { starts: activeLow ? 1 : 0 });
}
