/**
 * A number as people and debuggers write it: `0x1F`, `0b1_1111`, `1Fh`, `31`, with C's suffixes; undefined when it is none, or needs more bits.
 */
export function parseValue(text: string, bits: number): number | undefined {
  const plain = text
    .trim()
    .replace(/[\s_']/g, '')
    .replace(/(?<=[0-9a-f])u?l{0,2}$/i, '');
  const value = /^0x[0-9a-f]+$/i.test(plain)
    ? Number.parseInt(plain.slice(2), 16)
    : /^0b[01]+$/i.test(plain)
      ? Number.parseInt(plain.slice(2), 2)
      : /^[0-9a-f]+h$/i.test(plain)
        ? Number.parseInt(plain, 16)
        : /^[0-9]+$/.test(plain)
          ? Number(plain)
          : Number.NaN;
  return Number.isInteger(value) && value >= 0 && value < 2 ** bits ? value : undefined;
}
