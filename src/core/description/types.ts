import type { RecipeSource } from './recipe';
import type { LineKey } from './settings';
import type { Source } from './source';

export type PadId = string & { readonly brand?: 'PadId' };
export type PinNumber = string & { readonly brand?: 'PinNumber' };
export type SignalId = string & { readonly brand?: 'SignalId' };
export const DEVICE_FORMAT = 'mavrek-device/3';
export const PAD_KINDS = [
  'io',
  'supply',
  'ground',
  'reset',
  'clock',
  'strap',
  'debug-only',
  'analog-only',
  'usb',
  'flash',
  'reference',
  'no-bond',
  'no-connect',
] as const;
export type PadKind = (typeof PAD_KINDS)[number];

export interface Pad {
  id: PadId;
  kind: PadKind;
  /** Port name as printed in the data sheet; absent on pads that no port register reaches. */
  port?: string;
  /** Index within the port, 0-based. */
  bit?: number;
  aliases?: string[];
  supply?: string;
  /** Electrical class, a key of `padClasses`. */
  class?: string;
  /** What the pad is busy with at reset and boot; using it otherwise deserves a second thought. */
  boot?: { kind: 'debug' | 'strap' | 'clock' | 'reset'; note: string; signals?: SignalId[] };
  notes?: string[];
  /** Further numeric columns of the user's table, available to the recipe as `pad.<name>`. */
  columns?: Record<string, number>;
  source?: Source;
}

export interface PadFunction {
  pad: PadId;
  signal: SignalId;
  /** Mux code that selects the signal on the pad; null for a signal reached through analog mode. */
  mux: number | null;
  /** With `mux` null: no register selects it, the peripheral takes the pad by itself as soon as it is switched on. */
  itself?: true;
  notes?: string[];
  columns?: Record<string, number>;
  source?: Source;
}

export type PackageShape =
  | { kind: 'dual-row'; pins: number; pitchMillimetres?: number }
  | { kind: 'quad'; pins: number; pitchMillimetres?: number; exposedPad?: boolean }
  | { kind: 'ball-grid'; rows: string[]; columns: number; pitchMillimetres?: number };

export interface Package {
  id: string;
  name: string;
  shape: PackageShape;
  /** Pin number → pad, in pin order. */
  pins: Record<PinNumber, PadId>;
  notes?: string[];
  removes?: Removal[];
  /** Current that all pads together may source or sink, each, in milliamperes. */
  highestMilliamps?: number;
  source?: Source;
}

/** What a package note takes away. Without `signals`: all functions of `pads`; without `pads`: the signals anywhere. */
export interface Removal {
  /** `UART2.TX`, or `SPI3.*` for all lines of an instance. */
  signals?: string[];
  pads?: PadId[];
  /** Then nothing is taken away, but the rate is limited. */
  highestHertz?: number;
  /** Key of the description's notes. */
  note?: string;
  why: string;
  source?: Source;
}

/** Pads that a function of another pad takes along: a crystal's second pad. */
export interface Forced {
  signal: SignalId;
  pad: PadId;
  takes: PadId[];
  why: string;
  source?: Source;
}

/** A setting value that pads of a class do not have, and the sentence that says why. */
export interface Lack {
  setting: string;
  values: string[];
  why: string;
}

export interface PadClass {
  title: string;
  /** Highest voltage the pad tolerates as an input, in volts. */
  toleratesVolts?: number;
  /** Highest current a pad may give and take, in milliamperes: at the strongest drive, or at each. */
  sourceMilliamps?: number;
  sinkMilliamps?: number;
  byDrive?: Record<string, { sourceMilliamps: number; sinkMilliamps: number }>;
  /** Nominal value of the pull resistors. */
  pullOhms?: number;
  /** Highest rate of an output, in hertz: at the fastest speed, or at each. */
  highestHertz?: number;
  bySpeed?: Record<string, { highestHertz: number }>;
  /** Levels an input is sure to read, as parts of its supply. */
  readsLowBelow?: number;
  readsHighAbove?: number;
  /** What a pad does between power-up and initialisation. */
  atReset?: 'floating' | 'pull-up' | 'pull-down';
  lacks?: Lack[];
  source?: Source;
}

export interface PeripheralKind {
  title: string;
  lines: Record<string, LineKind>;
  /** Lines without which an instance is of no use: an I²C bus needs both of its lines. */
  needs?: string[];
  /** What firmware uses it for, where that decides which roles it can serve. */
  serves?: Serves;
  /** How rates come about: clock / (per × divider). */
  rate?: RateSource;
  formats?: KindFormats;
}

/** Whether a kind's lines are of use only together; timers and converters have independent channels. */
export const linesBelongTogether = ({ needs = [], lines }: PeripheralKind): boolean =>
  needs.length > 0 || 'TX' in lines;

/** The frames, modes and speed classes that a serial peripheral can be set to. */
export interface KindFormats {
  dataBits?: number[];
  parity?: ('N' | 'E' | 'O')[];
  stopBits?: number[];
  modes?: number[];
  bitOrders?: ('msb' | 'lsb')[];
  speedClasses?: ('standard' | 'fast' | 'fast-plus' | 'high-speed')[];
}

export const SERVES = [
  'analog in',
  'analog out',
  'comparator',
  'crystal',
  'wake-up',
  'clock out',
  'debug',
  'pwm',
] as const;
export type Serves = (typeof SERVES)[number];

export interface RateSource {
  /** Lines that run at the rate; all when absent. */
  lines?: string[];
  /** Clock cycles a bit or period beside the divider (oversampling); 1 when absent. */
  per?: number;
  /** Clock of instances that do not name their own, in hertz. */
  clockHertz?: number;
  /** Dividers to choose from: all of a range, or those listed. */
  dividers: { from: number; to: number; step?: number } | number[];
}

export interface LineKind {
  direction: 'in' | 'out' | 'both' | 'analog';
  /** Settings that are right for this line unless the plan says otherwise (an I²C line is open-drain). */
  defaults?: Partial<Record<LineKey, string>>;
}

/** An instance such as UART2: `kind` is a key of `peripheralKinds`. */
export interface Peripheral {
  id: string;
  kind: string;
  highestHertz?: number;
  /** Clock that its divider starts from, in hertz; otherwise the kind's. */
  clockHertz?: number;
  columns?: Record<string, number>;
  source?: Source;
}

export interface Supply {
  id: string;
  title: string;
  nominalVolts: number;
  lowestVolts?: number;
  highestVolts?: number;
  /** Current that all pads of the supply together may give and take, in milliamperes. */
  sourceMilliamps?: number;
  sinkMilliamps?: number;
  source?: Source;
}

/** How pads reach the interrupt controller. */
export interface Interrupts {
  /**
   * `pad`: a line of its own each; `bit`: one line for equal bit numbers of all ports, so that only one of them can use it;
   * `port`: one line for all pads of a port, which the firmware has to tell apart; `listed`: those that are listed, each for
   * one pad or shared by several. A pad that is in none cannot interrupt.
   */
  lines: 'pad' | 'bit' | 'port' | 'listed';
  listed?: ListedLine[];
  /** How many lines there are, where that is fewer than pads. */
  count?: number;
  /** Number of a line at the interrupt controller, as an expression of the pad: `16 + b`. */
  number?: string;
  why: string;
  source?: Source;
}

/** A line of some pads: of single ones, or of all pads of some ports, of which one can be led to it, or which all raise it `together`. */
export interface ListedLine {
  name: string;
  pads?: PadId[];
  ports?: string[];
  number?: number;
  together?: boolean;
}

/** `mavrek-device/3`: everything Mavrek knows about one part. The core holds nothing about any part beside this. */
export interface DeviceDescription {
  format: typeof DEVICE_FORMAT;
  /** The part's text as it was written, with its comments, of all but the tables; see `part-text/written.ts`. */
  text?: string;
  id: string;
  name: string;
  maker: string;
  summary: string;
  source?: Source;
  packages: Package[];
  pads: Pad[];
  padClasses: Record<string, PadClass>;
  supplies: Supply[];
  peripheralKinds: Record<string, PeripheralKind>;
  peripherals: Peripheral[];
  functions: PadFunction[];
  forced?: Forced[];
  interrupts?: Interrupts;
  notes: Record<string, string>;
  recipe: RecipeSource;
  /** What of the recipe was proposed, and nobody has compared with the document yet. */
  unconfirmed?: Unconfirmed[];
  /** Laid over the rest when the description is loaded; the rest stays as the documents have it. */
  corrections?: Correction[];
}

/** Something of the recipe that was proposed: a role's register, what a value means, a clock gate. */
export interface Unconfirmed {
  /** Equal for equal statements: `direction`, `direction output`, `gate A`. */
  id: string;
  /** "direction is PORT*.DIR", "direction: output is 1". */
  says: string;
  /** What the proposal rests on, in words. */
  rests: string;
}

/** "UART2.TX" → ["UART2", "TX"]; the line may itself hold dots. */
export function splitSignal(signal: SignalId): [peripheral: string, line: string] {
  const dot = signal.indexOf('.');
  return dot < 0 ? [signal, ''] : [signal.slice(0, dot), signal.slice(dot + 1)];
}

/**
 * A datum changed where the document is wrong. The original stays in the description; corrections are laid over it when the
 * description is loaded, in order, and each only where it finds what its author saw.
 */
export interface Correction {
  id: string;
  /** Which datum, as a path of words: see `WHAT` in corrections.ts. */
  what: string[];
  /** What the document says; null when it says nothing there. */
  from: string | null;
  /** What is right; null when there should be nothing. */
  to: string | null;
  why: string;
  who: string;
  /** Date and time, ISO 8601. */
  when: string;
}
