declare const language: unique symbol;

/**
 * Text of one language that is known to be well formed. Only a language's writer makes it: out of literal parts that stand in
 * our sources, and of pieces that the writer has made itself. A plain string, which may come from a user, does not fit where
 * code is wanted; the compiler says so.
 */
export type Code<Language extends string> = string & { readonly [language]: Language };

/** What a writer of any language does. What it does with comments, strings and names is the language's own. */
export interface Writer<Language extends string> {
  /** A tagged template. Its literal parts are code as they stand; what is filled in must be code already. */
  code(parts: TemplateStringsArray, ...filled: readonly Code<Language>[]): Code<Language>;
  /** Pieces one after the other, with a piece between them. */
  join(pieces: readonly Code<Language>[], between: Code<Language>): Code<Language>;
  /** Filled up with blanks on its right. */
  padded(piece: Code<Language>, width: number): Code<Language>;
  /** A number without sign or fraction. Throws on anything else: that is a mistake of ours. */
  decimal(value: number): Code<Language>;
}

/** The part that all languages share, with the one place where text becomes code. */
export function makeWriter<Language extends string>(): Writer<Language> & {
  /** For the writers of languages only: says of a text that it is well formed. */
  trusted(text: string): Code<Language>;
} {
  const trusted = (text: string): Code<Language> => text as Code<Language>;
  return {
    trusted,
    code: (parts, ...filled) =>
      trusted(parts.reduce((text, part, index) => `${text}${part}${filled[index] ?? ''}`, '')),
    join: (pieces, between) => trusted(pieces.join(between)),
    padded: (piece, width) => trusted(piece.padEnd(width)),
    decimal(value) {
      if (!Number.isSafeInteger(value) || value < 0) throw new Error(`${value} is no count`);
      return trusted(String(value));
    },
  };
}

/** Printable ASCII of a text: letters with accents keep their letter, everything else is a blank. No backslash, which splices lines. */
export const plainText = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^\x20-\x7e]+/g, ' ')
    .replace(/\\/g, '/')
    .trimEnd();

/** The same without anything that begins or ends a comment between slashes and stars. */
export const commentableText = (text: string): string =>
  plainText(text)
    .replace(/\*(?=\/)|\/(?=[*/])/g, '$& ')
    .trimEnd();

/** Text in UTF-8 between double quotes: what is not plain ASCII, and `escaped`, in octal of three digits. */
export function octalLiteral(text: string, escaped: string): string {
  let literal = '';
  for (const byte of new TextEncoder().encode(text)) {
    const plain = byte >= 0x20 && byte <= 0x7e && !escaped.includes(String.fromCharCode(byte));
    literal += plain ? String.fromCharCode(byte) : `\\${byte.toString(8).padStart(3, '0')}`;
  }
  return `"${literal}"`;
}

/** Breaks text into lines of at most `width` characters, between words; a longer word has a line of its own. */
export function wrap(text: string, width: number): string[] {
  const lines: string[] = [];
  let line = '';
  for (const word of text.split(' ')) {
    if (line !== '' && line.length + 1 + word.length > width) {
      lines.push(line);
      line = word;
    } else line = line === '' ? word : `${line} ${word}`;
  }
  if (line !== '') lines.push(line);
  return lines;
}
