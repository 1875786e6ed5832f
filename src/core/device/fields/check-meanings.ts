import type { Problems } from '../../base/problems';
import type { RecipeSource } from '../../description/recipe';
import { isOwnKey, type SettingKey, settingKind } from '../../description/settings';

/** What a value of a setting may be said to be, beyond the trade's own values. */
const MORE_WORDS: Partial<Record<SettingKey, readonly string[]>> = { pull: ['keeper'] };

/** Checks what a recipe says of its settings: names that are not there, words that no rule understands. */
export function checkMeanings(recipe: RecipeSource, problems: Problems): void {
  for (const key of Object.keys(recipe.settings)) {
    const common = !isOwnKey(key) && settingKind(key as SettingKey).title;
    if (!isOwnKey(key) && !common)
      problems.push({
        place: `recipe, settings, ${key}`,
        message: 'there is no such setting; one that the part has of its own begins with "own."',
      });
  }
  for (const key of Object.keys(recipe.meanings ?? {}) as SettingKey[]) {
    const meaning = recipe.meanings?.[key] ?? {};
    const place = `recipe, meanings, ${key}`;
    const known = recipe.settings[key];
    if (!known) {
      problems.push({ place, message: 'the part has no such setting' });
      continue;
    }
    const { default: first, order, values = {} } = meaning;
    for (const value of [...(first === undefined ? [] : [first]), ...(order ?? []), ...Object.keys(values)])
      if (!known.includes(value))
        problems.push({ place, message: `"${value}" is no value of it; it has ${known.join(', ')}` });
    if (order && (order.length !== known.length || new Set(order).size !== known.length))
      problems.push({ place, message: `"order" lists each of ${known.join(', ')} once, weakest first` });
    const words = wordsOf(key);
    for (const [value, { is }] of Object.entries(values)) {
      if (is !== undefined && words && !words.includes(is))
        problems.push({
          place,
          message: `"${value}" is said to be "${is}"; it is one of ${words.join(', ')}`,
        });
    }
  }
}

/** Words that rules understand for a setting; undefined where the values are the part's own figures or tokens. */
export function wordsOf(key: SettingKey): readonly string[] | undefined {
  const { values } = settingKind(key);
  return values === 'part' ? undefined : [...Object.keys(values), ...(MORE_WORDS[key] ?? [])];
}
