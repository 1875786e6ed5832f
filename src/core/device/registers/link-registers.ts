import { LIMITS, limitText } from '../../base/limits';
import { onlyFirst, type Problems } from '../../base/problems';
import { didYouMean } from '../../base/text/near';
import { attempt } from '../../description/language/attempt';
import {
  type Expression,
  ExpressionError,
  evaluate,
  type Scope,
} from '../../description/language/expression';
import type { Context } from '../../description/language/scope';
import {
  type Access,
  type BitSource,
  parseGuard,
  parseShows,
  parseWritableWhere,
} from '../../description/language/statement';
import type { BlockSource, GuardSource, RegisterSource } from '../../description/recipe';
import type { DeviceDescription } from '../../description/types';
import { arrayKey, type Instance, instancesOf, isThere, type RegisterArrays } from './instances';
import { hasClauses, linkClauses } from './link-clauses';
import { fullMask, heldBits, type Register, type RegisterMap, shownMask } from './types';

/** Resolves what registers say about each other: set/clear targets, keys, follows, commit bits, guards. */
export function linkRegisters(
  device: DeviceDescription,
  map: RegisterMap,
  arrays: RegisterArrays,
  scopeOf: (context: Context) => Scope,
  problems: Problems,
): void {
  const { blocks, guards = [] } = device.recipe.registers;
  const linker: Linker = { device, map, arrays, scopeOf, openings: 0 };
  for (const block of blocks) {
    const ofSource = new Map(block.registers.map((source) => [source, onlyFirst(problems)]));
    for (const instance of instancesOf(device, block)) {
      for (const [source, first] of ofSource) {
        const place = `recipe, block ${block.id}, register ${source.id}`;
        attempt(() => linkOne(linker, block, source, instance), place, first);
      }
    }
  }
  settleResets(linker);
  for (const [position, guard] of guards.entries()) {
    attempt(() => linkGuard(linker, guard), `recipe, guard ${position + 1}`, problems);
  }
}

/** What follows another register, and has no reset value of its own, has that of what it follows; so have bits that are shown. */
function settleResets({ device, map }: Linker): void {
  const stated = new Set(
    device.recipe.registers.blocks.flatMap((block) =>
      block.registers.flatMap((one) => (one.reset === undefined ? [] : [`${block.id}.${one.id}`])),
    ),
  );
  const followers = map.all.flatMap((register) =>
    register.follows && stated.has(`${register.block}.${register.id}`) ? [] : register.followers,
  );
  // What is shown may be shown itself.
  for (let round = 0; round < 4; round++) {
    for (const { register, mask, source, shift, inverted } of followers) {
      const moved = (bits: number): number => (shift >= 0 ? bits << shift : bits >>> -shift) & mask;
      const unknown = moved(source.unknownReset);
      const value = (inverted ? mask & ~moved(source.reset) : moved(source.reset)) & ~unknown;
      register.reset = ((register.reset & ~mask) | value) >>> 0;
      register.unknownReset = ((register.unknownReset & ~mask) | unknown) >>> 0;
    }
  }
}

interface Linker {
  device: DeviceDescription;
  map: RegisterMap;
  arrays: RegisterArrays;
  scopeOf: (context: Context) => Scope;
  /** Pairs of a key or guard and what it opens, so far. */
  openings: number;
}

function countOpenings(linker: Linker, more: number): void {
  linker.openings += more;
  if (linker.openings > LIMITS.openings)
    throw new ExpressionError(
      `keys, guards, overlaps and clauses name too much: at most ${limitText('openings')} are taken`,
      1,
    );
}

/** The registers an access touches: of a register in pieces, the pieces. */
const onBus = (register: Register): Register[] => register.pieces ?? [register];

function linkOne(linker: Linker, block: BlockSource, source: RegisterSource, instance: Instance): void {
  const array = linker.arrays.get(arrayKey(block.id, source.id, instance.key)) ?? [];
  const beside = (id: string, i: number): Register => {
    const others = linker.arrays.get(arrayKey(block.id, id, instance.key));
    const found = others?.[Math.min(i, others.length - 1)];
    if (!found)
      throw new ExpressionError(
        `there is no register ${id} beside it${didYouMean(
          id,
          block.registers.map((each) => each.id),
        )}`,
        1,
      );
    return found;
  };
  array.forEach((register, i) => {
    const { access, follows } = register;
    linkTarget(register, (id) => beside(id, i));
    if (access.kind === 'key') {
      register.opens = access.opens.flatMap((name) => registersNamed(linker, block, instance, name));
      countOpenings(linker, register.opens.length);
      for (const other of register.opens) other.locks.push(register);
    }
    if (follows?.kind === 'register') linkFollower(register, beside(follows.register, i), follows);
    if (follows?.kind === 'pads' && follows.invertedBy !== undefined)
      register.inverter = beside(follows.invertedBy, i);
    linkShows(linker, register, source, instance, (id) => beside(id, i));
    if (hasClauses(source))
      register.clauses = linkClauses(source, {
        device: linker.device,
        arrays: linker.arrays,
        block,
        instance,
        scope: linker.scopeOf({ ...instance.context, i }),
        i,
        register,
        count: (reached) => countOpenings(linker, reached),
      });
    if (source.overlaps !== undefined) {
      const names = source.overlaps.split(',').map((name) => name.trim());
      register.overlaps = names.flatMap((name) => registersNamed(linker, block, instance, name));
      countOpenings(linker, register.overlaps.length);
      for (const piece of register.pieces ?? []) piece.overlaps = register.overlaps;
    }
    if (source.writableWhere !== undefined) linkCommit(register, source.writableWhere, (id) => beside(id, i));
  });
}

function linkFollower(
  register: Register,
  source: Register,
  { inverted, afterCycles }: { inverted: boolean; afterCycles: number },
): void {
  register.target = source;
  register.followers = [
    { register, mask: fullMask(heldBits(register)), source, shift: 0, inverted, afterCycles },
  ];
}

/** Bits that show a pad or another bit: they are nobody's to write, and their values out of reset follow from what they show. */
function linkShows(
  linker: Linker,
  register: Register,
  source: RegisterSource,
  { context }: Instance,
  beside: (id: string) => Register,
): void {
  const scope = linker.scopeOf(context);
  for (const text of source.shows ?? []) {
    if (register.pieces)
      throw new ExpressionError(
        `${register.name} is in pieces; a bit that shows something needs it whole`,
        1,
      );
    const { bit: place, of } = parseShows(text);
    const bitIn = (one: Register, expression: Expression): number => {
      const bit = evaluate(expression, scope);
      if (bit < 0 || bit >= heldBits(one)) throw new ExpressionError(`bit ${bit} is outside ${one.name}`, 1);
      return bit;
    };
    const resolve = (from: BitSource): { register: Register; bit: number } => {
      const one = from.register === undefined ? register : beside(from.register);
      return { register: one, bit: bitIn(one, from.bit) };
    };
    const bit = bitIn(register, place);
    const mask = (1 << bit) >>> 0;
    if ((shownMask(register) & mask) !== 0)
      throw new ExpressionError(`bit ${bit} of ${register.name} shows two things`, 1);
    register.readOnlyMask = (register.readOnlyMask | mask) >>> 0;
    if (of.kind === 'pad') {
      if (!context.pad && context.port === undefined)
        throw new ExpressionError('a level is shown in a block for each pad or port', 1);
      const invertedBy = of.invertedBy && resolve(of.invertedBy);
      register.levels.push({ bit, inverted: of.inverted, ...(invertedBy ? { invertedBy } : {}) });
      register.reset = (register.reset & ~mask) >>> 0;
      register.unknownReset = (register.unknownReset | mask) >>> 0;
    } else {
      const from = resolve(of.source);
      const { inverted, afterCycles } = of;
      const shift = bit - from.bit;
      register.followers.push({ register, mask, source: from.register, shift, inverted, afterCycles });
    }
  }
}

/** The register that this one acts on. */
function linkTarget(register: Register, beside: (id: string) => Register): void {
  const { access } = register;
  switch (access.kind) {
    case 'set':
    case 'clear':
    case 'toggle':
    case 'set-clear':
    case 'alias':
      register.target = beside(access.of);
      break;
    case 'act':
      register.target = beside(access.to);
      register.from = beside(access.from);
      break;
    default:
      return;
  }
  const aliased = access.kind === 'alias' ? register.target.access.kind : 'read-write';
  if (aliased !== 'read-write' && aliased !== 'read')
    throw new ExpressionError(
      `${register.target.name} is ${aliased}; an alias is of a register that can be read`,
      1,
    );
  const acted = [register.target, ...(register.from ? [register.from] : [])];
  for (const one of acted) {
    if (!holdsOwnBits(one))
      throw new ExpressionError(`${one.name} holds no bits for ${register.name} to act on`, 1);
    if (one.pieces) throw new ExpressionError(`${one.name} is in pieces; ${register.name} needs it whole`, 1);
  }
  const needed = access.kind === 'set-clear' ? register.bits / 2 : register.bits;
  if (access.kind === 'set-clear' ? needed > heldBits(register.target) : needed !== register.target.bits) {
    throw new ExpressionError(
      `${register.name} reaches ${needed} bits, but ${register.target.name} has ${register.target.bits}`,
      1,
    );
  }
}

const HOLDING: ReadonlySet<Access['kind']> = new Set(['read-write', 'read', 'write', 'masked', 'internal']);
const holdsOwnBits = ({ access }: Register): boolean =>
  HOLDING.has(access.kind) || (access.kind === 'clauses' && access.holds);

/** `R` beside it, `BLOCK.R` or `BLOCK.*` in every instance of another block. */
function registersNamed(linker: Linker, block: BlockSource, instance: Instance, name: string): Register[] {
  const [otherBlock, id] = name.includes('.') ? name.split('.') : [block.id, name];
  const other = linker.device.recipe.registers.blocks.find((one) => one.id === otherBlock);
  const instances = other === block ? [instance] : other ? instancesOf(linker.device, other) : [];
  const ids = id === '*' ? (other?.registers ?? []).map((one) => one.id) : [id ?? ''];
  const opened = instances.flatMap(({ key }) =>
    ids.flatMap((one) => linker.arrays.get(arrayKey(otherBlock ?? '', one, key)) ?? []),
  );
  if (opened.length === 0) throw new ExpressionError(`there is no register ${name}`, 1);
  return opened.flatMap(onBus);
}

function linkCommit(register: Register, text: string, beside: (id: string) => Register): void {
  const { register: id, from, bitsEach, openAt } = parseWritableWhere(text);
  const commit = beside(id);
  // Lock bits in the register itself are there for the bits below them.
  const needed = commit === register ? from * bitsEach : register.bits;
  if ((commit.bits - from) * bitsEach < needed) {
    throw new ExpressionError(`${commit.name} has too few bits for ${register.name}`, 1);
  }
  if (register.pieces)
    throw new ExpressionError(`${register.name} is in pieces; commit bits need it whole`, 1);
  register.commit = { register: commit, from, bitsEach, openAt };
}

function linkGuard(linker: Linker, guard: GuardSource): void {
  const block = linker.device.recipe.registers.blocks.find((candidate) => candidate.id === guard.block);
  const { ref, openAt } = parseGuard(guard.openWhen);
  if (!block) throw new ExpressionError(`there is no block ${guard.block}`, 1);
  if (!ref.low) throw new ExpressionError('a guard is a register bit, e.g. "GATE.READY bit port.gate"', 1);
  const ids = guard.registers ?? block.registers.map((one) => one.id);
  for (const id of ids) {
    if (!block.registers.some((one) => one.id === id))
      throw new ExpressionError(`there is no register ${block.id}.${id}`, 1);
  }
  for (const instance of instancesOf(linker.device, block)) {
    if (!isThere(linker.device, guard.has, instance)) continue;
    const register = linker.map.find(ref.block, ref.register, instance.context);
    if (!register) throw new ExpressionError(`there is no register ${ref.block}.${ref.register}`, 1);
    const bit = evaluate(ref.low, linker.scopeOf(instance.context));
    const { holder, at } = bitWithin(register, bit);
    if (!holdsOwnBits(holder))
      throw new ExpressionError(`${register.name} holds no bits that a guard could look at`, 1);
    for (const id of ids) {
      for (const guarded of linker.arrays.get(arrayKey(block.id, id, instance.key)) ?? []) {
        countOpenings(linker, 1);
        for (const one of onBus(guarded))
          one.guards.push({ register: holder, bit: at, openAt, stops: guard.stops ?? 'all' });
      }
    }
  }
}

/** A bit of a register, in the piece that it lies in where the bus reaches the register in pieces. */
function bitWithin(register: Register, bit: number): { holder: Register; at: number } {
  if (bit < 0 || bit >= heldBits(register))
    throw new ExpressionError(`bit ${bit} is outside ${register.name}`, 1);
  const piece = register.pieces?.[Math.floor(bit / (register.pieces[0]?.bits ?? 32))];
  return piece ? { holder: piece, at: bit % piece.bits } : { holder: register, at: bit };
}
