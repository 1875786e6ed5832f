import { identifierFrom } from '../../../base/text/identifier';
import { registerTokens } from '../../../base/text/register-pattern';
import { type Code, makeWriter, octalLiteral, plainText, wrap } from '../code';

export type CCode = Code<'c'>;

const { trusted, ...writer } = makeWriter<'c'>();

/**
 * C11 text. Comments, strings and names are made of any text whatever, whole, delimiters and all, so that nothing a user has
 * written is ever outside of them. Source of the rules: ISO/IEC 9899:2011, 5.1.1.2 (phases of translation) and 6.4.
 */
export const cWriter = writer;
export const c = writer.code;
export const { join, padded, decimal } = writer;
export const NEW_LINE = c`\n`;

/** Lines, each closed. */
export const fileText = (lines: readonly CCode[]): CCode => c`${join(lines, NEW_LINE)}${NEW_LINE}`;

/**
 * Text that neither ends a comment nor begins one, splices no lines and makes no trigraph, in printable ASCII. Backslashes go
 * first, since what they become may meet a star; then a blank goes between any two characters that mean something together.
 */
const commentText = (text: string): string =>
  plainText(text)
    .replace(/\*(?=\/)|\/(?=[*/])|\?(?=\?)/g, '$& ')
    .trimEnd();

/** A comment on one line. */
export const comment = (text: string): CCode => trusted(`/* ${commentText(text).trim()} */`);

/** A comment of several lines, one line of text each. */
export const blockComment = (lines: readonly string[]): CCode[] => [
  c`/*`,
  ...lines.map((line) => trusted(` * ${commentText(line)}`.trimEnd())),
  c` */`,
];

/** A comment broken into lines of about `width` characters. */
export function wrappedComment(text: string, width: number): CCode[] {
  const lines = wrap(commentText(text).replace(/ +/g, ' ').trim(), width);
  return lines.map((line, index) =>
    trusted(`${index === 0 ? '/* ' : ' * '}${line}${index === lines.length - 1 ? ' */' : ''}`),
  );
}

/**
 * A string literal whose value is the text in UTF-8. What is not plain ASCII is written in octal, three digits always, so that
 * no digit behind it is taken in; question marks are escaped because two of them begin a trigraph.
 */
export const stringLiteral = (text: string): CCode => trusted(octalLiteral(text, '"\\?'));

/** An identifier out of texts: each cleaned, joined by underscores. The first must be one that {@link prefixOf} has made. */
export const identifier = (...texts: readonly string[]): CCode =>
  trusted(texts.map((text) => identifierFrom(text)).join('_') || 'x');

/** The same in capitals. */
export const macro = (...texts: readonly string[]): CCode => trusted(identifier(...texts).toUpperCase());

/** What the project's own headers call a register; undefined where the pattern makes no expression of C. */
export const registerPlace = (pattern: string, register: string): CCode | undefined => {
  const tokens = registerTokens(pattern, register);
  return tokens && trusted(tokens.join(''));
};

/** 0x0000F000u: all digits of the register's width, unsigned. */
export const hexLiteral = (value: number, bits: number): CCode =>
  trusted(
    `0x${(value >>> 0)
      .toString(16)
      .toUpperCase()
      .padStart(bits / 4, '0')}u`,
  );

/** The same line further to the right. */
export const indented = (line: CCode): CCode => c`    ${line}`;

/** The same line without its indentation. */
export const outdented = (line: CCode): CCode => trusted(line.trimStart());
