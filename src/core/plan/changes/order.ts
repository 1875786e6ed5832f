/**
 * Of two lists of the same things in two orders: those that can stay where they are while the others are taken out and put back.
 * As many as possible (the longest run that rises in both).
 */
export function inSameOrder(from: readonly string[], to: readonly string[]): Set<string> {
  const place = new Map(to.map((id, at) => [id, at]));
  const common = from.filter((id) => place.has(id));
  // For each length the end of a rising run of that length whose last place is lowest.
  const ends: number[] = [];
  const before: number[] = [];
  common.forEach((id, at) => {
    const own = place.get(id) as number;
    let [low, high] = [0, ends.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((place.get(common[ends[middle] as number] as string) as number) < own) low = middle + 1;
      else high = middle;
    }
    before[at] = low > 0 ? (ends[low - 1] as number) : -1;
    ends[low] = at;
  });
  const kept = new Set<string>();
  for (let at = ends.at(-1) ?? -1; at >= 0; at = before[at] as number) kept.add(common[at] as string);
  return kept;
}

/** One order out of two: the first one's, with what only the second has behind whatever stands before it there. */
export function joinedOrder(main: readonly string[], other: readonly string[]): string[] {
  const result = [...main];
  const there = new Set(main);
  let before: string | undefined;
  for (const id of other) {
    if (!there.has(id)) {
      result.splice(before === undefined ? 0 : result.indexOf(before) + 1, 0, id);
      there.add(id);
    }
    before = id;
  }
  return result;
}
