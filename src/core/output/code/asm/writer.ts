import { identifierFrom } from '../../../base/text/identifier';
import { type Code, commentableText, makeWriter, octalLiteral, wrap } from '../code';

export type AsmCode = Code<'asm'>;

const { trusted, ...writer } = makeWriter<'asm'>();

/** Text for GNU as. Comments are those between slashes and stars, which every architecture has. */
export const asm = writer.code;
export const { join, decimal } = writer;

export const fileText = (lines: readonly AsmCode[]): AsmCode => asm`${join(lines, asm`\n`)}\n`;

export const comment = (text: string): AsmCode => trusted(`/* ${commentableText(text).trim()} */`);

export const blockComment = (lines: readonly string[]): AsmCode[] => [
  asm`/*`,
  ...lines.map((line) => trusted(` * ${commentableText(line)}`.trimEnd())),
  asm` */`,
];

export const wrappedComment = (text: string, width: number): AsmCode[] => {
  const lines = wrap(commentableText(text).replace(/ +/g, ' ').trim(), width);
  return lines.map((line, index) =>
    trusted(`${index === 0 ? '/* ' : ' * '}${line}${index === lines.length - 1 ? ' */' : ''}`),
  );
};

/** The value of an assembler's string: printable ASCII, and everything else in octal. */
export const stringLiteral = (text: string): AsmCode => trusted(octalLiteral(text, '"\\'));

export const identifier = (...texts: readonly string[]): AsmCode =>
  trusted(texts.map((text) => identifierFrom(text)).join('_') || 'x');

export const hex = (value: number): AsmCode => trusted(`0x${(value >>> 0).toString(16).toUpperCase()}`);

/** A number with its sign. */
export const signed = (value: number): AsmCode => (value < 0 ? asm`-${decimal(-value)}` : decimal(value));
