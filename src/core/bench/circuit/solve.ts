import { type Element, FIXED } from './elements';

/**
 * Voltages of nodes that resistors, diodes and fixed voltages are joined to: nodal analysis, the sum of currents into each node
 * being zero. Diodes are ideal ones of a fixed drop in series with a resistance, so that between their corners everything is
 * linear; which of them conduct is found by principal pivoting on the lowest index (Murty), which ends for any network of
 * positive resistances.
 */

/** What a floating node would leak, in siemens: so little that nothing that is meant is changed by it. */
const LEAK = 1e-12;
/** Currents below this are the leak's: a node that no other current reaches floats. In amperes. */
const NOTHING = 1e-10;
/** Voltages within a rounding error of a diode's corner could turn it on and off for ever. */
const MOST_ROUNDS = 1000;

/**
 * Gives `volts` the voltage of each of `nodes`; NaN where a node floats. `elements` are those with an end in `nodes`; those that
 * are open count for nothing. Equal networks give equal numbers.
 */
export function solve(nodes: readonly number[], elements: readonly Element[], volts: Float64Array): void {
  if (nodes.length === 1) volts[nodes[0] as number] = single(elements);
  else several(nodes, elements, volts);
}

/** Current from the first to the second end, in amperes; 0 where it is open, blocks, or an end floats. */
export function currentThrough(one: Element, volts: Float64Array): number {
  const a = one.a === FIXED ? one.aVolts : (volts[one.a] as number);
  const b = one.b === FIXED ? one.bVolts : (volts[one.b] as number);
  const over = a - b - (one.drop ?? 0);
  if (!(Math.abs(over) > 0) || one.ohms === Number.POSITIVE_INFINITY) return 0;
  return one.drop !== undefined && over < 0 ? 0 : over / one.ohms;
}

/** One node: conductances and currents are summed, corner by corner. */
function single(elements: readonly Element[]): number {
  let conductance = 0;
  let current = 0;
  let diodes = false;
  for (const one of elements) {
    if (one.drop !== undefined) {
      if (one.ohms !== Number.POSITIVE_INFINITY) diodes = true;
      continue;
    }
    const g = 1 / one.ohms;
    conductance += g;
    current += g * (one.a === FIXED ? one.aVolts : one.bVolts);
  }
  const plain = conductance === 0 ? Number.NaN : current / conductance;
  return diodes ? besideDiodes(elements, conductance, current, plain) : plain;
}

/** The usual cases first: all diodes block, or the only one conducts. */
function besideDiodes(
  elements: readonly Element[],
  conductance: number,
  current: number,
  plain: number,
): number {
  if (conductance === 0) return withDiodes(elements, conductance, current);
  let conducting: Element | undefined;
  let count = 0;
  for (const one of elements) {
    if (one.drop === undefined || one.ohms === Number.POSITIVE_INFINITY) continue;
    count++;
    if (one.a === FIXED ? one.aVolts - one.drop > plain : plain > one.bVolts + one.drop) conducting = one;
  }
  if (!conducting) return plain;
  if (count > 1) return withDiodes(elements, conductance, current);
  const { a, aVolts, bVolts, ohms, drop = 0 } = conducting;
  const corner = a === FIXED ? aVolts - drop : bVolts + drop;
  return (current + corner / ohms) / (conductance + 1 / ohms);
}

function withDiodes(elements: readonly Element[], conductance: number, current: number): number {
  const branches = elements.flatMap((one) => {
    if (one.drop === undefined || one.ohms === Number.POSITIVE_INFINITY) return [];
    // Into the node it conducts below its corner, out of it above.
    return one.a === FIXED
      ? [{ corner: one.aVolts - one.drop, into: true, g: 1 / one.ohms }]
      : [{ corner: one.bVolts + one.drop, into: false, g: 1 / one.ohms }];
  });
  const corners = [...new Set(branches.map((one) => one.corner))].sort((a, b) => a - b);
  // Beyond the last corner, and before the first, stand for all voltages there.
  for (let at = 0; at <= corners.length; at++) {
    const low = corners[at - 1] ?? Number.NEGATIVE_INFINITY;
    const high = corners[at] ?? Number.POSITIVE_INFINITY;
    let g = conductance;
    let i = current;
    let inwards = false;
    let outwards = false;
    for (const { corner, into, g: own } of branches) {
      if (into ? corner >= high : corner <= low) {
        g += own;
        i += own * corner;
        if (into) inwards = true;
        else outwards = true;
      }
    }
    // Current that goes one way only does not flow.
    if (conductance === 0 && !(inwards && outwards)) continue;
    const volts = i / g;
    if (volts >= low && volts <= high) return volts;
  }
  return Number.NaN;
}

/** Several nodes: a system of equations, solved again for each change of what conducts. */
function several(nodes: readonly number[], elements: readonly Element[], volts: Float64Array): void {
  const live = elements.filter((one) => one.ohms !== Number.POSITIVE_INFINITY);
  const row = new Map(nodes.map((node, at) => [node, at]));
  const size = nodes.length;
  const diodes = live.filter((one) => one.drop !== undefined);
  const conducts = new Set<Element>();
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const matrix = Array.from({ length: size }, () => new Float64Array(size + 1));
    for (const [at, line] of matrix.entries()) line[at] = LEAK;
    for (const one of live) {
      if (one.drop !== undefined && !conducts.has(one)) continue;
      stamp(matrix, row, one, size);
    }
    const solution = eliminate(matrix, size);
    nodes.forEach((node, at) => {
      volts[node] = solution[at] as number;
    });
    const wrong = diodes.find((one) => over(one, volts) > 0 !== conducts.has(one));
    if (!wrong) break;
    if (!conducts.delete(wrong)) conducts.add(wrong);
  }
  for (const node of floating(nodes, live, volts)) volts[node] = Number.NaN;
}

const over = (one: Element, volts: Float64Array): number =>
  (one.a === FIXED ? one.aVolts : (volts[one.a] as number)) -
  (one.b === FIXED ? one.bVolts : (volts[one.b] as number)) -
  (one.drop ?? 0);

function stamp(
  matrix: Float64Array[],
  row: ReadonlyMap<number, number>,
  { a, b, aVolts, bVolts, ohms, drop = 0 }: Element,
  size: number,
): void {
  const g = 1 / ohms;
  const [i, j] = [row.get(a), row.get(b)];
  const add = (at: number | undefined, to: number | undefined, value: number): void => {
    const line = at === undefined ? undefined : matrix[at];
    if (line && to !== undefined) line[to] = (line[to] as number) + value;
  };
  add(i, i, g);
  add(j, j, g);
  add(i, j, -g);
  add(j, i, -g);
  // The current that fixed ends and the drop drive into each node.
  add(i, size, g * ((b === FIXED ? bVolts : 0) + drop));
  add(j, size, g * ((a === FIXED ? aVolts : 0) - drop));
}

/** Gaussian elimination with partial pivoting; the last column holds the right side. */
function eliminate(matrix: Float64Array[], size: number): Float64Array {
  for (let at = 0; at < size; at++) {
    let best = at;
    for (let other = at + 1; other < size; other++)
      if (Math.abs(matrix[other]?.[at] ?? 0) > Math.abs(matrix[best]?.[at] ?? 0)) best = other;
    const [upper, lower] = [matrix[best] as Float64Array, matrix[at] as Float64Array];
    matrix[at] = upper;
    matrix[best] = lower;
    for (let other = at + 1; other < size; other++) {
      const line = matrix[other] as Float64Array;
      const factor = (line[at] as number) / (upper[at] as number);
      if (factor === 0) continue;
      for (let column = at; column <= size; column++)
        line[column] = (line[column] as number) - factor * (upper[column] as number);
    }
  }
  const solution = new Float64Array(size);
  for (let at = size - 1; at >= 0; at--) {
    const line = matrix[at] as Float64Array;
    let sum = line[size] as number;
    for (let column = at + 1; column < size; column++)
      sum -= (line[column] as number) * (solution[column] as number);
    solution[at] = sum / (line[at] as number);
  }
  return solution;
}

/** Nodes that nothing but open ends and blocking diodes joins to a fixed voltage. */
function floating(nodes: readonly number[], live: readonly Element[], volts: Float64Array): number[] {
  const held = new Set<number>();
  const open = live.filter((one) => one.drop === undefined || currentThrough(one, volts) > NOTHING);
  for (let grown = true; grown; ) {
    grown = false;
    for (const { a, b } of open) {
      for (const [from, to] of [
        [a, b],
        [b, a],
      ] as const) {
        if (to === FIXED || held.has(to) || (from !== FIXED && !held.has(from))) continue;
        held.add(to);
        grown = true;
      }
    }
  }
  return nodes.filter((node) => !held.has(node));
}
