import type { Problem } from '../base/problems';
import { failWith, ok, type Result } from '../base/result';
import { compareParts, type PartComparison } from '../compare/parts/compare-parts';
import { type StateBefore, type WriteEffect, writeEffect } from '../derive/machine/write-effect';
import { located } from '../description/locate';
import { onTables } from '../description/on-tables';
import { readPartText } from '../description/part-text/text-form';
import type { RecipeFile } from '../description/recipe-file';
import type { DeviceDescription } from '../description/types';
import { loadDevice } from '../device/compile/load';
import type { Device } from '../device/device';
import { type Meaning, meaningOf } from './meaning';

/** What is asked about a part's text while it is written; answered off the page, since loading a part takes its time. */
export type TextTask =
  | { id: number; kind: 'open'; description: DeviceDescription }
  /** `file`: the text as its schema has let it through. */
  | { id: number; kind: 'check'; name: string; text: string; file: RecipeFile }
  /** The part as it is stored against the same described again: its text alone, or all of it. */
  | { id: number; kind: 'compare'; again: RecipeFile | DeviceDescription }
  | { id: number; kind: 'meaning'; key: string }
  | { id: number; kind: 'write'; register: string; value: number; state: StateBefore };

export type TextAnswer =
  | { id: number; kind: 'checked'; problems: Problem[] }
  | { id: number; kind: 'compared'; comparison: Result<PartComparison> }
  | { id: number; kind: 'meaning'; meaning: Meaning | null }
  | { id: number; kind: 'effect'; effect: WriteEffect | null };

/** Keeps the part that the text described when it was last whole. */
export function textKeeper(): (task: TextTask) => TextAnswer {
  let tables: DeviceDescription | undefined;
  let stored: Device | undefined;
  let device: Device | undefined;
  const check = (name: string, text: string, file: RecipeFile): Result<Device> => {
    if (!tables) return failWith([{ place: name, message: 'no part is open' }]);
    const description = onTables(tables, file);
    const loaded = loadDevice(description);
    if (loaded.ok) return ok(loaded.value);
    const read = readPartText(name, text, 'recipe');
    return failWith(read.ok ? located(loaded.problems, description, read.value.placeOf) : loaded.problems);
  };
  const compare = (again: RecipeFile | DeviceDescription): Result<PartComparison> => {
    if (!tables || !stored) return failWith([{ place: 'part', message: 'the part does not load' }]);
    const loaded = loadDevice('pads' in again ? again : onTables(tables, again));
    return loaded.ok ? ok(compareParts(stored, loaded.value)) : loaded;
  };
  return (task) => {
    const { id } = task;
    switch (task.kind) {
      case 'open': {
        tables = task.description;
        const loaded = loadDevice(tables);
        device = loaded.ok ? loaded.value : undefined;
        stored = device;
        return { id, kind: 'checked', problems: loaded.ok ? [] : loaded.problems };
      }
      case 'check': {
        const checked = check(task.name, task.text, task.file);
        if (checked.ok) device = checked.value;
        return { id, kind: 'checked', problems: checked.ok ? [] : checked.problems };
      }
      case 'compare':
        return { id, kind: 'compared', comparison: compare(task.again) };
      case 'meaning':
        return { id, kind: 'meaning', meaning: (device && meaningOf(device, task.key)) ?? null };
      case 'write': {
        const register = device?.registers.byName.get(task.register);
        const effect = device && register ? writeEffect(device, register, task.value, task.state) : null;
        return { id, kind: 'effect', effect };
      }
    }
  };
}
