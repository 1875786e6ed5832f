import type { Package, PadId, PinNumber } from '../description/types';
import type { Device } from './device';

/** Sides of a package as demands name them, in the order in which pins are numbered. */
export const SIDES = ['left', 'bottom', 'right', 'top'] as const;
export type SideName = (typeof SIDES)[number];

/** The sides a package has. */
export const sidesOfShape = (pkg: Package): readonly SideName[] =>
  pkg.shape.kind === 'dual-row' ? ['left', 'right'] : SIDES;

/** The side a pin is on; for a ball, the edge it is nearest to. */
export function sideOf(pkg: Package, pin: PinNumber): SideName | undefined {
  const { shape } = pkg;
  if (shape.kind === 'ball-grid') {
    const ball = ballOf(shape.rows, pin);
    if (!ball) return undefined;
    const distances: [SideName, number][] = [
      ['left', ball.column - 1],
      ['bottom', shape.rows.length - 1 - ball.row],
      ['right', shape.columns - ball.column],
      ['top', ball.row],
    ];
    return distances.sort((a, b) => a[1] - b[1])[0]?.[0];
  }
  const number = Number(pin);
  if (!Number.isInteger(number) || number < 1 || number > shape.pins) return undefined;
  const names = sidesOfShape(pkg);
  return names[Math.floor((number - 1) / Math.ceil(shape.pins / names.length))];
}

function ballOf(rows: readonly string[], pin: PinNumber): { row: number; column: number } | undefined {
  const row = rows.indexOf(pin.replace(/\d+$/, ''));
  const column = Number(pin.replace(/^\D+/, ''));
  return row < 0 || Number.isNaN(column) ? undefined : { row, column };
}

const orders = new WeakMap<Package, Map<PadId, number>>();

/** Position of each pad: along the edge for numbered pins, row by row for balls (see {@link distanceBetween}). */
export function orderOf(device: Device, pkg: Package): Map<PadId, number> {
  let order = orders.get(pkg);
  if (!order) {
    order = new Map();
    for (const [pad, pins] of device.pinsOf.get(pkg.id) ?? [])
      order.set(pad, positionOf(pkg, pins[0] ?? '') ?? order.size);
    orders.set(pkg, order);
  }
  return order;
}

function positionOf(pkg: Package, pin: PinNumber): number | undefined {
  if (pkg.shape.kind !== 'ball-grid') return Number.isNaN(Number(pin)) ? undefined : Number(pin);
  const ball = ballOf(pkg.shape.rows, pin);
  return ball && ball.row * (pkg.shape.columns + 1) + ball.column;
}

/** Pins between two positions of a package: along its edge, or across the grid of balls. */
export function distanceBetween(pkg: Package, a: number, b: number): number {
  const { shape } = pkg;
  if (shape.kind === 'ball-grid') {
    const width = shape.columns + 1;
    const rows = Math.abs(Math.floor(a / width) - Math.floor(b / width));
    return Math.max(rows, Math.abs((a % width) - (b % width)));
  }
  const straight = Math.abs(a - b);
  return Math.min(straight, shape.pins - straight);
}
