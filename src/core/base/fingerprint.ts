import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/** JSON with keys in alphabetical order, so that equal contents give equal text whoever wrote them. */
export function canonicalJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`;
  if (value !== null && typeof value === 'object') {
    const entries = Object.entries(value)
      .filter(([, item]) => item !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
    return `{${entries.map(([key, item]) => `${JSON.stringify(key)}:${canonicalJson(item)}`).join(',')}}`;
  }
  return JSON.stringify(value) ?? 'null';
}

/** SHA-256 of a text, as 64 hexadecimal digits. */
export const sha256Hex = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)));

/** The first 16 hexadecimal digits of the SHA-256 of the canonical JSON: enough to tell contents apart by eye. */
export const fingerprintOf = (value: unknown): string => sha256Hex(canonicalJson(value)).slice(0, 16);
