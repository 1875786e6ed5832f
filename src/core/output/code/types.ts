import type { Derived } from '../../derive/derive';
import type { Code } from './code';

export interface GeneratedFile {
  path: string;
  /** It is the file of initialisation. */
  initialises?: true;
  text: string;
  /** For the file that holds initialisation: the line, from 1, on which each operation begins. */
  operations?: number[];
}

/**
 * A target is one way of printing the operations. Printing is pure: equal plans give equal text, byte by byte. What it gives
 * is code of its language, which only that language's writer makes.
 */
export interface Target {
  id: string;
  title: string;
  /** Name of the highlighting grammar. */
  language: string;
  /** It is a document: nothing compiles it. */
  document?: true;
  /** Why there is no such code for a plan; undefined where there is. */
  lacks?(derived: Derived): string | undefined;
  /** A text as a comment on a line of its own, closed by a line end; absent where there are no comments. */
  seal?(text: string): Code<string>;
  files(derived: Derived): readonly PlannedFile[];
}

/** A file that a target makes, printed when somebody wants to read it. */
export interface PlannedFile {
  path: string;
  /** It is the file of initialisation, whose operations stand on known lines. */
  initialises?: true;
  /** Where it is in another language than the target's own. */
  seal?(text: string): Code<string>;
  print(): { text: Code<string>; operations?: number[] };
}
