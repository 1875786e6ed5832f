import type { Device } from '../recipe/device';
import type { Package, PadId, TerminalNo } from './types';

/** Sides of a package as demands name them, in the order in which terminals are numbered. */
export const SIDES = ['left', 'bottom', 'right', 'top'] as const;
export type SideName = (typeof SIDES)[number];

/** The sides a package has. */
export const sidesOfShape = (pkg: Package): readonly SideName[] =>
  pkg.shape.kind === 'dual-row' ? ['left', 'right'] : SIDES;

/** The side a terminal is on; for a ball, the edge it is nearest to. */
export function sideOf(pkg: Package, terminal: TerminalNo): SideName | undefined {
  const { shape } = pkg;
  if (shape.kind === 'ball-grid') {
    const ball = ballOf(shape.rows, terminal);
    if (!ball) return undefined;
    const distances: [SideName, number][] = [
      ['left', ball.column - 1],
      ['bottom', shape.rows.length - 1 - ball.row],
      ['right', shape.columns - ball.column],
      ['top', ball.row],
    ];
    return distances.sort((a, b) => a[1] - b[1])[0]?.[0];
  }
  const number = Number(terminal);
  if (!Number.isInteger(number) || number < 1 || number > shape.terminals) return undefined;
  const names = sidesOfShape(pkg);
  return names[Math.floor((number - 1) / Math.ceil(shape.terminals / names.length))];
}

function ballOf(rows: readonly string[], terminal: TerminalNo): { row: number; column: number } | undefined {
  const row = rows.indexOf(terminal.replace(/\d+$/, ''));
  const column = Number(terminal.replace(/^\D+/, ''));
  return row < 0 || Number.isNaN(column) ? undefined : { row, column };
}

const orders = new WeakMap<Package, Map<PadId, number>>();

/** Position of each pad: along the edge for numbered terminals, row by row for balls (see {@link distanceBetween}). */
export function orderOf(device: Device, pkg: Package): Map<PadId, number> {
  let order = orders.get(pkg);
  if (!order) {
    order = new Map();
    for (const [pad, terminals] of device.terminalsOf.get(pkg.id) ?? [])
      order.set(pad, positionOf(pkg, terminals[0] ?? '') ?? order.size);
    orders.set(pkg, order);
  }
  return order;
}

function positionOf(pkg: Package, terminal: TerminalNo): number | undefined {
  if (pkg.shape.kind !== 'ball-grid') return Number.isNaN(Number(terminal)) ? undefined : Number(terminal);
  const ball = ballOf(pkg.shape.rows, terminal);
  return ball && ball.row * (pkg.shape.columns + 1) + ball.column;
}

/** Terminals between two positions of a package: along its edge, or across the grid of balls. */
export function distanceBetween(pkg: Package, a: number, b: number): number {
  const { shape } = pkg;
  if (shape.kind === 'ball-grid') {
    const width = shape.columns + 1;
    const rows = Math.abs(Math.floor(a / width) - Math.floor(b / width));
    return Math.max(rows, Math.abs((a % width) - (b % width)));
  }
  const straight = Math.abs(a - b);
  return Math.min(straight, shape.terminals - straight);
}
