import type { Derived } from '../derive/derive';
import type { Decided } from '../derive/lower/work';
import type { ImageRegister } from '../derive/machine/operations';
import type { ResolvedNet } from '../derive/resolve/resolve';
import type { Device } from '../device/device';
import { fieldPlaces } from '../device/field-places';
import { blockOf } from '../device/registers/register-names';
import { maskOf, type Register } from '../device/registers/types';

/**
 * What the bits of a run are: planned for a pad, given a value by a statement of the recipe, of a pad that nobody planned, of no
 * known meaning, reserved with a value that every write must give them, or deaf to writes.
 */
export type RunKind = 'planned' | 'statement' | 'unplanned' | 'unknown' | 'reserved' | 'read-only';

/** Neighbouring bits of one meaning. */
export interface BitRun {
  low: number;
  bits: number;
  kind: RunKind;
  pad?: string;
  field?: string;
  /** The first net on the pad. */
  one?: ResolvedNet;
}

/** A register that the plan touches, bit by bit. */
export interface LensRegister {
  register: Register;
  reset: number;
  planned: number;
  /** Bits that the plan decides. */
  mask: number;
  /** From the highest bit down. */
  runs: BitRun[];
  /** Bytes from the first register of its block. */
  offset: number;
  /** Ports, pads or peripherals it belongs to, for filtering. */
  group: string;
}

/** Every register whose bits the plan decides, by address. */
export function lensRegisters(derived: Derived): LensRegister[] {
  const { device, lowered } = derived;
  const decided = new Map(lowered.decided.map((one) => [one.register, one]));
  const bases = blockBases(device);
  return lowered.image.map((image): LensRegister => {
    const { register, reset, planned, mask } = image;
    return {
      register,
      reset,
      planned,
      mask,
      runs: runsOf(derived, image, decided.get(register)),
      offset: register.address - (bases.get(blockOf(register)) ?? register.address),
      group: blockOf(register),
    };
  });
}

const knownBases = new WeakMap<Device, Map<string, number>>();

function blockBases(device: Device): Map<string, number> {
  let bases = knownBases.get(device);
  if (!bases) {
    bases = new Map();
    for (const register of device.registers.all) {
      if (register.access.kind === 'internal') continue;
      const block = blockOf(register);
      bases.set(block, Math.min(bases.get(block) ?? register.address, register.address));
    }
    knownBases.set(device, bases);
  }
  return bases;
}

function runsOf(derived: Derived, image: ImageRegister, decided: Decided | undefined): BitRun[] {
  const { register } = image;
  const { device, byPad } = derived;
  const owners = image.owners.map(({ low, bits, pad, field }) => ({ low, bits, pad, field }));
  const places = (fieldPlaces(device).get(register) ?? []).map(({ slot, pad, field }) => ({
    low: slot.low,
    bits: slot.bits,
    pad,
    field,
  }));
  const at = (list: typeof owners, bit: number) =>
    list.find(({ low, bits }) => low <= bit && bit < low + bits);
  const runs: BitRun[] = [];
  for (let bit = register.bits - 1; bit >= 0; bit--) {
    const mask = maskOf(bit, 1);
    const owner = at(owners, bit);
    const place = owner ?? at(places, bit);
    const kind: RunKind = owner
      ? 'planned'
      : (decided?.mask ?? 0) & mask
        ? 'statement'
        : register.readOnlyMask & mask
          ? 'read-only'
          : (register.always?.mask ?? 0) & mask
            ? 'reserved'
            : place
              ? 'unplanned'
              : 'unknown';
    const last = runs.at(-1);
    const own = kind === 'planned' || kind === 'unplanned' ? place : undefined;
    if (last && last.kind === kind && last.pad === own?.pad && last.field === own?.field) {
      last.low = bit;
      last.bits++;
      continue;
    }
    runs.push({
      low: bit,
      bits: 1,
      kind,
      ...(own ? { pad: own.pad, field: own.field } : {}),
      ...(own && byPad.get(own.pad)?.[0] ? { one: byPad.get(own.pad)?.[0] } : {}),
    });
  }
  return runs;
}

/** A number in the notations in which registers are written, each of the register's width. */
export interface NumberTexts {
  hex: string;
  binary: string;
  decimal: string;
}

export function numberTexts(value: number, bits: number): NumberTexts {
  const unsigned = value >>> 0;
  return {
    hex: `0x${unsigned
      .toString(16)
      .toUpperCase()
      .padStart(Math.ceil(bits / 4), '0')}`,
    binary: unsigned
      .toString(2)
      .padStart(bits, '0')
      .replace(/(?=(.{4})+$)(?!^)/g, ' '),
    decimal: String(unsigned),
  };
}
