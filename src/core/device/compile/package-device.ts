import type { RecipeSource } from '../../description/recipe';
import type { Device } from '../device';
import { compileDevice } from './compile';

interface Limited {
  has?: string;
  packages?: string[];
}

/** Whether something of the recipe is there in some packages only. */
export const dependsOnPackage = ({ registers, fields, excludes = [] }: RecipeSource): boolean =>
  [
    ...registers.blocks,
    ...registers.blocks.flatMap((block) => block.registers),
    ...Object.values(fields),
    ...excludes,
  ].some((one: Limited) => one.packages !== undefined);

/** What never holds: how something is said not to be there. */
const NEVER = '0';

const inPackage = <T extends Limited>(one: T, id: string): T => {
  if (one.packages === undefined) return one;
  const { packages, ...rest } = one;
  return (packages.includes(id) ? rest : { ...rest, has: NEVER }) as T;
};

/** The recipe as it is in one package. */
export function recipeIn(recipe: RecipeSource, id: string): RecipeSource {
  const { registers, fields, excludes } = recipe;
  return {
    ...recipe,
    registers: {
      ...registers,
      blocks: registers.blocks.map((block) => ({
        ...inPackage(block, id),
        registers: block.registers.map((one) => inPackage(one, id)),
      })),
    },
    fields: Object.fromEntries(Object.entries(fields).map(([name, one]) => [name, inPackage(one, id)])),
    ...(excludes
      ? {
          excludes: excludes
            .filter((one) => one.packages?.includes(id) !== false)
            .map(({ packages: _here, ...rest }) => rest),
        }
      : {}),
  };
}

const known = new WeakMap<Device, Map<string, Device>>();

/**
 * A part as it is in one package: without the registers, fields and exclusions of other packages. The very same device where
 * nothing depends on the package.
 */
export function deviceIn(device: Device, id: string): Device {
  if (!device.packages.has(id) || !dependsOnPackage(device.description.recipe)) return device;
  const packages = known.get(device) ?? new Map<string, Device>();
  known.set(device, packages);
  let found = packages.get(id);
  if (!found) {
    const { original, unapplied, fingerprint } = device;
    const compiled = compileDevice({ ...original, recipe: recipeIn(original.recipe, id) });
    // What can be wrong with it has been looked for when the part was loaded.
    found = compiled.ok ? Object.assign(compiled.value, { original, unapplied, fingerprint }) : device;
    packages.set(id, found);
  }
  return found;
}
