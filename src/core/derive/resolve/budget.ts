import type { Package, Pad, Supply } from '../../description/types';
import type { Device } from '../../device/device';
import { type CurrentSide, currentLimit, currentSide, demandedMilliamps } from '../electrical/limits';
import type { ResolvedNet } from './resolve';

/** Current of one net through its pad while the net is asserted. */
export interface PadLoad {
  one: ResolvedNet;
  pad: Pad;
  side: CurrentSide;
  milliamps: number;
  /** What the pad can do with the drive it has; undefined when the part does not say. */
  limit?: number;
}

/** A limit that several pads share: a supply's, or the package's. */
export interface Budget {
  kind: 'supply' | 'port' | 'package';
  id: string;
  title: string;
  side: CurrentSide;
  /** Worst case: all nets asserted at once, in milliamperes. */
  milliamps: number;
  limit?: number;
  loads: PadLoad[];
}

/** What each placed net draws: as given, out of its LED or coil, or through a far pull resistor that it pulls against. */
export function padLoads(device: Device, resolved: readonly ResolvedNet[]): PadLoad[] {
  return resolved.flatMap((one): PadLoad[] => {
    const { net, pad, planned, pins } = one;
    if (!pad || pins.length === 0) return [];
    const wanted = demandedMilliamps(net.demands);
    const side = currentSide(net);
    const drive = planned?.settings.values.drive;
    if (wanted !== undefined) {
      const limit = currentLimit(device, pad, side, drive);
      return [{ one, pad, side, milliamps: wanted, ...(limit === undefined ? {} : { limit }) }];
    }
    const { farPull, farPullOhms } = net.demands ?? {};
    const drives =
      planned?.settings.values.mode === 'output' ||
      (one.fn && device.lineOf(one.fn.signal)?.direction !== 'in');
    if (!drives || farPullOhms === undefined || (farPull !== 'up' && farPull !== 'down')) return [];
    const volts = net.demands?.farVolts ?? supplyOf(device, pad)?.nominalVolts;
    if (volts === undefined) return [];
    const against = farPull === 'up' ? 'sink' : 'source';
    const limit = currentLimit(device, pad, against, drive);
    const milliamps = (volts / farPullOhms) * 1000;
    return [{ one, pad, side: against, milliamps, ...(limit === undefined ? {} : { limit }) }];
  });
}

export const supplyOf = (device: Device, pad: Pad): Supply | undefined =>
  device.description.supplies.find((one) => one.id === pad.supply);

/** Sums by supply, by port and for the whole package; those of ports have no limit of their own. */
export function budgetsOf(device: Device, pkg: Package, loads: readonly PadLoad[]): Budget[] {
  const found: Budget[] = [];
  const add = (
    kind: Budget['kind'],
    id: string,
    title: string,
    own: readonly PadLoad[],
    limits: { source?: number; sink?: number },
  ): void => {
    for (const side of ['source', 'sink'] as const) {
      const mine = own.filter((one) => one.side === side);
      const limit = limits[side];
      if (mine.length === 0 && limit === undefined) continue;
      const milliamps = mine.reduce((sum, one) => sum + one.milliamps, 0);
      found.push({
        kind,
        id,
        title,
        side,
        milliamps,
        loads: mine,
        ...(limit === undefined ? {} : { limit }),
      });
    }
  };
  const limitsOf = (source: number | undefined, sink: number | undefined) => ({
    ...(source === undefined ? {} : { source }),
    ...(sink === undefined ? {} : { sink }),
  });
  for (const supply of device.description.supplies)
    add(
      'supply',
      supply.id,
      supply.title,
      loads.filter((one) => one.pad.supply === supply.id),
      limitsOf(supply.sourceMilliamps, supply.sinkMilliamps),
    );
  add('package', pkg.id, pkg.name, loads, limitsOf(pkg.highestMilliamps, pkg.highestMilliamps));
  for (const port of Object.keys(device.description.recipe.ports)) {
    const own = loads.filter((one) => one.pad.port === port);
    if (own.length > 0) add('port', port, `port ${port}`, own, {});
  }
  return found;
}
