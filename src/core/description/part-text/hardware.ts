import { printRaw, quoted } from './cursor';
import {
  column,
  constant,
  either,
  flag,
  type Json,
  joined,
  key,
  type LineForm,
  optional,
  type Piece,
  repeated,
  sequence,
  within,
} from './forms';
import { source } from './shared';
import { fieldsWithTables, tablesApart } from './tables';
import { itemsOf, properties, textsOf } from './targets';
import {
  clause,
  count,
  entries,
  expression,
  newName,
  number,
  numberOrExpression,
  oneOf,
  phrase,
  rest,
  rows,
  several,
  text,
  the,
  type Value,
  word,
  words,
} from './values';

/** The lines of the port hardware: blocks and their registers, guards, fields and their tables, stages, invariants. */

/** What a register does when it is accessed, in the words that stand for clauses; a list among them is joined by "and". */
const ACCESS_WORDS = ['set', 'clear', 'toggle', 'masked', 'alias', 'act', 'strobe', 'key'] as const;

const accessPhrase: Value = {
  shows: [
    ...['set of', 'clear of', 'toggle of', 'alias of'].map((each) => `"${each}" REGISTER`),
    '"set and clear of" | "clear and set of" REGISTER ["both" "set" | "clear" | "toggle" | "keep"]',
    '"masked" | "strobe" | "act copies" REGISTER "to" REGISTER',
    '"key" NUMBER ["then" NUMBER] … "opens" REGISTER ["and" REGISTER] … ["once" | "for" NUMBER "writes"] ["unbroken"]',
  ].join(' | '),
  read(cursor) {
    const start = cursor.at;
    const first = cursor.readWord();
    cursor.at = start;
    if (cursor.text[start] !== '`' && !ACCESS_WORDS.some((each) => each === first)) return undefined;
    const phraseText = cursor.readPhrase();
    if (phraseText === undefined || cursor.text[start] === '`') return phraseText;
    return first === 'key'
      ? phraseText.replace(/(?<= opens .*) and /g, ', ')
      : phraseText.replace(/ both (set|clear|toggle|keep)$/, ', both $1');
  },
  print(given: unknown) {
    const access = String(given);
    const plain = access.startsWith('key ')
      ? access.replace(/, /g, ' and ')
      : access.replace(/, both (set|clear|toggle|keep)$/, ' both $1');
    const isPlain =
      printRaw(plain, (cursor) => (accessPhrase.read(cursor) === access ? plain : undefined)) === plain;
    return isPlain ? plain : quoted(access, '`');
  },
};

const simpleAccess = (word: string, access: string): Piece => constant('access', access, sequence(word));

const access: Piece[] = [
  simpleAccess('rw', 'read-write'),
  simpleAccess('ro', 'read'),
  simpleAccess('wo', 'write'),
  simpleAccess('hidden', 'internal'),
  {
    ...key('access', accessPhrase),
    print(from) {
      const { access: held } = from;
      const isWord = held === undefined || ['read-write', 'read', 'write', 'internal'].includes(String(held));
      return isWord ? undefined : accessPhrase.print(held);
    },
  },
];

/** State that no address reaches has none in the text, and an empty one in the exchange format. */
const offset: Piece = {
  shows: '[+EXPRESSION]',
  read(cursor, into) {
    if (cursor.take('+')) return key('offset', expression).read(cursor, into);
    into.offset = '0';
    return true;
  },
  print: (from) =>
    from.access === 'internal' && from.offset === '0' ? '' : `+${expression.print(from.offset)}`,
};

const reset: Value = (() => {
  const list: Value = {
    shows: '[VALUE, …]',
    read(cursor) {
      if (!cursor.take('[')) return undefined;
      const items: string[] = [];
      while (!cursor.take(']')) {
        if (items.length > 0) cursor.expect(',');
        const item = cursor.readPhrase(',]');
        if (item === undefined) cursor.expect(']');
        else items.push(item);
      }
      return items;
    },
    print: (given) => `[${(given as string[]).map((item) => phrase.print(item)).join(', ')}]`,
  };
  const each: Value = {
    shows: 'VALUE',
    read: (cursor) => list.read(cursor) ?? phrase.read(cursor),
    print: (given) => (Array.isArray(given) ? list : phrase).print(given),
  };
  const map = entries(
    'NAME VALUE',
    (cursor) => {
      const name = cursor.readWord();
      const held = name === undefined ? undefined : each.read(cursor);
      return name === undefined || held === undefined ? undefined : [name, held];
    },
    (name, held) => `${word.print(name)} ${each.print(held)}`,
  );
  return {
    shows: 'VALUE | (NAME VALUE, …)',
    read: (cursor) => map.read(cursor) ?? phrase.read(cursor),
    print: (given) => (typeof given === 'string' ? phrase : map).print(given),
  };
})();

/** Registers named after each other; the exchange format has them with commas. */
const registerNames: Value = {
  shows: 'REGISTER …',
  read(cursor) {
    if (cursor.text[cursor.at] === '`') return cursor.readPhrase();
    const all = several(the.register).read(cursor) as string[];
    return all.length === 0 ? undefined : all.join(', ');
  },
  print(given) {
    const all = String(given).split(', ');
    const isList = all.every((name) => /^[\w.*]+$/.test(name));
    return isList ? words.print(all) : quoted(String(given), '`');
  },
};

const option = (lead: string, name: string, item: Value): Piece => sequence(lead, key(name, item));
const has = option('has', 'has', phrase);
const packages = option('packages', 'packages', words);

const shown = (shows: string): Value => ({ ...phrase, shows });
const mask: Value = { ...word, shows: 'MASK' };
const effects: Value = { ...clause, shows: 'EFFECT; …' };

const register: LineForm = {
  says: 'a register',
  example: 'OUT +0x24 :16 "output latch", ro',
  head: [
    column(
      sequence(
        key('id', newName('register')),
        optional(joined(sequence('[', joined(key('count', number)), joined(sequence(']'))))),
      ),
    ),
    column(sequence(offset, ':', joined(key('bits', number)))),
    optional(key('title', text)),
  ],
  options: [
    ...access,
    option('index', 'index', expression),
    option('accessed by', 'accessedBy', number),
    option(
      'follows',
      'follows',
      shown(
        '"pads" ["inverted" ["by" REGISTER]] | REGISTER ["inverted"] ["after" NUMBER | "unknown" "cycles"]',
      ),
    ),
    repeated(
      'shows',
      sequence('shows', key('$value', shown('"bit" EXPRESSION "=" "pad" | [REGISTER] "bit" EXPRESSION …'))),
    ),
    option('w1c', 'clearedByOne', mask),
    option('w0c', 'clearedByZero', mask),
    option('ignores', 'readOnly', mask),
    option('always', 'always', shown('NUMBER "in" MASK')),
    option('writable where', 'writableWhere', shown('REGISTER ["from" NUMBER] ["by" NUMBER] ["= 0"]')),
    option('overlaps', 'overlaps', registerNames),
    option('read', 'read', clause),
    option('write', 'write', effects),
    option('write when', 'writeWhen', clause),
    option('after read', 'afterRead', effects),
    option('any write', 'anyWrite', effects),
    option('any access', 'anyAccess', effects),
    option('returns to', 'returnsTo', shown('NUMBER "after" NUMBER | "unknown" "cycles"')),
    option('reset', 'reset', reset),
    has,
    packages,
    source,
  ],
  target: itemsOf('registers'),
};

const PER = ['device', 'port', 'pad', 'peripheral', 'signal'];

/** `(pull none, mode input|analog)`: words that settings may have. */
export const choice = entries(
  'SETTING VALUE|VALUE',
  (cursor) => {
    const name = cursor.readName('setting', false);
    const held = name === undefined ? undefined : cursor.readPhrase();
    return name === undefined || held === undefined ? undefined : [name, held];
  },
  (name, held: string) => `${word.print(name)} ${phrase.print(held)}`,
);

/** `bit b` is a place of one bit. */
const single: Piece = constant('bits', 1, sequence('bit'));

const part: Piece = sequence(
  key('in', the.register),
  either(
    sequence(single, key('at', expression)),
    sequence(key('bits', count), 'bits at', key('at', expression)),
  ),
);

const SINGLE_BITS = [
  option('set by', 'setBy', the.register),
  option('cleared by', 'clearedBy', the.register),
  option('toggled by', 'toggledBy', the.register),
];

/** A part of a field that is in several places, with the registers that change its bits alone. */
const partOfSeveral: Piece = sequence(
  part,
  optional({
    shows: '([set by NAME], [cleared by NAME], [toggled by NAME])',
    read(cursor, into) {
      if (!cursor.take('(')) return false;
      do {
        if (!SINGLE_BITS.some((piece) => piece.read(cursor, into))) return cursor.expect(')') ?? true;
      } while (cursor.take(','));
      cursor.expect(')');
      return true;
    },
    print(from) {
      const all = SINGLE_BITS.flatMap((piece) => piece.print(from) ?? []);
      return all.length === 0 ? undefined : `(${all.join(', ')})`;
    },
  }),
);

const place: Piece = {
  shows: `${part.shows} [then …]`,
  read(cursor, into) {
    const parts: Json[] = [];
    do {
      const { at } = cursor;
      const place: Json = Object.create(null);
      if (!partOfSeveral.read(cursor, place)) return false;
      parts.push(place);
      cursor.marks.note(parts, parts.length - 1, at);
    } while (cursor.take('then'));
    const [first] = parts;
    if (parts.length > 1) into.parts = parts;
    else Object.assign(into, first);
    if (parts.length === 1) cursor.marks.copy(first as Json, into);
    return true;
  },
  print: (from) =>
    Array.isArray(from.parts)
      ? from.parts.map((each) => partOfSeveral.print(each)).join(' then ')
      : part.print(from),
};

const table: Piece = sequence(
  'from',
  key('from', several(the.setting)),
  key('table', rows),
  optional(option('left out', 'leftOut', text)),
);

export const HARDWARE: readonly LineForm[] = [
  {
    keyword: 'block',
    says: 'a block of registers',
    example: 'block PORT each port at 0x1000 + 0x40*p, named P{port}',
    head: [
      key('id', newName('block')),
      optional(sequence('each', key('each', oneOf('port', 'pad', 'peripheral', 'signal')))),
      sequence('at', key('base', expression)),
    ],
    options: [
      option('printed at', 'document', expression),
      option('named', 'name', word),
      has,
      packages,
      source,
    ],
    children: [register],
    target: itemsOf('recipe/registers/blocks'),
  },
  {
    keyword: 'guard',
    says: 'a guard',
    example: 'guard PORT open when POWER.ON bit port.gate',
    head: [
      key('block', the.block),
      sequence('open when', key('openWhen', shown('REGISTER "bit" EXPRESSION ["= 0"]'))),
    ],
    options: [
      option('registers', 'registers', several(the.register)),
      constant('stops', 'writes', sequence('stops writes')),
      has,
    ],
    target: itemsOf('recipe/registers/guards'),
  },
  {
    keyword: 'field',
    says: 'a field',
    example: 'field code PORT.CODE 4 bits at 4*b, from mode (function: m, *: 0)',
    head: [column(key('$key', newName('field'))), place],
    options: [
      ...SINGLE_BITS,
      option('through', 'through', the.register),
      flag('shared', 'shared'),
      has,
      option('absent', 'absent', numberOrExpression),
      packages,
      within('$table', table),
    ],
    target: fieldsWithTables,
  },
  {
    keyword: 'table',
    says: 'a table of a field',
    example: 'table dir from mode (output: 1, *: 0)',
    head: [key('field', the.field), table],
    options: [],
    target: tablesApart,
  },
  {
    keyword: 'access',
    says: 'the fields of the application',
    example: 'access latch out, level seen',
    head: [],
    options: ['latch', 'level', 'pending', 'enable'].map((name) => option(name, name, the.field)),
    target: properties('recipe/access', ['latch', 'level', 'pending', 'enable']),
  },
  {
    keyword: 'invariant',
    says: 'an invariant',
    example: 'invariant never up and down, why "current flows"',
    head: [],
    options: [
      option('never', 'never', phrase),
      option('steady', 'steady', several(the.field)),
      option('while', 'while', phrase),
      option('why', 'why', text),
    ],
    target: itemsOf('recipe/invariants'),
  },
  {
    keyword: 'names',
    says: "the maker's names",
    example: 'names "{block}->{register}", include "part.h"',
    head: [key('registers', text)],
    options: [option('include', 'include', text)],
    target: properties('recipe/names', ['registers', 'include']),
  },
  {
    keyword: 'stage',
    says: 'a stage',
    example: 'stage latch "output levels", writes out, why "before direction"',
    head: [key('id', newName('stage')), optional(key('title', text))],
    options: [
      option('per', 'per', oneOf(...PER)),
      option('for', 'for', choice),
      option('where', 'where', phrase),
      flag('inTurn', 'in turn'),
      option('writes', 'fields', several(the.field)),
      option('why', 'why', text),
    ],
    children: [
      {
        keyword: 'before each',
        says: 'a step before each write',
        example: 'before each PORT.KEY := 0x3C',
        head: [key('$value', rest)],
        options: [],
        target: textsOf('beforeEach'),
      },
      {
        keyword: 'after each',
        says: 'a step after each write',
        example: 'after each PORT.KEY := 0',
        head: [key('$value', rest)],
        options: [],
        target: textsOf('afterEach'),
      },
      {
        keyword: 'after',
        says: 'a step after the fields',
        example: 'after PORT.MODE := mode',
        head: [key('$value', rest)],
        options: [],
        target: textsOf('after'),
      },
      {
        says: 'a step',
        example: 'PORT.SEAL := 0',
        head: [key('$value', rest)],
        options: [],
        target: textsOf('do'),
      },
    ],
    target: itemsOf('recipe/stages'),
  },
];
