import type { Derived } from '../../derive/derive';
import { currentLimit } from '../../derive/electrical/limits';
import { supplyOf } from '../../derive/resolve/budget';
import type { ResolvedNet } from '../../derive/resolve/resolve';
import { ExpressionError } from '../../description/language/expression';
import type { Pad } from '../../description/types';
import type { Device } from '../../device/device';
import { type InterruptLine, interruptLine } from '../../device/interrupt-lines';
import { followsInverted, levelsBehind } from '../../device/registers/levels';
import type { Register } from '../../device/registers/types';
import type { Net } from '../../plan/model/types';
import { USUAL_VOLTS } from '../attached/defaults';
import { driver, type Element, toRail } from '../circuit/elements';
import { type PadReader, padReader, type Thresholds, thresholdsOf } from '../pads/pad-state';

/** A pad on the bench: a node of the circuit, what registers make of it, and what shows its level. */
export interface BenchPad {
  index: number;
  pad: Pad;
  /** The first net on it, where there is one. */
  net?: Net;
  resolved?: ResolvedNet;
  reader: PadReader;
  supplyVolts: number;
  thresholds: Thresholds;
  toleratesVolts: number | undefined;
  /** Currents that it may give and take at the drive that it is planned with, in amperes. */
  mayGive: number | undefined;
  mayTake: number | undefined;
  /** Its output stage and its pull resistor, open while they are off. */
  stage: Element;
  pull: Element;
  farads: number;
  /** Bits that show its level. */
  shows: readonly ShownBit[];
  /** The bit that is set when its interrupt happens. */
  flag: { register: Register; bit: number } | undefined;
  line: InterruptLine | undefined;
}

export interface ShownBit {
  register: Register;
  bit: number;
  inverted: boolean;
  by?: { register: Register; bit: number };
}

export function benchPad(derived: Derived, pad: Pad, index: number, one: ResolvedNet | undefined): BenchPad {
  const { device } = derived;
  const supplyVolts = supplyOf(device, pad)?.nominalVolts ?? USUAL_VOLTS;
  const { net, planned, fn } = one ?? {};
  const drive = planned?.settings.values.drive;
  const amperes = (side: 'source' | 'sink'): number | undefined => {
    const limit = currentLimit(device, pad, side, drive);
    return limit === undefined ? undefined : limit / 1000;
  };
  const line = interruptLine(device, pad);
  return {
    index,
    pad,
    ...(net ? { net } : {}),
    ...(one ? { resolved: one } : {}),
    reader: padReader(device, pad, fn),
    supplyVolts,
    thresholds: thresholdsOf(device, pad, supplyVolts),
    toleratesVolts: device.description.padClasses[pad.class ?? '']?.toleratesVolts,
    mayGive: amperes('source'),
    mayTake: amperes('sink'),
    stage: driver(index, 0, Number.POSITIVE_INFINITY),
    pull: toRail(index, 0, Number.POSITIVE_INFINITY),
    farads: 0,
    shows: shownBits(device, pad, one),
    flag: flagOf(device, pad, one),
    line: line === 'none' ? undefined : line,
  };
}

/** The bits in which a pad's level is read. */
function shownBits(device: Device, pad: Pad, one: ResolvedNet | undefined): ShownBit[] {
  const { level } = device.description.recipe.access;
  if (level === undefined || device.fields.get(level)?.needsFunction) return [];
  return device.slotsOf(level, pad, one?.fn).map(({ register, low }): ShownBit => {
    const levels = levelsBehind(device.registers, register);
    if (levels) return { register: levels, bit: pad.bit ?? 0, inverted: followsInverted(levels) };
    const own = register.levels.find((bit) => bit.bit === low);
    if (own)
      return {
        register,
        bit: low,
        inverted: own.inverted,
        ...(own.invertedBy ? { by: own.invertedBy } : {}),
      };
    return {
      register,
      bit: low,
      inverted: followsInverted(register),
      ...(register.inverter ? { by: { register: register.inverter, bit: low } } : {}),
    };
  });
}

function flagOf(device: Device, pad: Pad, one: ResolvedNet | undefined): BenchPad['flag'] {
  const { pending } = device.description.recipe.access;
  if (pending === undefined) return undefined;
  try {
    const [slot, other] = device.slotsOf(pending, pad, one?.fn);
    return slot && !other && slot.bits === 1 ? { register: slot.register, bit: slot.low } : undefined;
  } catch (error) {
    if (!(error instanceof ExpressionError)) throw error;
    return undefined;
  }
}

/** What a pad is called: by its net, where it has one. */
export const nameOf = ({ net, pad }: Pick<BenchPad, 'net' | 'pad'>): string => net?.name ?? pad.id;
