import { freeName } from './free-name';

const PLAIN = /^[A-Za-z](?:_?[A-Za-z0-9])*$/;

/**
 * Letters, digits and underscores of a text, at most `longest` of them; never starts with a digit, and empty when nothing is
 * left. Decomposed first, so that letters with accents keep their letter; one character may become many that way.
 */
export function identifierFrom(text: string, longest = 60): string {
  // Most texts are identifiers already: names that have been through here before.
  if (text.length <= longest && PLAIN.test(text)) return text;
  const cleaned = text
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_/, '');
  const named = /^[0-9]/.test(cleaned) ? `n_${cleaned}` : cleaned;
  return named.slice(0, longest).replace(/_$/, '');
}

/** Gives each wanted name once: the second `LATCH` is `LATCH_2`. Names in `taken` are not given; it is added to. */
export function distinctName(wanted: string, taken: Set<string>): string {
  const name = freeName(wanted, (one) => taken.has(one));
  taken.add(name);
  return name;
}
