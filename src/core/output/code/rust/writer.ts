import { identifierFrom } from '../../../base/text/identifier';
import { type Code, makeWriter, plainText, wrap } from '../code';

export type RustCode = Code<'rust'>;

const { trusted, ...writer } = makeWriter<'rust'>();

/** Rust text, edition 2021. Source of the rules: the Rust Reference, "Comments", "Tokens", "Keywords". */
export const rustWriter = writer;
export const rust = writer.code;
export const { join, decimal } = writer;

export const fileText = (lines: readonly RustCode[]): RustCode => rust`${join(lines, rust`\n`)}\n`;
export const indented = (line: RustCode): RustCode => (line === '' ? line : rust`    ${line}`);

/** Comments to the end of the line; a blank behind the slashes keeps them from being documentation. */
export const comments = (lines: readonly string[]): RustCode[] =>
  lines.map((line) => trusted(`// ${plainText(line)}`.trimEnd()));

/** Documentation of what follows, on lines of about `width` characters. */
export const documentation = (text: string, width = 100): RustCode[] =>
  wrap(plainText(text).replace(/ +/g, ' ').trim(), width).map((line) => trusted(`/// ${line}`.trimEnd()));

export const wrappedComment = (text: string, width: number): RustCode[] =>
  comments(wrap(plainText(text).replace(/ +/g, ' ').trim(), width));

/** A string literal; what is not plain ASCII is written as \u{…}. */
export function stringLiteral(text: string): RustCode {
  let literal = '';
  for (const character of text) {
    const point = character.codePointAt(0) ?? 0;
    const plain = point >= 0x20 && point <= 0x7e && character !== '"' && character !== '\\';
    // Half of a surrogate pair is no character.
    const whole = point >= 0xd800 && point <= 0xdfff ? 0xfffd : point;
    literal += plain ? character : `\\u{${whole.toString(16)}}`;
  }
  return trusted(`"${literal}"`);
}

export const identifier = (text: string): RustCode => trusted(identifierFrom(text) || 'x');

export const hexLiteral = (value: number, bits: number): RustCode =>
  trusted(
    `0x${(value >>> 0)
      .toString(16)
      .toUpperCase()
      .padStart(bits / 4, '0')}`,
  );

/** Words that no module can be called. */
export const RESERVED: ReadonlySet<string> = new Set(
  `as break const continue crate else enum extern false fn for if impl in let loop match mod move mut pub ref return self
  static struct super trait true type unsafe use where while async await dyn abstract become box do final macro override
  priv typeof unsized virtual yield try gen union core std alloc`.split(/\s+/),
);
