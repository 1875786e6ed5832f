import { didYouMean } from '../../base/text/near';
import { type Cursor, Mistake } from './cursor';
import { BREAK, JOINED, type Value } from './values';

/**
 * Forms of lines, each said once for both directions (an invertible syntax description): a form reads a line into the object that
 * the exchange format has for it, and prints that object as the line. What the grammar in the docs shows is printed from the same forms.
 */
export type Json = Record<string, unknown>;

/** A part of a line that says something of an object. */
export interface Piece {
  /** False, and nothing is taken, where something else stands at the cursor. Throws {@link Mistake} where it has begun and goes wrong. */
  read(cursor: Cursor, into: Json): boolean;
  /** Undefined where the object has nothing of it. */
  print(from: Json): string | undefined;
  shows: string;
  /** The word that it begins with. */
  lead?: string;
  /** It may stand in a line several times. */
  repeated?: true;
}

/** A property of the object. */
export const key = (name: string, item: Value): Piece => ({
  shows: item.shows,
  read(cursor, into) {
    const { at } = cursor;
    const given = item.read(cursor);
    if (given === undefined) return false;
    into[name] = given;
    cursor.marks.note(into, name, at);
    return true;
  },
  print: (from) => (from[name] === undefined ? undefined : item.print(from[name])),
});

/** A property that is there, or not. */
export const flag = (name: string, says: string): Piece => ({
  shows: `"${says}"`,
  lead: says,
  read(cursor, into) {
    const { at } = cursor;
    if (!cursor.take(says)) return false;
    into[name] = true;
    cursor.marks.note(into, name, at);
    return true;
  },
  print: (from) => (from[name] === true ? says : undefined),
});

/** Pieces and words one after the other. */
export function sequence(...pieces: readonly (Piece | string)[]): Piece {
  const [first] = pieces;
  return {
    shows: pieces.map((piece) => (typeof piece === 'string' ? `"${piece}"` : piece.shows)).join(' '),
    ...(typeof first === 'string' ? { lead: first } : first?.lead ? { lead: first.lead } : {}),
    read(cursor, into) {
      for (const [position, piece] of pieces.entries()) {
        if (typeof piece === 'string' ? cursor.take(piece) : piece.read(cursor, into)) continue;
        if (position === 0) return false;
        cursor.refuse(typeof piece === 'string' ? `"${piece}"` : piece.shows);
      }
      return true;
    },
    print(from) {
      let line = '';
      for (const piece of pieces) {
        const printed = typeof piece === 'string' ? piece : piece.print(from);
        if (printed === undefined) return undefined;
        if (printed !== '') line += line === '' ? printed : ` ${printed}`;
      }
      return line;
    },
  };
}

/** It may be left out. */
export const optional = (piece: Piece): Piece => ({
  ...piece,
  shows: `[${piece.shows}]`,
  read: (cursor, into) => piece.read(cursor, into) || true,
  print: (from) => piece.print(from) ?? '',
});

/** The first piece that fits. */
export const either = (...pieces: readonly Piece[]): Piece => ({
  shows: pieces.map((piece) => piece.shows).join(' | '),
  read: (cursor, into) => pieces.some((piece) => piece.read(cursor, into)),
  print(from) {
    for (const piece of pieces) {
      const printed = piece.print(from);
      if (printed !== undefined) return printed;
    }
    return undefined;
  },
});

/** An object of its own that a piece reads; undefined where something else stands there. */
function itemOf(piece: Piece, cursor: Cursor): Json | undefined {
  const item: Json = Object.create(null);
  return piece.read(cursor, item) ? item : undefined;
}

/** Pieces that belong to an object within the object. */
export const within = (name: string, piece: Piece): Piece => ({
  ...piece,
  read(cursor, into) {
    const { at } = cursor;
    const inner = itemOf(piece, cursor);
    if (!inner) return false;
    into[name] = inner;
    cursor.marks.note(into, name, at);
    return true;
  },
  print: (from) => (from[name] === undefined ? undefined : piece.print(from[name] as Json)),
});

/** A property that is always the same where the piece stands, and tells it from others. */
export const constant = (name: string, held: unknown, piece: Piece): Piece => ({
  ...piece,
  read(cursor, into) {
    if (!piece.read(cursor, into)) return false;
    into[name] = held;
    return true;
  },
  print: (from) => (from[name] === held ? piece.print(from) : undefined),
});

/** A piece that may stand there several times: each adds to a list. */
export const repeated = (name: string, piece: Piece): Piece => ({
  shows: `${piece.shows} …`,
  repeated: true,
  ...(piece.lead ? { lead: piece.lead } : {}),
  read(cursor, into) {
    const { at } = cursor;
    const item = itemOf(piece, cursor);
    if (!item) return false;
    into[name] ??= [];
    const list = into[name] as unknown[];
    list.push('$value' in item ? item.$value : item);
    cursor.marks.note(list, list.length - 1, at);
    return true;
  },
  print(from) {
    const list = from[name] as unknown[] | undefined;
    if (!list || list.length === 0) return undefined;
    return list
      .map((item) =>
        piece.print(item !== null && typeof item === 'object' ? (item as Json) : { $value: item }),
      )
      .join(`,${BREAK}`);
  },
});

/** A piece that may stand there several times: each is an entry of a map, its key being `$key`. */
export const entry = (name: string, piece: Piece): Piece => ({
  shows: `${piece.shows} …`,
  repeated: true,
  ...(piece.lead ? { lead: piece.lead } : {}),
  read(cursor, into) {
    const { at } = cursor;
    const item = itemOf(piece, cursor);
    if (!item) return false;
    into[name] ??= Object.create(null);
    putEntry(cursor, into[name] as Json, item, at);
    return true;
  },
  print(from) {
    const map = from[name] as Json | undefined;
    if (!map || Object.keys(map).length === 0) return undefined;
    return entriesOf(map)
      .map((item) => piece.print(item))
      .join(`,${BREAK}`);
  },
});

/** Entries of a map as objects that know their key; what is no object is their value. */
export const entriesOf = (map: Json): Json[] =>
  Object.entries(map).map(([$key, item]) =>
    item !== null && typeof item === 'object' && !Array.isArray(item)
      ? { ...(item as Json), $key }
      : { $key, $value: item },
  );

export function putEntry(cursor: Pick<Cursor, 'marks'>, map: Json, item: Json, at: number): void {
  const { $key, $value, ...held } = item;
  const name = String($key);
  if (Object.hasOwn(map, name)) throw new Mistake(`there are two of ${name}`, at);
  const kept = '$value' in item ? $value : Object.assign(Object.create(null), held);
  map[name] = kept;
  cursor.marks.note(map, name, at);
  if (!('$value' in item)) cursor.marks.copy(item, kept as Json);
}

/** Without a blank before it: `FNC[3]`. */
export const joined = (piece: Piece): Piece => ({
  ...piece,
  print(from) {
    const printed = piece.print(from);
    return printed ? JOINED + printed : printed;
  },
});

/** Where what a line says is held, under the object that its parent is. */
export interface Target {
  all(parent: Json): Json[];
  put(cursor: Pick<Cursor, 'marks'>, parent: Json, item: Json, at: number): void;
}

/** A kind of line. */
export interface LineForm {
  /** The word that it begins with; without one, any line that begins with nothing else. */
  keyword?: string;
  says: string;
  /** One that is right, for whoever has written one that is not. */
  example: string;
  head: readonly Piece[];
  options: readonly Piece[];
  children?: readonly LineForm[];
  target: Target;
}

const ordered = new WeakMap<readonly Piece[], readonly Piece[]>();

/** `write when` is looked for before `write`. */
function longestFirst(options: readonly Piece[]): readonly Piece[] {
  let sorted = ordered.get(options);
  if (!sorted) {
    sorted = [...options].sort((a, b) => (b.lead?.length ?? 0) - (a.lead?.length ?? 0));
    ordered.set(options, sorted);
  }
  return sorted;
}

/** Reads a line, all of it. */
export function readLine(form: LineForm, cursor: Cursor): Json {
  const item: Json = Object.create(null);
  const { head, options } = form;
  if (form.keyword !== undefined) cursor.expect(form.keyword);
  for (const piece of head) if (!piece.read(cursor, item)) cursor.refuse(piece.shows);
  const seen = new Set<Piece>();
  let isFirst = true;
  while (!cursor.atEnd) {
    if (!(isFirst && head.length === 0)) {
      const { at } = cursor;
      if (!cursor.take(',')) throw new Mistake(afterHead(form, cursor), at);
    }
    isFirst = false;
    const { at } = cursor;
    const option = longestFirst(options).find((piece) => piece.read(cursor, item));
    if (!option) throw new Mistake(unknownOption(form, cursor), at);
    if (seen.has(option) && !option.repeated)
      throw new Mistake(`"${option.lead ?? option.shows}" is said twice in this line`, at);
    seen.add(option);
  }
  if (isFirst && head.length === 0) throw new Mistake(`this line says nothing`, cursor.at);
  return item;
}

/** Where an option follows without its comma, that is what is missing. */
function afterHead({ options }: LineForm, cursor: Cursor): string {
  if (options.length === 0) return `nothing more is said in such a line, found ${cursor.next()}`;
  const next = cursor.peekWord();
  const isOption = options.some(({ lead }) => next !== undefined && lead?.split(' ', 1)[0] === next);
  return `expected ${isOption ? '","' : '"," or the end of the line'}, found ${cursor.next()}`;
}

function unknownOption({ options, says }: LineForm, cursor: Cursor): string {
  const known = options.flatMap(({ lead }) => (lead ? [lead] : []));
  const meant = cursor.peekWord();
  return `${cursor.next()} means nothing in the line of ${says}${didYouMean(meant ?? '', known)}; it may say ${known.join(', ')}`;
}

/** The line, with marks where it may be broken and aligned. */
export function printLine({ keyword, head, options }: LineForm, item: Json): string {
  const start = [keyword, ...head.map((piece) => piece.print(item))].filter(
    (part): part is string => part !== undefined && part !== '',
  );
  const further = options.flatMap((piece) => piece.print(item) || []);
  const lead = start.join(' ');
  return head.length === 0 ? `${lead} ${further.join(`,${BREAK}`)}` : [lead, ...further].join(`,${BREAK}`);
}

export const COLUMN = '\u0002';

/** The column of a table of lines begins after it. */
export const column = (piece: Piece): Piece => ({
  ...piece,
  print(from) {
    const printed = piece.print(from);
    return printed === undefined ? undefined : printed + COLUMN;
  },
});
