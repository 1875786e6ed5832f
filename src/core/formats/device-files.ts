import { composeDevice, type RecipeFile, type TableMaps } from '../device/compose';
import { type DeviceDescription, splitSignal } from '../device/types';
import { collectProblems, type Problems } from '../problems';
import { failWith, ok, type Result } from '../result';
import { readGrid } from '../tables/grid';
import { type ReadJson, readJson } from './read-json';
import { deviceProblems, recipeProblems } from './schemas';

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
  const file = readRecipeFile(recipe);
  if (!file.ok) return file;
  const pads = readGrid(pinout.name, pinout.text);
  if (!pads.ok) return pads;
  const fns = readGrid(functions.name, functions.text);
  if (!fns.ok) return fns;
  const composed = composeDevice(pads.value, fns.value, file.value, maps);
  return composed.ok ? ok(composed.value.description) : composed;
}

/** `recipe.json`, checked against its schema. */
export function readRecipeFile({ name, text }: TextFile): Result<RecipeFile> {
  const json = readJson(name, text, 'deviceBytes');
  if (!json.ok) return json;
  const wrong = recipeProblems()(json.value);
  if (wrong.length > 0) return failWith(wrong);
  return ok(json.value.value as unknown as RecipeFile);
}

/** A description in one JSON file → the description. */
export function parseDevice(name: string, text: string): Result<DeviceDescription> {
  const json = readJson(name, text, 'deviceBytes');
  if (!json.ok) return json;
  const wrong = deviceProblems()(json.value);
  if (wrong.length > 0) return failWith(wrong);
  const description = json.value.value as unknown as DeviceDescription;
  const problems = referenceProblems(description, json.value);
  return problems.length > 0 ? failWith(problems.list()) : ok(description);
}

/** What a description names and does not have: pads, packages' terminals, supplies, classes, notes, ports, peripherals, lines. */
function referenceProblems(device: DeviceDescription, json: ReadJson): Problems {
  const problems = collectProblems();
  const complain = (path: (string | number)[], message: string): void => {
    problems.push({ place: problems.full ? '' : json.placeOf(path), message });
  };
  const unique = (list: readonly { id: string }[], key: string, what: string): Set<string> => {
    const ids = new Set<string>();
    list.forEach(({ id }, index) => {
      if (ids.has(id)) complain([key, index, 'id'], `two ${what}s are called ${id}`);
      ids.add(id);
    });
    return ids;
  };
  const pads = unique(device.pads, 'pads', 'pad');
  unique(device.packages, 'packages', 'package');
  const supplies = unique(device.supplies, 'supplies', 'supply');
  const peripherals = new Map(device.peripherals.map((one) => [one.id, one]));
  unique(device.peripherals, 'peripherals', 'peripheral');
  const notes = (path: (string | number)[], list: readonly string[] = []): void => {
    for (const note of list)
      if (!Object.hasOwn(device.notes, note)) complain(path, `there is no note ${note}`);
  };
  device.packages.forEach((one, index) => {
    for (const [terminal, pad] of Object.entries(one.terminals))
      if (!pads.has(pad)) complain(['packages', index, 'terminals', terminal], `there is no pad ${pad}`);
  });
  device.pads.forEach((pad, index) => {
    const at = (key: string) => ['pads', index, key];
    if (pad.supply !== undefined && !supplies.has(pad.supply))
      complain(at('supply'), `there is no supply ${pad.supply}`);
    if (pad.class !== undefined && !Object.hasOwn(device.padClasses, pad.class))
      complain(at('class'), `there is no pad class ${pad.class}`);
    if (pad.port !== undefined && !Object.hasOwn(device.recipe.ports, pad.port))
      complain(at('port'), `the recipe has no port ${pad.port}`);
    if (pad.port !== undefined && pad.bit === undefined)
      complain(['pads', index], `${pad.id} has a port but no bit`);
    notes(at('notes'), pad.notes);
  });
  device.functions.forEach((fn, index) => {
    const [instance, line] = splitSignal(fn.signal);
    if (!pads.has(fn.pad)) complain(['functions', index, 'pad'], `there is no pad ${fn.pad}`);
    const kind = device.peripheralKinds[peripherals.get(instance)?.kind ?? ''];
    if (!kind) complain(['functions', index, 'signal'], `there is no peripheral ${instance}`);
    else if (!Object.hasOwn(kind.lines, line))
      complain(['functions', index, 'signal'], `${instance} has no line ${line}`);
    notes(['functions', index, 'notes'], fn.notes);
  });
  return problems;
}
