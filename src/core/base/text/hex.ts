/** Hexadecimal with as many digits as the bits ask for. */
export const hexText = (value: number, bits: number): string =>
  `0x${(value >>> 0)
    .toString(16)
    .toUpperCase()
    .padStart(Math.ceil(bits / 4), '0')}`;
