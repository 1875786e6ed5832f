import type { Derived } from '../derive';

export interface GeneratedFile {
  path: string;
  text: string;
}

/** A target is one way of printing the operations. `generate` is pure: equal plans give equal text, byte by byte. */
export interface Target {
  id: string;
  title: string;
  /** Name of the highlighting grammar. */
  language: string;
  /** A text as a comment on a line of its own. */
  comment(text: string): string;
  generate(derived: Derived): GeneratedFile[];
}
