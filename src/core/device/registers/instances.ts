import { parseHas } from '../../description/language/has';
import { type Context, makeScope } from '../../description/language/scope';
import type { BlockSource } from '../../description/recipe';
import type { DeviceDescription, PadFunction } from '../../description/types';
import { splitSignal } from '../../description/types';
import type { Register } from './types';

/** One of a block's copies: for a port, a pad, a peripheral or a signal. */
export interface Instance {
  key: string;
  context: Context;
}

export function instancesOf(device: DeviceDescription, block: BlockSource): Instance[] {
  const instances = allInstances(device, block);
  if (block.has === undefined) return instances;
  const has = parseHas(block.has);
  const scopeOf = makeScope(device);
  return instances.filter(({ context }) => has.holds(scopeOf(context)));
}

/** Whether a register is there in an instance of its block. Throws `ExpressionError`. */
export const isThere = (device: DeviceDescription, has: string | undefined, { context }: Instance): boolean =>
  has === undefined || parseHas(has).holds(makeScope(device)(context));

function allInstances(device: DeviceDescription, block: BlockSource): Instance[] {
  switch (block.each) {
    case undefined:
      return [{ key: '', context: {} }];
    case 'port':
      return Object.keys(device.recipe.ports).map((port) => ({ key: port, context: { port } }));
    case 'pad':
      return device.pads.filter((pad) => pad.port).map((pad) => ({ key: pad.id, context: { pad } }));
    case 'signal': {
      const seen = new Map<string, PadFunction>();
      for (const fn of device.functions) if (!seen.has(fn.signal)) seen.set(fn.signal, fn);
      return [...seen].map(([key, fn]) => ({ key, context: { fn } }));
    }
    case 'peripheral': {
      const seen = new Map<string, PadFunction>();
      for (const fn of device.functions) {
        const [instance] = splitSignal(fn.signal);
        if (!seen.has(instance)) seen.set(instance, fn);
      }
      return [...seen].map(([key, fn]) => ({ key, context: { fn } }));
    }
  }
}

/** Which of a block's copies a context belongs to; undefined when it does not say. */
export const instanceKey = (block: BlockSource, context: Context): string | undefined => {
  switch (block.each) {
    case undefined:
      return '';
    case 'port':
      return context.port ?? context.pad?.port;
    case 'pad':
      return context.pad?.id;
    case 'signal':
      return context.fn?.signal;
    case 'peripheral':
      return context.fn && splitSignal(context.fn.signal)[0];
  }
};

/** Registers by block, id and instance, as the linker needs them. */
export type RegisterArrays = Map<string, Register[]>;
export const arrayKey = (block: string, id: string, instance: string): string => `${block}.${id}.${instance}`;
