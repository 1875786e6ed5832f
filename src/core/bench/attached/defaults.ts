import { demandedMilliamps } from '../../derive/electrical/limits';
import { supplyOf } from '../../derive/resolve/budget';
import type { ResolvedNet } from '../../derive/resolve/resolve';
import type { Device } from '../../device/device';
import type { Attachment } from '../../plan/model/attachments';
import type { Plan } from '../../plan/model/types';

/** Words for what somebody or something closes, for lights, and for what is switched by a relay or contactor. */
const CONTACT_WORDS = /\b(button|switch|key|contact|reed|jumper|float|door|limit)\b/i;
const TIPPING_WORDS = /\b(tip|tipping|bucket|rain)\b/i;
const LIGHT_WORDS = /\b(lamp|led|light|beacon|indicator|backlight)\b/i;
const SWITCHED_WORDS = /\b(relay|contactor|coil|solenoid|valve|pump|motor|fan|heater|siren)\b/i;

/** Of a transistor's base, and of an LED; see `drivers.ts` and `lights.ts`. */
const BASE_VOLTS = 0.7;
const LED_VOLTS = 2;

/** What is taken to sit at the far end. */
export interface BoardAttachment extends Attachment {
  /** Neither the plan nor the net's demands say so: it follows from the net's role, name and settings. */
  assumed?: true;
}

/**
 * What sits at the far end of each net: what the plan says, and for nets of which it says nothing what follows from their demands,
 * role and settings.
 */
export function attachmentsOf(
  device: Device,
  plan: Plan,
  byNet: ReadonlyMap<string, ResolvedNet>,
): BoardAttachment[] {
  const stated = plan.attachments ?? [];
  const covered = new Set(stated.flatMap(({ nets }) => nets));
  return [
    ...stated,
    ...plan.nets.flatMap((net) => {
      const resolved = byNet.get(net.id);
      return resolved && !covered.has(net.id) ? defaultsFor(device, resolved) : [];
    }),
  ];
}

/** What follows from a net: the resistor at its far end, and what drives it or is driven by it. */
export function defaultsFor(device: Device, resolved: ResolvedNet): BoardAttachment[] {
  const { net } = resolved;
  const { farPull, farPullOhms, farVolts, load } = net.demands ?? {};
  const list: BoardAttachment[] = [];
  const add = (kind: Attachment['kind'], figures: Record<string, number> = {}, assumed = false): void => {
    list.push({
      id: `${net.id}/${kind}`,
      kind,
      nets: [net.id],
      ...(Object.keys(figures).length > 0 ? { figures } : {}),
      ...(assumed ? { assumed: true } : {}),
    });
  };
  const assume: Add = (kind, figures) => add(kind, figures, true);
  if (farPull === 'up' || farPull === 'down')
    add(farPull === 'up' ? 'pull-up' : 'pull-down', {
      ...(farPullOhms === undefined ? {} : { ohms: farPullOhms }),
      ...(farPull === 'up' && farVolts !== undefined ? { volts: farVolts } : {}),
    });
  const way = wayOf(device, resolved);
  if (way === 'out' && load?.kind === 'led')
    add('led', { volts: load.volts, dropVolts: load.dropVolts, ohms: load.ohms });
  else if (way === 'out' && load?.kind === 'coil') add('coil', { volts: load.volts, ohms: load.ohms });
  else if (way === 'out') assumeLoad(device, resolved, assume);
  else if (way === 'analog in')
    assume('analog-source', { volts: (farVolts ?? supplyVolts(device, resolved)) / 2 });
  else if (way === 'both') assume('bus-partner');
  else if (way === 'in') assumeSource(resolved, assume);
  return list;
}

/** What people call the net and its far end, as words. */
const wordsFor = ({ net }: ResolvedNet): string =>
  [net.far?.part ?? '', net.note ?? '', net.name]
    .join(' ')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/[\W\d_]+/g, ' ');

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

/** What an output drives of which only the current is known. */
function assumeLoad(device: Device, resolved: ResolvedNet, assume: Add): void {
  const milliamps = demandedMilliamps(resolved.net.demands);
  if (milliamps === undefined || resolved.net.role.kind !== 'output') return;
  const words = wordsFor(resolved);
  const volts = supplyVolts(device, resolved);
  const seriesOhms = (drop: number): number => Math.max(1, Math.round(((volts - drop) / milliamps) * 1000));
  if (LIGHT_WORDS.test(words)) assume('led', { ohms: seriesOhms(LED_VOLTS), dropVolts: LED_VOLTS });
  else if (SWITCHED_WORDS.test(words)) assume('contactor', { ohms: seriesOhms(BASE_VOLTS) });
  else assume('load', { milliamps });
}

/** What an input listens to. */
function assumeSource(resolved: ResolvedNet, assume: Add): void {
  const { net, planned, fn } = resolved;
  const words = wordsFor(resolved);
  const pull = planned?.settings.values.pull;
  const held =
    (pull !== undefined && pull !== 'none') ||
    net.demands?.farPull === 'up' ||
    net.demands?.farPull === 'down';
  const isDriven = net.demands?.farPull === 'driven';
  const isContact = !isDriven && (CONTACT_WORDS.test(words) || (held && net.far?.part === undefined));
  if (isContact) {
    assume(TIPPING_WORDS.test(words) ? 'tipping-contact' : 'button');
    return;
  }
  // A chip's line is at its idle level: a peripheral's high where nothing is said, an input's inactive.
  const activeLow = net.settings.active === 'low' || (fn !== undefined && net.settings.active === undefined);
  assume('driven-line', { starts: activeLow ? 1 : 0 });
}
