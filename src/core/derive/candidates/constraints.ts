import { type Package, splitSignal } from '../../description/types';
import type { Device } from '../../device/device';
import { distanceBetween, orderOf, sideOf } from '../../device/geometry';
import type { Constraint } from '../../plan/model/types';
import type { ResolvedNet } from '../resolve/resolve';

/** What a constraint demands, as in "A and B shall be …". */
export const CONSTRAINT_WORDS: Record<Constraint['kind'], string> = {
  bus: 'on consecutive bits of one port',
  pair: 'a pair',
  'same-instance': 'on one peripheral instance',
  'other-instances': 'on different peripheral instances',
  together: 'on one side of the package',
  apart: 'not beside each other',
};

type Seated = Pick<ResolvedNet, 'net' | 'pad' | 'fn' | 'pins'>;

/** Why a constraint does not hold as its nets are placed; unplaced ones do not count. */
export function whyBroken(
  { device, pkg }: { device: Device; pkg: Package },
  constraint: Constraint,
  all: readonly Seated[],
): string | undefined {
  const placed = all.filter((one) => one.pad && one.pins.length > 0);
  if (placed.length < 2) return undefined;
  const where = (one: Seated): string => `\`${one.net.name}\` is on \`${one.pad?.id}\``;
  const instance = (one: Seated): string => splitSignal(one.fn?.signal ?? '')[0];
  const order = orderOf(device, pkg);
  const between = (a: Seated, b: Seated): number =>
    distanceBetween(pkg, order.get(a.pad?.id ?? '') ?? 0, order.get(b.pad?.id ?? '') ?? 0);
  const [first] = placed;
  if (!first) return undefined;
  switch (constraint.kind) {
    case 'bus': {
      const start = (one: Seated): string => `${one.pad?.port} ${(one.pad?.bit ?? 0) - all.indexOf(one)}`;
      const off = placed.find((one) => start(one) !== start(first));
      return off && `${where(first)} and ${where(off)}`;
    }
    case 'together': {
      const side = (one: Seated) => sideOf(pkg, one.pins[0] ?? '');
      const off = placed.find((one) => side(one) !== side(first));
      return off && `${where(first)} (${side(first)}) and ${where(off)} (${side(off)})`;
    }
    case 'same-instance': {
      const off = placed.find((one) => instance(one) !== instance(first));
      return (
        off &&
        `\`${first.net.name}\` is ${first.fn?.signal ?? 'no signal'} and \`${off.net.name}\` ${off.fn?.signal ?? 'none'}`
      );
    }
    case 'other-instances': {
      const twice = placed.find(
        (one, at) => placed.findIndex((other) => instance(other) === instance(one)) !== at,
      );
      return twice && `two of them are on ${instance(twice)}`;
    }
    case 'apart':
      for (const [at, a] of placed.entries())
        for (const b of placed.slice(at + 1)) if (between(a, b) <= 1) return `${where(a)} beside ${where(b)}`;
      return undefined;
    case 'pair': {
      const [a, b] = placed;
      if (!a || !b) return undefined;
      const number = (one: Seated): string => /\d+/.exec(splitSignal(one.fn?.signal ?? '')[1])?.[0] ?? '';
      if (a.fn && b.fn && a.net.role.kind !== 'analog')
        return instance(a) === instance(b) && number(a) === number(b)
          ? undefined
          : `\`${a.net.name}\` is ${a.fn.signal} and \`${b.net.name}\` ${b.fn.signal}`;
      return between(a, b) === 1 ? undefined : `${where(a)} and ${where(b)}, which are not neighbours`;
    }
  }
}
