import type { Package, PadId, PinNumber } from '@/core/description/types';

/** One edge of a package, unfolded: its pins from top to bottom, in the order in which they are numbered. */
export interface Side {
  title: string;
  pins: { pin: PinNumber; pad: PadId }[];
}

const QUAD = ['Left', 'Bottom', 'Right', 'Top'];

/** The edges of a package as columns. Balls have no edges; their rows take the edges' place. */
export function sidesOf(pkg: Package): Side[] {
  if (pkg.shape.kind === 'ball-grid') {
    return pkg.shape.rows.map((row) => ({
      title: `Row ${row}`,
      pins: Object.entries(pkg.pins)
        .filter(([pin]) => pin.replace(/\d+$/, '') === row)
        .sort(([a], [b]) => Number(a.replace(/^\D+/, '')) - Number(b.replace(/^\D+/, '')))
        .map(([pin, pad]) => ({ pin, pad })),
    }));
  }
  const names = pkg.shape.kind === 'quad' ? QUAD : ['Left', 'Right'];
  const perSide = Math.ceil(pkg.shape.pins / names.length);
  return names.map((name, side) => {
    const first = side * perSide + 1;
    const last = Math.min((side + 1) * perSide, pkg.shape.kind === 'ball-grid' ? 0 : pkg.shape.pins);
    const pins = [];
    for (let number = first; number <= last; number++) {
      const pad = pkg.pins[String(number)];
      if (pad !== undefined) pins.push({ pin: String(number), pad });
    }
    return { title: `${name} ${first}–${last}`, pins };
  });
}
