import { largest } from '@/core/base/lists';
import type { Device } from '@/core/device/device';

/** One port as registers see it: which pad each bit is. */
export interface PortRow {
  port: string;
  /** Bits of the mask that is shown: 8, 16, 32 or 64. */
  width: number;
  /** Pad by bit; bits without a pad are absent. */
  pads: ReadonlyMap<number, string>;
}

/** Ports in the recipe's order, then those that only pads speak of. */
export function portRows(device: Device): PortRow[] {
  const { pads, recipe } = device.description;
  const names = [...new Set([...Object.keys(recipe.ports), ...pads.flatMap((pad) => pad.port ?? [])])];
  return names.map((port) => {
    const bits = new Map(
      pads.filter((pad) => pad.port === port).map((pad) => [pad.bit ?? 0, pad.id] as const),
    );
    const highest = Math.max(0, largest(bits.keys()));
    return { port, pads: bits, width: [8, 16, 32, 64].find((width) => highest < width) ?? 64 };
  });
}

export interface MaskTexts {
  hex: string;
  decimal: string;
  binary: string;
}

/** Bits as a mask: `0x00A4`, `164`, `0000 0000 1010 0100`. */
export function maskTexts(bits: Iterable<number>, width: number): MaskTexts {
  let value = 0n;
  for (const bit of bits) value |= 1n << BigInt(bit);
  const binary = value.toString(2).padStart(width, '0');
  return {
    hex: `0x${value
      .toString(16)
      .toUpperCase()
      .padStart(width / 4, '0')}`,
    decimal: value.toString(10),
    binary: binary.replace(/(.{4})(?=.)/g, '$1 '),
  };
}
