const UNITS: readonly (readonly [string, number])[] = [
  ['s', 1e9],
  ['ms', 1e6],
  ['µs', 1e3],
  ['ns', 1],
];

/** "20.4 ms": a time given in nanoseconds, in the unit that suits it. */
export function timeText(nanoseconds: number, digits = 4): string {
  if (nanoseconds === 0) return '0 s';
  const size = Math.abs(nanoseconds);
  const [unit, factor] = UNITS.find(([, one]) => size >= one) ?? ['ns', 1];
  return `${Number((nanoseconds / factor).toPrecision(digits))} ${unit}`;
}
