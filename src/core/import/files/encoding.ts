/** A text out of bytes, and the encoding that it was in. */
export interface Decoded {
  text: string;
  encoding: 'UTF-8' | 'UTF-16' | 'Windows-1252';
}

const isNul = (byte: number | undefined): boolean => byte === 0;

/** Which half of most pairs of bytes is 0: UTF-16 without a mark at its beginning. */
function halfEmpty(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | undefined {
  const pairs = Math.min(2000, Math.floor(bytes.length / 2));
  if (pairs < 4) return undefined;
  let even = 0;
  let odd = 0;
  for (let i = 0; i < pairs; i++) {
    if (isNul(bytes[2 * i])) even++;
    if (isNul(bytes[2 * i + 1])) odd++;
  }
  if (odd > pairs * 0.7 && even < pairs * 0.1) return 'utf-16le';
  return even > pairs * 0.7 && odd < pairs * 0.1 ? 'utf-16be' : undefined;
}

/** What Windows-1252 has in the places 128 to 159, where Latin-1 has controls; some runtimes mistake one for the other. */
const WINDOWS = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';

const decodeWindows = (bytes: Uint8Array): string =>
  new TextDecoder('latin1')
    .decode(bytes)
    .replace(/[\u0080-\u009f]/g, (char) => WINDOWS[char.charCodeAt(0) - 128] ?? char);

/**
 * Bytes → text. A mark at the beginning decides; then halves of pairs that are empty; then whether the bytes are good UTF-8. All
 * else is Windows-1252, in which every byte means something.
 */
export function decodeText(bytes: Uint8Array): Decoded {
  const [first, second] = bytes;
  const wide =
    first === 0xff && second === 0xfe
      ? 'utf-16le'
      : first === 0xfe && second === 0xff
        ? 'utf-16be'
        : halfEmpty(bytes);
  if (wide) return { text: new TextDecoder(wide).decode(bytes), encoding: 'UTF-16' };
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'UTF-8' };
  } catch {
    return { text: decodeWindows(bytes), encoding: 'Windows-1252' };
  }
}
