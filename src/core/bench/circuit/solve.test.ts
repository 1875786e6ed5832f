import { Matrix, solve as solveLinear } from 'ml-matrix';
import { fuzzBudget, randomFrom } from '@/testing/random';
import { between, diode, type Element, FIXED, toRail } from './elements';
import { currentThrough, solve } from './solve';

const OPEN = Number.POSITIVE_INFINITY;

function voltsOf(nodes: number, elements: readonly Element[]): number[] {
  const volts = new Float64Array(nodes);
  solve(
    Array.from({ length: nodes }, (_, node) => node),
    elements,
    volts,
  );
  return [...volts];
}

describe('by hand', () => {
  test.each<[string, Element[], number]>([
    ['two equal resistors halve the supply', [toRail(0, 3.3, 10_000), toRail(0, 0, 10_000)], 1.65],
    ['a pull of 40 kΩ against 10 kΩ to ground', [toRail(0, 3.3, 40_000), toRail(0, 0, 10_000)], 0.66],
    // 3.3 V × 50 / (50 + 20)
    ['an output of 20 Ω against one of 50 Ω', [toRail(0, 3.3, 20), toRail(0, 0, 50)], 2.357142857142857],
    // (3.3 − 2.0) / (220 + 20) = 5.4167 mA through 20 Ω.
    [
      'an LED that is lit',
      [toRail(0, 0, 20), diode({ volts: 3.3 }, { node: 0 }, 2, 220)],
      0.10833333333333334,
    ],
    ['an LED that blocks', [toRail(0, 3.3, 20), diode({ volts: 3.3 }, { node: 0 }, 2, 220)], 3.3],
    // A base through 1 kΩ: 3.3 − (3.3 − 0.7) × 20 / 1020.
    [
      'a transistor’s base',
      [toRail(0, 3.3, 20), diode({ node: 0 }, { volts: 0 }, 0.7, 1000)],
      3.249019607843137,
    ],
    ['an open switch changes nothing', [toRail(0, 3.3, 40_000), toRail(0, 0, OPEN)], 3.3],
  ])('%s', (_what, elements, volts) => {
    expect(voltsOf(1, elements)[0]).toBeCloseTo(volts, 9);
  });
  test('the current through an LED with 220 Ω at an output of 20 Ω is 5.42 mA', () => {
    const led = diode({ volts: 3.3 }, { node: 0 }, 2, 220);
    const volts = new Float64Array(voltsOf(1, [toRail(0, 0, 20), led]));
    expect(currentThrough(led, volts) * 1000).toBeCloseTo(5.41667, 4);
  });
  test.each<[string, number, Element[]]>([
    ['nothing at all', 1, []],
    ['an LED to the supply alone', 1, [diode({ volts: 3.3 }, { node: 0 }, 2, 220)]],
    ['open ends', 1, [toRail(0, 3.3, OPEN)]],
    ['two nodes that only know each other', 2, [between(0, 1, 100)]],
  ])('a node floats at %s', (_what, nodes, elements) => {
    for (const volts of voltsOf(nodes, elements)) expect(volts).toBeNaN();
  });
  test('a key joins a driven row to a pulled column', () => {
    const [row, column] = voltsOf(2, [toRail(0, 0, 20), toRail(1, 3.3, 40_000), between(0, 1, 0.1)]);
    expect(row).toBeCloseTo((3.3 * 20) / 40_020.1, 6);
    expect(column).toBeCloseTo((3.3 * 20.1) / 40_020.1, 6);
  });
  test('a segment is lit between two outputs only the right way round', () => {
    const segment = diode({ node: 0 }, { node: 1 }, 2, 330);
    const forwards = new Float64Array(voltsOf(2, [toRail(0, 3.3, 20), toRail(1, 0, 20), segment]));
    expect(currentThrough(segment, forwards) * 1000).toBeCloseTo((1.3 / 370) * 1000, 6);
    const backwards = new Float64Array(voltsOf(2, [toRail(0, 0, 20), toRail(1, 3.3, 20), segment]));
    expect(currentThrough(segment, backwards)).toBe(0);
  });
});

/** The same by a general solver of linear equations, all states of the diodes tried until one agrees with itself. */
function byMatrix(nodes: number, elements: readonly Element[]): number[] | undefined {
  const diodes = elements.filter((one) => one.drop !== undefined);
  for (let state = 0; state < 2 ** diodes.length; state++) {
    const a = Matrix.zeros(nodes, nodes);
    const b = Matrix.zeros(nodes, 1);
    for (let node = 0; node < nodes; node++) a.set(node, node, 1e-12);
    for (const one of elements) {
      if (one.drop !== undefined && ((state >> diodes.indexOf(one)) & 1) === 0) continue;
      const g = 1 / one.ohms;
      const drop = one.drop ?? 0;
      if (one.a !== FIXED) {
        a.set(one.a, one.a, a.get(one.a, one.a) + g);
        if (one.b !== FIXED) a.set(one.a, one.b, a.get(one.a, one.b) - g);
        b.set(one.a, 0, b.get(one.a, 0) + g * ((one.b === FIXED ? one.bVolts : 0) + drop));
      }
      if (one.b !== FIXED) {
        a.set(one.b, one.b, a.get(one.b, one.b) + g);
        if (one.a !== FIXED) a.set(one.b, one.a, a.get(one.b, one.a) - g);
        b.set(one.b, 0, b.get(one.b, 0) + g * ((one.a === FIXED ? one.aVolts : 0) - drop));
      }
    }
    const volts = solveLinear(a, b).to1DArray();
    const agrees = diodes.every((one, at) => {
      const from = one.a === FIXED ? one.aVolts : (volts[one.a] as number);
      const to = one.b === FIXED ? one.bVolts : (volts[one.b] as number);
      const over = from - to - (one.drop ?? 0);
      return ((state >> at) & 1) === 1 ? over >= -1e-9 : over <= 1e-9;
    });
    if (agrees) return volts;
  }
  return undefined;
}

test('networks by chance come out as a general solver has them', () => {
  const random = randomFrom(14);
  for (let run = 0; run < fuzzBudget(400); run++) {
    const nodes = 1 + random.int(6);
    const elements: Element[] = [];
    const node = (): number => random.int(nodes);
    const ohms = (): number => 10 ** (1 + random.int(5)) * (1 + random.int(9));
    // Each node is held by something, so that none floats.
    for (let at = 0; at < nodes; at++) elements.push(toRail(at, random.pick([0, 1.8, 3.3, 5]), ohms()));
    for (let more = random.int(6); more > 0; more--) {
      const [one, other] = [node(), node()];
      const joins = one !== other;
      switch (random.int(4)) {
        case 0:
          if (joins) elements.push(between(one, other, ohms()));
          break;
        case 1:
          if (joins) elements.push(diode({ node: one }, { node: other }, 0.7, ohms()));
          break;
        case 2:
          elements.push(diode({ volts: random.pick([3.3, 5]) }, { node: one }, 2, ohms()));
          break;
        default:
          elements.push(diode({ node: one }, { volts: 0 }, 0.7, ohms()));
      }
    }
    const wanted = byMatrix(nodes, elements);
    expect(wanted).toBeDefined();
    voltsOf(nodes, elements).forEach((volts, at) => {
      expect(volts).toBeCloseTo(wanted?.[at] ?? Number.NaN, 5);
    });
  }
});
