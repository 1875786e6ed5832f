/** Something with two ends that current flows through: a resistor, or an element that lets it flow one way only. */
export interface Element {
  /** Node at each end, or {@link FIXED} where the end is held at a voltage. */
  a: number;
  b: number;
  aVolts: number;
  bVolts: number;
  /** Resistance in series; infinite while it is open. */
  ohms: number;
  /** From `a` to `b` only, and only beyond this voltage (a diode); `undefined` for a resistor. */
  drop: number | undefined;
  /** An output, or a contact to a rail: it means to give its node the voltage of its end. */
  strong?: boolean;
}

/** In place of a node: the end is held at a voltage. */
export const FIXED = -1;

/** A resistor from a node to a voltage. */
export const toRail = (node: number, volts: number, ohms: number): Element => ({
  a: node,
  b: FIXED,
  aVolts: 0,
  bVolts: volts,
  ohms,
  drop: undefined,
});

/** An output that gives a node a voltage, or a contact that does. */
export const driver = (node: number, volts: number, ohms: number): Element => ({
  ...toRail(node, volts, ohms),
  strong: true,
});

/** A resistor between nodes. */
export const between = (a: number, b: number, ohms: number): Element => ({
  a,
  b,
  aVolts: 0,
  bVolts: 0,
  ohms,
  drop: undefined,
});

/** An end of an element: a node, or a voltage. */
export type End = { node: number } | { volts: number };

/** A diode in series with a resistor, current flowing from the first end to the second. */
export const diode = (from: End, to: End, drop: number, ohms: number): Element => ({
  a: 'node' in from ? from.node : FIXED,
  b: 'node' in to ? to.node : FIXED,
  aVolts: 'volts' in from ? from.volts : 0,
  bVolts: 'volts' in to ? to.volts : 0,
  ohms,
  drop,
});
