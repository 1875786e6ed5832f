import type { Package, PadFunction } from '../../description/types';
import type { Device } from '../../device/device';
import { type Mode, sharedFields } from '../../device/shared-fields';
import type { Net } from '../../plan/model/types';
import { functionsFor, type ResolvedNet, resolvedAs } from './resolve';

/** The rows by which a net's signal is on its pad; several where it stands there under several codes. */
function rowsOf(device: Device, pkg: Package, { net, pad, fn }: ResolvedNet): readonly PadFunction[] {
  if (!pad || !fn || fn.mux === null) return [];
  return functionsFor(device, pkg, net.role, pad).filter((one) => one.signal === fn.signal);
}

/** How many choices are tried before the first rows are left as they are. */
const MOST_TRIED = 20_000;

/**
 * Where a signal is on its pad under several codes, that one is taken which agrees with what the other nets put into bits that
 * they share: the route of their instance. What is not to be made to agree stays as it is, and is told as a clash.
 */
export function agreeing(device: Device, pkg: Package, resolved: readonly ResolvedNet[]): ResolvedNet[] {
  if (!hasSeveral(device)) return [...resolved];
  const modes = sharedFields(device, pkg);
  const open = resolved.filter((one) => rowsOf(device, pkg, one).length > 1);
  if (open.length === 0) return [...resolved];
  const taken = new Map<number, number>();
  for (const one of resolved)
    if (!open.includes(one)) for (const { mode, value } of modesOf(modes, one.fn)) taken.set(mode, value);
  let tried = 0;
  const chosen = new Map<Net, PadFunction>();
  const choose = (at: number, held: ReadonlyMap<number, number>): boolean => {
    const one = open[at];
    if (!one) return true;
    for (const fn of rowsOf(device, pkg, one)) {
      if (++tried > MOST_TRIED) return false;
      const own = modesOf(modes, fn);
      if (own.some(({ mode, value }) => (held.get(mode) ?? value) !== value)) continue;
      chosen.set(one.net, fn);
      if (
        choose(at + 1, new Map([...held, ...own.map(({ mode, value }): [number, number] => [mode, value])]))
      )
        return true;
    }
    chosen.delete(one.net);
    return false;
  };
  if (!choose(0, taken)) return [...resolved];
  return resolved.map((one) => {
    const fn = chosen.get(one.net);
    return fn && fn !== one.fn ? resolvedAs(device, pkg, one.net, fn) : one;
  });
}

const modesOf = (modes: ReadonlyMap<PadFunction, readonly Mode[]>, fn: PadFunction | undefined) =>
  (fn && modes.get(fn)) ?? [];

const several = new WeakMap<Device, boolean>();

/** Whether some signal stands on some pad more than once. */
function hasSeveral(device: Device): boolean {
  let known = several.get(device);
  if (known === undefined) {
    known = [...device.functionsByPad.values()].some(
      (functions) => new Set(functions.map((fn) => fn.signal)).size < functions.length,
    );
    several.set(device, known);
  }
  return known;
}
