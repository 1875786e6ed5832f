const PREFIXES: ReadonlyMap<string, number> = new Map([
  ['', 1],
  ['m', 1e-3],
  ['k', 1e3],
  ['K', 1e3],
  ['M', 1e6],
  ['G', 1e9],
]);

/** Plan files take no larger figure; nothing on a board is as large. */
export const LARGEST_FIGURE = 1e12;

/** "115.2k", "10 MHz", "4k7", "4,7 kΩ": a figure as engineers write it, in the unit's base; undefined when it is none. */
export function parseFigure(text: string, units: readonly string[]): number | undefined {
  const bare = text.trim().replace(',', '.');
  // A prefix in the place of the point: 4k7.
  const inner = /^(\d+)([kKM])(\d+)$/.exec(bare);
  if (inner) return Number(`${inner[1]}.${inner[3]}`) * (PREFIXES.get(inner[2] ?? '') ?? 1);
  const match = /^(\d+(?:\.\d+)?(?:e\d+)?)\s*([a-zA-ZΩµ%]*)$/.exec(bare);
  if (!match) return undefined;
  const value = Number(match[1]);
  const rest = match[2] ?? '';
  if (rest === '') return value;
  for (const unit of ['', ...units]) {
    const at = rest.length - unit.length;
    if (!rest.toLowerCase().endsWith(unit.toLowerCase())) continue;
    const factor = PREFIXES.get(rest.slice(0, at));
    if (factor !== undefined) return value * factor;
  }
  return undefined;
}
