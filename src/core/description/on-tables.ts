import type { RecipeFile } from './recipe-file';
import type { DeviceDescription } from './types';

/** A description with another text: pads, functions, pins and corrections stay as they are. */
export function onTables(description: DeviceDescription, file: RecipeFile): DeviceDescription {
  const { pads, functions, packages, corrections } = description;
  const { format: _format, device, ...rest } = file;
  const pins = new Map(packages.map((each) => [each.id, each.pins]));
  return {
    format: description.format,
    ...device,
    ...rest,
    packages: file.packages.map((each) => ({ ...each, pins: pins.get(each.id) ?? {} })),
    pads,
    functions,
    ...(corrections ? { corrections } : {}),
  };
}
