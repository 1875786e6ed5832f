import {
  eachItem,
  eachValue,
  type Json,
  type Migration,
  migrate,
  type Names,
  renamed,
  reversed,
  within,
  withKeys,
} from '../base/migrations';

/** Format 2 spells settings and pins as the trade does. Nothing else changed. */
interface Spelling {
  pins: Names;
  settings: Names;
  classes: Names;
  corrected: Names;
}

const SECOND: Spelling = {
  pins: { terminals: 'pins' },
  settings: { use: 'mode', buffer: 'outputType', slew: 'speed', threshold: 'inputBuffer' },
  classes: { bySlew: 'bySpeed' },
  corrected: { terminal: 'pin' },
};

const FIRST: Spelling = {
  pins: reversed(SECOND.pins),
  settings: reversed(SECOND.settings),
  classes: reversed(SECOND.classes),
  corrected: reversed(SECOND.corrected),
};

/** Names of settings where a description, or a file that one is made of, speaks of them; and of pins. */
function respelled(value: Json, { pins, settings, classes, corrected }: Spelling): Json {
  const key = (item: Json): Json => renamed(item, settings);
  const keys = (item: Json): Json => withKeys(item, settings);
  return within(value, {
    packages: (list) =>
      eachItem(list, (one) => within(withKeys(one, pins), { shape: (shape) => withKeys(shape, pins) })),
    padClasses: (all) =>
      eachValue(all, (one) =>
        within(withKeys(one, classes), {
          lacks: (list) => eachItem(list, (lack) => within(lack, { setting: key })),
        }),
      ),
    peripheralKinds: (all) =>
      eachValue(all, (one) =>
        within(one, { lines: (lines) => eachValue(lines, (line) => within(line, { defaults: keys })) }),
      ),
    corrections: (list) =>
      eachItem(list, (one) =>
        within(one, {
          what: (path) => (Array.isArray(path) ? [renamed(path[0], corrected), ...path.slice(1)] : path),
        }),
      ),
    recipe: (recipe) =>
      within(recipe, {
        settings: keys,
        between: (between) => (Array.isArray(between) ? between : keys(between)),
        applies: (all) => eachValue(all, (list) => eachItem(list, key)),
        encode: (list) => eachItem(list, (rule) => within(rule, { from: (from) => eachItem(from, key) })),
      }),
  });
}

const spelledSecond = (document: Json): Record<string, Json> =>
  respelled(document, SECOND) as Record<string, Json>;

/** Every format of a description, and of the file that goes with its tables, that was ever written, in order. */
export const DESCRIPTION_MIGRATIONS: readonly Migration[] = [
  { from: 'mavrek-device/1', to: 'mavrek-device/2', step: spelledSecond },
  { from: 'mavrek-recipe/1', to: 'mavrek-recipe/2', step: spelledSecond },
];

/** A description, or a recipe file, of any format that was ever written, in today's. It is checked after that. */
export const migrateDescription = (value: Json): Json => migrate(value, DESCRIPTION_MIGRATIONS);

/** A list of corrections by itself, which says nothing of its format: a first word that only old ones have tells. */
export const migrateCorrections = (list: Json): Json =>
  (spelledSecond({ corrections: list }) as { corrections: Json }).corrections;

/**
 * A description as the first format spelled it, which is what fingerprints are taken of: a word that is spelled otherwise is no
 * change of the part, and plans stay on the one they were made against.
 */
export const spelledFirst = (value: object): object => ({
  ...(respelled(value, FIRST) as object),
  format: 'mavrek-device/1',
});
