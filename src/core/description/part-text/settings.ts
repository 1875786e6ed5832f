import { type Cursor, Mistake } from './cursor';
import { type Json, key, type LineForm, optional, type Piece, sequence, type Target, within } from './forms';
import { choice } from './hardware';
import { why } from './shared';
import { entriesAt, itemsOf, properties } from './targets';
import {
  commas,
  entries,
  newName,
  number,
  oneOf,
  phrase,
  quantity,
  separated,
  several,
  text,
  the,
  type Value,
  word,
  words,
} from './values';

/** The lines of a part's settings: their values and what those mean, under which mode, together with which others, for how long. */

const MODES = [
  'input',
  'output',
  'function',
  'analog',
  'function in',
  'function out',
  'function both',
  'function analog',
];

/** What a value is: `2mA (2 mA)`, `up22k (is up, 22 kOhm, "weak")`. */
const meaning: readonly Piece[] = [
  sequence('is', key('is', word)),
  key('ohms', quantity('Ohm', true)),
  key('milliamps', quantity('mA')),
  key('hertz', quantity('Hz', true)),
  key('says', text),
];

/** A figure's unit says which of them it is. */
function readMeaning(cursor: Cursor, into: Json): boolean {
  const { at } = cursor;
  for (const piece of meaning) {
    try {
      if (piece.read(cursor, into)) return true;
    } catch (error) {
      if (!(error instanceof Mistake)) throw error;
      cursor.at = at;
    }
  }
  return false;
}

/** Values of a setting, each with what it means where something is said of it. */
const settingValues: Value = {
  shows: 'VALUE [(["is" VALUE], [NUMBER Ohm | NUMBER mA | NUMBER Hz], [TEXT])] …',
  read(cursor) {
    const values: string[] = [];
    const meanings: Json = Object.create(null);
    for (;;) {
      const name = cursor.readName('value', true);
      if (name === undefined) break;
      values.push(name);
      if (!cursor.take('(')) continue;
      const facts: Json = Object.create(null);
      separated(cursor, () => (readMeaning(cursor, facts) ? true : undefined));
      cursor.expect(')');
      meanings[name] = facts;
    }
    return values.length === 0 ? undefined : { values, meanings };
  },
  print(given) {
    const { values, meanings } = given as { values: string[]; meanings: Json };
    return values
      .map((name) => {
        const facts = meanings[name] as Json | undefined;
        const all = facts ? meaning.flatMap((piece) => piece.print(facts) ?? []) : [];
        return all.length === 0 ? word.print(name) : `${word.print(name)} (${commas(all)})`;
      })
      .join(' ');
  },
};

/** Values are held in `settings`, what they mean in `meanings`. */
const settings: Target = {
  all(parent) {
    const { settings: all = {}, meanings = {} } = (parent.recipe ?? {}) as {
      settings?: Record<string, string[]>;
      meanings?: Record<string, Json>;
    };
    return Object.entries(all).map(([$key, values]) => {
      const { values: valueMeanings = {}, ...more } = meanings[$key] ?? {};
      return { $key, $values: { values, meanings: valueMeanings }, ...more };
    });
  },
  put(cursor, parent, item, at) {
    const { $key, $values, ...more } = item;
    const { values, meanings } = $values as { values: string[]; meanings: Json };
    entriesAt('recipe/settings').put(cursor, parent, { $key, $value: values }, at);
    const setting: Json = { ...more, ...(Object.keys(meanings).length > 0 ? { values: meanings } : {}) };
    if (Object.keys(setting).length === 0) return;
    const entry = { $key, ...setting };
    cursor.marks.copy(item, entry);
    entriesAt('recipe/meanings').put(cursor, parent, entry, at);
  },
};

/** Values for a moment: the exchange format may have them as a map, which says the same as items that say nothing else. */
const between: Target = {
  all(parent) {
    const held = (parent.recipe as Json | undefined)?.between;
    if (Array.isArray(held)) return held as Json[];
    return Object.entries((held ?? {}) as Json).map(([setting, values]) => ({ setting, values }));
  },
  put: itemsOf('recipe/between').put,
};

const ports = entries(
  'NAME [COLUMN NUMBER …]',
  (cursor) => {
    const name = cursor.readName('port', true);
    if (name === undefined) return undefined;
    const columns: Json = Object.create(null);
    for (;;) {
      const column = cursor.readWord();
      if (column === undefined) return [name, columns];
      const held = number.read(cursor);
      if (held === undefined) cursor.refuse(`the number of column ${column}`);
      columns[column] = held;
    }
  },
  (name, columns: Record<string, number>) =>
    [
      word.print(name),
      ...Object.entries(columns).map(([column, held]) => `${word.print(column)} ${held}`),
    ].join(' '),
  null,
);

/** `input: pull trigger, analog:`. */
const applies = entries(
  'MODE: SETTING …',
  (cursor) => {
    const mode = oneOf(...MODES).read(cursor) as string | undefined;
    if (mode === undefined) return undefined;
    cursor.expect(':');
    return [mode, words.read(cursor)];
  },
  (mode, keys) => `${mode}: ${words.print(keys)}`.trimEnd(),
  null,
);

export const SETTINGS_LINES: readonly LineForm[] = [
  {
    keyword: 'bus',
    says: 'the bus',
    example: 'bus little endian',
    head: [sequence(key('endian', oneOf('little', 'big')), 'endian')],
    options: [within('addresses', sequence('document', key('document', text), 'is cpu', key('cpu', text)))],
    target: properties('recipe', ['endian', 'addresses']),
  },
  {
    keyword: 'setting',
    says: 'a setting',
    example: 'setting pull none up down',
    head: [key('$key', newName('setting')), optional(key('title', text)), key('$values', settingValues)],
    options: [
      sequence('default', key('default', the.value)),
      sequence('order', key('order', several(the.value))),
    ],
    target: settings,
  },
  {
    keyword: 'applies',
    says: 'which settings mean something',
    example: 'applies input: pull, output: level, analog:',
    head: [key('applies', applies)],
    options: [],
    target: properties('recipe', ['applies']),
  },
  {
    keyword: 'exclude',
    says: 'settings that do not go together',
    example: 'exclude (mode analog, pull up|down), why "note 3"',
    head: [key('settings', choice)],
    options: [
      sequence('classes', key('classes', several(the.class))),
      sequence('signals', key('signals', several(the.signal))),
      sequence('where', key('where', phrase)),
      sequence('packages', key('packages', words)),
      why,
    ],
    target: itemsOf('recipe/excludes'),
  },
  {
    keyword: 'alike',
    says: 'settings that no bit tells apart',
    example: 'alike (mode input|analog), why "section 4"',
    head: [key('settings', choice)],
    options: [why],
    target: itemsOf('recipe/alike'),
  },
  {
    keyword: 'between',
    says: 'values for a moment',
    example: 'between pull none, stages electrical, why "section 5"',
    head: [key('setting', the.setting), key('values', several(the.value))],
    options: [
      sequence('settings', key('settings', choice)),
      sequence('classes', key('classes', several(the.class))),
      sequence('where', key('where', phrase)),
      sequence('stages', key('stages', several(the.stage))),
      why,
    ],
    target: between,
  },
  {
    keyword: 'ports',
    says: 'the ports',
    example: 'ports A gate 2, B gate 5',
    head: [key('ports', ports)],
    options: [],
    target: properties('recipe', ['ports']),
  },
];
