declare module 'damerau-levenshtein' {
  /** How far two words are from each other; swapped neighbours are one step. */
  export default function damerauLevenshtein(a: string, b: string): { steps: number };
}
