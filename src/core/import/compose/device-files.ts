import { type ReadJson, readJson } from '../../base/json/read-json';
import { collectProblems, type Problem, type Problems } from '../../base/problems';
import { failWith, ok, type Result } from '../../base/result';
import { located } from '../../description/locate';
import { migrateDescription } from '../../description/migrations';
import { isPartText } from '../../description/part-text/recognise';
import { readPartText, type TextKind } from '../../description/part-text/text-form';
import { withText } from '../../description/part-text/written';
import type { RecipeFile } from '../../description/recipe-file';
import { type Referable, whyNoLine, whyNoSuch } from '../../description/references';
import type { DeviceDescription } from '../../description/types';
import type { TextFile } from '../files/read-file';
import { readText } from '../tables/read-text';
import { composeDevice, type TableMaps } from './compose';
import { deviceProblems, recipeProblems } from './device-problems';

/** The three files a part is described by → its description. */
export function readDeviceFiles(
  pinout: TextFile,
  functions: TextFile,
  recipe: TextFile,
  maps: TableMaps = {},
): Result<DeviceDescription> {
  const file = readRecipeFile(recipe);
  if (!file.ok) return file;
  const pads = readText(pinout.name, pinout.text);
  if (!pads.ok) return pads;
  const fns = readText(functions.name, functions.text);
  if (!fns.ok) return fns;
  const composed = composeDevice(pads.value, fns.value, file.value, maps);
  return composed.ok ? ok(composed.value.description) : composed;
}

/** A part's text, or JSON of any format that was ever written, in today's. */
function readDocument(name: string, text: string, kind: TextKind): Result<ReadJson> {
  if (isPartText(name, text)) return readPartText(name, text, kind);
  const json = readJson(name, text, 'deviceBytes');
  return json.ok ? ok({ ...json.value, value: migrateDescription(json.value.value) }) : json;
}

/** `recipe.part` or `recipe.json`, checked against its schema. */
export function readRecipeFile({ name, text }: TextFile): Result<RecipeFile> {
  const json = readDocument(name, text, 'recipe');
  if (!json.ok) return json;
  const wrong = recipeProblems()(json.value);
  if (wrong.length > 0) return failWith(wrong);
  return ok(keptText(json.value.value as unknown as RecipeFile, name, text));
}

/** A description in one file, a part's text or JSON → the description. */
export function parseDevice(name: string, text: string): Result<DeviceDescription> {
  const json = readDocument(name, text, 'description');
  if (!json.ok) return json;
  const wrong = deviceProblems()(json.value);
  if (wrong.length > 0) return failWith(wrong);
  const description = json.value.value as unknown as DeviceDescription;
  const problems = referenceProblems(description, json.value);
  return problems.length > 0 ? failWith(problems.list()) : ok(keptText(description, name, text));
}

/** With its text, where it was one. */
const keptText = <T extends { text?: string }>(value: T, name: string, text: string): T =>
  isPartText(name, text) ? withText(value, text) : value;

/** Problems of a whole description with their places in its file, before what they name. */
export function locatedIn(
  { name, text }: TextFile,
  kind: TextKind,
  description: DeviceDescription,
  problems: readonly Problem[],
): Problem[] {
  const document = readDocument(name, text, kind);
  return document.ok ? located(problems, description, document.value.placeOf) : [...problems];
}

/** What a description names and does not have: pads, packages' pins, supplies, classes, notes, ports, peripherals, lines. */
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
  unique(device.pads, 'pads', 'pad');
  unique(device.packages, 'packages', 'package');
  unique(device.supplies, 'supplies', 'supply');
  unique(device.peripherals, 'peripherals', 'peripheral');
  const refers = (path: (string | number)[], kind: Referable, name: string | undefined): void => {
    const why = name === undefined ? undefined : whyNoSuch(device, kind, name);
    if (why !== undefined) complain(path, why);
  };
  const notes = (path: (string | number)[], list: readonly string[] = []): void => {
    for (const note of list) refers(path, 'note', note);
  };
  device.packages.forEach((one, index) => {
    for (const [pin, pad] of Object.entries(one.pins)) refers(['packages', index, 'pins', pin], 'pad', pad);
  });
  device.pads.forEach((pad, index) => {
    const at = (key: string) => ['pads', index, key];
    refers(at('supply'), 'supply', pad.supply);
    refers(at('class'), 'pad class', pad.class);
    refers(at('port'), 'port', pad.port);
    if (pad.port !== undefined && pad.bit === undefined)
      complain(['pads', index], `${pad.id} has a port but no bit`);
    notes(at('notes'), pad.notes);
  });
  device.functions.forEach((fn, index) => {
    refers(['functions', index, 'pad'], 'pad', fn.pad);
    const why = whyNoLine(device, fn.signal);
    if (why !== undefined) complain(['functions', index, 'signal'], why);
    notes(['functions', index, 'notes'], fn.notes);
  });
  return problems;
}
