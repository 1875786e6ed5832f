import type { Unapplied } from '../description/corrections';
import type { Scope } from '../description/language/expression';
import type { Has } from '../description/language/has';
import type { Context } from '../description/language/scope';
import type { Statement } from '../description/language/statement';
import type { StageSource } from '../description/recipe';
import type { PadSettings } from '../description/settings';
import type {
  DeviceDescription,
  LineKind,
  Package,
  Pad,
  PadFunction,
  PadId,
  PeripheralKind,
  PinNumber,
  SignalId,
} from '../description/types';
import type { Between } from './fields/between';
import type { EncodeRule } from './fields/encode';
import type { Alike, Exclude, WordSets } from './fields/excludes';
import type { Field, Slot } from './fields/fields';
import type { Invariant } from './fields/invariants';
import type { RegisterMap } from './registers/types';

export interface Stage
  extends Omit<StageSource, 'do' | 'after' | 'beforeEach' | 'afterEach' | 'inTurn' | 'where' | 'for'> {
  /** Settings of the pads that it is for; absent: all pads. */
  for?: WordSets;
  /** Before and after its fields. */
  statements: Statement[];
  endStatements: Statement[];
  beforeEach: Statement[];
  afterEach: Statement[];
  inTurn: boolean;
  where?: Has;
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
  /** What settings may be for a moment on the way. */
  between: Between[];
  /** What is not to be had together, and what no bit tells apart. */
  excludes: Exclude[];
  alike: Alike[];
  scopeOf(context: Context): Scope;
  /** Registers tell signals apart beyond their mux codes: settings then name the signal. */
  tellsSignals: boolean;
  /** What settings say about the chosen function. */
  selection(fn: PadFunction | undefined): Pick<PadSettings, 'mux' | 'signal'>;
  /** Whether a pad does not have a field that others have. */
  lacksField(field: string, pad: Pad): boolean;
  /** Field positions of a pad, remembered. */
  slotsOf(field: string, pad: Pad, fn?: PadFunction): Slot[];
}
