import type { RecipeSource, ValueMeaningSource } from './recipe';
import { type SettingKey, settingTitle } from './settings';

type Meant = Pick<RecipeSource, 'settings' | 'meanings'>;

const saidOf = (recipe: Meant, key: SettingKey, value: string): ValueMeaningSource | undefined => {
  const values = recipe.meanings?.[key]?.values;
  return values && Object.hasOwn(values, value) ? values[value] : undefined;
};

/** What a setting of the part is called. */
export const titleOf = (recipe: Meant, key: SettingKey): string =>
  recipe.meanings?.[key]?.title ?? settingTitle(key);

/** The value of a pad that nobody asks anything of: the one that the part states, or its first. */
export const defaultOf = (recipe: Meant, key: SettingKey): string | undefined =>
  recipe.meanings?.[key]?.default ?? recipe.settings[key]?.[0];

/** A setting's values, its default first: the order in which one is looked for where nobody asks. */
export function valuesByDefault(recipe: Meant, key: SettingKey): string[] {
  const values = recipe.settings[key] ?? [];
  const first = recipe.meanings?.[key]?.default;
  return first === undefined ? [...values] : [first, ...values.filter((value) => value !== first)];
}

/** A setting's values from the weakest or slowest to the strongest or fastest: as stated, or as listed. */
export const orderOf = (recipe: Meant, key: SettingKey): readonly string[] =>
  recipe.meanings?.[key]?.order ?? recipe.settings[key] ?? [];

/** The word of the trade that a value stands for: `up` for `up22k`; the value itself where nothing else is said. */
export const meantBy = (recipe: Meant, key: SettingKey, value: string | undefined): string | undefined =>
  value === undefined ? undefined : (saidOf(recipe, key, value)?.is ?? value);

/**
 * The part's values that a word stands for: the value of that name, or all those that are said to be it, weakest first. Empty
 * when the part has none.
 */
export function valuesMeaning(recipe: Meant, key: SettingKey, word: string): string[] {
  const values = recipe.settings[key] ?? [];
  if (values.includes(word)) return [word];
  return orderOf(recipe, key).filter((value) => meantBy(recipe, key, value) === word);
}

/** A figure that the document gives for a value: the ohms of a pull, the current of a drive, the rate of a speed. */
export const figureOf = (
  recipe: Meant,
  key: SettingKey,
  value: string | undefined,
  figure: 'ohms' | 'milliamps' | 'hertz',
): number | undefined => (value === undefined ? undefined : saidOf(recipe, key, value)?.[figure]);

/** "up, 22 kΩ": a value in words, where the part gives any. */
export const valueSays = (recipe: Meant, key: SettingKey, value: string): string | undefined =>
  saidOf(recipe, key, value)?.says;
