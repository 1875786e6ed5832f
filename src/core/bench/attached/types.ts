import type { Verb } from '../../plan/model/attachments';
import type { Element } from '../circuit/elements';

/** What a part is attached to. */
export interface Place {
  /** Nodes of its nets, in the order of its poles. */
  nodes: readonly number[];
  /** Supply of each of those pads, in volts. */
  supplyVolts: readonly number[];
  /** For each net whether it is active low. */
  activeLow: readonly boolean[];
  figures: Readonly<Record<string, number>>;
}

/** What a part may ask of the bench while it acts. */
export interface Clock {
  /** Nanoseconds since the start. */
  now: number;
  /** Calls the part's `wake` then. Nanoseconds. */
  wakeAt(time: number): void;
  /** By chance, from 0 to 1; equal seeds give equal numbers. */
  chance(): number;
}

/** How a part looks at the moment. */
export interface Look {
  /** In words: "pressed", "lit, 5.9 mA", "contactor closed". */
  word: string;
  /** For what can be seen to be on: an LED, a contact. */
  on?: boolean;
  /** Of several: a bar's LEDs, a digit's segments, the first pole's in the lowest bit. */
  lit?: number;
}

/** What somebody does to a part: `press`, `set`. */
export interface Act {
  verb: Verb;
  /** Volts of a source, a potentiometer's position (0 to 1), steps of an encoder, a pole. */
  value?: number;
  /** Amplitude in volts, and rate in hertz, of a waveform. */
  amplitude?: number;
  rateHertz?: number;
  /** How long, in nanoseconds. */
  nanoseconds?: number;
  bounces?: boolean;
}

/**
 * A part at work. All that changes is in `state`, so that it can be put back: after that, `apply` gives the elements what the state
 * says.
 */
export interface Attached {
  elements: readonly Element[];
  state: Float64Array;
  /** Gives the elements what the state says. */
  apply(): void;
  /** Does something to it; says what is wrong, or undefined. */
  act(act: Act, clock: Clock): string | undefined;
  /** The time that it has asked for has come. */
  wake?(clock: Clock): void;
  /** Voltages and currents have been worked out. */
  settle?(amperes: (element: Element) => number, clock: Clock): void;
  look(amperes: (element: Element) => number): Look;
  /** Of what an output switches: whether it is on at a pole with these currents. What is drawn is drawn from it too. */
  on?(amperes: (element: Element) => number, pole: number): boolean;
}

/** How much a closed contact resists, in ohms. */
export const CONTACT_OHMS = 0.1;

/** A part without anything that changes. */
export const lasting = (
  elements: readonly Element[],
  look: (amperes: (element: Element) => number) => Look,
): Attached => ({
  elements,
  state: new Float64Array(0),
  apply: () => undefined,
  act: () => 'nothing can be done to it',
  look,
});

export const OPEN = Number.POSITIVE_INFINITY;

export const milliampsText = (amperes: number): string => `${Number((amperes * 1000).toPrecision(2))} mA`;

export const MILLISECOND = 1e6;
