import type { DeviceDescription, Pad, PadFunction } from '../device/types';
import type { Problem } from '../result';
import { type Expression, evaluate, parseExpression, type Scope, variablesOf } from './expression';
import { attempt, type Context, maskOf, type Register, type RegisterMap } from './registers';
import type { FieldPartSource, FieldSource } from './types';

/** Where (part of) a field's value lives: `bits` bits from `low`, holding the value's bits from `shift` upwards. */
export interface Slot {
  register: Register;
  low: number;
  bits: number;
  shift: number;
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
  problems: Problem[],
): Field | undefined {
  const place = `recipe, field ${id}`;
  const parts = attempt(() => partsOf(source).map(readPart), place, problems);
  if (!parts) return undefined;
  const known = (block: string, register: string): boolean =>
    device.recipe.registers.blocks.some(
      (candidate) => candidate.id === block && candidate.registers.some((one) => one.id === register),
    );
  const aliases = [source['set by'], source['cleared by'], source['toggled by']];
  for (const name of [...parts.map((part) => `${part.block}.${part.register}`), ...aliases]) {
    if (name !== undefined && !known(...(name.split('.') as [string, string]))) {
      problems.push({ place, message: `there is no register ${name}` });
      return undefined;
    }
  }
  const through = (name: string | undefined, context: Context): Register | undefined =>
    name === undefined ? undefined : registers.find(...(name.split('.') as [string, string]), context);
  const width = parts.reduce((sum, part) => sum + part.bits, 0);
  return {
    id,
    width,
    shared: source.shared === true,
    needsFunction: parts.some(
      (part) =>
        registers.needsFunction(part.block, part.register) ||
        [...variablesOf(part.at)].some((name) => /^(m$|fn\.|signal\.|peripheral\.)/.test(name)),
    ),
    locate(pad, fn) {
      const context: Context = { pad, fn };
      const slots: Slot[] = [];
      let shift = 0;
      for (const part of parts) {
        const register = registers.find(part.block, part.register, context);
        if (!register) return [];
        slots.push({
          register,
          low: evaluate(part.at, scopeOf(context)),
          bits: part.bits,
          shift,
          setBy: through(source['set by'], context),
          clearedBy: through(source['cleared by'], context),
          toggledBy: through(source['toggled by'], context),
        });
        shift += part.bits;
      }
      return slots;
    },
  };
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
