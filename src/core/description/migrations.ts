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

/** Format 2 spells settings and pins as the trade does. */
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

/** Format 3 has no keys of several words with blanks; the text of a part goes on reading like the data sheet. */
const THIRD: Names = {
  'accessed by': 'accessedBy',
  'after each': 'afterEach',
  'after read': 'afterRead',
  'any access': 'anyAccess',
  'any write': 'anyWrite',
  'before each': 'beforeEach',
  'cleared by': 'clearedBy',
  'cleared by one': 'clearedByOne',
  'cleared by zero': 'clearedByZero',
  'in turn': 'inTurn',
  'left out': 'leftOut',
  'open when': 'openWhen',
  'returns to': 'returnsTo',
  'set by': 'setBy',
  'toggled by': 'toggledBy',
  'writable where': 'writableWhere',
  'write when': 'writeWhen',
};

/** Keys of registers, guards, fields, tables and stages, with other names. */
function rekeyed(value: Json, names: Names): Json {
  const keys = (item: Json): Json => withKeys(item, names);
  return within(value, {
    recipe: (recipe) =>
      within(recipe, {
        registers: (registers) =>
          within(registers, {
            blocks: (blocks) =>
              eachItem(blocks, (block) => within(block, { registers: (list) => eachItem(list, keys) })),
            guards: (list) => eachItem(list, keys),
          }),
        fields: (fields) =>
          eachValue(fields, (field) => within(keys(field), { parts: (parts) => eachItem(parts, keys) })),
        encode: (list) => eachItem(list, keys),
        stages: (list) => eachItem(list, keys),
      }),
  });
}

const spelledSecond = (document: Json): Record<string, Json> =>
  respelled(document, SECOND) as Record<string, Json>;

const spelledThird = (document: Json): Record<string, Json> =>
  rekeyed(document, THIRD) as Record<string, Json>;

/** Every format of a description, and of the file that goes with its tables, that was ever written, in order. */
export const DESCRIPTION_MIGRATIONS: readonly Migration[] = [
  { from: 'mavrek-device/1', to: 'mavrek-device/2', step: spelledSecond },
  { from: 'mavrek-device/2', to: 'mavrek-device/3', step: spelledThird },
  { from: 'mavrek-recipe/1', to: 'mavrek-recipe/2', step: spelledSecond },
  { from: 'mavrek-recipe/2', to: 'mavrek-recipe/3', step: spelledThird },
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
  ...(respelled(rekeyed(value, reversed(THIRD)), FIRST) as object),
  format: 'mavrek-device/1',
});
