import { identifierFrom } from '../../../base/text/identifier';
import { type Code, makeWriter, plainText, wrap } from '../code';

export type AsmCode = Code<'asm'>;

const { trusted, ...writer } = makeWriter<'asm'>();

/** Text for GNU as. Comments are those between slashes and stars, which every architecture has. */
export const asm = writer.code;
export const { join, decimal } = writer;

export const fileText = (lines: readonly AsmCode[]): AsmCode => asm`${join(lines, asm`\n`)}\n`;

const commentText = (text: string): string =>
  plainText(text)
    .replace(/\*(?=\/)|\/(?=[*/])/g, '$& ')
    .trimEnd();

export const comment = (text: string): AsmCode => trusted(`/* ${commentText(text).trim()} */`);

export const blockComment = (lines: readonly string[]): AsmCode[] => [
  asm`/*`,
  ...lines.map((line) => trusted(` * ${commentText(line)}`.trimEnd())),
  asm` */`,
];

export const wrappedComment = (text: string, width: number): AsmCode[] => {
  const lines = wrap(commentText(text).replace(/ +/g, ' ').trim(), width);
  return lines.map((line, index) =>
    trusted(`${index === 0 ? '/* ' : ' * '}${line}${index === lines.length - 1 ? ' */' : ''}`),
  );
};

/** The value of an assembler's string: printable ASCII, and everything else in octal. */
export function stringLiteral(text: string): AsmCode {
  let literal = '';
  for (const byte of new TextEncoder().encode(text)) {
    const plain = byte >= 0x20 && byte <= 0x7e && byte !== 0x22 && byte !== 0x5c;
    literal += plain ? String.fromCharCode(byte) : `\\${byte.toString(8).padStart(3, '0')}`;
  }
  return trusted(`"${literal}"`);
}

export const identifier = (...texts: readonly string[]): AsmCode =>
  trusted(texts.map((text) => identifierFrom(text)).join('_') || 'x');

export const hex = (value: number): AsmCode => trusted(`0x${(value >>> 0).toString(16).toUpperCase()}`);

/** A number with its sign. */
export const signed = (value: number): AsmCode => (value < 0 ? asm`-${decimal(-value)}` : decimal(value));
