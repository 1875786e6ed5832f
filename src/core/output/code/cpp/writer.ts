import { identifierFrom } from '../../../base/text/identifier';
import { type Code, makeWriter, octalLiteral, plainText, wrap } from '../code';

export type CppCode = Code<'cpp'>;

const { trusted, ...writer } = makeWriter<'cpp'>();

/** C++17 text. Source of the rules: ISO/IEC 14882:2017, [lex.phases], [lex.comment], [lex.string], [lex.key]. */
export const cppWriter = writer;
export const cpp = writer.code;
export const { join, decimal, padded } = writer;

export const fileText = (lines: readonly CppCode[]): CppCode => cpp`${join(lines, cpp`\n`)}\n`;
export const indented = (line: CppCode): CppCode => (line === '' ? line : cpp`    ${line}`);

/** No backslash at its end, which would splice the next line to it, and no trigraph. */
const commentText = (text: string): string => plainText(text).replace(/\?(?=\?)/g, '$& ');

/** Comments to the end of the line. */
export const comments = (lines: readonly string[]): CppCode[] =>
  lines.map((line) => trusted(`// ${commentText(line)}`.trimEnd()));

export const wrappedComment = (text: string, width: number): CppCode[] =>
  comments(wrap(commentText(text).replace(/ +/g, ' ').trim(), width));

/** A narrow string literal whose value is the text in UTF-8; octal escapes always have three digits. */
export const stringLiteral = (text: string): CppCode => trusted(octalLiteral(text, '"\\?'));

/** An identifier of a text. Two underscores in a row are the implementation's own and become one. */
export const identifier = (text: string): CppCode => trusted(identifierFrom(text).replace(/_+/g, '_') || 'x');

export const hexLiteral = (value: number, bits: number): CppCode =>
  trusted(
    `0x${(value >>> 0)
      .toString(16)
      .toUpperCase()
      .padStart(bits / 4, '0')}u`,
  );

/** Words that no namespace can be called. */
export const RESERVED: ReadonlySet<string> = new Set(
  `alignas alignof and and_eq asm auto bitand bitor bool break case catch char char16_t char32_t class compl const
  constexpr const_cast continue decltype default delete do double dynamic_cast else enum explicit export extern false float
  for friend goto if inline int long mutable namespace new noexcept not not_eq nullptr operator or or_eq private protected
  public register reinterpret_cast return short signed sizeof static static_assert static_cast struct switch template this
  thread_local throw true try typedef typeid typename union unsigned using virtual void volatile wchar_t while xor xor_eq
  std posix main concept requires co_await co_return co_yield char8_t consteval constinit`.split(/\s+/),
);
