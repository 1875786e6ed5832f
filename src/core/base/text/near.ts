import damerauLevenshtein from 'damerau-levenshtein';

/** Steps (insert, delete, replace, swap of neighbours) from one word to another, without regard to case. */
export const distance = (a: string, b: string): number =>
  damerauLevenshtein(a.toLowerCase(), b.toLowerCase()).steps;

/** The words most like a mistyped one, at most two steps away. Those that differ in a number only are others, no slips. */
export const closest = (word: string, known: Iterable<string>, count: number): string[] =>
  [...known]
    .filter((one) => Math.abs(one.length - word.length) <= 2 && !sameButNumbers(one, word))
    .map((one) => ({ one, steps: distance(word, one) }))
    .filter(({ steps }) => steps <= 2)
    .sort((a, b) => a.steps - b.steps)
    .slice(0, count)
    .map(({ one }) => one);

/** The known word that a mistyped one was probably meant to be. In names with digits and in short ones a letter is soon another name. */
export function likelyMeant(word: string, known: Iterable<string>): string | undefined {
  const [best] = closest(word, known, 1);
  if (best === undefined) return undefined;
  const steps = distance(word, best);
  // `VDD` is no misspelt `VDA`, and `upq` is an `up`.
  const isOtherName = word.length <= 3 && best.length === word.length;
  return !isOtherName && steps * 2 < word.length && (steps === 1 || !/\d/.test(word)) ? best : undefined;
}

/** "; did you mean SCK?", or nothing. */
export function didYouMean(word: string, known: Iterable<string>): string {
  const best = likelyMeant(word, known);
  return best === undefined ? '' : `; did you mean ${best}?`;
}

/** `B7` and `B9`, `UART1` and `UART12`. */
export const sameButNumbers = (a: string, b: string): boolean =>
  a.replace(/\d+/g, '#').toLowerCase() === b.replace(/\d+/g, '#').toLowerCase();
