import { LIMITS, limitText } from '../../base/limits';
import { type Cursor, Mistake, printRaw, printWord, quoted } from './cursor';
import type { Role } from './roles';

/**
 * What can stand in a line for a value of a description, each said once for both directions: reading is the inverse of printing.
 * Lists may be broken where {@link BREAK} stands.
 */
export interface Value {
  /** Reads the value at the cursor; undefined, and nothing is taken, where something else stands there. Throws {@link Mistake}. */
  read(cursor: Cursor): unknown;
  print(value: unknown): string;
  /** As the printed grammar shows it, and as messages say what was expected. */
  shows: string;
}

/** A place where a printed line may be broken. */
export const BREAK = '\u0001';
/** What stands on both sides of it stands together. */
export const JOINED = '\u0003';

const value = (
  shows: string,
  read: Value['read'],
  print: (given: never) => string = (given) => String(given),
): Value => ({ shows, read, print: print as Value['print'] });

export const word = value('NAME', (cursor) => cursor.readWord(), printWord);

const nameOf = (role: Role, defines = false): Value => ({
  ...word,
  read: (cursor) => cursor.readName(role, defines),
  shows: role.toUpperCase(),
});

/** A name that refers to something. */
export const the = {
  block: nameOf('block'),
  stage: nameOf('stage'),
  register: nameOf('register'),
  field: nameOf('field'),
  setting: nameOf('setting'),
  value: nameOf('value'),
  port: nameOf('port'),
  supply: nameOf('supply'),
  class: nameOf('class'),
  note: nameOf('note'),
  pad: nameOf('pad'),
  signal: nameOf('signal'),
};
/** A name that is given here. */
export const newName = (role: Role): Value => nameOf(role, true);
export const text = value(
  'TEXT',
  (cursor) => cursor.readText(),
  (given: string) => quoted(given, '"'),
);
export const number = value('NUMBER', (cursor) => cursor.readNumber());
export const phrase = value(
  'CONDITION',
  (cursor) => cursor.readPhrase(),
  (given: string) => printRaw(given, (cursor) => cursor.readPhrase()),
);
export const clause: Value = { ...phrase, shows: 'VALUE' };
/** All that is left of a line. */
export const rest = value(
  'STATEMENT',
  (cursor) => cursor.readPhrase(''),
  (given: string) => printRaw(given, (cursor) => cursor.readPhrase('')),
);
export const expression = value(
  'EXPRESSION',
  (cursor) => cursor.readExpression(),
  (given: string) => printRaw(given, (cursor) => cursor.readExpression()),
);

/** A number, or an expression between brackets. */
export const count = value(
  'NUMBER | (EXPRESSION)',
  (cursor) => {
    const plain = cursor.readNumber();
    if (plain !== undefined || !cursor.take('(')) return plain;
    const inner = cursor.readExpression() ?? cursor.refuse('EXPRESSION');
    cursor.expect(')');
    return inner;
  },
  (given: number | string) => (typeof given === 'number' ? String(given) : `(${expression.print(given)})`),
);

/** A number where it is one, else an expression: `keep`, `2*m`. */
const numeral = (given: string): number | string => (/^\d{1,15}$/.test(given) ? Number(given) : given);
export const numberOrExpression = value(
  'EXPRESSION',
  (cursor) => {
    const given = cursor.readPhrase();
    return given === undefined ? undefined : numeral(given);
  },
  (given: number | string) => phrase.print(String(given)),
);

/** One of some words, which may have blanks. */
export const oneOf = (...all: readonly string[]): Value => {
  const longestFirst = [...all].sort((a, b) => b.length - a.length);
  const shows = all.map((each) => `"${each}"`).join(' | ');
  return value(shows, (cursor) => longestFirst.find((each) => cursor.take(each)));
};

/** Values one after the other, none of them left out. */
export const several = (item: Value): Value =>
  value(
    `${item.shows} …`,
    (cursor) => {
      const items: unknown[] = [];
      for (;;) {
        const next = item.read(cursor);
        if (next === undefined) return items;
        items.push(next);
      }
    },
    (given: unknown[]) => given.map((each) => item.print(each)).join(' '),
  );

export const words = several(word);

const NUMBERED = /^([A-Za-z_]*)(0|[1-9]\d{0,4})$/;

/** Names, of which a run of numbered ones is written `D0..D15`. */
export const names = value(
  'NAME | NAME..NAME …',
  (cursor) => {
    const all: string[] = [];
    for (;;) {
      const at = cursor.at;
      const isQuoted = cursor.text[at] === "'";
      const name = cursor.readWord();
      if (name === undefined) return all;
      const [from, to, ...more] = isQuoted ? [name] : name.split('..');
      if (to === undefined) all.push(name);
      else {
        const [first, last] = [NUMBERED.exec(from ?? ''), NUMBERED.exec(to)];
        const size = Number(last?.[2]) - Number(first?.[2]) + 1;
        if (!first || !last || first[1] !== last[1] || more.length > 0 || !(size > 1))
          throw new Mistake(`"${name}" is no run of names such as D0..D15`, at);
        cursor.marks.runNames += size;
        if (cursor.marks.runNames > LIMITS.entries)
          throw new Mistake(`runs of names stand for more than ${limitText('entries')}`, at);
        for (let step = 0; step < size; step++) all.push(`${first[1]}${Number(first[2]) + step}`);
      }
    }
  },
  (given: string[]) => runsOf(given).join(' '),
);

/** The same names, three or more that are numbered one after the other as a run. */
export function runsOf(all: readonly string[]): string[] {
  const printed: string[] = [];
  for (let at = 0; at < all.length; ) {
    const first = NUMBERED.exec(all[at] as string);
    let end = at + 1;
    while (first && all[end] === `${first[1]}${Number(first[2]) + end - at}`) end++;
    if (end - at >= 3) printed.push(`${all[at]}..${all[end - 1]}`);
    else for (let each = at; each < end; each++) printed.push(printWord(all[each] as string));
    at = end;
  }
  return printed;
}

/** Items between commas. */
export function separated<T>(cursor: Cursor, item: () => T | undefined): T[] {
  const items: T[] = [];
  for (;;) {
    const next = item();
    if (next === undefined) {
      return items.length === 0 ? items : cursor.refuse('more after the comma');
    }
    items.push(next);
    if (!cursor.take(',')) return items;
  }
}

export const commas = (items: readonly string[]): string => items.join(`,${BREAK}`);

export type Entry = readonly [key: string, value: unknown];

/** Items between commas within brackets, which are the entries of a map. */
export const entries = (
  shows: string,
  read: (cursor: Cursor) => Entry | undefined,
  print: (key: string, value: never) => string,
  brackets: readonly [string, string] | null = ['(', ')'],
): Value =>
  value(
    brackets ? `${brackets[0]}${shows}, …${brackets[1]}` : `${shows}, …`,
    (cursor) => {
      if (brackets && !cursor.take(brackets[0])) return undefined;
      const map: Record<string, unknown> = Object.create(null);
      separated(cursor, () => {
        const { at } = cursor;
        const entry = read(cursor);
        if (!entry) return undefined;
        if (entry[0] in map) throw new Mistake(`"${entry[0]}" stands here twice`, at);
        map[entry[0]] = entry[1];
        cursor.marks.note(map, entry[0], at);
        return entry;
      });
      if (brackets) cursor.expect(brackets[1]);
      return map;
    },
    (given: Record<string, unknown>) => {
      const items = Object.entries(given).map(([key, each]) => print(key, each as never));
      return brackets ? `${brackets[0]}${commas(items)}${brackets[1]}` : commas(items);
    },
  );

const needed = (cursor: Cursor, item: Value): unknown => item.read(cursor) ?? cursor.refuse(item.shows);

/** Entries of a name and a value. */
export const mapOf = (item: Value): Value =>
  entries(
    `NAME ${item.shows}`,
    (cursor) => {
      const key = cursor.readWord();
      return key === undefined ? undefined : [key, needed(cursor, item)];
    },
    (key, each) => `${printWord(key)} ${item.print(each)}`,
  );

/** Rows of a table: `output high: 1, *: keep`. */
export const rows = entries(
  'SETTINGS: VALUE',
  (cursor) => {
    const quotedKey = cursor.text[cursor.at] === "'" ? cursor.readWord() : undefined;
    const key = quotedKey ?? cursor.readPhrase(':,)');
    if (key === undefined) return undefined;
    cursor.expect(':');
    return [key, needed(cursor, numberOrExpression)];
  },
  (key, each) =>
    `${/^[\w.*|+-]+( [\w.*|+-]+)*$/.test(key) ? key : quoted(key, "'")}: ${numberOrExpression.print(each)}`,
);

const PREFIXES = [
  ['G', 9],
  ['M', 6],
  ['k', 3],
  ['', 0],
] as const;

/** A decimal number with its point moved, exactly. */
function shifted(digits: string, by: number): string {
  const [, sign = '', whole = '', part = ''] = /^(-?)(\d+)(?:\.(\d+))?$/.exec(digits) ?? [];
  const all = whole + part;
  const point = whole.length + by;
  const padded = point <= 0 ? '0'.repeat(1 - point) + all : all.padEnd(point, '0');
  const at = point <= 0 ? 1 : point;
  const fraction = padded.slice(at).replace(/0+$/, '');
  return `${sign}${padded.slice(0, at).replace(/^0+(?=\d)/, '')}${fraction ? `.${fraction}` : ''}`;
}

/** A number with its unit: `66 MHz`. `scaled`: the unit may have a prefix. */
export const quantity = (unit: string, scaled = false): Value =>
  value(
    `NUMBER ${unit}`,
    (cursor) => {
      const start = cursor.at;
      const digits = cursor.readDigits();
      if (digits === undefined) return undefined;
      const prefix = PREFIXES.find(
        ([letter]) => (letter === '' || scaled) && cursor.take(`${letter}${unit}`),
      );
      if (!prefix) {
        const units = PREFIXES.filter(([letter]) => letter === '' || scaled).map(([letter]) => letter + unit);
        throw new Mistake(`expected ${units.reverse().join(' or ')} after ${digits}`, start);
      }
      return Number(/e/i.test(digits) ? Number(digits) * 10 ** prefix[1] : `${digits}e${prefix[1]}`);
    },
    (given: number) => {
      const digits = String(given);
      if (digits.includes('e')) return `${digits} ${unit}`;
      const [letter, power] = PREFIXES.find(
        ([, each]) => each === 0 || (scaled && Math.abs(given) >= 10 ** each),
      ) ?? ['', 0];
      return `${shifted(digits, -power)} ${letter}${unit}`;
    },
  );
