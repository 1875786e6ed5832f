/**
 * Makes any text safe inside a C block comment: no end or start of a comment, no line splice or trigraph, no control or
 * non-ASCII characters that a compiler might complain about.
 */
export function commentText(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/[̀-ͯ]/g, '')
    .replace(/[^\x20-\x7e]+/g, ' ')
    .replace(/\*\//g, '* /')
    .replace(/\/\*/g, '/ *')
    .replace(/\?\?/g, '? ?')
    .replace(/\\/g, '/')
    .replace(/\/\//g, '/ /')
    .replace(/ +/g, ' ')
    .trim();
}

/** Makes any text safe inside a C string literal. */
export const stringText = (text: string): string => commentText(text).replace(/"/g, "'").replace(/%/g, 'pct');

/** 0x0000F000u: all digits of the register's width, unsigned. */
export const hexLiteral = (value: number, bits: number): string =>
  `0x${(value >>> 0)
    .toString(16)
    .toUpperCase()
    .padStart(bits / 4, '0')}u`;

/** Breaks a comment into lines of at most `width` characters. */
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
