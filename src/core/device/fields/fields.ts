import type { Problems } from '../../base/problems';
import { attempt } from '../../description/language/attempt';
import {
  type Expression,
  evaluate,
  parseExpression,
  type Scope,
  variablesOf,
} from '../../description/language/expression';
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
  /** Places of the field for a pad; empty when the pad has no such field. Throws `ExpressionError`. */
  locate(pad: Pad, fn?: PadFunction): Slot[];
}

interface Part {
  block: string;
  register: string;
  at: Expression;
  bits: number;
}

const readPart = (source: FieldPartSource): Part => {
  const [block = '', register = ''] = source.in.split('.');
  return { block, register, at: parseExpression(source.at), bits: source.bits };
};

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
  const parts = attempt(() => partsOf(source).map(readPart), place, problems);
  if (!parts) return undefined;
  const known = (block: string, register: string): boolean =>
    device.recipe.registers.blocks.some(
      (candidate) => candidate.id === block && candidate.registers.some((one) => one.id === register),
    );
  const aliases = [source['set by'], source['cleared by'], source['toggled by'], source.through];
  for (const name of [...parts.map((part) => `${part.block}.${part.register}`), ...aliases]) {
    if (name !== undefined && !known(...(name.split('.') as [string, string]))) {
      problems.push({ place, message: `there is no register ${name}` });
      return undefined;
    }
  }
  const through = (name: string | undefined, context: Context): Register | undefined =>
    name === undefined ? undefined : registers.find(...(name.split('.') as [string, string]), context);
  const width = parts.reduce((sum, part) => sum + part.bits, 0);
  const needsSignal = parts.some(
    (part) =>
      registers.needsFunction(part.block, part.register) ||
      [...variablesOf(part.at)].some((name) => /^(fn|signal|peripheral)\./.test(name)),
  );
  return {
    id,
    width,
    shared: source.shared === true,
    needsFunction: needsSignal || parts.some((part) => variablesOf(part.at).has('m')),
    needsSignal,
    locate(pad, fn) {
      const context: Context = { pad, fn };
      const slots: Slot[] = [];
      let shift = 0;
      for (const part of parts) {
        const register = registers.find(part.block, part.register, context);
        if (!register) return [];
        const slot: Slot = {
          register,
          low: evaluate(part.at, scopeOf(context)),
          bits: part.bits,
          shift,
          through: through(source.through, context),
          setBy: through(source['set by'], context),
          clearedBy: through(source['cleared by'], context),
          toggledBy: through(source['toggled by'], context),
        };
        slots.push(...(register.pieces ? overPieces(slot, register.pieces) : [slot]));
        shift += part.bits;
      }
      return slots;
    },
  };
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
