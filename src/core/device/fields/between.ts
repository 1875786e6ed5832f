import type { Problems } from '../../base/problems';
import { didYouMean } from '../../base/text/near';
import { attempt } from '../../description/language/attempt';
import { type Has, parseWhere } from '../../description/language/has';
import type { BetweenSource, RecipeSource } from '../../description/recipe';
import type { PadSettings, SettingKey } from '../../description/settings';
import { settingKeysOf } from '../../description/settings';
import type { DeviceDescription, Pad } from '../../description/types';
import { accepts, readWords, type WordSets } from './excludes';

/** Values that a setting may have for a moment on the way, of which pads, and during which stages. */
export interface Between {
  key: SettingKey;
  /** `*` for any. */
  values: ReadonlySet<string>;
  /** Only of pads that are planned so. */
  planned?: WordSets;
  classes?: ReadonlySet<string>;
  where?: Has;
  /** Only after operations of these. */
  stages?: ReadonlySet<string>;
  why?: string;
}

/** The entries of `between`, in either form; a map of values is a list of entries that hold for all. */
export const betweenSources = ({ between = [] }: Pick<RecipeSource, 'between'>): BetweenSource[] =>
  Array.isArray(between)
    ? between
    : settingKeysOf(between).map((setting) => ({ setting, values: between[setting] ?? [] }));

export function compileBetween(description: DeviceDescription, problems: Problems): Between[] {
  const { recipe } = description;
  return betweenSources(recipe).flatMap((source, position): Between[] => {
    const place = Array.isArray(recipe.between)
      ? `recipe, between ${position + 1}`
      : `recipe, between, ${source.setting}`;
    const message = unknownIn(source, description);
    if (message !== undefined) {
      problems.push({ place, message });
      return [];
    }
    return attempt(() => [compileEntry(source, recipe)], place, problems) ?? [];
  });
}

/** What an entry names that is not there. */
function unknownIn(
  { setting, values, classes = [], stages = [] }: BetweenSource,
  { recipe, padClasses }: Pick<DeviceDescription, 'recipe' | 'padClasses'>,
): string | undefined {
  const missing = (names: readonly string[], known: readonly string[], kind: string): string | undefined => {
    const name = names.find((each) => !known.includes(each));
    return name === undefined ? undefined : `there is no ${kind} ${name}${didYouMean(name, known)}`;
  };
  const strange = values.find((value) => value !== '*' && !recipe.settings[setting]?.includes(value));
  return (
    missing([setting], Object.keys(recipe.settings), 'setting') ??
    (strange === undefined ? undefined : `"${strange}" is no value of ${setting}`) ??
    missing(classes, Object.keys(padClasses), 'pad class') ??
    missing(
      stages,
      recipe.stages.map((stage) => stage.id),
      'stage',
    )
  );
}

const compileEntry = (
  { setting, values, settings, classes, where, stages, why }: BetweenSource,
  recipe: RecipeSource,
): Between => ({
  key: setting,
  values: new Set(values),
  ...(settings ? { planned: readWords(settings, recipe) } : {}),
  ...(classes ? { classes: new Set(classes) } : {}),
  ...(where === undefined ? {} : { where: parseWhere(where) }),
  ...(stages ? { stages: new Set(stages) } : {}),
  ...(why === undefined ? {} : { why }),
});

/** Whether an entry is about a pad; `values`: what it is planned to be. */
export const concerns = (
  { planned, classes, where }: Between,
  pad: Pad,
  values: PadSettings['values'] | undefined,
  scope: Parameters<Has['holds']>[0],
): boolean =>
  (!classes || classes.has(pad.class ?? '')) &&
  (!where || where.holds(scope)) &&
  (!planned || (values !== undefined && accepts(planned, values)));
