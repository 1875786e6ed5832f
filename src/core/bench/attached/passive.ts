import { between, type Element, toRail } from '../circuit/elements';
import { type Attached, lasting, milliampsText, type Place } from './types';

const resistor = (element: Element): Attached =>
  lasting([element], (amperes) => ({ word: milliampsText(Math.abs(amperes(element))) }));

export const pullUp = ({ nodes, supplyVolts, figures }: Place): Attached =>
  resistor(toRail(nodes[0] as number, figures.volts ?? (supplyVolts[0] as number), figures.ohms ?? 10_000));

export const pullDown = ({ nodes, figures }: Place): Attached =>
  resistor(toRail(nodes[0] as number, 0, figures.ohms ?? 10_000));

/** One net: to half of the supply, as two equal resistors do. Two nets: across the line. */
export function terminator({ nodes, supplyVolts, figures }: Place): Attached {
  const [node, other] = nodes as [number, number?];
  const ohms = figures.ohms ?? 120;
  return resistor(
    other === undefined ? toRail(node, (supplyVolts[0] as number) / 2, ohms) : between(node, other, ohms),
  );
}

/** What it stores is said in {@link faradsOf}. */
export const capacitor = ({ figures }: Place): Attached =>
  lasting([], () => ({ word: `${figures.nanofarads ?? 100} nF` }));

/** Between each of its nets and ground. */
export const faradsOf = (figures: Readonly<Record<string, number>>): number =>
  (figures.nanofarads ?? 0) * 1e-9;

/** It swings between its two pads; nothing of that is seen as a level. */
export const crystal = (): Attached => lasting([], () => ({ word: 'crystal' }));
