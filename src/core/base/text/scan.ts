/** Counts what a reader does, so that a test can say that it is in proportion to the text and not to its square. */
export interface Meter {
  steps: number;
}

/**
 * Reads a text from left to right. Each call takes as many steps as it moves on, and one more; nothing is ever looked at again
 * behind the place it stands at, so a reader made of these is linear.
 */
export interface Scanner {
  at(): number;
  done(): boolean;
  /** The character here, or later; empty at the end. */
  peek(ahead?: number): string;
  /** Moves on by so many characters. */
  skip(count?: number): void;
  /** Takes characters as long as they are in the class. */
  take(isIn: (char: string) => boolean): string;
  /** Takes a word that stands here, whatever its case; false when it does not. */
  word(word: string): boolean;
  /** Moves behind the next of these characters, and says which it was; empty when there is none, at the end then. */
  behind(...chars: string[]): string;
  /** The text between two places. */
  slice(from: number, to: number): string;
}

export function scan(text: string, meter: Meter = { steps: 0 }): Scanner {
  let at = 0;
  const move = (to: number): void => {
    meter.steps += to - at + 1;
    at = to;
  };
  return {
    at: () => at,
    done: () => at >= text.length,
    peek: (ahead = 0) => text[at + ahead] ?? '',
    skip: (count = 1) => move(Math.min(text.length, at + count)),
    take(isIn) {
      const from = at;
      let to = at;
      while (to < text.length && isIn(text[to] as string)) to++;
      move(to);
      return text.slice(from, to);
    },
    word(word) {
      const here = text.slice(at, at + word.length);
      meter.steps += word.length;
      if (here.toLowerCase() !== word.toLowerCase() || isWordChar(text[at + word.length] ?? '')) return false;
      move(at + word.length);
      return true;
    },
    behind(...chars) {
      let to = at;
      while (to < text.length && !chars.includes(text[to] as string)) to++;
      const found = text[to] ?? '';
      move(Math.min(text.length, to + 1));
      return found;
    },
    slice: (from, to) => text.slice(from, to),
  };
}

export const isBlank = (char: string): boolean => /\s/.test(char);
export const isDigit = (char: string): boolean => char >= '0' && char <= '9';
export const isWordChar = (char: string): boolean => /^\w$/.test(char);

/** Lines of a text with the number each has in an editor, whichever way they end. */
export function linesOf(text: string): { line: number; text: string }[] {
  return text.split(/\r\n|\n|\r/).map((one, index) => ({ line: index + 1, text: one }));
}

/** Words between blanks. */
export const wordsOf = (text: string): string[] => text.split(/\s+/).filter(Boolean);
