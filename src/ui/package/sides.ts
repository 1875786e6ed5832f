import type { Package, PadId, TerminalNo } from '@/core/device/types';

/** One edge of a package, unfolded: its terminals from top to bottom, in the order in which they are numbered. */
export interface Side {
  title: string;
  terminals: { terminal: TerminalNo; pad: PadId }[];
}

const QUAD = ['Left', 'Bottom', 'Right', 'Top'];

/** The edges of a package as columns. Balls have no edges; their rows take the edges' place. */
export function sidesOf(pkg: Package): Side[] {
  if (pkg.shape.kind === 'ball-grid') {
    return pkg.shape.rows.map((row) => ({
      title: `Row ${row}`,
      terminals: Object.entries(pkg.terminals)
        .filter(([terminal]) => terminal.replace(/\d+$/, '') === row)
        .sort(([a], [b]) => Number(a.replace(/^\D+/, '')) - Number(b.replace(/^\D+/, '')))
        .map(([terminal, pad]) => ({ terminal, pad })),
    }));
  }
  const names = pkg.shape.kind === 'quad' ? QUAD : ['Left', 'Right'];
  const perSide = Math.ceil(pkg.shape.terminals / names.length);
  return names.map((name, side) => {
    const first = side * perSide + 1;
    const last = Math.min((side + 1) * perSide, pkg.shape.kind === 'ball-grid' ? 0 : pkg.shape.terminals);
    const terminals = [];
    for (let number = first; number <= last; number++) {
      const pad = pkg.terminals[String(number)];
      if (pad !== undefined) terminals.push({ terminal: String(number), pad });
    }
    return { title: `${name} ${first}–${last}`, terminals };
  });
}
