import type { Package, Pad, PadFunction } from '../../description/types';
import { padSort } from '../../device/available';
import type { Device } from '../../device/device';
import { sideOf } from '../../device/geometry';
import type { Net } from '../../plan/model/types';
import { shortfalls } from '../electrical/limits';
import {
  functionsFor,
  isAnalog,
  resolveNet,
  silentLack,
  type UnmetSetting,
  whyNot,
} from '../resolve/resolve';
import { constraintBreaches, lineBreaches, type Occupancy } from './occupancy';

/** A pad that gives a net all it asks for by itself, and by which of its functions; `undefined` for a plain one. */
interface Fit {
  pad: Pad;
  functions: readonly (PadFunction | undefined)[];
}

/** The first wish of a net that a pad cannot fulfil. Pads of a sort are alike in that. */
export function unmetFinder(device: Device, pkg: Package, net: Net) {
  const known = new Map<string, UnmetSetting | undefined>();
  return (pad: Pad, fn: PadFunction | undefined): UnmetSetting | undefined => {
    const key = `${padSort(device, pad)} ${fn?.signal ?? ''}`;
    if (!known.has(key)) {
      const placement = { pad: pad.id, locked: false, ...(fn ? { signal: fn.signal } : {}) };
      const unmet = resolveNet(device, pkg, { ...net, placement }).unmet[0];
      known.set(key, unmet ?? silentLack(device, net, pad, fn));
    }
    return known.get(key);
  };
}

const remembered = new WeakMap<Net, { device: Device; pkg: Package; fits: Fit[] }>();

/** Pads that give a net all it asks for, whatever else is placed. Remembered as long as the net is. */
function fitsOf(device: Device, pkg: Package, net: Net): Fit[] {
  const known = remembered.get(net);
  if (known?.device === device && known.pkg === pkg) return known.fits;
  const unmet = unmetFinder(device, pkg, net);
  const fits: Fit[] = [];
  for (const [id, pins] of device.pinsOf.get(pkg.id) ?? []) {
    const pad = device.pads.get(id);
    if (!pad || whyNot(device, pkg, net.role, pad) !== undefined) continue;
    const offered = functionsFor(device, pkg, net.role, pad);
    const side = net.demands ? sideOf(pkg, pins[0] ?? '') : undefined;
    const functions = (offered.length === 0 ? [undefined] : offered).filter(
      (fn) => !unmet(pad, fn) && (!net.demands || shortfalls(device, pkg, net, pad, fn, side).length === 0),
    );
    if (functions.length > 0) fits.push({ pad, functions });
  }
  remembered.set(net, { device, pkg, fits });
  return fits;
}

/** How many free pads can take a net with all that it asks for, constraints included. */
export function fittingPads(occupancy: Occupancy, net: Net): number {
  const { device, pkg, byPad, bySignal, constraints } = occupancy;
  const constrained = constraints.some((one) => one.nets.includes(net.id));
  const others = (list: readonly { net: Net }[] | undefined): boolean =>
    list?.some((one) => one.net.id !== net.id) === true;
  return fitsOf(device, pkg, net).filter(
    ({ pad, functions }) =>
      !others(byPad.get(pad.id)) &&
      lineBreaches(occupancy, net, pad).length === 0 &&
      functions.some(
        (fn) =>
          (!fn || isAnalog(net.role) || !others(bySignal.get(fn.signal))) &&
          (!constrained || constraintBreaches(occupancy, net, pad, fn).length === 0),
      ),
  ).length;
}
