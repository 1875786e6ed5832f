import { bare, bareEach } from '../base/bare';
import type { BlockSource, RecipeSource } from './recipe';
import type { DeviceDescription } from './types';

/** The description with every record whose keys are names of the user's made bare. Everything else is shared. */
export function withBareMaps(description: DeviceDescription): DeviceDescription {
  const columns = <T extends { columns?: Record<string, number> }>(item: T): T =>
    item.columns ? { ...item, columns: bare(item.columns) } : item;
  return {
    ...description,
    packages: description.packages.map((one) => ({ ...one, pins: bare(one.pins) })),
    pads: description.pads.map(columns),
    functions: description.functions.map(columns),
    peripherals: description.peripherals.map(columns),
    ...bareParts(description),
  };
}

type Parts = Pick<DeviceDescription, 'padClasses' | 'peripheralKinds' | 'notes' | 'recipe'>;

/** The parts that descriptions and recipe files share. */
export function bareParts(description: Parts): Parts {
  return {
    padClasses: bareEach(description.padClasses, (one) => ({
      ...one,
      ...(one.byDrive ? { byDrive: bare(one.byDrive) } : {}),
      ...(one.bySpeed ? { bySpeed: bare(one.bySpeed) } : {}),
    })),
    peripheralKinds: bareEach(description.peripheralKinds, (kind) => ({
      ...kind,
      lines: bareEach(kind.lines, (line) =>
        line.defaults ? { ...line, defaults: bare(line.defaults) } : line,
      ),
    })),
    notes: bare(description.notes),
    recipe: bareRecipe(description.recipe),
  };
}

function bareRecipe(recipe: RecipeSource): RecipeSource {
  const block = (one: BlockSource): BlockSource => ({
    ...one,
    registers: one.registers.map((register) =>
      typeof register.reset === 'object' ? { ...register, reset: bare(register.reset) } : register,
    ),
  });
  return {
    ...recipe,
    settings: bare(recipe.settings as Record<string, string[]>),
    applies: bare(recipe.applies as Record<string, never>),
    ports: bareEach(recipe.ports, bare),
    registers: { ...recipe.registers, blocks: recipe.registers.blocks.map(block) },
    fields: bare(recipe.fields),
    encode: recipe.encode.map((rule) => ({ ...rule, table: bare(rule.table) })),
  };
}
