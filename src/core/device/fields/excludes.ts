import type { Problems } from '../../base/problems';
import { attempt } from '../../description/language/attempt';
import { ExpressionError } from '../../description/language/expression';
import { type Has, parseHas } from '../../description/language/has';
import type { AlikeSource, ExcludeSource, RecipeSource } from '../../description/recipe';
import { type PadSettings, type SettingKey, settingKeysOf } from '../../description/settings';
import { type DeviceDescription, type SignalId, splitSignal } from '../../description/types';

/** Words that settings may have, by setting; several joined by `|`. */
export type WordSets = ReadonlyMap<SettingKey, ReadonlySet<string>>;

export interface Exclude {
  words: WordSets;
  classes?: ReadonlySet<string>;
  signals?: readonly string[];
  where?: Has;
  why: string;
}

export interface Alike {
  words: WordSets;
  why: string;
}

/** Reads `{"pull": "up|down"}`. Throws {@link ExpressionError} where a word is none of the setting's. */
export function readWords(
  settings: Partial<Record<SettingKey, string>>,
  recipe: Pick<RecipeSource, 'settings'>,
): WordSets {
  const words = new Map<SettingKey, ReadonlySet<string>>();
  for (const [key, text] of Object.entries(settings) as [SettingKey, string][]) {
    const known = recipe.settings[key];
    if (!known)
      throw new ExpressionError(
        `"${key}" is not a setting of this part; it has ${settingKeysOf(recipe.settings).join(', ')}`,
        1,
      );
    const values = text.trim() === '*' ? known : text.split('|').map((one) => one.trim());
    for (const value of values)
      if (!known.includes(value))
        throw new ExpressionError(`"${value}" is no value of ${key}, which has ${known.join(', ')}`, 1);
    words.set(key, new Set(values));
  }
  return words;
}

/** Whether settings have one of the words of each setting that is named. */
export const accepts = (words: WordSets, values: PadSettings['values']): boolean =>
  [...words].every(([key, allowed]) => allowed.has(values[key] ?? ''));

/** Reads what is not to be had, and what is alike; what cannot be read is a problem with its place. */
export function compileExcludes(
  device: DeviceDescription,
  problems: Problems,
): { excludes: Exclude[]; alike: Alike[] } {
  const { recipe } = device;
  const excludes = (recipe.excludes ?? []).flatMap((source, position) => {
    const place = `recipe, excludes ${position + 1}`;
    return attempt(() => compileExclude(source, device), place, problems) ?? [];
  });
  const alike = (recipe.alike ?? []).flatMap((source, position) => {
    const place = `recipe, alike ${position + 1}`;
    return attempt(() => compileAlike(source, recipe), place, problems) ?? [];
  });
  return { excludes, alike };
}

function compileExclude(source: ExcludeSource, device: DeviceDescription): Exclude {
  for (const id of source.classes ?? [])
    if (!Object.hasOwn(device.padClasses, id)) throw new ExpressionError(`there is no pad class ${id}`, 1);
  for (const id of source.packages ?? [])
    if (!device.packages.some((one) => one.id === id))
      throw new ExpressionError(`there is no package ${id}`, 1);
  for (const pattern of source.signals ?? [])
    if (!device.functions.some((fn) => matchesLine(pattern, fn.signal)))
      throw new ExpressionError(`no function is ${pattern}`, 1);
  const words = readWords(source.settings, device.recipe);
  if (words.size === 0) throw new ExpressionError('it names no setting', 1);
  return {
    words,
    why: source.why,
    ...(source.classes ? { classes: new Set(source.classes) } : {}),
    ...(source.signals ? { signals: source.signals } : {}),
    ...(source.where === undefined ? {} : { where: parseHas(source.where) }),
  };
}

function compileAlike({ settings, why }: AlikeSource, recipe: RecipeSource): Alike {
  const words = readWords(settings, recipe);
  if (![...words.values()].some((values) => values.size > 1))
    throw new ExpressionError('it names no two values that are alike: {"mode": "input|analog"}', 1);
  return { words, why };
}

/** `TWI1.SDA`, `TWI1.*` or `*.SDA`. */
export function matchesLine(pattern: string, signal: SignalId): boolean {
  const [wantedInstance, wantedLine] = splitSignal(pattern);
  const [instance, line] = splitSignal(signal);
  return (
    (wantedInstance === '*' || wantedInstance === instance) && (wantedLine === '*' || wantedLine === line)
  );
}

/** Why two settings may give the same bits: all that they differ in is said to be alike. Undefined where nobody says so. */
export function saidAlike(alike: readonly Alike[], a: PadSettings, b: PadSettings): string | undefined {
  if (a.mux !== b.mux || a.signal !== b.signal) return undefined;
  const differing = settingKeysOf({ ...a.values, ...b.values }).filter(
    (key) => a.values[key] !== b.values[key],
  );
  const found = alike.find(
    ({ words }) =>
      differing.every((key) => words.has(key)) && accepts(words, a.values) && accepts(words, b.values),
  );
  return found?.why;
}
