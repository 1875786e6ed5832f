/** Steps (insert, delete, replace, swap of neighbours) from one word to another, without regard to case. */
export function distance(a: string, b: string): number {
  const [x, y] = [a.toLowerCase(), b.toLowerCase()];
  let before: number[] = [];
  let above = Array.from({ length: y.length + 1 }, (_, j) => j);
  for (let i = 1; i <= x.length; i++) {
    const row = [i];
    for (let j = 1; j <= y.length; j++) {
      const same = x[i - 1] === y[j - 1] ? 0 : 1;
      let best = Math.min((above[j] ?? 0) + 1, (row[j - 1] ?? 0) + 1, (above[j - 1] ?? 0) + same);
      if (i > 1 && j > 1 && x[i - 1] === y[j - 2] && x[i - 2] === y[j - 1])
        best = Math.min(best, (before[j - 2] ?? 0) + 1);
      row.push(best);
    }
    before = above;
    above = row;
  }
  return above[y.length] ?? 0;
}

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
