import type { DeviceDescription } from '@/core/description/types';
import type { RecipeFile } from '@/core/import/compose/compose';
import { type PartDraft, restOf, type TableDraft } from '@/core/import/compose/draft';
import { printTables } from '@/core/import/compose/print-tables';
import { guessMapping } from '@/core/import/tables/guess';
import type { TableKind } from '@/core/import/tables/mapping';
import { readText } from '@/core/import/tables/read-text';

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
    rest: restOf(JSON.parse(printed.recipe) as RecipeFile),
    corrections: description.corrections ?? [],
    padColumns: {},
  };
}
