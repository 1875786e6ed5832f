import { onlyFirst, type Problems } from '../../base/problems';
import { attempt } from '../../description/language/attempt';
import {
  type Expression,
  ExpressionError,
  evaluate,
  parseExpression,
  type Scope,
} from '../../description/language/expression';
import type { Context } from '../../description/language/scope';
import {
  type Access,
  type Follows,
  parseAccess,
  parseAlways,
  parseFollows,
  parseReset,
  parseReturns,
} from '../../description/language/statement';
import type { BlockSource, RegisterSource } from '../../description/recipe';
import type { DeviceDescription, PadFunction } from '../../description/types';
import { arrayKey, type Instance, instanceKey, instancesOf, isThere, type RegisterArrays } from './instances';
import { checkClauseKeys, hasClauses, holdsBits, isInClauses } from './link-clauses';
import { linkRegisters } from './link-registers';
import { layOutMemory } from './memory';
import { fullMask, type Register, type RegisterMap } from './types';

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
    checkOnePlace(device, block, [base, ...(document ? [document] : [])], scopeOf, place, problems);
    // What is wrong with the address of a block is told for the block, and not for each of its registers.
    const addressed = instancesOf(device, block).every(
      ({ context }) =>
        attempt(() => [evaluate(base, scopeOf(context))], `${place}, base`, problems) &&
        attempt(() => [document && evaluate(document, scopeOf(context))], `${place}, document`, problems),
    );
    if (!addressed) continue;
    for (const source of block.registers) {
      const where = `${place}, register ${source.id}`;
      const parsed = attempt(() => parseRegister(source), where, problems);
      if (!parsed) continue;
      const ofSource = onlyFirst(problems);
      if (parsed.index) indexExpressions.set(`${block.id}.${source.id}`, parsed.index);
      for (const instance of instancesOf(device, block)) {
        if (!isThere(device, source.has, instance)) continue;
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
                ...widthOf(source, parsed.access),
                ...resetOf(source, instance.key, i),
                access: parsed.access,
                follows: parsed.follows,
                guards: [],
                locks: [],
                overlaps: [],
                levels: [],
                followers: [],
                readOnlyMask: source.readOnly ? Number(source.readOnly) : 0,
                flagMask: Number(source.clearedByOne ?? 0),
                zeroFlagMask: Number(source.clearedByZero ?? 0),
                always: parsed.always,
                ...(parsed.returns ? { returns: parsed.returns } : {}),
                context: instance.context,
              };
              checkRegister(register, source);
              if (source.accessedBy) register.pieces = cut(register, source.accessedBy, device.recipe.endian);
              enter(register);
              array.push(register);
            }
            arrays.set(arrayKey(block.id, source.id, instance.key), array);
          },
          where,
          ofSource,
        );
      }
    }
  }

  const find = (blockId: string, id: string, context: Context, element?: number): Register | undefined => {
    const block = blocks.get(blockId);
    const key = block && instanceKey(block, context);
    if (key === undefined) return undefined;
    const array = arrays.get(arrayKey(blockId, id, key));
    if (!array) return undefined;
    const index = indexExpressions.get(`${blockId}.${id}`);
    return array[element ?? (index ? evaluate(index, scopeOf(context)) : 0)];
  };

  const map: RegisterMap = {
    all,
    endian: device.recipe.endian,
    inClauses: device.recipe.registers.blocks.some((block) => block.registers.some(hasClauses)),
    words: 0,
    byName,
    find,
    needsFunction: (block) => ['signal', 'peripheral'].includes(blocks.get(block)?.each ?? ''),
  };
  linkRegisters(device, map, arrays, scopeOf, problems);
  layOutMemory(map, device.recipe.endian, problems);
  return map;
}

/** A register of a signal or peripheral is at one place, whichever of its rows says where: rows that disagree are told. */
function checkOnePlace(
  device: DeviceDescription,
  block: BlockSource,
  expressions: readonly Expression[],
  scopeOf: (context: Context) => Scope,
  place: string,
  problems: Problems,
): void {
  if (block.each !== 'signal' && block.each !== 'peripheral') return;
  const known = new Map<string, { at: number; fn: PadFunction }>();
  const told = new Set<string>();
  for (const fn of device.functions) {
    const key = instanceKey(block, { fn }) ?? '';
    for (const [index, expression] of expressions.entries()) {
      let at: number;
      try {
        at = evaluate(expression, scopeOf({ fn }));
      } catch {
        // Rows that do not say are none that disagree; where none says, that is told elsewhere.
        continue;
      }
      const first = known.get(`${index} ${key}`);
      if (!first) known.set(`${index} ${key}`, { at, fn });
      else if (first.at !== at && !told.has(key)) {
        told.add(key);
        problems.push({
          place: `${place}, ${index === 0 ? 'base' : 'document'}`,
          message: `rows of ${key} disagree: ${rowWords(first.fn)} and ${rowWords(fn)} give ${first.at} and ${at}; one register cannot be at two places`,
        });
      }
    }
  }
}

const rowWords = ({ pad, signal, columns, source }: PadFunction): string => {
  const numbers = Object.entries(columns ?? {}).map(([name, value]) => `${name} ${value}`);
  return `${signal} on ${pad}${numbers.length > 0 ? ` (${numbers.join(', ')})` : ''}${source?.row === undefined ? '' : ` in row ${source.row}`}`;
};

/** The width on the bus, and of internal state its own. */
function widthOf({ id, bits }: RegisterSource, { kind }: Access): Pick<Register, 'bits' | 'width'> {
  for (const width of [8, 16, 32] as const) {
    if (bits === width) return { bits: width };
    if (kind === 'internal' && bits < width) return { bits: width, width: bits };
  }
  throw new ExpressionError(
    `${id} has ${bits} bits; the bus has 8, 16 or 32, and only internal state has others`,
    1,
  );
}

function checkRegister(register: Register, source: RegisterSource): void {
  const { name, bits } = register;
  const tooLarge = (value: number | undefined): boolean => (value ?? 0) > fullMask(register.width ?? bits);
  if (!Number.isInteger(register.reset) || tooLarge(register.reset) || tooLarge(register.unknownReset))
    throw new ExpressionError(`reset value of ${name} does not fit ${bits} bits`, 1);
  const { flagMask, zeroFlagMask } = register;
  if ([register.readOnlyMask, register.always?.mask, flagMask, zeroFlagMask].some(tooLarge))
    throw new ExpressionError(`a mask of ${name} does not fit ${bits} bits`, 1);
  const { returns, access } = register;
  if (returns && tooLarge(returns.value))
    throw new ExpressionError(`what ${name} returns to does not fit ${bits} bits`, 1);
  if (returns && access.kind !== 'internal' && !(access.kind === 'clauses' && access.holds))
    throw new ExpressionError(
      `${name} is ${access.kind}; "returns to" is said of internal state, or of what clauses hold`,
      1,
    );
  if (returns && (register.follows || source.shows))
    throw new ExpressionError(`${name} cannot both follow something and return to a value`, 1);
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
  if ((flagMask & zeroFlagMask) !== 0)
    throw new ExpressionError(`flags of ${name} cannot both be cleared by 1 and by 0`, 1);
  if ((flagMask | zeroFlagMask) !== 0 && register.access.kind !== 'read-write')
    throw new ExpressionError(`${name} is ${register.access.kind}; flags stand in a read-write register`, 1);
  const piece = source.accessedBy;
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
      zeroFlagMask: share(register.zeroFlagMask, k),
      ...(always ? { always: { value: share(always.value, k), mask: share(always.mask, k) } } : {}),
      guards: [],
      locks: [],
      overlaps: [],
      levels: [],
      followers: [],
    };
  });
}

interface ParsedRegister {
  offset: Expression;
  index?: Expression;
  access: Access;
  follows?: Follows;
  always?: { value: number; mask: number };
  returns?: { value: number; afterCycles: number };
}

function parseRegister(source: RegisterSource): ParsedRegister {
  checkClauseKeys(source);
  return {
    offset: parseExpression(source.offset),
    index: source.index === undefined ? undefined : parseExpression(source.index),
    access: isInClauses(source) ? { kind: 'clauses', holds: holdsBits(source) } : parseAccess(source.access),
    follows: source.follows === undefined ? undefined : parseFollows(source.follows),
    always: source.always === undefined ? undefined : parseAlways(source.always),
    returns: source.returnsTo === undefined ? undefined : parseReturns(source.returnsTo),
  };
}

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
