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

/** `B7` and `B9`, `UART1` and `UART12`. */
export const sameButNumbers = (a: string, b: string): boolean =>
  a.replace(/\d+/g, '#').toLowerCase() === b.replace(/\d+/g, '#').toLowerCase();
