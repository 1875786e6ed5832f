import { fail, ok, type Result } from '@/core/base/result';
import type { RecipeFile } from '@/core/description/recipe-file';
import type { DeviceDescription } from '@/core/description/types';
import { composeDevice } from '@/core/import/compose/compose';
import { type PartDraft, restOf, type TableDraft } from '@/core/import/compose/draft';
import { printTables, recipeFileOf } from '@/core/import/compose/print-tables';
import type { TextFile } from '@/core/import/files/read-file';
import { guessMapping } from '@/core/import/tables/guess';
import type { TableKind } from '@/core/import/tables/mapping';
import { readText } from '@/core/import/tables/read-text';
import { api } from '../client/api';

/** A part out of its files: one description, or two tables and a recipe. The server looks at what has a schema. */
export async function readPart(files: readonly TextFile[]): Promise<Result<DeviceDescription>> {
  const [first, functions, recipe] = files;
  if (!first) return fail({ place: 'file', message: 'holds no part' });
  if (!functions || !recipe) return api.readDescription(first.name, first.text);
  const file = await api.readRecipe(recipe.name, recipe.text);
  if (!file.ok) return file;
  const pads = readText(first.name, first.text, { divider: ',' });
  if (!pads.ok) return pads;
  const signals = readText(functions.name, functions.text, { divider: ',' });
  if (!signals.ok) return signals;
  const composed = composeDevice(pads.value, signals.value, file.value);
  return composed.ok ? ok(composed.value.description) : composed;
}

/** A part as it is, as a draft: its tables can be edited, or others put in their place. */
export function draftOf(description: DeviceDescription): PartDraft {
  const printed = printTables(description);
  const packages = description.packages.map((one) => one.id);
  const table = (kind: TableKind, name: string, text: string): TableDraft | null => {
    const grid = readText(name, text, { divider: ',' });
    if (!grid.ok) return null;
    const mapping = guessMapping(kind, grid.value, { packages, unknown: 'number' });
    return { grid: grid.value, mapping, source: { document: name }, kept: description };
  };
  const { id, name, maker, summary, source } = description;
  return {
    pinout: table('pinout', `${id} pinout`, printed.pinout),
    functions:
      description.functions.length > 0 ? table('functions', `${id} functions`, printed.functions) : null,
    device: { id, name, maker, summary, ...(source ? { source } : {}) },
    // As from a file: nothing of the description itself is shared.
    rest: restOf(JSON.parse(JSON.stringify(recipeFileOf(description))) as RecipeFile),
    corrections: description.corrections ?? [],
    padColumns: {},
  };
}
