import type { DeviceDescription } from '../device/types';
import type { Problems } from '../problems';
import { attempt } from './attempt';
import { type Expression, ExpressionError, evaluate, parseExpression, type Scope } from './expression';
import { arrayKey, type Instance, instanceKey, instancesOf, type RegisterArrays } from './instances';
import { linkRegisters } from './link-registers';
import { layOutMemory } from './memory';
import type { Context } from './scope';
import { type Access, type Follows, parseAccess, parseAlways, parseFollows, parseReset } from './statement';
import type { RegisterSource } from './types';

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
  /** Address as the document prints it, where that is another one. */
  documentAddress?: number;
  bits: 8 | 16 | 32;
  reset: number;
  /** Bits for which the document gives no reset value; they are 0 in {@link reset}. */
  unknownReset: number;
  access: Access;
  follows?: Follows;
  /** Where its bits are kept. Registers without bits of their own (set, clear, key …) have none. */
  storage?: Storage;
  /** The register that a set/clear/toggle/act/alias register acts on, or that this one follows. */
  target?: Register;
  /** For a register that follows the pads: the bits of which one invert it. */
  inverter?: Register;
  /** Registers that share its address on purpose. */
  overlaps: Register[];
  /** Flags among its bits: writing 1 clears one. */
  flagMask: number;
  /** For act registers: where the target's new bits come from. */
  from?: Register;
  /** For key registers: what they open. */
  opens?: Register[];
  /** Key registers that must all be open for a write to be taken. */
  locks: Register[];
  /** Accesses have no effect while one of these is closed. */
  guards: Guard[];
  /** Bits that ignore writes. */
  readOnlyMask: number;
  /** Reserved bits and the value that every write must give them. */
  always?: { value: number; mask: number };
  /** Takes a write only where these commit bits are 1, each for `bitsEach` bits of this register. */
  commit?: { register: Register; bitsEach: number };
  /** For a register that the bus reaches in pieces only: the pieces, lowest bits first. It is then no bus register itself. */
  pieces?: Register[];
  /** The instance of its block: which port, pad or function it belongs to. */
  context: Context;
}

/** A place in the part's memory: a word of up to 32 bits, and the lowest of its bits that the register shows. */
export interface Storage {
  word: number;
  shift: number;
}

/** A register bit that must have a value for accesses (or only writes) to have effect. */
export interface Guard {
  register: Register;
  bit: number;
  openAt: 0 | 1;
  stops: 'all' | 'writes';
}

export interface RegisterMap {
  /** Every register on the bus, and internal state; of a register in pieces, the pieces. */
  all: Register[];
  /** How many words of memory the registers take (see {@link Storage}). */
  words: number;
  byName: Map<string, Register>;
  /** The register a recipe names, in a context; undefined when the context does not reach one. */
  find(block: string, id: string, context: Context): Register | undefined;
  /** True when the block's instance depends on the function chosen on a pad. */
  needsFunction(block: string, id: string): boolean;
}

export const fullMask = (bits: number): number => (bits >= 32 ? 0xffffffff : 2 ** bits - 1);

/** The bits of a register that hold something: of a masked one the lower half. */
export const heldBits = (register: Register): number =>
  register.access.kind === 'masked' ? register.bits / 2 : register.bits;

/** Bits `low … low+bits-1` as an unsigned mask. */
export const maskOf = (low: number, bits: number): number => ((fullMask(bits) * 2 ** low) & 0xffffffff) >>> 0;

const cleanName = (text: string): string => text.replace(/[^A-Za-z0-9_]+/g, '_');

/** Builds every register of the part. Problems name the place in the recipe. */
export function buildRegisters(
  device: DeviceDescription,
  scopeOf: (context: Context) => Scope,
  problems: Problems,
): RegisterMap {
  const all: Register[] = [];
  const byName = new Map<string, Register>();
  const arrays: RegisterArrays = new Map();
  const blocks = new Map(device.recipe.registers.blocks.map((block) => [block.id, block]));
  const indexExpressions = new Map<string, Expression>();
  const enter = (register: Register): void => {
    if (byName.has(register.name)) throw new ExpressionError(`two registers are called ${register.name}`, 1);
    byName.set(register.name, register);
    for (const one of register.pieces ?? [register]) {
      if (one.address % (one.bits / 8) !== 0 && one.access.kind !== 'internal') {
        throw new ExpressionError(`${one.name} is not aligned to its ${one.bits} bits`, 1);
      }
      if (one.address < 0 || one.address + one.bits / 8 > 2 ** 32) {
        throw new ExpressionError(`${one.name} at ${one.address} is outside 32-bit addresses`, 1);
      }
      one.index = all.length;
      all.push(one);
      byName.set(one.name, one);
    }
  };

  for (const block of device.recipe.registers.blocks) {
    const place = `recipe, block ${block.id}`;
    const base = attempt(() => parseExpression(block.base), `${place}, base`, problems);
    const document = attempt(
      () => (block.document === undefined ? null : parseExpression(block.document)),
      `${place}, document`,
      problems,
    );
    if (!base || document === undefined) continue;
    for (const source of block.registers) {
      const where = `${place}, register ${source.id}`;
      const parsed = attempt(() => parseRegister(source), where, problems);
      if (!parsed) continue;
      if (parsed.index) indexExpressions.set(`${block.id}.${source.id}`, parsed.index);
      for (const instance of instancesOf(device, block)) {
        const scope = scopeOf(instance.context);
        attempt(
          () => {
            const array: Register[] = [];
            for (let i = 0; i < (source.count ?? 1); i++) {
              const offset = evaluate(parsed.offset, scopeOf({ ...instance.context, i }));
              const register: Register = {
                index: -1,
                name: `${cleanName(fillName(block.name ?? block.id, instance))}.${source.id}${source.count ? i : ''}`,
                block: block.id,
                id: source.id,
                title: source.title ?? '',
                address: evaluate(base, scope) + offset,
                ...(document ? { documentAddress: evaluate(document, scope) + offset } : {}),
                bits: source.bits,
                ...resetOf(source, instance.key, i),
                access: parsed.access,
                follows: parsed.follows,
                guards: [],
                locks: [],
                overlaps: [],
                readOnlyMask: source.readOnly ? Number(source.readOnly) : 0,
                flagMask: source['cleared by one'] ? Number(source['cleared by one']) : 0,
                always: parsed.always,
                context: instance.context,
              };
              checkRegister(register, source);
              if (source['accessed by'])
                register.pieces = cut(register, source['accessed by'], device.recipe.endian);
              enter(register);
              array.push(register);
            }
            arrays.set(arrayKey(block.id, source.id, instance.key), array);
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
    const array = arrays.get(arrayKey(blockId, id, key));
    if (!array) return undefined;
    const index = indexExpressions.get(`${blockId}.${id}`);
    return array[index ? evaluate(index, scopeOf(context)) : 0];
  };

  const map: RegisterMap = {
    all,
    words: 0,
    byName,
    find,
    needsFunction: (block) => ['signal', 'peripheral'].includes(blocks.get(block)?.each ?? ''),
  };
  linkRegisters(device, map, arrays, scopeOf, problems);
  layOutMemory(map, device.recipe.endian, problems);
  return map;
}

function checkRegister(register: Register, source: RegisterSource): void {
  const { name, bits } = register;
  const tooLarge = (value: number | undefined): boolean => (value ?? 0) > fullMask(bits);
  if (!Number.isInteger(register.reset) || tooLarge(register.reset) || tooLarge(register.unknownReset))
    throw new ExpressionError(`reset value of ${name} does not fit ${bits} bits`, 1);
  if ([register.readOnlyMask, register.always?.mask, register.flagMask].some(tooLarge))
    throw new ExpressionError(`a mask of ${name} does not fit ${bits} bits`, 1);
  const half = 2 ** (bits / 2);
  if (register.access.kind === 'masked' && (register.reset >= half || register.unknownReset >= half)) {
    throw new ExpressionError(
      `reset value of ${name} does not fit its lower half: the upper half of a masked register holds nothing`,
      1,
    );
  }
  if (register.access.kind === 'key' && register.access.keys.some(tooLarge))
    throw new ExpressionError(`a key of ${name} does not fit ${bits} bits`, 1);
  if (register.always && (register.always.mask & register.readOnlyMask) !== 0)
    throw new ExpressionError(`bits of ${name} cannot both ignore writes and need a value`, 1);
  if (register.flagMask !== 0 && register.access.kind !== 'read-write')
    throw new ExpressionError(`${name} is ${register.access.kind}; flags stand in a read-write register`, 1);
  const piece = source['accessed by'];
  if (piece !== undefined && (piece >= bits || register.access.kind !== 'read-write')) {
    throw new ExpressionError(
      `${name} cannot be accessed by ${piece} bits: ${bits} bits, ${register.access.kind}`,
      1,
    );
  }
}

/** The pieces of a register, lowest bits first; where each stands is a matter of the part's endianness. */
function cut(register: Register, bits: 8 | 16, endian: 'little' | 'big'): Register[] {
  const count = register.bits / bits;
  const names = count === 2 ? ['L', 'H'] : ['0', '1', '2', '3'];
  const share = (value: number, k: number): number => Math.floor(value / 2 ** (k * bits)) % 2 ** bits;
  return Array.from({ length: count }, (_, k): Register => {
    const bytes = (endian === 'little' ? k : count - 1 - k) * (bits / 8);
    const { always, documentAddress } = register;
    return {
      ...register,
      name: `${register.name}_${names[k]}`,
      title: `${register.title}${register.title ? ', ' : ''}bits ${k * bits}…${(k + 1) * bits - 1}`,
      address: register.address + bytes,
      ...(documentAddress === undefined ? {} : { documentAddress: documentAddress + bytes }),
      bits,
      reset: share(register.reset, k),
      unknownReset: share(register.unknownReset, k),
      readOnlyMask: share(register.readOnlyMask, k),
      flagMask: share(register.flagMask, k),
      ...(always ? { always: { value: share(always.value, k), mask: share(always.mask, k) } } : {}),
      guards: [],
      locks: [],
      overlaps: [],
    };
  });
}

interface ParsedRegister {
  offset: Expression;
  index?: Expression;
  access: Access;
  follows?: Follows;
  always?: { value: number; mask: number };
}

const parseRegister = (source: RegisterSource): ParsedRegister => ({
  offset: parseExpression(source.offset),
  index: source.index === undefined ? undefined : parseExpression(source.index),
  access: parseAccess(source.access),
  follows: source.follows === undefined ? undefined : parseFollows(source.follows),
  always: source.always === undefined ? undefined : parseAlways(source.always),
});

const fillName = (template: string, instance: Instance): string =>
  template.replace(/\{(port|pad|peripheral|signal)\}/g, instance.key);

function resetOf(
  source: RegisterSource,
  instance: string,
  i: number,
): Pick<Register, 'reset' | 'unknownReset'> {
  const reset = source.reset ?? '0';
  const entry = typeof reset === 'string' ? reset : (reset[instance] ?? reset['*'] ?? '0');
  const { value, unknown } = parseReset(typeof entry === 'string' ? entry : (entry[i] ?? '0'), source.bits);
  return { reset: value, unknownReset: unknown };
}
