import type { Package, PadFunction } from '../description/types';
import type { Device } from './device';
import { canonical } from './fields/encode';
import { offerOf } from './offers';
import { contributionsOf } from './planned-pad';

/** What choosing a function puts into bits that other pads' functions also decide. */
export interface Mode {
  /** Number of the bits within the part. */
  mode: number;
  value: number;
}

const known = new WeakMap<Device, Map<string, Map<PadFunction, Mode[]>>>();

/**
 * Functions that put something into bits that several pads share: a route group moves all signals of an instance together, so
 * two of them under different codes cannot be had. Worked out once a part and package.
 */
export function sharedFields(device: Device, pkg: Package): Map<PadFunction, Mode[]> {
  let packages = known.get(device);
  if (!packages) {
    packages = new Map();
    known.set(device, packages);
  }
  let found = packages.get(pkg.id);
  if (!found) {
    found = findShared(device, pkg);
    packages.set(pkg.id, found);
  }
  return found;
}

interface Place {
  pads: Set<string>;
  values: Map<number, PadFunction[]>;
}

function findShared(device: Device, pkg: Package): Map<PadFunction, Mode[]> {
  const places = new Map<string, Place>();
  const { recipe } = device.description;
  // Only fields whose place depends on the function can be shared by what two functions ask for.
  const byFunction = new Set([...device.fields].flatMap(([id, field]) => (field.needsFunction ? [id] : [])));
  if (byFunction.size === 0) return new Map();
  for (const pad of device.description.pads) {
    for (const fn of offerOf(device, pkg).of(pad.id)) {
      if (fn.mux === null) continue;
      const line = device.lineOf(fn.signal)?.direction;
      const settings = canonical(recipe, { values: { mode: 'function' }, ...device.selection(fn) }, line);
      for (const one of contributionsOf(device, { pad, fn, settings })) {
        if (!byFunction.has(one.field)) continue;
        const key = `${one.register.name} ${one.low}`;
        const place = places.get(key) ?? { pads: new Set(), values: new Map() };
        place.pads.add(pad.id);
        place.values.set(one.value, [...(place.values.get(one.value) ?? []), fn]);
        places.set(key, place);
      }
    }
  }
  const modes = new Map<PadFunction, Mode[]>();
  let mode = 0;
  for (const { pads, values } of places.values()) {
    if (pads.size < 2 || values.size < 2) continue;
    for (const [value, fns] of [...values.values()].entries())
      for (const fn of fns) modes.set(fn, [...(modes.get(fn) ?? []), { mode, value }]);
    mode++;
  }
  return modes;
}
