import type { Unapplied } from '../description/corrections';
import type { Expression, Scope } from '../description/language/expression';
import type { Context } from '../description/language/scope';
import type { Statement } from '../description/language/statement';
import type { StageSource } from '../description/recipe';
import type { PadSettings, SettingKey } from '../description/settings';
import type {
  DeviceDescription,
  Lack,
  LineKind,
  Package,
  Pad,
  PadFunction,
  PadId,
  PeripheralKind,
  PinNumber,
  SignalId,
} from '../description/types';
import type { EncodeRule } from './fields/encode';
import type { Field, Slot } from './fields/fields';
import type { Invariant } from './fields/invariants';
import type { RegisterMap } from './registers/types';

export interface Stage extends Omit<StageSource, 'do' | 'before each' | 'where'> {
  statements: Statement[];
  beforeEach: Statement[];
  where?: Expression;
}

/** A description made ready for work: everything looked up once, all expressions parsed. Immutable but for its caches. */
export interface Device {
  /** With the corrections laid over it: what everything works from. */
  description: DeviceDescription;
  /** As the documents have it. */
  original: DeviceDescription;
  /** Corrections that found something other than what they correct. */
  unapplied: Unapplied[];
  fingerprint: string;
  pads: Map<PadId, Pad>;
  packages: Map<string, Package>;
  /** For each package, pad → pins it is bonded to. */
  pinsOf: Map<string, Map<PadId, PinNumber[]>>;
  functionsByPad: Map<PadId, PadFunction[]>;
  functionsBySignal: Map<SignalId, PadFunction[]>;
  kindOf(signal: SignalId): PeripheralKind | undefined;
  lineOf(signal: SignalId): LineKind | undefined;
  registers: RegisterMap;
  fields: Map<string, Field>;
  rules: EncodeRule[];
  stages: Stage[];
  invariants: Invariant[];
  scopeOf(context: Context): Scope;
  /** Registers tell signals apart beyond their mux codes: settings then name the signal. */
  tellsSignals: boolean;
  /** What settings say about the chosen function. */
  selection(fn: PadFunction | undefined): Pick<PadSettings, 'mux' | 'signal'>;
  /** Field positions of a pad, remembered. */
  slotsOf(field: string, pad: Pad, fn?: PadFunction): Slot[];
}

/** Why a pad does not have a value of a setting; undefined when it has it. */
export function lackOf(device: Device, pad: Pad, key: SettingKey, value: string): string | undefined {
  const known = device.description.recipe.settings[key];
  if (!known) return `the ${device.description.name} has no such setting`;
  if (!known.includes(value)) return `the ${device.description.name} offers ${known.join(', ')}`;
  const lacks: Lack[] = device.description.padClasses[pad.class ?? '']?.lacks ?? [];
  return lacks.find((lack) => lack.setting === key && lack.values.includes(value))?.why;
}

/** The values of a setting that a pad has, in the part's order. */
export const valuesOn = (device: Device, pad: Pad, key: SettingKey): string[] =>
  (device.description.recipe.settings[key] ?? []).filter((value) => !lackOf(device, pad, key, value));
