import { largest } from '../../base/lists';
import { figureOf } from '../../description/meanings';
import type { Package, Pad, PadClass, PadFunction } from '../../description/types';
import { valuesOn } from '../../device/available';
import type { Device } from '../../device/device';
import { hertzText, highestRate } from '../../device/offers';
import type { Demands, Load, Net } from '../../plan/model/types';
import { rateRange } from './rates';

export const classOf = (device: Device, pad: Pad): PadClass | undefined =>
  device.description.padClasses[pad.class ?? ''];

/** Whether the pad sources or sinks the current while the net is asserted. */
export type CurrentSide = 'source' | 'sink';
export const currentSide = (net: Pick<Net, 'role' | 'settings'>): CurrentSide =>
  net.settings.active === 'low' || net.role.kind === 'open-drain' ? 'sink' : 'source';

/** Current of an LED behind its resistor, or of a coil, in milliamperes. */
export const loadMilliamps = (load: Load): number =>
  load.kind === 'led'
    ? (Math.max(0, load.volts - load.dropVolts) / load.ohms) * 1000
    : (load.volts / load.ohms) * 1000;

/** The current a net draws through its pad, as given or out of its load; undefined when it says nothing. */
export const demandedMilliamps = (demands: Demands | undefined): number | undefined =>
  demands?.milliamps ?? (demands?.load ? loadMilliamps(demands.load) : undefined);

/** Highest current of a pad at a drive, in milliamperes; without a drive, at its strongest. */
export function currentLimit(
  device: Device,
  pad: Pad,
  side: CurrentSide,
  drive?: string,
): number | undefined {
  const own = classOf(device, pad);
  const key = side === 'source' ? 'sourceMilliamps' : 'sinkMilliamps';
  const at = drive === undefined ? undefined : driveMilliamps(device, pad, drive, key);
  if (at !== undefined) return at;
  const offered = valuesOn(device, pad, 'drive').flatMap(
    (one) => driveMilliamps(device, pad, one, key) ?? [],
  );
  return offered.length > 0 ? largest(offered) : own?.[key];
}

/** What a pad gives or takes at a drive: as its class says, or as the value means. */
function driveMilliamps(
  device: Device,
  pad: Pad,
  drive: string,
  key: 'sourceMilliamps' | 'sinkMilliamps',
): number | undefined {
  const own = classOf(device, pad)?.byDrive;
  return (
    (own && Object.hasOwn(own, drive) ? own[drive]?.[key] : undefined) ??
    figureOf(device.description.recipe, 'drive', drive, 'milliamps')
  );
}

/** Nominal resistance of a pad's pull: as its value means, or as the class says. */
export const pullOhmsOf = (device: Device, pad: Pad, pull: string | undefined): number | undefined =>
  figureOf(device.description.recipe, 'pull', pull, 'ohms') ?? classOf(device, pad)?.pullOhms;

/** The weakest drive of a pad that gives a current, if it has several; undefined when none does. */
export function driveFor(device: Device, pad: Pad, side: CurrentSide, milliamps: number): string | undefined {
  const key = side === 'source' ? 'sourceMilliamps' : 'sinkMilliamps';
  return valuesOn(device, pad, 'drive')
    .flatMap((drive) => {
      const limit = driveMilliamps(device, pad, drive, key);
      return limit !== undefined && limit >= milliamps ? [{ drive, limit }] : [];
    })
    .sort((a, b) => a.limit - b.limit)[0]?.drive;
}

/** The strongest drive of a pad, if it has several. */
export function strongestDrive(device: Device, pad: Pad, side: CurrentSide): string | undefined {
  const key = side === 'source' ? 'sourceMilliamps' : 'sinkMilliamps';
  return valuesOn(device, pad, 'drive')
    .flatMap((drive) => {
      const limit = driveMilliamps(device, pad, drive, key);
      return limit === undefined ? [] : [{ drive, limit }];
    })
    .sort((a, b) => b.limit - a.limit)[0]?.drive;
}

/** Highest rate of a pad as an output at a speed, in hertz; without a speed, at its fastest. */
export function padRateLimit(device: Device, pad: Pad, speed?: string): number | undefined {
  const at = speed === undefined ? undefined : speedHertz(device, pad, speed);
  if (at !== undefined) return at;
  const offered = valuesOn(device, pad, 'speed').flatMap((one) => speedHertz(device, pad, one) ?? []);
  return offered.length > 0 ? largest(offered) : classOf(device, pad)?.highestHertz;
}

/** The rate that a pad does at a speed: as its class says, or as the value means. */
function speedHertz(device: Device, pad: Pad, speed: string): number | undefined {
  const own = classOf(device, pad)?.bySpeed;
  return (
    (own && Object.hasOwn(own, speed) ? own[speed]?.highestHertz : undefined) ??
    figureOf(device.description.recipe, 'speed', speed, 'hertz')
  );
}

/** The slowest speed of a pad that is fast enough, if it has several; undefined when none is. */
export function speedFor(device: Device, pad: Pad, hertz: number): string | undefined {
  return valuesOn(device, pad, 'speed')
    .flatMap((speed) => {
      const limit = speedHertz(device, pad, speed);
      return limit !== undefined && limit >= hertz ? [{ speed, limit }] : [];
    })
    .sort((a, b) => a.limit - b.limit)[0]?.speed;
}

/** The lowest of the rates that peripheral, package notes, divider and pad allow, in hertz, and who says so. */
export function rateLimit(
  device: Device,
  pkg: Package,
  pad: Pad,
  fn: PadFunction | undefined,
  speed?: string,
): { hertz: number; why: string } | undefined {
  const limits: { hertz: number; why: string }[] = [];
  if (fn) {
    const noted = highestRate(device, pkg, fn);
    if (noted) limits.push(noted);
    const range = rateRange(device, fn.signal);
    if (range)
      limits.push({
        hertz: range.highest,
        why: `the divider of ${fn.signal} gives ${hertzText(range.highest)} at most`,
      });
  }
  if (!fn || device.lineOf(fn.signal)?.direction !== 'in') {
    const own = padRateLimit(device, pad, speed);
    const title = classOf(device, pad)?.title ?? 'plain';
    if (own !== undefined)
      limits.push({
        hertz: own,
        why: `pad ${pad.id} (${title})${speed ? ` at speed ${speed}` : ''} does ${hertzText(own)} at most`,
      });
  }
  return limits.sort((a, b) => a.hertz - b.hertz)[0];
}

/** The level of a pad between power-up and initialisation; undefined when nothing decides it. */
export function levelBefore(
  padClass: PadClass | undefined,
  demands: Demands | undefined,
): 'high' | 'low' | undefined {
  const own =
    padClass?.atReset === 'pull-up' ? 'high' : padClass?.atReset === 'pull-down' ? 'low' : undefined;
  const far = demands?.farPull === 'up' ? 'high' : demands?.farPull === 'down' ? 'low' : undefined;
  if (own === undefined || far === undefined || own === far) return own ?? far;
  // Two resistors divide the supply; the one at least three times smaller decides which level is read.
  const [ownOhms, farOhms] = [padClass?.pullOhms ?? 40_000, demands?.farPullOhms ?? 10_000];
  if (farOhms * 3 <= ownOhms) return far;
  return ownOhms * 3 <= farOhms ? own : undefined;
}

/** A demand of a net that a pad does not meet. */
export interface Shortfall {
  demand: 'rateHertz' | 'milliamps' | 'farVolts' | 'beforeInit' | 'side' | 'notPads';
  why: string;
}

/** Demands of a net that a pad and function cannot meet, whatever its settings, beside those that were chosen. */
export function shortfalls(
  device: Device,
  pkg: Package,
  net: Pick<Net, 'name' | 'role' | 'settings' | 'demands'>,
  pad: Pad,
  fn: PadFunction | undefined,
  side: string | undefined,
): Shortfall[] {
  const { demands, settings } = net;
  if (!demands) return [];
  const found: Shortfall[] = [];
  if (demands.rateHertz !== undefined) {
    const limit = rateLimit(device, pkg, pad, fn, settings.speed);
    // A wanted rate just above what the divider gives is met by its fastest: the error says how nearly.
    if (limit && limit.hertz * 1.02 < demands.rateHertz)
      found.push({
        demand: 'rateHertz',
        why: `${limit.why}, and ${hertzText(demands.rateHertz)} are wanted`,
      });
  }
  const milliamps = demandedMilliamps(demands);
  if (milliamps !== undefined) {
    const way = currentSide(net);
    const limit = currentLimit(device, pad, way, settings.drive);
    if (limit !== undefined && limit < milliamps)
      found.push({
        demand: 'milliamps',
        why: `pad ${pad.id} can ${way} ${currentText(limit)}${settings.drive ? ` at drive ${settings.drive}` : ''}, and ${currentText(milliamps)} are wanted`,
      });
  }
  const tolerated = classOf(device, pad)?.toleratesVolts;
  if (demands.farVolts !== undefined && tolerated !== undefined && tolerated < demands.farVolts)
    found.push({
      demand: 'farVolts',
      why: `pad ${pad.id} tolerates ${voltsText(tolerated)}, and the far end puts ${voltsText(demands.farVolts)} on it`,
    });
  if (demands.beforeInit !== undefined) {
    const level = levelBefore(classOf(device, pad), demands);
    if (level !== demands.beforeInit)
      found.push({
        demand: 'beforeInit',
        why: `pad ${pad.id} ${level === undefined ? 'floats' : `is ${level}`} before initialisation, and the net must be ${demands.beforeInit}`,
      });
  }
  if (demands.side !== undefined && side !== demands.side)
    found.push({
      demand: 'side',
      why: `pad ${pad.id} is on the ${side ?? 'unknown'} side, not the ${demands.side} side`,
    });
  if (demands.notPads?.includes(pad.id))
    found.push({ demand: 'notPads', why: `the plan rules out pad ${pad.id} for it` });
  return found;
}

export const currentText = (milliamps: number): string => `${Number(milliamps.toPrecision(3))} mA`;
export const voltsText = (volts: number): string => `${Number(volts.toPrecision(3))} V`;
export const ohmsText = (ohms: number): string =>
  ohms >= 1e6
    ? `${Number((ohms / 1e6).toPrecision(3))} MΩ`
    : ohms >= 1000
      ? `${Number((ohms / 1000).toPrecision(3))} kΩ`
      : `${Number(ohms.toPrecision(3))} Ω`;
