/** A random id of 12 lower-case letters and digits; works on plain http too, where randomUUID does not exist. */
export function newId(): string {
  const letters = 'abcdefghijkmnpqrstuvwxyz23456789';
  return Array.from(crypto.getRandomValues(new Uint8Array(12)), (byte) => letters[byte % 32]).join('');
}
