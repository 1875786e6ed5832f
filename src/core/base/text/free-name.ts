/** Whether somebody has a name. */
export type Taken = (name: string) => boolean;

/** Names of things that people look at: upper and lower case count as the same. */
export function takenBy(items: readonly { name: string }[]): Taken {
  const names = new Set(items.map((one) => one.name.toLowerCase()));
  return (name) => names.has(name.toLowerCase());
}

/** A name that nobody has: the stem itself, or the stem with the lowest number from 2 on. */
export const freeName = (stem: string, taken: Taken, divider = '_'): string =>
  taken(stem) ? numberedName(stem, taken, divider) : stem;

/** The stem with the lowest number from 2 on that nobody has. */
export function numberedName(stem: string, taken: Taken, divider = '_'): string {
  let number = 2;
  while (taken(`${stem}${divider}${number}`)) number++;
  return `${stem}${divider}${number}`;
}
