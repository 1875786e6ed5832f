import type { DeviceDescription, Pad, PadFunction } from '../types';
import { splitSignal } from '../types';
import type { Scope } from './expression';

/** Where an expression is evaluated: a port, a pad, a pad with the function chosen on it. All optional. */
export interface Context {
  port?: string;
  pad?: Pad;
  fn?: PadFunction;
  /** Index in an array of registers. */
  i?: number;
  /** The planned pads of the port, by their bits: the bit n of the mask for bit n of the port. */
  pads?: number;
}

/**
 * The variables of document-level tables: `b`, `p`, `n`, `m`, `i`, `pads` and `pad.*`, `port.*`, `fn.*`, `signal.*`,
 * `peripheral.*` (numeric columns).
 */
export function makeScope(device: DeviceDescription): (context: Context) => Scope {
  const known = scopes.get(device);
  if (known) return known;
  const made = scopesOf(device);
  scopes.set(device, made);
  return made;
}

const scopes = new WeakMap<DeviceDescription, (context: Context) => Scope>();

function scopesOf(device: DeviceDescription): (context: Context) => Scope {
  const portNames = Object.keys(device.recipe.ports);
  const ordinals = new Map(device.pads.filter((pad) => pad.port !== undefined).map((pad, n) => [pad.id, n]));
  const peripherals = new Map(
    device.peripherals.map((peripheral, index) => [peripheral.id, { peripheral, index }]),
  );
  return (context) => (name) => {
    const port = context.port ?? context.pad?.port;
    switch (name) {
      case 'b':
        return context.pad?.bit;
      case 'p':
        return port === undefined ? undefined : portNames.indexOf(port);
      case 'n':
        return context.pad ? ordinals.get(context.pad.id) : undefined;
      case 'm':
        return context.fn?.mux ?? undefined;
      case 'i':
        return context.i;
      case 'pads':
        return context.pads;
    }
    const dot = name.indexOf('.');
    const column = name.slice(dot + 1);
    switch (name.slice(0, dot)) {
      case 'port':
        return port === undefined ? undefined : device.recipe.ports[port]?.[column];
      case 'pad':
        return context.pad?.columns?.[column];
      case 'fn':
      case 'signal':
        return context.fn?.columns?.[column];
      case 'peripheral':
        return context.fn
          ? peripherals.get(splitSignal(context.fn.signal)[0])?.peripheral.columns?.[column]
          : undefined;
    }
    return undefined;
  };
}

/** Every variable that has a value somewhere in a part: an expression that asks for another one is misspelt. */
export function variablesOf({ pads, functions, peripherals, recipe }: DeviceDescription): Set<string> {
  const names = new Set(['b', 'p', 'n', 'm', 'i', 'pads']);
  const add = (prefix: string, columns: Record<string, number> | undefined): void => {
    for (const column of Object.keys(columns ?? {})) names.add(`${prefix}.${column}`);
  };
  for (const columns of Object.values(recipe.ports)) add('port', columns);
  for (const { columns } of pads) add('pad', columns);
  for (const { columns } of peripherals) add('peripheral', columns);
  for (const { columns } of functions) {
    add('fn', columns);
    add('signal', columns);
  }
  return names;
}

/** Variables that a pad without a function has. */
export const isPadVariable = (name: string): boolean => /^([bpn]|pad\..+|port\..+)$/.test(name);

/** Every variable that there is. */
export const isVariable = (name: string): boolean =>
  /^(pads|[bpnmi]|(pad|port|fn|signal|peripheral)[.].+)$/.test(name);
