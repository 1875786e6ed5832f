/** A text without what no file, label or pin can show: control characters and halves of character pairs. */
export const printable = (text: string): string =>
  text.replace(/[\p{Cc}\p{Cs}]/gu, (char) => (char === '\t' || char === '\n' ? ' ' : ''));
