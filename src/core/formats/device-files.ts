import { composeDevice, type RecipeFile, type TableMaps } from '../device/compose';
import type { DeviceDescription } from '../device/types';
import type { Result } from '../result';
import { fail, ok } from '../result';
import { readGrid } from '../tables/grid';
import { readJson, schemaProblems } from './read-json';
import { deviceValidator, recipeValidator } from './schemas';

/** A file as read: its name for messages, and its text. */
export interface TextFile {
  name: string;
  text: string;
}

/** The three files a part is described by → its description. */
export function readDeviceFiles(
  pinout: TextFile,
  functions: TextFile,
  recipe: TextFile,
  maps: TableMaps = {},
): Result<DeviceDescription> {
  const json = readJson(recipe.name, recipe.text);
  if (!json.ok) return json;
  const validate = recipeValidator();
  if (!validate(json.value.value)) return fail(...schemaProblems(validate, json.value));
  const pads = readGrid(pinout.name, pinout.text);
  if (!pads.ok) return pads;
  const fns = readGrid(functions.name, functions.text);
  if (!fns.ok) return fns;
  return composeDevice(pads.value, fns.value, json.value.value as unknown as RecipeFile, maps);
}

/** A description in one JSON file → the description. */
export function parseDevice(name: string, text: string): Result<DeviceDescription> {
  const json = readJson(name, text);
  if (!json.ok) return json;
  const validate = deviceValidator();
  if (!validate(json.value.value)) return fail(...schemaProblems(validate, json.value));
  return ok(json.value.value as unknown as DeviceDescription);
}
