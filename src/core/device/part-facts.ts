import { hasRecipe } from '../description/recipe';
import type { PackageShape } from '../description/types';
import type { Device } from './device';

/** What lists show of a part. */
export interface PartFacts {
  packages: { id: string; name: string; pins: number; io: number; shape: PackageShape }[];
  pads: number;
  ioPads: number;
  functions: number;
  registers: number;
  corrections: number;
  recipe: boolean;
}

export interface PartSummary extends PartFacts {
  id: string;
  name: string;
  maker: string;
  summary: string;
  fingerprint: string;
  revision: number;
  shipped: boolean;
  plans: number;
  updatedAt: string;
}

export function partFacts(device: Device): PartFacts {
  const { description } = device;
  const io = (pad: string): boolean => device.pads.get(pad)?.kind === 'io';
  return {
    packages: description.packages.map(({ id, name, shape, pins }) => ({
      id,
      name,
      shape,
      pins: Object.keys(pins).length,
      io: Object.values(pins).filter(io).length,
    })),
    pads: description.pads.length,
    ioPads: description.pads.filter((pad) => pad.kind === 'io').length,
    functions: description.functions.length,
    registers: device.registers.all.filter((one) => one.access.kind !== 'internal').length,
    corrections: description.corrections?.length ?? 0,
    recipe: hasRecipe(description.recipe),
  };
}
