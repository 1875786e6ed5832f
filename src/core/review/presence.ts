/** Somebody who has a plan open, and where in it they are. */
export interface Present {
  /** Of the window. */
  client: string;
  /** As they call themselves; empty until they say. */
  author: string;
  /** `net:ID`, `pad:ID`, `finding:ID`, `bits:ID`; empty where nothing is selected. */
  selection: string;
  view: string;
}

/** "mk" for "Maria Kranz", "MA" for "maria": one or two letters; a question mark for nobody in particular. */
export function initialsOf(author: string): string {
  const words = author.trim().split(/\s+/).filter(Boolean);
  const [first, second] = words;
  if (first === undefined) return '?';
  const letters = second === undefined ? [...first].slice(0, 2) : [[...first][0], [...second][0]];
  return letters.join('').toUpperCase();
}

/** Colours that people are told apart by, beside their initials. */
export const PERSON_COLOURS = 8;

/** Which of the colours a window has: the same everywhere, and for one name the same again. */
export function colourOf({ author, client }: Pick<Present, 'author' | 'client'>): number {
  let sum = 0;
  for (const letter of author || client) sum = (sum * 31 + (letter.codePointAt(0) ?? 0)) >>> 0;
  return sum % PERSON_COLOURS;
}
