import { hexText } from '../base/text/hex';
import type { Derived } from '../derive/derive';
import type { ImageRegister } from '../derive/machine/operations';
import { fullMask } from '../device/registers/types';

/** Bits of a register whose planned value differs. */
export interface BitChange {
  /** "7", or "5…4". */
  bits: string;
  field: string;
  pad: string;
  /** Nets on that pad, before and after. */
  nets: string[];
  circuits: string[];
  /** In binary; empty where the plan leaves the bits as they are. */
  from: string;
  to: string;
}

export interface RegisterChange {
  name: string;
  /** Values after initialisation, bits that the plan leaves alone with their reset values. */
  from: string;
  to: string;
  bits: BitChange[];
}

/** Registers that end otherwise; undefined when the plans are for parts with other registers. */
export function registerChanges(from: Derived, to: Derived): RegisterChange[] | undefined {
  if (from.device.description.id !== to.device.description.id) return undefined;
  const before = new Map(from.lowered.image.map((one) => [one.register.name, one]));
  const after = new Map(to.lowered.image.map((one) => [one.register.name, one]));
  const names = [...new Set([...before.keys(), ...after.keys()])];
  const address = (name: string): number => (before.get(name) ?? after.get(name))?.register.address ?? 0;
  return names
    .sort((a, b) => address(a) - address(b))
    .flatMap((name) => changeOf(from, to, name, before.get(name), after.get(name)) ?? []);
}

function changeOf(
  from: Derived,
  to: Derived,
  name: string,
  was: ImageRegister | undefined,
  is: ImageRegister | undefined,
): RegisterChange | undefined {
  const { register } = (was ?? is) as ImageRegister;
  const all = fullMask(register.bits);
  const [oldMask, newMask] = [was?.mask ?? 0, is?.mask ?? 0];
  const [oldValue, newValue] = [was?.planned ?? register.reset, is?.planned ?? register.reset];
  let left = ((oldMask ^ newMask) | (oldMask & newMask & (oldValue ^ newValue))) & all;
  if (left === 0) return undefined;
  const bits: BitChange[] = [];
  const take = (low: number, count: number, field: string, pad: string): void => {
    const mask = fullMask(count) * 2 ** low;
    if ((left & mask) === 0) return;
    left &= ~mask;
    const digits = (value: number, planned: number): string =>
      (planned & mask) === 0 ? '' : (((value & mask) >>> low) >>> 0).toString(2).padStart(count, '0');
    const resolved = [...(from.byPad.get(pad) ?? []), ...(to.byPad.get(pad) ?? [])];
    bits.push({
      bits: count === 1 ? String(low) : `${low + count - 1}…${low}`,
      field,
      pad,
      nets: [...new Set(resolved.map(({ net }) => net.name))],
      circuits: [
        ...new Set(
          [from, to].flatMap(({ plan, byPad }) =>
            (byPad.get(pad) ?? []).flatMap(
              ({ net }) => plan.circuits.find((one) => one.id === net.circuit)?.name ?? [],
            ),
          ),
        ),
      ],
      from: digits(oldValue, oldMask),
      to: digits(newValue, newMask),
    });
  };
  for (const { low, bits: count, field, pad } of [...(is?.owners ?? []), ...(was?.owners ?? [])])
    take(low, count, field, pad);
  // Bits that statements of the recipe decide are nobody's.
  for (let bit = 0; bit < register.bits; bit++) take(bit, 1, '', '');
  const value = (image: number): string => hexText((image & all) >>> 0, register.bits);
  return {
    name,
    from: value(oldValue),
    to: value(newValue),
    bits: bits.sort((a, b) => Number.parseInt(b.bits, 10) - Number.parseInt(a.bits, 10)),
  };
}
