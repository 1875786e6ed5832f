/**
 * How every search of Mavrek understands what is typed: words in any order, each of which must be somewhere. A dot, an underscore and a
 * blank within a name are the same (`UART1_TX`, `uart1.tx`).
 */
const plain = (text: string): string => text.toLowerCase().replace(/[._]/g, ' ');

/** The words of what was typed. */
export const wordsOf = (typed: string): string[] => plain(typed).split(/\s+/).filter(Boolean);

/** Whether all words are somewhere in the texts. No words are everywhere. */
export function hasWords(words: readonly string[], texts: readonly (string | undefined)[]): boolean {
  const all = plain(texts.filter((text) => text !== undefined).join(' \n '));
  return words.every((word) => all.includes(word));
}

/**
 * How well names fit what was typed: 0 is a whole name, 1 the begin of one, 2 a part of one, 3 all words somewhere in names and other
 * texts; undefined is not at all.
 */
export function rankOf(
  typed: string,
  names: readonly string[],
  texts: readonly (string | undefined)[] = [],
): number | undefined {
  const words = wordsOf(typed);
  const wanted = words.join(' ');
  if (wanted === '') return undefined;
  let rank: number | undefined;
  for (const name of names) {
    const known = plain(name);
    const at = known.indexOf(wanted);
    if (at < 0) continue;
    const fits = at > 0 ? 2 : known.length === wanted.length ? 0 : 1;
    if (rank === undefined || fits < rank) rank = fits;
  }
  return rank ?? (hasWords(words, [...names, ...texts]) ? 3 : undefined);
}
