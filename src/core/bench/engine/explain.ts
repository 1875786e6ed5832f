import { hexText } from '../../base/text/hex';
import type { Derived } from '../../derive/derive';
import { voltsText } from '../../derive/electrical/limits';
import type { Operation } from '../../derive/machine/operations';
import { bitsOf, type Machine } from '../../derive/machine/state';
import { titleOn } from '../../device/available';
import type { Device } from '../../device/device';
import { fullMask, type Register } from '../../device/registers/types';
import type { PadState } from '../pads/pad-state';
import {
  ANALOG,
  BETWEEN,
  byOf,
  CONTENTION,
  FLOATING,
  HIGH,
  levelOf,
  NOBODY,
  OUTSIDE,
  STRONG,
  UNKNOWN,
  WEAK,
} from '../trace/lanes';

/** A pad's electrical state in a few words: "strong high", "weak high", "high-Z", "analog". */
export function stateWords(code: number): string {
  const [level, by] = [levelOf(code), byOf(code)];
  if (by === CONTENTION) return 'contention';
  if (by === ANALOG) return 'analog';
  if (level === FLOATING) return 'high-Z';
  const word =
    level === HIGH ? 'high' : level === BETWEEN ? 'between' : level === UNKNOWN ? 'not known' : 'low';
  switch (by) {
    case STRONG:
      return level === UNKNOWN ? 'driven, not known' : `strong ${word}`;
    case WEAK:
      return `weak ${word}`;
    case OUTSIDE:
      return `outside ${word}`;
    case NOBODY:
      return word;
    default:
      return word;
  }
}

/** A voltage, where there is one. */
export const voltsWords = (volts: number): string =>
  Number.isNaN(volts)
    ? 'no voltage'
    : volts > 1000
      ? 'voltage not known'
      : voltsText(Math.abs(volts) < 1e-3 ? 0 : volts);

/** What registers make of a pad, in words: "output high, push-pull", "function UART1.TX". */
export function padWords(device: Device, state: PadState): string {
  if (state.use === 'unknown') return 'not known';
  const head = state.use === 'function' ? (state.fn?.signal ?? 'function') : state.use;
  const level = state.use === 'output' ? ` ${state.output === 'unknown' ? '?' : state.output}` : '';
  const settings = state.settings
    .filter(({ key }) => key !== 'level')
    .map(({ key, value }) => `${titleOn(device, key)} ${value ?? '?'}`);
  return [`${head}${level}`, ...settings].join(', ');
}

/** A register as text with the bits that are not known. */
export function registerText(machine: Machine, register: Register): string {
  const { known, value } = bitsOf(machine, register);
  const all = fullMask(register.bits);
  if ((known & all) >>> 0 === all) return hexText((value & all) >>> 0, register.bits);
  if ((known & all) === 0) return 'not known';
  const digits = Array.from({ length: register.bits / 4 }, (_, at) => {
    const shift = register.bits - 4 - at * 4;
    return ((known >>> shift) & 15) === 15 ? ((value >>> shift) & 15).toString(16).toUpperCase() : '?';
  });
  return `0x${digits.join('')}`;
}

/** Nets that an operation decides something for. */
export function netsOfOperation(
  derived: Derived,
  operation: Operation,
): { id: string; name: string; pad: string }[] {
  const seen = new Set<string>();
  return operation.pads.flatMap(({ pad }) => {
    if (seen.has(pad)) return [];
    seen.add(pad);
    const net = derived.byPad.get(pad)?.[0]?.net;
    return net ? [{ id: net.id, name: net.name, pad }] : [{ id: '', name: pad, pad }];
  });
}
