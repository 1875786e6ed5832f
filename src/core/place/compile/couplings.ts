import { lineOfRole } from '../../derive/candidates/groups';
import { splitSignal } from '../../description/types';
import type { Device } from '../../device/device';
import { distanceBetween } from '../../device/geometry';
import type { Constraint } from '../../plan/model/types';
import type { Choice, Model, NetItem, Slot } from '../model/model';

/** A net of a constraint, and which it is of the constraint's nets, those that are left out counted. */
export interface Member {
  item: NetItem;
  place: number;
}

/** What a constraint demands of the choices of its nets together. A choice without a key is none of them. */
export type Coupling =
  | { kind: 'same key' | 'different keys'; keyOf(choice: Choice, member: Member): string | undefined }
  | { kind: 'every two' | 'the first two'; suits(a: Choice, b: Choice): boolean };

type View = Pick<Model, 'device' | 'pkg' | 'slots'>;

/** How each kind of constraint couples the choices of its nets. */
export const COUPLINGS: Record<Constraint['kind'], (model: View, members: readonly Member[]) => Coupling> = {
  bus: ({ device }) => ({
    kind: 'same key',
    keyOf: (choice, { place }) => laneOf(device, choice, place),
  }),
  together: ({ slots }) => ({ kind: 'same key', keyOf: ({ slot }) => slots[slot]?.side }),
  'same-instance': () => ({ kind: 'same key', keyOf: ({ instance }) => instance }),
  'other-instances': () => ({ kind: 'different keys', keyOf: ({ instance }) => instance }),
  apart: (model) => ({ kind: 'every two', suits: (a, b) => between(model, a, b) > 1 }),
  pair: (model, members) =>
    members.every(({ item }) => lineOfRole(item.net.role) !== undefined)
      ? { kind: 'same key', keyOf: pairKey }
      : { kind: 'the first two', suits: (a, b) => between(model, a, b) === 1 },
};

/** Port and bit at which a row of bits would begin that has this choice at a place; undefined for pads without a bit. */
export function laneOf(device: Device, { pad: id }: Choice, place: number): string | undefined {
  const pad = device.pads.get(id);
  return pad?.port === undefined || pad.bit === undefined ? undefined : `${pad.port} ${pad.bit - place}`;
}

const between = ({ pkg, slots }: View, a: Choice, b: Choice): number =>
  distanceBetween(pkg, (slots[a.slot] as Slot).place, (slots[b.slot] as Slot).place);

/** Instance and number of a line, so that Q3 and Q3B, or P and N of one instance, are a pair. */
function pairKey({ fn }: Choice): string | undefined {
  if (!fn) return undefined;
  const [instance, line] = splitSignal(fn.signal);
  return `${instance} ${/\d+/.exec(line)?.[0] ?? ''}`;
}
