import { append } from '../../base/lists';
import type { Problems } from '../../base/problems';
import { didYouMean } from '../../base/text/near';
import { attempt } from '../../description/language/attempt';
import {
  type Expression,
  ExpressionError,
  evaluate,
  parseExpression,
  type Scope,
  variablesOf,
} from '../../description/language/expression';
import { parseHas } from '../../description/language/has';
import type { Context } from '../../description/language/scope';
import type { FieldPartSource, FieldSource } from '../../description/recipe';
import type { DeviceDescription, Pad, PadFunction } from '../../description/types';
import { maskOf, type Register, type RegisterMap } from '../registers/types';

/** Where (part of) a field's value lives: `bits` bits from `low`, holding the value's bits from `shift` upwards. */
export interface Slot {
  register: Register;
  low: number;
  bits: number;
  shift: number;
  /** Where these bits are written, when that is not where they are read. */
  through?: Register;
  /** Registers through which these bits can be changed without reading, when the part has them. */
  setBy?: Register;
  clearedBy?: Register;
  toggledBy?: Register;
}

export interface Field {
  id: string;
  width: number;
  shared: boolean;
  /** The position depends on the function chosen on the pad. */
  needsFunction: boolean;
  /** It depends on more of the function than its mux code. */
  needsSignal: boolean;
  /** Some pads do not have it. */
  conditional: boolean;
  /** Why a pad has none: "pad.pull is empty", in words. */
  condition?: string;
  /** What a pad that does not have it behaves like; the part's defaults when absent. */
  absent?: Expression;
  /** Places of the field for a pad; empty when the pad has no such field. Throws `ExpressionError`. */
  locate(pad: Pad, fn?: PadFunction): Slot[];
}

interface Part {
  block: string;
  register: string;
  at: Expression;
  bits: Expression;
  setBy: string | undefined;
  clearedBy: string | undefined;
  toggledBy: string | undefined;
}

const readPart = (source: FieldPartSource, whole: FieldSource): Part => {
  const [block = '', register = ''] = source.in.split('.');
  return {
    block,
    register,
    at: parseExpression(source.at),
    bits: parseExpression(String(source.bits)),
    setBy: source.setBy ?? whole.setBy,
    clearedBy: source.clearedBy ?? whole.clearedBy,
    toggledBy: source.toggledBy ?? whole.toggledBy,
  };
};

const OF_FUNCTION = /^(m$|(fn|signal|peripheral)\.)/;
const OF_SIGNAL = /^(fn|signal|peripheral)\./;

const partsOf = (source: FieldSource): FieldPartSource[] =>
  source.parts ?? [{ in: source.in ?? '', at: source.at ?? '0', bits: source.bits ?? 1 }];

/** Prepares one field; undefined (and problems) when its description cannot be read. */
export function compileField(
  id: string,
  source: FieldSource,
  device: DeviceDescription,
  registers: RegisterMap,
  scopeOf: (context: Context) => Scope,
  problems: Problems,
): Field | undefined {
  const place = `recipe, field ${id}`;
  const read = attempt(
    () => ({
      parts: partsOf(source).map((part) => readPart(part, source)),
      has: source.has === undefined ? undefined : parseHas(source.has),
      absent: source.absent === undefined ? undefined : parseExpression(String(source.absent)),
    }),
    place,
    problems,
  );
  if (!read) return undefined;
  const { parts, has } = read;
  const registerOf = (name: string) => {
    const [block, register] = name.split('.');
    const found = device.recipe.registers.blocks.find((candidate) => candidate.id === block);
    return { block: found, register: found?.registers.find((one) => one.id === register) };
  };
  const names = parts.map((part) => `${part.block}.${part.register}`);
  const ways = parts.flatMap((part) => [part.setBy, part.clearedBy, part.toggledBy]);
  for (const name of [...names, ...ways, source.through]) {
    if (name !== undefined && !registerOf(name).register) {
      const { blocks } = device.recipe.registers;
      const meant = didYouMean(
        name,
        blocks.flatMap(({ id, registers: list }) => list.map((each) => `${id}.${each.id}`)),
      );
      const known = `; the blocks are ${blocks.map(({ id }) => `${id}.*`).join(', ') || 'none'}`;
      problems.push({ place, message: `there is no register ${name}${meant || known}` });
      return undefined;
    }
  }
  const through = (name: string | undefined, context: Context): Register | undefined =>
    name === undefined ? undefined : registers.find(...(name.split('.') as [string, string]), context);
  const variables = new Set([
    ...parts.flatMap((part) => [...variablesOf(part.at), ...variablesOf(part.bits)]),
    ...(has?.variables ?? []),
  ]);
  const needsSignal =
    parts.some((part) => registers.needsFunction(part.block, part.register)) ||
    [...variables].some((name) => OF_SIGNAL.test(name));
  const needsFunction = needsSignal || [...variables].some((name) => OF_FUNCTION.test(name));
  const optional = names.map(registerOf).find(({ block, register }) => block?.has ?? register?.has);
  const condition = source.has ?? optional?.register?.has ?? optional?.block?.has;
  const widthIn = (context: Context): number =>
    parts.reduce((sum, part) => sum + evaluate(part.bits, scopeOf(context)), 0);
  return {
    id,
    width: widestOf(device, parts, widthIn),
    shared: source.shared === true,
    needsFunction,
    needsSignal,
    conditional: condition !== undefined && !needsFunction,
    ...(condition === undefined ? {} : { condition }),
    ...(read.absent ? { absent: read.absent } : {}),
    locate(pad, fn) {
      const context: Context = { pad, fn };
      if (has && !has.holds(scopeOf(context))) return [];
      const slots: Slot[] = [];
      let shift = 0;
      for (const part of parts) {
        const register = registers.find(part.block, part.register, context);
        if (!register) return [];
        const bits = evaluate(part.bits, scopeOf(context));
        if (bits < 1 || bits > 32)
          throw new ExpressionError(`a width of ${bits} bits is not from 1 to 32`, 1);
        const slot: Slot = {
          register,
          low: evaluate(part.at, scopeOf(context)),
          bits,
          shift,
          through: through(source.through, context),
          setBy: through(part.setBy, context),
          clearedBy: through(part.clearedBy, context),
          toggledBy: through(part.toggledBy, context),
        };
        append(slots, register.pieces ? overPieces(slot, register.pieces) : [slot]);
        shift += bits;
      }
      return slots;
    },
  };
}

/** The width of a field, or the greatest that it has on any pad, for any function. */
function widestOf(
  device: DeviceDescription,
  parts: readonly Part[],
  widthIn: (context: Context) => number,
): number {
  if (parts.every((part) => part.bits.kind === 'number')) return widthIn({});
  const pads = new Map(device.pads.map((pad) => [pad.id, pad]));
  const widths = [
    ...device.pads.map((pad) => ({ pad })),
    ...device.functions.map((fn) => ({ pad: pads.get(fn.pad), fn })),
  ].map((context) => {
    try {
      return widthIn(context as Context);
    } catch {
      // Where a column is empty the field is not there, or its place is told as a problem.
      return 0;
    }
  });
  return Math.min(
    32,
    widths.reduce((most, one) => Math.max(most, one), 1),
  );
}

/** A slot in a register that the bus reaches in pieces: one slot for each piece it lies in. */
function overPieces(slot: Slot, pieces: readonly Register[]): Slot[] {
  const width = pieces[0]?.bits ?? 1;
  const end = slot.low + slot.bits;
  if (slot.low < 0 || end > width * pieces.length) return [slot];
  return pieces.flatMap((piece, k): Slot[] => {
    const low = Math.max(slot.low, k * width);
    const high = Math.min(end, (k + 1) * width);
    if (low >= high) return [];
    return [
      {
        ...slot,
        register: piece,
        low: low - k * width,
        bits: high - low,
        shift: slot.shift + low - slot.low,
      },
    ];
  });
}

/** The slot's share of a field value, moved to its place in the register. */
export const placeValue = (slot: Slot, value: number): number =>
  ((Math.floor(value / 2 ** slot.shift) % 2 ** slot.bits) * 2 ** slot.low) >>> 0;

/** Reads a field's value out of registers. `contents` gives a register's current value. */
export function readField(slots: readonly Slot[], contents: (register: Register) => number): number {
  let value = 0;
  for (const slot of slots) {
    const raw = Math.floor(contents(slot.register) / 2 ** slot.low) % 2 ** slot.bits;
    value += raw * 2 ** slot.shift;
  }
  return value;
}

export const slotMask = (slot: Slot): number => maskOf(slot.low, slot.bits);
