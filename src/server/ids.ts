import { randomBytes } from 'node:crypto';

/** A short identifier that cannot be guessed: 12 characters out of 32. */
export function newId(): string {
  const letters = 'abcdefghijkmnpqrstuvwxyz23456789';
  return Array.from(randomBytes(12), (byte) => letters[byte % 32]).join('');
}
