import { append } from '../../base/lists';
/** A number as C writes it, with what its suffix says. Undefined for what is no whole number. */
export interface Constant {
  value: bigint;
  unsigned: boolean;
  /** At least so wide, by its suffix. */
  long: boolean;
  /** Written in hexadecimal, octal or binary: may be unsigned by its size alone. */
  based: boolean;
}

/** `42`, `0x2Au`, `052`, `0b101010`, `1'000UL`. Source: ISO C11, 6.4.4.1; binary and ' as of C23. */
export function constantOf(text: string): Constant | undefined {
  const [, digits = '', suffix = ''] =
    /^(0[xX][0-9a-fA-F']+|0[bB][01']+|[0-9']+)([uUlLzZ]*)$/.exec(text) ?? [];
  if (digits === '' || !/^(u|l|ll|ul|ull|lu|llu|z|uz|zu)?$/i.test(suffix)) return undefined;
  const plain = digits.replaceAll("'", '');
  const octal = /^0[0-9]+$/.test(plain);
  if (octal && /[89]/.test(plain)) return undefined;
  const value = BigInt(octal ? `0o${plain.slice(1)}` : plain);
  if (value >= 2n ** 64n) return undefined;
  return {
    value,
    unsigned: /u/i.test(suffix),
    long: /ll/i.test(suffix),
    based: octal || /^0[xXbB]/.test(plain),
  };
}

const ESCAPES: Record<string, number> = {
  n: 10,
  t: 9,
  r: 13,
  a: 7,
  b: 8,
  f: 12,
  v: 11,
  e: 27,
  '0': 0,
};

/** The bytes of a character or string between its quotes. */
export function bytesOfText(quoted: string): number[] {
  const inner = quoted.replace(/^(u8|[LuU])?["']/, '').slice(0, -1);
  const bytes: number[] = [];
  const encoder = new TextEncoder();
  for (const [, special, plain = ''] of inner.matchAll(/\\(x[0-9a-fA-F]+|[0-7]{1,3}|[\s\S])|([^\\])/gu)) {
    if (special === undefined) append(bytes, encoder.encode(plain));
    else if (special[0] === 'x' && special.length > 1)
      bytes.push(Number.parseInt(special.slice(1), 16) & 255);
    else if (/^[0-7]/.test(special)) bytes.push(Number.parseInt(special, 8) & 255);
    else bytes.push(ESCAPES[special] ?? special.charCodeAt(0));
  }
  return bytes;
}
