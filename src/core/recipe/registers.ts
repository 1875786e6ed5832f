import type { DeviceDescription, Pad, PadFunction } from '../device/types';
import { splitSignal } from '../device/types';
import type { Problem } from '../result';
import { type Expression, ExpressionError, evaluate, parseExpression, type Scope } from './expression';
import { type Access, type Follows, parseAccess, parseFollows, parseRegisterRef } from './statement';
import type { BlockSource, RegisterSource } from './types';

/** One register at one address. Values are unsigned numbers below 2^bits. */
export interface Register {
  /** Position in {@link RegisterMap.all}; the machine keeps values by it. */
  index: number;
  /** Unique name as printed: `PA.USE`, `PA.FN1`. */
  name: string;
  block: string;
  /** Id in the recipe, without an array index. */
  id: string;
  title: string;
  /** CPU address in bytes. */
  address: number;
  bits: 8 | 16 | 32;
  reset: number;
  access: Access;
  follows?: Follows;
  /** The register that a set/clear/toggle register acts on, or that this one follows. */
  target?: Register;
  /** For key registers: what they open. */
  opens?: Register[];
  /** For registers that a key must open first: the key register. */
  lockedBy?: Register;
  /** Accesses have no effect while this bit reads 0. */
  guard?: { register: Register; bit: number };
  /** Bits that ignore writes. */
  readOnlyMask: number;
}

/** Where an expression is evaluated: a port, a pad, a pad with the function chosen on it. All optional. */
export interface Context {
  port?: string;
  pad?: Pad;
  fn?: PadFunction;
  /** Index in an array of registers. */
  i?: number;
}

export interface RegisterMap {
  all: Register[];
  byName: Map<string, Register>;
  /** The register a recipe names, in a context; undefined when the context does not reach one. */
  find(block: string, id: string, context: Context): Register | undefined;
  /** True when the block's instance depends on the function chosen on a pad. */
  needsFunction(block: string, id: string): boolean;
}

export const fullMask = (bits: number): number => (bits >= 32 ? 0xffffffff : 2 ** bits - 1);

/** Bits `low … low+bits-1` as an unsigned mask. */
export const maskOf = (low: number, bits: number): number => ((fullMask(bits) * 2 ** low) & 0xffffffff) >>> 0;

/**
 * The variables of document-level tables: `b`, `p`, `n`, `m`, `i` and `pad.*`, `port.*`, `fn.*`, `signal.*`,
 * `peripheral.*` (numeric columns).
 */
export function makeScope(device: DeviceDescription): (context: Context) => Scope {
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

interface Instance {
  key: string;
  context: Context;
}

function instancesOf(device: DeviceDescription, block: BlockSource): Instance[] {
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

const instanceKey = (block: BlockSource, context: Context): string | undefined => {
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

const cleanName = (text: string): string => text.replace(/[^A-Za-z0-9_]+/g, '_');

/** Builds every register of the part. Problems name the place in the recipe. */
export function buildRegisters(
  device: DeviceDescription,
  scopeOf: (context: Context) => Scope,
  problems: Problem[],
): RegisterMap {
  const all: Register[] = [];
  const byName = new Map<string, Register>();
  /** block/register/instance → the registers of the array, in order. */
  const arrays = new Map<string, Register[]>();
  const blocks = new Map(device.recipe.registers.blocks.map((block) => [block.id, block]));
  const indexExpressions = new Map<string, Expression>();

  for (const block of device.recipe.registers.blocks) {
    const place = `recipe, block ${block.id}`;
    const base = attempt(() => parseExpression(block.base), `${place}, base`, problems);
    if (!base) continue;
    for (const source of block.registers) {
      const where = `${place}, register ${source.id}`;
      const parsed = attempt(() => parseRegister(source), where, problems);
      if (!parsed) continue;
      if (parsed.index) indexExpressions.set(`${block.id}.${source.id}`, parsed.index);
      for (const instance of instancesOf(device, block)) {
        attempt(
          () => {
            const start = evaluate(base, scopeOf(instance.context));
            const count = source.count ?? 1;
            const array: Register[] = [];
            for (let i = 0; i < count; i++) {
              const prefix = fillName(block.name ?? block.id, instance);
              const register: Register = {
                index: all.length,
                name: `${cleanName(prefix)}.${source.id}${source.count ? i : ''}`,
                block: block.id,
                id: source.id,
                title: source.title ?? '',
                address: start + evaluate(parsed.offset, scopeOf({ ...instance.context, i })),
                bits: source.bits,
                reset: resetOf(source, instance.key, i),
                access: parsed.access,
                follows: parsed.follows,
                readOnlyMask: source.readOnly ? Number(source.readOnly) : 0,
              };
              if (register.reset > fullMask(source.bits)) {
                throw new ExpressionError(
                  `reset value of ${register.name} does not fit ${source.bits} bits`,
                  1,
                );
              }
              if (byName.has(register.name))
                throw new ExpressionError(`two registers are called ${register.name}`, 1);
              if (register.address % (source.bits / 8) !== 0) {
                throw new ExpressionError(`${register.name} is not aligned to its ${source.bits} bits`, 1);
              }
              byName.set(register.name, register);
              array.push(register);
              all.push(register);
            }
            arrays.set(`${block.id}.${source.id}.${instance.key}`, array);
          },
          where,
          problems,
        );
      }
    }
  }

  const find = (blockId: string, id: string, context: Context): Register | undefined => {
    const block = blocks.get(blockId);
    const key = block && instanceKey(block, context);
    if (key === undefined) return undefined;
    const array = arrays.get(`${blockId}.${id}.${key}`);
    if (!array) return undefined;
    const index = indexExpressions.get(`${blockId}.${id}`);
    return array[index ? evaluate(index, scopeOf(context)) : 0];
  };

  const map: RegisterMap = {
    all,
    byName,
    find,
    needsFunction: (block) => ['signal', 'peripheral'].includes(blocks.get(block)?.each ?? ''),
  };
  linkRegisters(device, map, arrays, scopeOf, problems);
  return map;
}

interface ParsedRegister {
  offset: Expression;
  index?: Expression;
  access: Access;
  follows?: Follows;
}

const parseRegister = (source: RegisterSource): ParsedRegister => ({
  offset: parseExpression(source.offset),
  index: source.index === undefined ? undefined : parseExpression(source.index),
  access: parseAccess(source.access),
  follows: source.follows === undefined ? undefined : parseFollows(source.follows),
});

const fillName = (template: string, instance: Instance): string =>
  template.replace(/\{(port|pad|peripheral|signal)\}/g, instance.key);

function resetOf(source: RegisterSource, instance: string, i: number): number {
  const reset = source.reset ?? '0';
  const entry = typeof reset === 'string' ? reset : (reset[instance] ?? reset['*'] ?? '0');
  return Number(typeof entry === 'string' ? entry : (entry[i] ?? '0'));
}

/** Resolves what registers say about each other: set/clear targets, keys, follows, guards. */
function linkRegisters(
  device: DeviceDescription,
  map: RegisterMap,
  arrays: Map<string, Register[]>,
  scopeOf: (context: Context) => Scope,
  problems: Problem[],
): void {
  for (const block of device.recipe.registers.blocks) {
    for (const instance of instancesOf(device, block)) {
      const sibling = (id: string, i: number): Register | undefined =>
        arrays.get(`${block.id}.${id}.${instance.key}`)?.[i];
      for (const source of block.registers) {
        const array = arrays.get(`${block.id}.${source.id}.${instance.key}`) ?? [];
        array.forEach((register, i) => {
          const place = `recipe, block ${block.id}, register ${source.id}`;
          const { access, follows } = register;
          if (access.kind === 'set' || access.kind === 'clear' || access.kind === 'toggle') {
            register.target = sibling(access.of, i);
            if (!register.target)
              problems.push({ place, message: `there is no register ${access.of} beside it` });
          }
          if (access.kind === 'key') {
            register.opens = [];
            for (const id of access.opens) {
              const opened = arrays.get(`${block.id}.${id}.${instance.key}`);
              if (!opened) problems.push({ place, message: `there is no register ${id} beside it` });
              for (const other of opened ?? []) {
                other.lockedBy = register;
                register.opens.push(other);
              }
            }
          }
          if (follows?.kind === 'register') {
            register.target = sibling(follows.register, i);
            if (!register.target)
              problems.push({ place, message: `there is no register ${follows.register} beside it` });
          }
        });
      }
    }
  }
  for (const [position, guard] of (device.recipe.registers.guards ?? []).entries()) {
    const place = `recipe, guard ${position + 1}`;
    const block = device.recipe.registers.blocks.find((candidate) => candidate.id === guard.block);
    const ref = attempt(() => parseRegisterRef(guard['open when']), place, problems);
    if (!block || !ref?.low) {
      problems.push({
        place,
        message: 'needs a known block and a register bit, e.g. "GATE.READY bit port.gate"',
      });
      continue;
    }
    const low = ref.low;
    for (const instance of instancesOf(device, block)) {
      attempt(
        () => {
          const register = map.find(ref.block, ref.register, instance.context);
          if (!register) throw new ExpressionError(`there is no register ${ref.block}.${ref.register}`, 1);
          const bit = evaluate(low, scopeOf(instance.context));
          if (bit < 0 || bit >= register.bits)
            throw new ExpressionError(`bit ${bit} is outside ${register.name}`, 1);
          for (const source of block.registers) {
            for (const guarded of arrays.get(`${block.id}.${source.id}.${instance.key}`) ?? []) {
              guarded.guard = { register, bit };
            }
          }
        },
        place,
        problems,
      );
    }
  }
}

/** Runs a step of compilation; what it throws as {@link ExpressionError} becomes a problem at the place. */
export function attempt<T>(step: () => T, place: string, problems: Problem[]): T | undefined {
  try {
    return step();
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    problems.push({ place: `${place}, column ${error.column}`, message: error.message });
    return undefined;
  }
}
