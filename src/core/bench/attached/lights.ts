import { diode, type Element, type End } from '../circuit/elements';
import { type Attached, lasting, milliampsText, type Place } from './types';

/** Below this nobody sees that an LED is lit, in amperes. */
const SEEN = 0.2e-3;

/** The LED of a net: to the supply where it is lit by a low level, to ground otherwise. */
function ledOf({ nodes, supplyVolts, activeLow, figures }: Place, at: number): Element {
  const net: End = { node: nodes[at] as number };
  const { ohms = 330, dropVolts = 2, volts } = figures;
  return activeLow[at]
    ? diode({ volts: volts ?? (supplyVolts[at] as number) }, net, dropVolts, ohms)
    : diode(net, { volts: 0 }, dropVolts, ohms);
}

/** LEDs, and which of them are lit. */
function lights(elements: readonly Element[], words: (lit: number, most: number) => string): Attached {
  return lasting(elements, (amperes) => {
    let lit = 0;
    let most = 0;
    elements.forEach((element, bit) => {
      const current = amperes(element);
      most = Math.max(most, current);
      if (current >= SEEN) lit |= 1 << bit;
    });
    return { word: words(lit, most), on: lit !== 0, lit };
  });
}

/** LEDs of which each is at a pole of its own. */
const lightsByPole = (
  elements: readonly Element[],
  words: (lit: number, most: number) => string,
): Attached => ({
  ...lights(elements, words),
  on: (amperes, pole) => {
    const element = elements[pole];
    return element !== undefined && amperes(element) >= SEEN;
  },
});

export const led = (place: Place): Attached =>
  lightsByPole([ledOf(place, 0)], (lit, most) => (lit ? `lit, ${milliampsText(most)}` : 'dark'));

const countText = (lit: number, of: number): string => {
  let count = 0;
  for (let bit = 0; bit < of; bit++) count += (lit >>> bit) & 1;
  return count === 0 ? 'dark' : `${count} of ${of} lit`;
};

export const ledBar = (place: Place): Attached =>
  lightsByPole(
    place.nodes.map((_, at) => ledOf(place, at)),
    (lit) => countText(lit, place.nodes.length),
  );

/** What a digit shows, by its segments: a in the lowest bit. */
const SHAPES: ReadonlyMap<number, string> = new Map(
  [0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f, 0x77, 0x7c, 0x39, 0x5e, 0x79, 0x71].map(
    (segments, value) => [segments, value.toString(16).toUpperCase()],
  ),
);
const shapeOf = (lit: number): string => SHAPES.get(lit & 0x7f) ?? (lit === 0 ? ' ' : '?');

/** Segments of up to four digits; a digit's common line takes or gives what its segments draw. Without digits they lead to a rail. */
export function sevenSegments(place: Place): Attached {
  const count = Math.min(place.figures.segments ?? 8, place.nodes.length);
  const segments = place.nodes.slice(0, count);
  const digits = place.nodes.slice(count);
  const { ohms = 330, dropVolts = 2 } = place.figures;
  const elements =
    digits.length === 0
      ? segments.map((_, at) => ledOf(place, at))
      : digits.flatMap((digit) =>
          segments.map((segment, at) => {
            const [net, common]: [End, End] = [{ node: segment }, { node: digit }];
            return place.activeLow[at]
              ? diode(common, net, dropVolts, ohms)
              : diode(net, common, dropVolts, ohms);
          }),
        );
  // A segment of several digits is on at one digit and off at another: no one state is drawn for its pole.
  return (digits.length === 0 ? lightsByPole : lights)(elements, (lit) => {
    const shown = Array.from({ length: Math.max(1, digits.length) }, (_, digit) =>
      shapeOf((lit >>> (digit * count)) & (2 ** count - 1)),
    ).join('');
    return lit === 0 ? 'dark' : `shows ${shown}`;
  });
}
